#include "files/protected.h"

#include <sys/stat.h>

#include <cctype>
#include <optional>

#include "base/error.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

std::optional<std::pair<std::uint64_t, std::uint64_t>> node_of(const fs::path& path) {
  struct stat found {};
  if (::stat(path.c_str(), &found) != 0) return std::nullopt;
  return std::pair<std::uint64_t, std::uint64_t>{found.st_dev, found.st_ino};
}

fs::path whole(const fs::path& path) {
  std::error_code code;
  const fs::path made = fs::absolute(path, code);
  return (code ? path : made).lexically_normal();
}

std::string folded(std::string name) {
  for (char& c : name) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return name;
}

std::string other_case(std::string name) {
  for (char& c : name) {
    const auto u = static_cast<unsigned char>(c);
    c = static_cast<char>(std::isupper(u) != 0 ? std::tolower(u) : std::toupper(u));
  }
  return name;
}

}  // namespace

bool folds_case(const fs::path& folder) {
  std::error_code code;
  for (fs::directory_iterator entry(folder, fs::directory_options::skip_permission_denied, code), end;
       !code && entry != end; entry.increment(code)) {
    const std::string name = entry->path().filename().string(), other = other_case(name);
    if (name == other) continue;
    const auto here = node_of(entry->path()), there = node_of(folder / other);
    return here && there && here == there;
  }
  return false;
}

void ProtectedPaths::add(const fs::path& path, const std::string& what) {
  const fs::path full = whole(path);
  const Entry entry{what, path.string()};
  by_name_.emplace(full.string(), entry);
  if (const auto node = node_of(full)) by_node_.emplace(*node, entry);
  if (const auto folder = node_of(full.parent_path()))
    by_folder_.emplace(std::pair{*folder, folded(full.filename().string())}, entry);
}

std::string ProtectedPaths::what(const fs::path& path) const {
  const fs::path full = whole(path);
  if (const auto found = by_name_.find(full.string()); found != by_name_.end()) return found->second.what;
  if (const auto node = node_of(full)) {
    if (const auto found = by_node_.find(*node); found != by_node_.end()) return found->second.what;
  }
  const auto folder = node_of(full.parent_path());
  if (!folder) return {};
  const auto found = by_folder_.find({*folder, folded(full.filename().string())});
  if (found == by_folder_.end()) return {};
  // By another way to the same folder the name itself is enough; with another case, the file system decides.
  const bool same_name = fs::path(found->second.shown).filename() == full.filename();
  return same_name || folds_case(full.parent_path()) ? found->second.what : std::string();
}

void ProtectedPaths::check(const fs::path& path) const {
  const std::string found = what(path);
  if (!found.empty())
    throw call_error("This file is " + found + "; it is never written over.", path.string(), "Choose another name.");
}

}  // namespace fexel
