#include "files/safe_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>

#include "base/error.h"
#include "files/picture.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

Error disk_error(const fs::path& target, int code) {
  if (code == ENOSPC || code == EDQUOT)
    return input_error("The disk is full; the file was not written.", target.string(),
                       "Free some space, or choose another folder.");
  if (code == EFBIG)
    return input_error("The file is larger than the system allows; it was not written.", target.string(),
                       "Choose another folder, or raise the limit (ulimit -f).");
  if (code == EACCES || code == EPERM || code == EROFS)
    return input_error("This folder may not be written to.", target.parent_path().string(), "Choose another folder.");
  if (code == ENOENT)
    return input_error("This folder does not exist.", target.parent_path().string(), "Make it, or choose another one.");
  return input_error(fmt::format("The file could not be written: {}.", std::strerror(code)), target.string(),
                     "Choose another folder.");
}

Error exists_error(const fs::path& target) {
  return call_error("This file exists already and was kept.", target.string(),
                    "Choose another name, or say that it may be replaced (--replace).");
}

}  // namespace

SafeFile::SafeFile(fs::path target, bool replace) : target_(std::move(target)), replace_(replace) {
  fs::path folder = target_.parent_path();
  if (folder.empty()) folder = ".";
  descriptor_ = ::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0644);
  if (descriptor_ >= 0) return;
  // Some file systems have no nameless files: a hidden name beside the target then.
  std::string pattern = (folder / fmt::format(".{}.part-XXXXXX", target_.filename().string())).string();
  descriptor_ = ::mkostemp(pattern.data(), O_CLOEXEC);
  if (descriptor_ < 0) throw disk_error(target_, errno);
  ::fchmod(descriptor_, 0644);
  temporary_ = pattern;
}

SafeFile::~SafeFile() {
  if (descriptor_ >= 0) ::close(descriptor_);
  if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

void SafeFile::write(const void* data, std::size_t size) {
  const char* at = static_cast<const char*>(data);
  while (size > 0) {
    const ssize_t done = ::write(descriptor_, at, size);
    if (done < 0 && errno == EINTR) continue;
    if (done <= 0) throw disk_error(target_, errno);
    at += done;
    size -= static_cast<std::size_t>(done);
  }
}

void SafeFile::commit() {
  if (::fsync(descriptor_) != 0) throw disk_error(target_, errno);
  std::error_code ignored;
  if (temporary_.empty()) {
    const std::string link = fmt::format("/proc/self/fd/{}", descriptor_);
    if (::linkat(AT_FDCWD, link.c_str(), AT_FDCWD, target_.c_str(), AT_SYMLINK_FOLLOW) == 0) return;
    if (errno != EEXIST) throw disk_error(target_, errno);
    if (!replace_) throw exists_error(target_);
    // A name can only be taken over by renaming, so the finished file gets a hidden one for that moment.
    temporary_ = target_.parent_path() / fmt::format(".{}.part-{}", target_.filename().string(), ::getpid());
    ::unlink(temporary_.c_str());
    if (::linkat(AT_FDCWD, link.c_str(), AT_FDCWD, temporary_.c_str(), AT_SYMLINK_FOLLOW) != 0) {
      temporary_.clear();
      throw disk_error(target_, errno);
    }
  } else if (!replace_) {
    if (::link(temporary_.c_str(), target_.c_str()) == 0) return;
    if (errno == EEXIST) throw exists_error(target_);
  }
  if (::rename(temporary_.c_str(), target_.c_str()) != 0) throw disk_error(target_, errno);
  temporary_.clear();
}

void write_text(const fs::path& path, const std::string& text, bool replace) {
  SafeFile file(path, replace);
  file.write(text.data(), text.size());
  file.commit();
}

std::string read_text(const fs::path& path, std::int64_t limit) {
  std::error_code code;
  const auto size = fs::file_size(path, code);
  if (code) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  if (size > static_cast<std::uintmax_t>(limit))
    throw input_error(fmt::format("The file has {} bytes; at most {} are read.", size, limit), path.string());
  std::ifstream in(path, std::ios::binary);
  std::string text(static_cast<std::size_t>(size), '\0');
  in.read(text.data(), static_cast<std::streamsize>(size));
  text.resize(static_cast<std::size_t>(in.gcount()));
  if (!in && !in.eof()) throw input_error("The file cannot be read.", path.string());
  return text;
}

}  // namespace fexel
