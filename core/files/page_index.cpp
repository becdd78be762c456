#include "files/page_index.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <list>
#include <mutex>
#include <unordered_set>

#include "base/error.h"
#include "files/identity.h"

namespace fexel::codec {
namespace {

struct Known {
  FileIdentity identity;
  std::shared_ptr<const PageIndex> index;
};
constexpr std::size_t max_known = 16;
std::mutex known_mutex;
std::list<Known> known;  // the latest first

std::shared_ptr<const PageIndex> known_as(const FileIdentity& identity) {
  const std::scoped_lock lock(known_mutex);
  for (auto at = known.begin(); at != known.end(); ++at)
    if (at->identity == identity) {
      known.splice(known.begin(), known, at);
      return known.front().index;
    }
  return nullptr;
}

struct Opened {
  int descriptor;
  ~Opened() { ::close(descriptor); }
};

bool read_at(int descriptor, std::uint64_t at, void* to, std::size_t size) {
  auto* bytes = static_cast<char*>(to);
  while (size > 0) {
    const ssize_t got = ::pread(descriptor, bytes, size, static_cast<off_t>(at));
    if (got < 0 && errno == EINTR) continue;
    if (got <= 0) return false;
    bytes += got, size -= static_cast<std::size_t>(got), at += static_cast<std::uint64_t>(got);
  }
  return true;
}

std::uint64_t number(const unsigned char* bytes, int size, bool high_first) {
  std::uint64_t value = 0;
  for (int i = 0; i < size; ++i) value = value << 8 | bytes[high_first ? i : size - 1 - i];
  return value;
}

}  // namespace

std::shared_ptr<const PageIndex> page_index(const std::filesystem::path& path,
                                            const std::function<PageIndex(int, std::uint64_t)>& find) {
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor < 0)
    throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  const Opened opened{descriptor};
  const auto identity = identity_of(descriptor);
  if (!identity) throw input_error("The file cannot be read.", path.string(), "Check the disk.");
  if (auto found = known_as(*identity)) return found;
  auto index = std::make_shared<const PageIndex>(find(descriptor, static_cast<std::uint64_t>(identity->size)));
  // Of a file that was written just now the clock does not tell whether it is written again.
  constexpr std::int64_t settled_ns = 2'000'000'000;
  const auto now =
      std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::system_clock::now().time_since_epoch()).count();
  if (now - std::max(identity->modified_ns, identity->changed_ns) < settled_ns) return index;
  const std::scoped_lock lock(known_mutex);
  known.push_front({*identity, index});
  if (known.size() > max_known) known.pop_back();
  return index;
}

PageIndex tiff_directories(int descriptor, std::uint64_t size) {
  PageIndex out;
  unsigned char head[16] = {};
  if (!read_at(descriptor, 0, head, 8)) {
    out.cut = "The TIFF ends within its header.";
    return out;
  }
  const bool high_first = head[0] == 'M', big = number(head + 2, 2, high_first) == 43;
  if (big && !read_at(descriptor, 8, head + 8, 8)) {
    out.cut = "The TIFF ends within its header.";
    return out;
  }
  const int count_bytes = big ? 8 : 2, offset_bytes = big ? 8 : 4, entry_bytes = big ? 20 : 12;
  std::uint64_t next = number(head + (big ? 8 : 4), offset_bytes, high_first);
  std::unordered_set<std::uint64_t> seen;
  while (next != 0) {
    const auto page = out.offsets.size() + 1;
    const auto beyond = [&] {
      out.cut = out.offsets.empty() ? "The TIFF is cut short: its first page is not in it."
                                    : fmt::format("The TIFF is cut short: page {} is not in it.", page);
    };
    unsigned char bytes[8] = {};
    if (next >= size || !read_at(descriptor, next, bytes, static_cast<std::size_t>(count_bytes))) {
      beyond();
      break;
    }
    const std::uint64_t entries = number(bytes, count_bytes, high_first);
    const std::uint64_t end =
        next + static_cast<std::uint64_t>(count_bytes) + entries * static_cast<std::uint64_t>(entry_bytes);
    if (entries > 65535 || end > size || !read_at(descriptor, end, bytes, static_cast<std::size_t>(offset_bytes))) {
      beyond();
      break;
    }
    if (!seen.insert(next).second || out.offsets.size() >= max_pages) {
      out.cut = fmt::format("The list of the TIFF's pages does not end; {} are in it.", out.offsets.size());
      break;
    }
    out.offsets.push_back(next);
    next = number(bytes, offset_bytes, high_first);
  }
  return out;
}

}  // namespace fexel::codec
