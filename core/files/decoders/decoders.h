#pragma once
/// Formats that are read and not written, each by a library that may be missing: a pair of functions for what a file
/// says and for one of its pictures, and the library's name. Pages are counted from 1.
#include "files/codec.h"

namespace fexel::codec {

/// The whole file. Raises an input error for one that cannot be read, or is larger than `Limits::memory` allows.
std::vector<std::uint8_t> all_bytes(const fs::path& path, const Limits& limits);
/// Alpha is taken for the mask, or stays a band, which is said. `full` is the number that stands for all of it: the
/// largest sample of the picture, or of its depth.
void settle_alpha(FileInfo& info, const Limits& limits);
void settle_alpha(Image& image, const FileInfo& stored, const Limits& limits, double full);
/// 8 or 16 bits for whole numbers of so many bits, and the largest of them where it is not the depth's.
void settle_bits(FileInfo& info, int bits);
/// Raises a call error for a page that is not there.
void check_page(const fs::path& path, int page, int count);

/// Windows bitmap, as its headers of 12 to 124 bytes describe it; decoded by FFmpeg.
FileInfo bmp_info(const fs::path& path, const Limits& limits, int page);
Image bmp_read(const fs::path& path, int page, const Limits& limits, const Job& job);
std::string bmp_library();

/// GIF89a (CompuServe, 1990): each page is what is seen at that moment.
FileInfo gif_info(const fs::path& path, const Limits& limits, int page);
std::vector<PageInfo> gif_pages(const fs::path& path, const Limits& limits);
Image gif_read(const fs::path& path, int page, const Limits& limits, const Job& job);
std::string gif_library();

/// WebP (RFC 9649, 2024).
FileInfo webp_info(const fs::path& path, const Limits& limits, int page);
std::vector<PageInfo> webp_pages(const fs::path& path, const Limits& limits);
Image webp_read(const fs::path& path, int page, const Limits& limits, const Job& job);
Stored webp_attached(const fs::path& path);
std::string webp_library();

/// JPEG 2000 (ISO/IEC 15444-1): JP2 files and bare codestreams.
FileInfo jpeg2000_info(const fs::path& path, const Limits& limits, int page);
Image jpeg2000_read(const fs::path& path, int page, const Limits& limits, const Job& job);
Stored jpeg2000_attached(const fs::path& path);
std::string jpeg2000_library();

/// HEIF and AVIF (ISO/IEC 23008-12; AV1 Image File Format): each page is one of the file's main pictures.
FileInfo heif_info(const fs::path& path, const Limits& limits, int page);
std::vector<PageInfo> heif_pages(const fs::path& path, const Limits& limits);
Image heif_read(const fs::path& path, int page, const Limits& limits, const Job& job);
Stored heif_attached(const fs::path& path);
std::string heif_library();

/// What a camera's sensor gave, made into colours; never the preview beside it.
FileInfo raw_info(const fs::path& path, const Limits& limits, int page);
Image raw_read(const fs::path& path, int page, const Limits& limits, const Job& job);
std::string raw_library();
/// Whether a file that begins as a TIFF is a camera's: a DNG, or a directory of previews with the sensor's data below.
bool is_raw_tiff(const fs::path& path);

}  // namespace fexel::codec
