#include "chain/library.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

#include "base/error.h"
#include "base/printable.h"

namespace fexel {
namespace fs = std::filesystem;

fs::path library_folder(const LibraryKind& kind) {
  if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data) return fs::path(data) / "fexel" / kind.folder;
  const char* home = std::getenv("HOME");
  return fs::path(home && *home ? home : ".") / ".local" / "share" / "fexel" / kind.folder;
}

fs::path library_file(const LibraryKind& kind, const std::string& name) {
  const bool control = std::ranges::any_of(name, [](unsigned char c) { return c < 32; });
  if (name.empty() || name.size() > 100 || name.front() == '.' || name.find('/') != std::string::npos || control)
    throw call_error(fmt::format("\"{}\" is no name for a {}.", printable(name.substr(0, 60)), kind.thing), "name",
                     "Give one of up to 100 letters, without a slash, that does not begin with a point.");
  return library_folder(kind) / (name + kind.ending);
}

std::vector<std::pair<fs::path, std::string>> library_files(const LibraryKind& kind) {
  std::vector<std::pair<fs::path, std::string>> out;
  std::error_code code;
  for (const auto& entry : fs::directory_iterator(library_folder(kind), code)) {
    const std::string name = entry.path().filename().string();
    if (!name.ends_with(kind.ending) || name.starts_with(".")) continue;
    out.emplace_back(entry.path(), name.substr(0, name.size() - std::string_view(kind.ending).size()));
  }
  std::ranges::sort(out, {}, [](const auto& one) { return one.second; });
  return out;
}

fs::path library_file_meant(const LibraryKind& kind, const std::string& name_or_file) {
  std::error_code code;
  if (fs::is_regular_file(name_or_file, code)) return name_or_file;
  if (name_or_file.find('/') == std::string::npos && !name_or_file.empty() && name_or_file.front() != '.')
    if (fs::path file = library_file(kind, name_or_file); fs::exists(file, code)) return file;
  std::string known;
  for (const auto& [file, name] : library_files(kind)) known += (known.empty() ? "" : ", ") + name;
  throw call_error(
      fmt::format("There is no {} \"{}\".", kind.thing, printable(name_or_file.substr(0, 100))), kind.thing,
      known.empty() ? fmt::format("The library has none: keep a {} there first, or name a file.", kind.thing)
                    : "The library has: " + known + ".");
}

}  // namespace fexel
