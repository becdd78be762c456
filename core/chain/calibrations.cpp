#include "chain/calibrations.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "chain/library.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr LibraryKind library{"calibrations", ".calibration.json", "calibration"};
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
  return parsed_file(file, parse_calibration);
}

void save_calibration(const Calibration& calibration, const fs::path& file, bool replace) {
  const Json json{{"fexel_calibration", file_version}, {"calibration", calibration_json(calibration)}};
  write_text(file, to_text(json, 2) + "\n", replace);
}

fs::path calibration_folder() {
  return library_folder(library);
}

fs::path calibration_file(const std::string& name) {
  return library_file(library, name);
}

std::vector<LibraryEntry> calibrations_in_library() {
  std::vector<LibraryEntry> out;
  for (const auto& [file, name] : library_files(library)) {
    LibraryEntry one{file, name, {}, {}};
    try {
      one.calibration = load_calibration(file);
    } catch (const Error& error) {
      one.problem = error.message();
    }
    out.push_back(std::move(one));
  }
  return out;
}

Calibration calibration_named(const std::string& name_or_file) {
  return load_calibration(library_file_meant(library, name_or_file));
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
