#include "files/safe_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <charconv>

#include <atomic>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>
#include <fstream>
#include <mutex>
#include <set>
#include <thread>

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

namespace {

std::mutex hidden_mutex;
std::set<fs::path> hidden_names;  // that are in use

/// A hidden name that no other file of this process gets.
fs::path hidden_name(const fs::path& folder) {
  static std::atomic<unsigned> count = 0;
  fs::path name = fs::absolute(folder) / fmt::format(".fexel-{}-{}.part", ::getpid(), count++);
  const std::scoped_lock lock(hidden_mutex);
  hidden_names.insert(name);
  return name;
}

void forget_hidden(const fs::path& name) {
  const std::scoped_lock lock(hidden_mutex);
  hidden_names.erase(name);
}

fs::path folder_of(const fs::path& target) {
  return target.parent_path().empty() ? fs::path(".") : target.parent_path();
}

/// Gives a file a name that nothing has; the system's error otherwise.
int rename_fresh(const fs::path& from, const fs::path& to) {
  if (::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) == 0) return 0;
  if (errno != EINVAL && errno != ENOSYS) return errno;
  if (::link(from.c_str(), to.c_str()) == 0) {
    ::unlink(from.c_str());
    return 0;
  }
  if (errno == EEXIST) return errno;
  // Neither is to be had: the name is taken by an empty file first.
  const int place = ::open(to.c_str(), O_CREAT | O_EXCL | O_CLOEXEC, 0644);
  if (place < 0) return errno;
  ::close(place);
  return ::rename(from.c_str(), to.c_str()) == 0 ? 0 : errno;
}

}  // namespace

SafeFile::SafeFile(fs::path target, bool replace) : target_(std::move(target)), replace_(replace) {
  const fs::path folder = folder_of(target_);
  descriptor_ = ::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0644);
  if (descriptor_ >= 0) return;
  // Some file systems have no nameless files.
  const fs::path hidden = hidden_name(folder);
  ::unlink(hidden.c_str());
  descriptor_ = ::open(hidden.c_str(), O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0644);
  if (descriptor_ < 0) throw disk_error(target_, errno);
  temporary_ = hidden;
}

SafeFile::~SafeFile() {
  if (descriptor_ >= 0) ::close(descriptor_);
  if (temporary_.empty()) return;
  ::unlink(temporary_.c_str());
  forget_hidden(temporary_);
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
  flush();
  place();
}

void SafeFile::flush() {
  if (::fsync(descriptor_) != 0) throw disk_error(target_, errno);
}

void SafeFile::take_hidden_name() {
  if (!temporary_.empty()) return;
  const fs::path hidden = hidden_name(folder_of(target_));
  const std::string link = fmt::format("/proc/self/fd/{}", descriptor_);
  ::unlink(hidden.c_str());
  if (::linkat(AT_FDCWD, link.c_str(), AT_FDCWD, hidden.c_str(), AT_SYMLINK_FOLLOW) != 0)
    throw disk_error(target_, errno);
  temporary_ = hidden;
}

void SafeFile::park() {
  take_hidden_name();
  ::close(descriptor_);
  descriptor_ = -1;
}

void SafeFile::place() {
  if (placed_) return;
  if (temporary_.empty()) {
    const std::string link = fmt::format("/proc/self/fd/{}", descriptor_);
    if (::linkat(AT_FDCWD, link.c_str(), AT_FDCWD, target_.c_str(), AT_SYMLINK_FOLLOW) == 0) {
      placed_ = fresh_ = true;
      return;
    }
    if (errno != EEXIST) throw disk_error(target_, errno);
    if (!replace_) throw exists_error(target_);
    // A name can only be taken over by renaming, so the finished file gets a hidden one for that moment.
    take_hidden_name();
  }
  const int code = rename_fresh(temporary_, target_);
  if (code == 0) {
    placed_ = fresh_ = true;
  } else {
    if (code != EEXIST) throw disk_error(target_, code);
    if (!replace_) throw exists_error(target_);
    if (::rename(temporary_.c_str(), target_.c_str()) != 0) throw disk_error(target_, errno);
    placed_ = true;
  }
  forget_hidden(temporary_);
  temporary_.clear();
}

void SafeFile::withdraw() {
  if (fresh_) ::unlink(target_.c_str());
  placed_ = fresh_ = false;
}

