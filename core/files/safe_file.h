#pragma once
/// A file that appears whole under its name, or not at all.
#include <cstdio>
#include <filesystem>
#include <string>

#include "base/job.h"

namespace fexel {

/// Opens a temporary file beside `target`. commit() flushes it to the disk and gives it the name; without that it is
/// removed. The file has no name until then where the system allows that, so that a killed process leaves nothing; else
/// a hidden one that begins with ".fexel-".
class SafeFile {
 public:
  explicit SafeFile(std::filesystem::path target, bool replace);
  ~SafeFile();
  SafeFile(const SafeFile&) = delete;
  SafeFile& operator=(const SafeFile&) = delete;

  int descriptor() const { return descriptor_; }
  const std::filesystem::path& target() const { return target_; }
  /// Raises an input error when the disk is full.
  void write(const void* data, std::size_t size);
  /// flush() and place().
  void commit();
  /// Raises an input error when the data cannot be flushed.
  void flush();
  /// Gives the flushed file its name. Raises a call error when the target came to exist meanwhile and may not be
  /// replaced.
  void place();
  /// Closes the flushed file, which keeps a hidden name until it is placed: for those of which there are many.
  void park();
  /// Takes the name back, where there was no file of that name before.
  void withdraw();

 private:
  void take_hidden_name();

  std::filesystem::path target_, temporary_;
  bool replace_;
  bool placed_ = false, fresh_ = false;
  int descriptor_ = -1;
};

/// Keeps other Fexels from placing files in a folder while it lives, so that what belongs together appears together
/// when several write there. Waits for them; raises an input error when one of them does not go on for half a minute,
/// and a cancelled error when the job is stopped. Where the file system knows no locks there is none.
class FolderLock {
 public:
  FolderLock(const std::filesystem::path& folder, const Job& job);
  ~FolderLock();
  FolderLock(const FolderLock&) = delete;
  FolderLock& operator=(const FolderLock&) = delete;

 private:
  int descriptor_ = -1;
};

/// Removes the hidden files of this process: for one that ends without unwinding.
void remove_hidden_files();
/// Removes hidden files that killed processes of this machine left in a folder more than an hour ago.
void sweep_left_behind(const std::filesystem::path& folder);

}  // namespace fexel
