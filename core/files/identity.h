#pragma once
/// Which file a name led to, and whether it is still that one, unchanged.
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>

#include "base/job.h"

namespace fexel {

/// What the system says of a file: two that are equal are the same file with the same bytes, unless its clock was set
/// back.
struct FileIdentity {
  std::uint64_t device = 0, inode = 0;
  std::int64_t size = 0, modified_ns = 0, changed_ns = 0;
  bool operator==(const FileIdentity&) const = default;
};
/// Nothing where there is no such file.
std::optional<FileIdentity> identity_of(const std::filesystem::path& path);
std::optional<FileIdentity> identity_of(int descriptor);

/// SHA-256 of a file's bytes, in lower-case hexadecimal.
std::string checksum(const std::filesystem::path& path, const Job& job = {});
/// The same of an open file, from its beginning; where it stands in the file is left as it is.
std::string checksum(int descriptor, const std::string& name, const Job& job = {});

/// A file that is read over a while: its identity is taken when it is opened, and asked again at the end.
class WatchedFile {
 public:
  /// Raises an input error when there is no such file.
  explicit WatchedFile(std::filesystem::path path);
  const std::filesystem::path& path() const { return path_; }
  const FileIdentity& identity() const { return identity_; }
  /// Raises an input error when the file is another one by now, or has other bytes.
  void check() const;
  /// The checksum of the bytes that were read: raises as check() does.
  std::string checked_checksum(const Job& job) const;

 private:
  std::filesystem::path path_;
  FileIdentity identity_;
};

}  // namespace fexel
