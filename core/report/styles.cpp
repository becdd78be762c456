#include "report/styles.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "chain/library.h"
#include "files/picture.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr LibraryKind library{"styles", ".style.json", "style"};
constexpr int file_version = 1;

fs::path default_file() {
  return library_folder(library) / ".default";
}

void write_in_library(const fs::path& file, const std::string& text) {
  std::error_code code;
  fs::create_directories(file.parent_path(), code);
  write_text(file, text, true);
}

}  // namespace

MarkStyle parse_style(const std::string& text) {
  const Json json = parse_json(text);
  JsonReader in(json, "", {"fexel_style", "style"});
  const int version = in.whole("fexel_style", 1, 1000000);
  if (version > file_version)
    throw call_error(fmt::format("This style is of version {}, from a newer Fexel.", version), "/fexel_style",
                     fmt::format("Version {} can be read.", file_version));
  return read_style(in.at("style"), "/style", true);
}

MarkStyle style_named(const std::string& name_or_file) {
  return parsed_file(library_file_meant(library, name_or_file), parse_style);
}

std::vector<std::string> styles_in_library() {
  std::vector<std::string> out;
  for (const auto& [file, name] : library_files(library)) out.push_back(name);
  return out;
}

void keep_style(const MarkStyle& style, const std::string& name) {
  const Json json{{"fexel_style", file_version}, {"style", style_json(style)}};
  write_in_library(library_file(library, name), to_text(json, 2) + "\n");
}

void remove_style(const std::string& name) {
  std::error_code code;
  fs::remove(library_file(library, name), code);
}

std::optional<std::string> default_style() {
  try {
    std::string name = read_text(default_file(), 1000);
    const auto names = styles_in_library();
    if (std::ranges::find(names, name) != names.end()) return name;
  } catch (const Error&) {
    // None was chosen.
  }
  return std::nullopt;
}

void set_default_style(const std::string& name) {
  write_in_library(default_file(), name);
}

}  // namespace fexel
