#include "files/directories.h"

#include <algorithm>
#include <cstring>

namespace fexel::codec {
namespace {

constexpr std::uint16_t photo_tag = 34665, place_tag = 34853;

/// Bytes of one value, and of one number in it: a fraction is two.
std::pair<std::size_t, std::size_t> sizes_of(std::uint16_t type) {
  switch (type) {
    case 1:
    case 2:
    case 6:
    case 7:
      return {1, 1};
    case 3:
    case 8:
      return {2, 2};
    case 4:
    case 9:
    case 11:
    case 13:
      return {4, 4};
    case 5:
    case 10:
      return {8, 4};
    case 12:
    case 16:
    case 17:
    case 18:
      return {8, 8};
    default:
      return {0, 0};
  }
}

void put(std::vector<unsigned char>& out, std::uint64_t value, std::size_t size) {
  for (std::size_t i = 0; i < size; ++i) out.push_back(static_cast<unsigned char>(value >> (8 * i)));
}

}  // namespace

std::uint64_t number_at(const unsigned char* bytes, std::size_t size, bool high_first) {
  std::uint64_t value = 0;
  for (std::size_t i = 0; i < size; ++i) value = value << 8 | bytes[high_first ? i : size - 1 - i];
  return value;
}

ReadAt reader_of(std::istream& in) {
  return [&in](std::uint64_t at, void* to, std::size_t size) {
    in.clear();
    in.seekg(static_cast<std::streamoff>(at));
    return static_cast<bool>(in.read(static_cast<char*>(to), static_cast<std::streamsize>(size)));
  };
}

std::optional<TiffHead> tiff_head(const ReadAt& read) {
  unsigned char head[16] = {};
  if (!read(0, head, 8) || (std::memcmp(head, "II", 2) != 0 && std::memcmp(head, "MM", 2) != 0)) return std::nullopt;
  TiffHead out;
  out.high_first = head[0] == 'M';
  const std::uint64_t version = number_at(head + 2, 2, out.high_first);
  out.big = version == 43;
  if ((version != 42 && version != 43) || (out.big && !read(8, head + 8, 8))) return std::nullopt;
  out.first = out.big ? number_at(head + 8, 8, out.high_first) : number_at(head + 4, 4, out.high_first);
  return out;
}

std::vector<TagEntry> directory_at(const ReadAt& read, const TiffHead& head, std::uint64_t at, std::size_t most,
                                   std::size_t count) {
  std::vector<TagEntry> out;
  const std::size_t counts = head.big ? 8 : 2, width = head.big ? 20 : 12, inside = head.big ? 8 : 4;
  unsigned char first[8] = {};
  if (at == 0 || !read(at, first, counts)) return out;
  const std::uint64_t entries = number_at(first, counts, head.high_first);
  if (entries == 0 || entries > 4096) return out;
  std::vector<unsigned char> all(static_cast<std::size_t>(std::min<std::uint64_t>(entries, count)) * width);
  if (!read(at + counts, all.data(), all.size())) return out;
  for (const unsigned char* bytes = all.data(); bytes < all.data() + all.size(); bytes += width) {
    TagEntry entry;
    entry.tag = static_cast<std::uint16_t>(number_at(bytes, 2, head.high_first));
    entry.type = static_cast<std::uint16_t>(number_at(bytes + 2, 2, head.high_first));
    entry.count = number_at(bytes + 4, inside, head.high_first);
    const auto [size, unit] = sizes_of(entry.type);
    if (size == 0 || entry.count == 0 || entry.count > most / size) continue;
    entry.value.resize(size * entry.count);
    if (entry.value.size() <= inside)
      std::memcpy(entry.value.data(), bytes + 4 + inside, entry.value.size());
    else if (!read(number_at(bytes + 4 + inside, inside, head.high_first), entry.value.data(), entry.value.size()))
      continue;
    for (std::size_t k = 0; head.high_first && k < entry.value.size(); k += unit)
      std::reverse(entry.value.begin() + static_cast<std::ptrdiff_t>(k),
                   entry.value.begin() + static_cast<std::ptrdiff_t>(k + unit));
    out.push_back(std::move(entry));
  }
  return out;
}

std::vector<unsigned char> directory_bytes(std::vector<TagEntry> entries, std::uint64_t base, bool big) {
  std::ranges::stable_sort(entries, {}, &TagEntry::tag);
  const std::size_t counts = big ? 8 : 2, width = big ? 20 : 12, inside = big ? 8 : 4;
  std::vector<unsigned char> out, values;
  const std::uint64_t behind = base + counts + entries.size() * width + inside;
  put(out, entries.size(), counts);
  for (const TagEntry& entry : entries) {
    put(out, entry.tag, 2);
    put(out, entry.type, 2);
    put(out, entry.count, inside);
    if (entry.value.size() <= inside) {
      out.insert(out.end(), entry.value.begin(), entry.value.end());
      out.resize(out.size() + inside - entry.value.size());
    } else {
      put(out, behind + values.size(), inside);
      values.insert(values.end(), entry.value.begin(), entry.value.end());
      if (values.size() % 2 != 0) values.push_back(0);
    }
  }
  put(out, 0, inside);
  out.insert(out.end(), values.begin(), values.end());
  return out;
}

std::vector<std::uint64_t> numbers_of(const std::vector<TagEntry>& entries, std::uint16_t tag) {
  std::vector<std::uint64_t> out;
  const auto at = std::ranges::find(entries, tag, &TagEntry::tag);
  if (at == entries.end()) return out;
  const auto [size, unit] = sizes_of(at->type);
  if (size != unit || at->type == 2 || at->type == 11 || at->type == 12) return out;
  for (std::size_t k = 0; k < at->value.size(); k += unit) out.push_back(number_at(at->value.data() + k, unit, false));
  return out;
}

std::optional<std::uint64_t> number_of(const std::vector<TagEntry>& entries, std::uint16_t tag) {
  const auto all = numbers_of(entries, tag);
  return all.empty() ? std::nullopt : std::optional(all.front());
}

CameraTags camera_tags(const ReadAt& read, std::size_t most) {
  CameraTags out;
  const auto head = tiff_head(read);
  if (!head) return out;
  out.picture = directory_at(read, *head, head->first, most);
  out.photo = directory_at(read, *head, number_of(out.picture, photo_tag).value_or(0), most);
  out.place = directory_at(read, *head, number_of(out.picture, place_tag).value_or(0), most);
  return out;
}

CameraTags camera_tags(const std::vector<unsigned char>& exif) {
  return camera_tags(
      [&](std::uint64_t at, void* to, std::size_t size) {
        if (at > exif.size() || size > exif.size() - at) return false;
        std::memcpy(to, exif.data() + at, size);
        return true;
      },
      exif.size());
}

std::vector<unsigned char> exif_block(const CameraTags& tags) {
  std::vector<TagEntry> picture;
  for (const TagEntry& entry : tags.picture)
    if (entry.tag != photo_tag && entry.tag != place_tag) picture.push_back(entry);
  if (picture.empty() && tags.photo.empty() && tags.place.empty()) return {};
  // The other directories stand behind the first, whose length does not depend on where that is.
  constexpr std::uint64_t head_bytes = 8;
  const auto pointer = [](std::uint16_t tag, std::uint64_t at) {
    TagEntry out{tag, 4, 1, {}};
    put(out.value, at, 4);
    return out;
  };
  auto with = [&](std::uint64_t photo, std::uint64_t place) {
    std::vector<TagEntry> all = picture;
    if (!tags.photo.empty()) all.push_back(pointer(photo_tag, photo));
    if (!tags.place.empty()) all.push_back(pointer(place_tag, place));
    return directory_bytes(std::move(all), head_bytes, false);
  };
  const std::uint64_t photo_at = head_bytes + with(0, 0).size();
  const auto photo = tags.photo.empty() ? std::vector<unsigned char>() : directory_bytes(tags.photo, photo_at, false);
  const std::uint64_t place_at = photo_at + photo.size();
  const auto place = tags.place.empty() ? std::vector<unsigned char>() : directory_bytes(tags.place, place_at, false);
  std::vector<unsigned char> out{'I', 'I', 42, 0, 8, 0, 0, 0};
  for (const auto& part : {with(photo_at, place_at), photo, place}) out.insert(out.end(), part.begin(), part.end());
  return out;
}

}  // namespace fexel::codec
