#include "batch/inputs.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <set>
#include <sstream>

#include "files/picture.h"
#include "run/frames.h"
#include "run/record.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

bool fits_one(const std::string& name, const std::string& pattern) {
  const auto same = [](char a, char b) {
    return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
  };
  // The last star takes one character more each time that what follows it does not fit.
  std::size_t n = 0, p = 0, star = std::string::npos, from = 0;
  while (n < name.size()) {
    if (p < pattern.size() && pattern[p] == '*') {
      star = p++;
      from = n;
    } else if (p < pattern.size() && (pattern[p] == '?' || same(pattern[p], name[n]))) {
      ++p;
      ++n;
    } else if (star != std::string::npos) {
      p = star + 1;
      n = ++from;
    } else {
      return false;
    }
  }
  while (p < pattern.size() && pattern[p] == '*') ++p;
  return p == pattern.size();
}

bool inside(const fs::path& path, const fs::path& folder) {
  if (folder.empty()) return false;
  std::error_code code;
  const fs::path a = fs::weakly_canonical(path, code), b = fs::weakly_canonical(folder, code);
  return std::mismatch(b.begin(), b.end(), a.begin(), a.end()).first == b.end();
}

/// The pictures of one folder, in natural order; then those of its subfolders.
void take_folder(const fs::path& folder, const fs::path& subfolder, const InputChoice& choice, ChosenInputs& out,
                 std::set<fs::path>& seen) {
  std::error_code code;
  if (!seen.insert(fs::weakly_canonical(folder, code)).second) return;  // links may lead in a circle
  std::vector<fs::path> files, folders;
  auto entries = fs::directory_iterator(folder, code);
  if (code) {
    out.notes.push_back(fmt::format("{}: this folder cannot be read.", folder.string()));
    return;
  }
  for (const auto& entry : entries) {
    const std::string name = entry.path().filename().string();
    if (name.starts_with('.')) continue;
    if (entry.is_directory(code)) {
      if (choice.subfolders && !inside(entry.path(), choice.out)) folders.push_back(entry.path());
    } else if (entry.is_regular_file(code) && format_of_name(entry.path()) && fits_pattern(name, choice.pattern)) {
      files.push_back(entry.path());
    }
  }
  const auto natural = [](const fs::path& a, const fs::path& b) {
    return natural_less(a.filename().string(), b.filename().string());
  };
  std::ranges::sort(files, natural);
  std::ranges::sort(folders, natural);
  std::set<std::string> made;
  for (const fs::path& result : results_in(folder)) made.insert(result.filename().string());
  const auto before = out.files.size();
  int results = 0;
  for (const fs::path& file : files) {
    if (made.contains(file.filename().string()))
      ++results;
    else
      out.files.push_back({file, subfolder});
  }
  out.results += results;
  if (before == out.files.size() && !choice.subfolders)
    out.notes.push_back(results > 0
                            ? fmt::format("{}: all pictures here are results that Fexel wrote.", folder.string())
                            : fmt::format("{}: there is no such picture in this folder.", folder.string()));
  for (const fs::path& below : folders) take_folder(below, subfolder / below.filename(), choice, out, seen);
}

}  // namespace

bool fits_pattern(const std::string& name, const std::string& patterns) {
  std::istringstream words(patterns);
  bool any = false;
  for (std::string pattern; words >> pattern;) {
    any = true;
    if (fits_one(name, pattern)) return true;
  }
  return !any;
}

ChosenInputs choose_inputs(const InputChoice& choice) {
  ChosenInputs out;
  std::set<fs::path> seen;
  std::error_code code;
  out.files = choice.listed;
  for (const fs::path& place : choice.places) {
    if (fs::is_directory(place, code))
      take_folder(place, {}, choice, out, seen);
    else
      out.files.push_back({place, {}});
  }
  // A file that is named, and in a folder that is named, is one.
  std::set<fs::path> taken;
  std::erase_if(out.files, [&](const ChosenInput& input) {
    return !taken.insert(fs::absolute(input.file).lexically_normal()).second;
  });
  if (choice.subfolders && out.files.empty() && out.results == 0 && out.notes.empty())
    out.notes.emplace_back("There is no such picture in these folders.");
  return out;
}

}  // namespace fexel
