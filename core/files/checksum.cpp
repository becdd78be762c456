#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <memory>
#include <vector>

#include "base/error.h"
#include "files/identity.h"

namespace fexel {
namespace {

FileIdentity identity(const struct stat& found) {
  const auto nanoseconds = [](const timespec& t) { return std::int64_t{t.tv_sec} * 1'000'000'000 + t.tv_nsec; };
  return {found.st_dev, found.st_ino, found.st_size, nanoseconds(found.st_mtim), nanoseconds(found.st_ctim)};
}

}  // namespace

std::optional<FileIdentity> identity_of(const std::filesystem::path& path) {
  struct stat found {};
  if (::stat(path.c_str(), &found) != 0) return std::nullopt;
  return identity(found);
}

std::optional<FileIdentity> identity_of(int descriptor) {
  struct stat found {};
  if (::fstat(descriptor, &found) != 0) return std::nullopt;
  return identity(found);
}

std::string checksum(int descriptor, const std::string& name, const Job& job) {
  const std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> context(EVP_MD_CTX_new(), EVP_MD_CTX_free);
  EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr);
  std::vector<char> block(1 << 20);
  for (off_t at = 0;;) {
    job.check();
    const ssize_t got = ::pread(descriptor, block.data(), block.size(), at);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0)
      throw input_error("The file cannot be read to its end.", name, "Check the disk, and that it may be read.");
    if (got == 0) break;
    EVP_DigestUpdate(context.get(), block.data(), static_cast<std::size_t>(got));
    at += got;
  }
  unsigned char digest[EVP_MAX_MD_SIZE];
  unsigned int length = 0;
  EVP_DigestFinal_ex(context.get(), digest, &length);
  std::string text;
  for (unsigned int i = 0; i < length; ++i) text += fmt::format("{:02x}", digest[i]);
  return text;
}

std::string checksum(const std::filesystem::path& path, const Job& job) {
  // A pipe that nobody writes to would be waited for.
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor < 0)
    throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  struct Closed {
    int descriptor;
    ~Closed() { ::close(descriptor); }
  } const closed{descriptor};
  return checksum(descriptor, path.string(), job);
}

WatchedFile::WatchedFile(std::filesystem::path path) : path_(std::move(path)) {
  const auto found = identity_of(path_);
  if (!found) throw input_error("The file cannot be opened.", path_.string(), "Check that it exists and may be read.");
  identity_ = *found;
}

void WatchedFile::check() const {
  const auto now = identity_of(path_);
  if (!now)
    throw input_error("The file has gone while it was read; nothing was made of it.", path_.string(),
                      "Bring it back, and run it again.");
  if (!(*now == identity_))
    throw input_error("The file was changed while it was read; nothing was made of it.", path_.string(),
                      "Run it again when nothing else writes to it.");
}

std::string WatchedFile::checked_checksum(const Job& job) const {
  check();
  std::string sum = checksum(path_, job);
  check();
  return sum;
}

}  // namespace fexel
