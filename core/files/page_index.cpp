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
#include <optional>
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

namespace {

/// The entries of one directory, read by hand.
class Directory {
 public:
  Directory(int descriptor, std::uint64_t at, std::uint64_t entries, bool big, bool high_first)
      : descriptor_(descriptor), big_(big), high_first_(high_first), entries_(std::min<std::uint64_t>(entries, 512)) {
    bytes_.resize(entries_ * entry_bytes());
    if (!read_at(descriptor, at, bytes_.data(), bytes_.size())) entries_ = 0;
  }
  /// The value of a tag, or the first of several; nothing where it is not there.
  std::optional<std::uint64_t> value(std::uint64_t tag) const {
    const auto all = values(tag, 1);
    return all.empty() ? std::nullopt : std::optional(all.front());
  }
  std::vector<std::uint64_t> values(std::uint64_t tag, std::uint64_t most) const {
    std::vector<std::uint64_t> out;
    const unsigned char* entry = find(tag);
    if (!entry) return out;
    const std::uint64_t type = number(entry + 2, 2, high_first_);
    const int size = type == 3 ? 2 : type == 4 ? 4 : type == 16 ? 8 : type == 1 || type == 2 ? 1 : 0;
    const std::uint64_t count = std::min(number(entry + 4, big_ ? 8 : 4, high_first_), most);
    if (size == 0 || count == 0) return out;
    std::vector<unsigned char> data(count * static_cast<std::uint64_t>(size));
    const unsigned char* inside = entry + (big_ ? 12 : 8);
    if (data.size() <= (big_ ? 8U : 4U))
      std::memcpy(data.data(), inside, data.size());
    else if (!read_at(descriptor_, number(inside, big_ ? 8 : 4, high_first_), data.data(), data.size()))
      return out;
    for (std::uint64_t i = 0; i < count; ++i)
      out.push_back(number(data.data() + i * static_cast<std::uint64_t>(size), size, high_first_));
    return out;
  }

 private:
  std::size_t entry_bytes() const { return big_ ? 20 : 12; }
  const unsigned char* find(std::uint64_t tag) const {
    for (std::uint64_t i = 0; i < entries_; ++i)
      if (number(bytes_.data() + i * entry_bytes(), 2, high_first_) == tag) return bytes_.data() + i * entry_bytes();
    return nullptr;
  }
  int descriptor_;
  bool big_, high_first_;
  std::uint64_t entries_;
  std::vector<unsigned char> bytes_;
};

bool is_reduced(const Directory& directory) {
  // NewSubfileType says so by its first bit, a mask by its third; SubfileType, before it, by the number 2.
  return (directory.value(254).value_or(0) & 5) != 0 || directory.value(255).value_or(1) == 2;
}

/// Pictures behind that of the only directory, as its description counts them.
void find_followers(const Directory& only, std::uint64_t size, PageIndex& out) {
  const auto text = only.values(270, 4096);
  const std::string description(text.begin(), text.end());
  const auto at = description.find("images=");
  if (at == std::string::npos || (at > 0 && description[at - 1] != '\n')) return;
  std::uint64_t count = 0;
  for (std::size_t i = at + 7; i < description.size() && std::isdigit(static_cast<unsigned char>(description[i])) != 0;
       ++i)
    count = std::min<std::uint64_t>(count * 10 + static_cast<std::uint64_t>(description[i] - '0'), max_pages);
  if (count < 2 || only.value(259).value_or(1) != 1 || only.value(322)) return;
  const auto offsets = only.values(273, 1 << 22), lengths = only.values(279, 1 << 22);
  if (offsets.empty() || offsets.size() != lengths.size()) return;
  std::uint64_t bytes = 0;
  for (std::size_t i = 0; i < offsets.size(); ++i) {
    if (offsets[i] != offsets[0] + bytes) return;
    bytes += lengths[i];
  }
  if (bytes == 0 || offsets[0] + 2 * bytes > size) return;
  const std::uint64_t there = std::min(count, (size - offsets[0]) / bytes);
  if (there < count)
    out.cut =
        fmt::format("The TIFF is cut short: it says that it holds {} pictures, but only {} are in it.", count, there);
  out.offsets.assign(there, out.offsets[0]);
  for (std::uint64_t k = 0; k < there; ++k) out.shifts.push_back(k * bytes);
}

}  // namespace

PageIndex tiff_directories(int descriptor, std::uint64_t size) {
  PageIndex out;
  std::vector<std::uint64_t> reduced;
  std::size_t directories = 0;
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
    const auto page = out.offsets.size() + reduced.size() + 1;
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
    if (!seen.insert(next).second || directories++ >= max_pages) {
      out.cut = fmt::format("The list of the TIFF's pages does not end; {} are in it.", out.offsets.size());
      break;
    }
    const Directory directory(descriptor, next + static_cast<std::uint64_t>(count_bytes),
                              std::min<std::uint64_t>(entries, 4), big, high_first);
    (is_reduced(directory) ? reduced : out.offsets).push_back(next);
    if (directories == 1 && number(bytes, offset_bytes, high_first) == 0)
      find_followers({descriptor, next + static_cast<std::uint64_t>(count_bytes), entries, big, high_first}, size, out);
    next = number(bytes, offset_bytes, high_first);
  }
  if (out.offsets.empty())
    out.offsets = std::move(reduced);
  else
    out.reduced = static_cast<int>(reduced.size());
  return out;
}

}  // namespace fexel::codec
