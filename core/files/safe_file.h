#pragma once
/// A file that appears whole under its name, or not at all.
#include <cstdio>
#include <filesystem>
#include <string>

namespace fexel {

/// Opens a temporary file beside `target`; commit() flushes it to the disk and gives it the name. Without commit() the
/// temporary file is removed. The file has no name until then where the system allows that, so that a killed process
/// leaves nothing.
class SafeFile {
 public:
  explicit SafeFile(std::filesystem::path target, bool replace);
  ~SafeFile();
  SafeFile(const SafeFile&) = delete;
  SafeFile& operator=(const SafeFile&) = delete;

  int descriptor() const { return descriptor_; }
  /// Raises an input error when the disk is full.
  void write(const void* data, std::size_t size);
  /// Raises an input error when the data cannot be flushed, and a call error when the target came to exist meanwhile
  /// and may not be replaced.
  void commit();

 private:
  std::filesystem::path target_, temporary_;
  bool replace_;
  int descriptor_ = -1;
};

}  // namespace fexel
