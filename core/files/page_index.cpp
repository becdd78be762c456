#include "files/page_index.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <chrono>
#include <cstring>
#include <list>
#include <mutex>
#include <optional>
#include <unordered_set>

#include "base/error.h"
#include "files/directories.h"
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

/// NewSubfileType says by its first bit that a picture is reduced, by its third that it is a mask; SubfileType, before
/// it, by the number 2.
bool is_beside(const std::vector<TagEntry>& first) {
  return (number_of(first, 254).value_or(0) & 5) != 0 || number_of(first, 255).value_or(1) == 2;
}

/// How many pictures the description of a directory counts; 0 where it says nothing.
std::uint64_t counts_pictures(const std::vector<TagEntry>& directory) {
  constexpr std::string_view word = "images=";
  constexpr std::uint16_t description_tag = 270;
  const auto text = std::ranges::find(directory, description_tag, &TagEntry::tag);
  if (text == directory.end()) return 0;
  const std::string description(text->value.begin(), text->value.end());
  const auto at = description.find(word);
  std::uint64_t count = 0;
  if (at != std::string::npos && (at == 0 || description[at - 1] == '\n'))
    std::from_chars(description.data() + at + word.size(), description.data() + description.size(), count);
  return std::min<std::uint64_t>(count, max_pages);
}

/// Pictures behind that of the only directory, as its description counts them. They follow where samples are not
/// compressed and stand in one piece, as many bytes as the size of the picture asks for.
void find_followers(const std::vector<TagEntry>& only, std::uint64_t size, PageIndex& out) {
  const std::uint64_t count = counts_pictures(only);
  const auto number = [&](std::uint16_t tag, std::uint64_t other) { return number_of(only, tag).value_or(other); };
  if (count < 2 || number(259, 1) != 1 || number_of(only, 322)) return;
  const auto offsets = numbers_of(only, 273), lengths = numbers_of(only, 279);
  if (offsets.empty() || offsets.size() != lengths.size()) return;
  std::uint64_t bytes = 0;
  for (std::size_t i = 0; i < offsets.size(); ++i) {
    if (offsets[i] != offsets[0] + bytes) return;
    bytes += lengths[i];
  }
  const std::uint64_t bits = number(258, 1), bands = number(277, 1);
  if (bits % 8 != 0 || bits > 64 || bands > 4096 ||
      static_cast<double>(bytes) != static_cast<double>(number(256, 0)) * static_cast<double>(number(257, 0)) *
                                        static_cast<double>(bands * bits / 8))
    return;
  if (bytes == 0 || offsets[0] >= size || (size - offsets[0]) / bytes < 2) return;
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
  std::vector<std::uint64_t> beside;
  std::size_t directories = 0;
  const ReadAt read = [descriptor](std::uint64_t at, void* to, std::size_t bytes) {
    return read_at(descriptor, at, to, bytes);
  };
  const auto head = tiff_head(read);
  if (!head) {
    out.cut = "The TIFF ends within its header.";
    return out;
  }
  const std::size_t count_bytes = head->big ? 8 : 2, offset_bytes = head->big ? 8 : 4,
                    entry_bytes = head->big ? 20 : 12;
  constexpr std::size_t short_value = 8, text_value = 64 << 10, long_value = 64 << 20;
  std::uint64_t next = head->first;
  std::unordered_set<std::uint64_t> seen;
  while (next != 0) {
    const auto page = directories + 1;
    const auto beyond = [&] {
      out.cut = directories == 0 ? "The TIFF is cut short: its first page is not in it."
                                 : fmt::format("The TIFF is cut short: page {} is not in it.", page);
    };
    unsigned char bytes[8] = {};
    if (next >= size || !read(next, bytes, count_bytes)) {
      beyond();
      break;
    }
    const std::uint64_t entries = number_at(bytes, count_bytes, head->high_first);
    const std::uint64_t end = next + count_bytes + entries * entry_bytes;
    if (entries > 65535 || end > size || !read(end, bytes, offset_bytes)) {
      beyond();
      break;
    }
    if (!seen.insert(next).second || directories >= max_pages) {
      out.cut = fmt::format("The list of the TIFF's pages does not end; {} are in it.", directories);
      break;
    }
    ++directories;
    const std::uint64_t after = number_at(bytes, offset_bytes, head->high_first);
    // What kind of picture it is stands first: tags go up.
    (is_beside(directory_at(read, *head, next, short_value, 4)) ? beside : out.offsets).push_back(next);
    if (directories == 1 && after == 0 && counts_pictures(directory_at(read, *head, next, text_value)))
      find_followers(directory_at(read, *head, next, long_value), size, out);
    next = after;
  }
  if (out.offsets.empty())
    out.offsets = std::move(beside);
  else
    out.beside = static_cast<int>(beside.size());
  return out;
}

}  // namespace fexel::codec
