#pragma once
/// Directories of a TIFF structure as they are (TIFF 6.0, 1992, section 2; BigTIFF): what a file or an Exif block says
/// in its tags, read and written without knowing them.
#include <cstdint>
#include <filesystem>
#include <functional>
#include <istream>
#include <optional>
#include <vector>

namespace fexel::codec {

struct TagEntry {
  std::uint16_t tag = 0, type = 0;
  std::uint64_t count = 0;
  std::vector<unsigned char> value = {};  ///< the lowest byte of each number first
};
/// Reads so many bytes from a place on; false where they are not there.
using ReadAt = std::function<bool(std::uint64_t at, void* to, std::size_t size)>;
/// From an open file.
ReadAt reader_of(std::istream& in);
struct TiffHead {
  bool big = false, high_first = false;
  std::uint64_t first = 0;  ///< where the first directory is
};
std::optional<TiffHead> tiff_head(const ReadAt& read);
/// The number that so many bytes hold, the highest or the lowest of them first.
std::uint64_t number_at(const unsigned char* bytes, std::size_t size, bool high_first);
/// The entries of a directory, the first `count` of them; values of more than `most` bytes are left out.
std::vector<TagEntry> directory_at(const ReadAt& read, const TiffHead& head, std::uint64_t at, std::size_t most,
                                   std::size_t count = 4096);
/// A directory that is to stand at `base`, and behind it its values; the lowest byte of each number first.
std::vector<unsigned char> directory_bytes(std::vector<TagEntry> entries, std::uint64_t base, bool big);
/// The number that an entry holds first; nothing for other types than whole numbers.
std::optional<std::uint64_t> number_of(const std::vector<TagEntry>& entries, std::uint16_t tag);
/// All of them.
std::vector<std::uint64_t> numbers_of(const std::vector<TagEntry>& entries, std::uint16_t tag);

/// What a camera writes: about the picture, about how it was taken (Exif), and about where (GPS).
struct CameraTags {
  std::vector<TagEntry> picture, photo, place;
};
CameraTags camera_tags(const ReadAt& read, std::size_t most);
CameraTags camera_tags(const std::vector<unsigned char>& exif);
/// As an Exif block; nothing for none.
std::vector<unsigned char> exif_block(const CameraTags& tags);

}  // namespace fexel::codec
