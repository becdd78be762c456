#pragma once
/// Files that a run reads, or has begun to write: whatever it writes, none of them is replaced.
#include <cstdint>
#include <filesystem>
#include <map>
#include <string>
#include <utility>
#include <vector>

namespace fexel {

/// Files are known by device and inode, whatever names lead to them, and by name: where the folder's file system takes
/// upper and lower case for the same, by their folded name.
class ProtectedPaths {
 public:
  /// `what` says in a message what the file is: "a source", "the chain". A file that is not there yet is protected by
  /// its name.
  void add(const std::filesystem::path& path, const std::string& what);
  /// Raises a call error when the path leads to a protected file.
  void check(const std::filesystem::path& path) const;
  /// What the file is that the path leads to; empty for none.
  std::string what(const std::filesystem::path& path) const;

 private:
  struct Entry {
    std::string what, shown;
  };
  using Node = std::pair<std::uint64_t, std::uint64_t>;  // device and inode
  std::map<Node, Entry> by_node_;
  std::map<std::string, Entry> by_name_;                     // absolute, without dots
  std::map<std::pair<Node, std::string>, Entry> by_folder_;  // the folder, and the folded name in it
};

/// Whether the folder's file system takes names that differ in upper and lower case for the same: asked by one of its
/// own entries under the other case.
bool folds_case(const std::filesystem::path& folder);

}  // namespace fexel
