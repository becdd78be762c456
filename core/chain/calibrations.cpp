#include "chain/calibrations.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "base/error.h"
#include "base/printable.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr const char* ending = ".calibration.json";
constexpr int file_version = 1;

}  // namespace

Calibration parse_calibration(const std::string& text) {
  const Json json = parse_json(text);
  JsonReader in(json, "", {"fexel_calibration", "calibration"});
  const int version = in.whole("fexel_calibration", 1, 1000000);
  if (version > file_version)
    throw call_error(fmt::format("This calibration is of version {}, from a newer Fexel.", version),
                     "/fexel_calibration", fmt::format("Version {} can be read.", file_version));
  return read_calibration(in.at("calibration"), "/calibration");
}

Calibration load_calibration(const fs::path& file) {
  try {
    return parse_calibration(read_text(file));
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    throw call_error(error.message(), file.string() + (error.where() == file.string() ? "" : error.where()),
                     error.remedy());
  }
}

void save_calibration(const Calibration& calibration, const fs::path& file, bool replace) {
  const Json json{{"fexel_calibration", file_version}, {"calibration", calibration_json(calibration)}};
  write_text(file, to_text(json, 2) + "\n", replace);
}

fs::path calibration_folder() {
  if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data) return fs::path(data) / "fexel" / "calibrations";
  const char* home = std::getenv("HOME");
  return fs::path(home && *home ? home : ".") / ".local" / "share" / "fexel" / "calibrations";
}

fs::path calibration_file(const std::string& name) {
  const bool control = std::ranges::any_of(name, [](unsigned char c) { return c < 32; });
  if (name.empty() || name.size() > 100 || name.front() == '.' || name.find('/') != std::string::npos || control)
    throw call_error(fmt::format("\"{}\" is no name for a calibration.", printable(name.substr(0, 60))), "name",
                     "Give one of up to 100 letters, without a slash, that does not begin with a point.");
  return calibration_folder() / (name + ending);
}

std::vector<LibraryEntry> calibrations_in_library() {
  std::vector<LibraryEntry> out;
  std::error_code code;
  for (const auto& entry : fs::directory_iterator(calibration_folder(), code)) {
    const std::string name = entry.path().filename().string();
    if (!name.ends_with(ending) || name.starts_with(".")) continue;
    LibraryEntry one{entry.path(), name.substr(0, name.size() - std::string_view(ending).size()), {}, {}};
    try {
      one.calibration = load_calibration(entry.path());
    } catch (const Error& error) {
      one.problem = error.message();
    }
    out.push_back(std::move(one));
  }
  std::ranges::sort(out, {}, &LibraryEntry::name);
  return out;
}

Calibration calibration_named(const std::string& name_or_file) {
  std::error_code code;
  if (fs::is_regular_file(name_or_file, code)) return load_calibration(name_or_file);
  if (name_or_file.find('/') == std::string::npos && !name_or_file.empty() && name_or_file.front() != '.')
    if (const fs::path file = calibration_file(name_or_file); fs::exists(file, code)) return load_calibration(file);
  std::string known;
  for (const LibraryEntry& entry : calibrations_in_library()) known += (known.empty() ? "" : ", ") + entry.name;
  throw call_error(fmt::format("There is no calibration \"{}\".", printable(name_or_file.substr(0, 100))),
                   "calibration",
                   known.empty() ? "The library is empty: make one with calibrate --save, or name a file."
                                 : "The library has: " + known + ".");
}

Chain with_calibration(Chain chain, const std::string& word) {
  if (word == "none")
    chain.calibration.reset();
  else if (!word.empty())
    chain.calibration = calibration_named(word);
  return chain;
}

std::optional<std::string> unfit_for(const Calibration& calibration, Size size) {
  if (!calibration.size || *calibration.size == size) return std::nullopt;
  const Size made = *calibration.size;
  const double x = double(size.width) / made.width, y = double(size.height) / made.height;
  std::string out = fmt::format("The calibration was made for pictures of {} x {} px, and this one has {} x {}.",
                                made.width, made.height, size.width, size.height);
  if (std::abs(x / y - 1) < 0.01)
    out += fmt::format(" If it is the same view made {}, its pixels are {:.4g} times as large.",
                       x < 1 ? "smaller" : "larger", 1 / x);
  else
    out += " Check that it is of the same set-up, or calibrate again.";
  return out;
}

}  // namespace fexel
