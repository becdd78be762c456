#pragma once
/// What the formats share with picture.cpp, and with nobody else.
#include <fmt/format.h>

#include "base/error.h"
#include "files/picture.h"
#include "files/safe_file.h"

namespace fexel::codec {

namespace fs = std::filesystem;

/// `count` pixels of `stored` interleaved samples each, to planes from `plane` on, at pixel x of row y.
void unweave(const std::byte* from, int stored, int plane, int x, int y, int count, Image& image);
/// One row of all planes, interleaved.
void weave(const Image& image, int y, std::byte* to);

inline Error broken(const fs::path& path, const std::string& what) {
  return input_error(what, path.string(), "The file may be damaged or cut short; read it from its origin again.");
}
inline Error unsupported(const fs::path& path, const std::string& what) {
  return input_error(what, path.string(), "Save it as 8-bit, 16-bit or 32-bit floating-point TIFF, PNG, PNM or PFM.");
}

/// Raises an input error when a header asks for more than the limits allow.
void check_size(const fs::path& path, const FileInfo& info, const Limits& limits);

/// What lies beside the pixels, as it is stored: an ICC profile, and an Exif block.
struct Stored {
  std::vector<unsigned char> profile, exif, xmp = {}, iptc = {};
  std::string comment = {};
  bool more_xmp = false;      ///< there are packets that continue the first
  std::string software = {};  ///< the program that wrote the file, as it says
  int largest = 0;            ///< value that a sample means, as a PNG of Fexel says; 0 where nothing is said
};
/// The name by which files say that Fexel wrote them.
inline constexpr std::string_view own_name = "Fexel";
/// The keyword of the text in which a PNG of Fexel tells its largest value: `sBIT` is for samples that were scaled to
/// the whole range, which Fexel does not do.
inline constexpr std::string_view largest_keyword = "Largest sample value";
/// What a density is worth: a pixel size in files that Fexel or a scanner wrote; nothing in a photo, whose camera puts
/// some number there; else it is for printing.
void take_density(FileInfo& info, const std::optional<PixelSize>& density, bool photo, bool trusted);
Stored png_attached(const fs::path& path);
Stored jpeg_attached(const fs::path& path);
Stored tiff_attached(const fs::path& path);

FileInfo png_info(const fs::path& path, const Limits& limits);
Image png_read(const fs::path& path, const Limits& limits, const Job& job);
void png_write(SafeFile& file, const fs::path& path, const Image& image, const WriteOptions& options, const Job& job);

FileInfo tiff_info(const fs::path& path, const Limits& limits, int page);
std::vector<PageInfo> tiff_pages(const fs::path& path, const Limits& limits);
Image tiff_read(const fs::path& path, int page, const Limits& limits, const Job& job);
void tiff_write(SafeFile& file, const fs::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                const Job& job);

FileInfo jpeg_info(const fs::path& path);
Image jpeg_read(const fs::path& path, const Limits& limits, const Job& job);
void jpeg_write(SafeFile& file, const fs::path& path, const Image& image, const WriteOptions& options, const Job& job);

FileInfo pnm_info(const fs::path& path, const Limits& limits, int page);
Image pnm_read(const fs::path& path, int page, const Limits& limits, const Job& job);
void pnm_write(SafeFile& file, const Image& image, const Job& job);

/// Pixels per metre or per inch that are finite and positive become a pixel size in mm.
std::optional<PixelSize> pixel_size_from_density(double x_per_metre, double y_per_metre);

}  // namespace fexel::codec