FolderLock::FolderLock(const fs::path& folder, const Job& job) {
  using namespace std::chrono_literals;
  const fs::path path = folder.empty() ? fs::path(".") : folder;
  descriptor_ = ::open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  const auto until = std::chrono::steady_clock::now() + 30s;
  while (descriptor_ >= 0 && ::flock(descriptor_, LOCK_EX | LOCK_NB) != 0) {
    const bool taken = errno == EWOULDBLOCK || errno == EINTR;
    const bool late = std::chrono::steady_clock::now() > until;
    const bool stopped = job.stop.stop_requested();
    if (taken && !late && !stopped) {
      std::this_thread::sleep_for(10ms);
      continue;
    }
    ::close(std::exchange(descriptor_, -1));
    if (!taken) return;  // a file system without locks
    job.check();
    throw input_error("Another program is putting results into this folder and does not go on.", path.string(),
                      "End it, or choose another folder.");
  }
}

FolderLock::~FolderLock() {
  if (descriptor_ >= 0) ::close(descriptor_);
}

void remove_hidden_files() {
  const std::unique_lock lock(hidden_mutex, std::try_to_lock);
  if (!lock) return;  // whoever holds it is held up, too
  for (const fs::path& name : hidden_names) ::unlink(name.c_str());
}

/// The process that a hidden file belongs to, of ".fexel-PROCESS-NUMBER.part"; 0 for any other name.
static int process_of(const std::string& name) {
  constexpr std::string_view head = ".fexel-", end = ".part";
  if (!name.starts_with(head) || !name.ends_with(end) || name.size() < head.size() + end.size()) return 0;
  const char* const last = name.data() + name.size() - end.size();
  int process = 0, number = 0;
  const auto first = std::from_chars(name.data() + head.size(), last, process);
  if (first.ec != std::errc() || first.ptr == last || *first.ptr != '-') return 0;
  const auto second = std::from_chars(first.ptr + 1, last, number);
  return second.ec == std::errc() && second.ptr == last ? process : 0;
}

void sweep_left_behind(const fs::path& folder) {
  std::error_code code;
  for (fs::directory_iterator entry(folder, fs::directory_options::skip_permission_denied, code), end;
       !code && entry != end; entry.increment(code)) {
    const std::string name = entry->path().filename().string();
    const int process = process_of(name);
    if (process < 1) continue;
    std::error_code ignored;
    const auto age = fs::file_time_type::clock::now() - entry->last_write_time(ignored);
    if (!ignored && age > std::chrono::hours(1) && ::kill(process, 0) != 0 && errno == ESRCH)
      fs::remove(entry->path(), ignored);
  }
}

void write_text(const fs::path& path, const std::string& text, bool replace, const ProtectedPaths* keep) {
  if (keep) keep->check(path);
  SafeFile file(path, replace);
  file.write(text.data(), text.size());
  file.commit();
}

std::string read_text(const fs::path& path, std::int64_t limit) {
  std::error_code code;
  // A pipe has no size: it is read to its end.
  if (const auto state = fs::status(path, code); fs::exists(state) && !fs::is_regular_file(state)) {
    if (fs::is_directory(state))
      throw input_error("This is a folder, not a file.", path.string(), "Name a file in it.");
    std::ifstream in(path, std::ios::binary);
    std::string text;
    for (char block[1 << 14]; in.read(block, sizeof block) || in.gcount() > 0;) {
      text.append(block, static_cast<std::size_t>(in.gcount()));
      if (text.size() > static_cast<std::size_t>(limit))
        throw input_error(fmt::format("There are more than {} bytes; no more are read.", limit), path.string(),
                          "Check that it is what was meant.");
    }
    return text;
  }
  const auto size = fs::file_size(path, code);
  if (code) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  if (size > static_cast<std::uintmax_t>(limit))
    throw input_error(fmt::format("The file has {} bytes; at most {} are read.", size, limit), path.string(),
                      "Check that it is the file that was meant.");
  std::ifstream in(path, std::ios::binary);
  std::string text(static_cast<std::size_t>(size), '\0');
  in.read(text.data(), static_cast<std::streamsize>(size));
  text.resize(static_cast<std::size_t>(in.gcount()));
  if (!in && !in.eof())
    throw input_error("The file cannot be read.", path.string(), "Check the disk, and that it may be read.");
  return text;
}

}  // namespace fexel
