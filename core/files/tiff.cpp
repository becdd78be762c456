#include <fcntl.h>
#include <tiffio.h>
#include <unistd.h>

#include <mutex>

#include "files/codec.h"

namespace fexel::codec {
namespace {

struct CloseTiff {
  void operator()(TIFF* tiff) const { TIFFClose(tiff); }
};
using TiffPointer = std::unique_ptr<TIFF, CloseTiff>;

/// libtiff says what is wrong through process-wide handlers; the words are kept for the thread that asked.
thread_local std::string last_words;
void keep_words(const char*, const char* format, va_list arguments) {
  char text[512];
  std::vsnprintf(text, sizeof text, format, arguments);
  last_words = text;
}
void ignore_words(const char*, const char*, va_list) {}

void install_handlers() {
  static std::once_flag once;
  std::call_once(once, [] {
    TIFFSetErrorHandler(keep_words);
    TIFFSetWarningHandler(ignore_words);
  });
  last_words.clear();
}

Error tiff_error(const fs::path& path) {
  return broken(
      path, last_words.empty() ? "The TIFF cannot be read." : fmt::format("The TIFF cannot be read: {}.", last_words));
}

TiffPointer open_page(const fs::path& path, int page) {
  install_handlers();
  TiffPointer tiff(TIFFOpen(path.c_str(), "r"));
  if (!tiff) throw tiff_error(path);
  if (page > 65535 || (page > 1 && TIFFSetDirectory(tiff.get(), static_cast<tdir_t>(page - 1)) == 0))
    throw call_error(fmt::format("The file has no page {}.", page), path.string());
  return tiff;
}

std::optional<PixelSize> density(TIFF* tiff) {
  float x = 0, y = 0;
  std::uint16_t unit = RESUNIT_INCH;
  if (TIFFGetField(tiff, TIFFTAG_XRESOLUTION, &x) == 0 || TIFFGetField(tiff, TIFFTAG_YRESOLUTION, &y) == 0)
    return std::nullopt;
  TIFFGetFieldDefaulted(tiff, TIFFTAG_RESOLUTIONUNIT, &unit);
  if (unit != RESUNIT_INCH && unit != RESUNIT_CENTIMETER) return std::nullopt;
  const double per_metre = unit == RESUNIT_INCH ? 1 / 0.0254 : 100;
  return pixel_size_from_density(x * per_metre, y * per_metre);
}

FileInfo page_info(const fs::path& path, TIFF* tiff) {
  FileInfo info;
  info.format = "tiff";
  std::uint32_t width = 0, height = 0;
  std::uint16_t bands = 1, bits = 1, kind = SAMPLEFORMAT_UINT, photometric = PHOTOMETRIC_MINISBLACK, orientation = 1;
  if (TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width) == 0 || TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &height) == 0 ||
      width > 0x7fffffff || height > 0x7fffffff)
    throw broken(path, "The TIFF does not say how large its picture is.");
  TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &bands);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLEFORMAT, &kind);
  TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_ORIENTATION, &orientation);
  info.width = static_cast<int>(width);
  info.height = static_cast<int>(height);
  info.bands = bands;
  info.orientation = orientation >= 1 && orientation <= 8 ? orientation : 1;
  if (kind == SAMPLEFORMAT_UINT && (bits == 8 || bits == 16))
    info.depth = bits == 8 ? Depth::u8 : Depth::u16;
  else if (kind == SAMPLEFORMAT_IEEEFP && bits == 32)
    info.depth = Depth::f32;
  else
    throw unsupported(path,
                      fmt::format("The TIFF has {}-bit samples of kind {}, which Fexel does not read.", bits, kind));
  if (photometric == PHOTOMETRIC_PALETTE || photometric == PHOTOMETRIC_YCBCR || photometric == PHOTOMETRIC_MINISWHITE)
    throw unsupported(
        path, "The TIFF stores its colours as a palette, as YCbCr, or white as zero, which Fexel does not read.");
  info.pixel_size = density(tiff);
  std::uint32_t length = 0;
  void* profile = nullptr;
  if (TIFFGetField(tiff, TIFFTAG_ICCPROFILE, &length, &profile) != 0) info.profile = "embedded";
  return info;
}

void read_tiles(const fs::path& path, TIFF* tiff, bool interleaved, const Limits& limits, const Job& job,
                Image& image) {
  std::uint32_t across = 0, down = 0;
  if (TIFFGetField(tiff, TIFFTAG_TILEWIDTH, &across) == 0 || TIFFGetField(tiff, TIFFTAG_TILELENGTH, &down) == 0 ||
      across == 0 || down == 0 || across > 0x100000 || down > 0x100000)
    throw broken(path, "The tiles of the TIFF have no size.");
  const auto stored = static_cast<std::size_t>(interleaved ? image.bands() : 1);
  const std::size_t row = across * stored * bytes_of(image.depth());
  if (static_cast<std::size_t>(TIFFTileSize64(tiff)) != row * down ||
      row * down > static_cast<std::size_t>(limits.bytes))
    throw broken(path, "The tiles of the TIFF do not have the size that its header says.");
  std::vector<std::byte> buffer(row * down);
  const int passes = interleaved ? 1 : image.bands();
  for (int plane = 0; plane < passes; ++plane)
    for (std::uint32_t top = 0; top < static_cast<std::uint32_t>(image.height()); top += down) {
      job.check();
      for (std::uint32_t left = 0; left < static_cast<std::uint32_t>(image.width()); left += across) {
        if (TIFFReadTile(tiff, buffer.data(), left, top, 0, static_cast<std::uint16_t>(plane)) < 0)
          throw tiff_error(path);
        const int count = std::min(static_cast<int>(across), image.width() - static_cast<int>(left));
        const int end = std::min(static_cast<int>(top + down), image.height());
        for (int y = static_cast<int>(top); y < end; ++y)
          unweave(buffer.data() + static_cast<std::size_t>(y - static_cast<int>(top)) * row, static_cast<int>(stored),
                  plane, static_cast<int>(left), y, count, image);
      }
      if (job.progress) job.progress((plane + static_cast<double>(top) / image.height()) / passes);
    }
}

}  // namespace

FileInfo tiff_info(const fs::path& path) {
  const TiffPointer tiff = open_page(path, 1);
  FileInfo info = page_info(path, tiff.get());
  info.frames = std::max(1, static_cast<int>(TIFFNumberOfDirectories(tiff.get())));
  return info;
}

Image tiff_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  const TiffPointer tiff = open_page(path, page);
  const FileInfo info = page_info(path, tiff.get());
  check_size(path, info, limits);
  std::uint16_t planes = PLANARCONFIG_CONTIG;
  TIFFGetFieldDefaulted(tiff.get(), TIFFTAG_PLANARCONFIG, &planes);
  const bool interleaved = planes == PLANARCONFIG_CONTIG;
  const std::size_t size = bytes_of(info.depth);
  const auto stored = static_cast<std::size_t>(interleaved ? info.bands : 1);
  Image image(info.width, info.height, info.bands, info.depth);
  if (TIFFIsTiled(tiff.get()) != 0) {
    read_tiles(path, tiff.get(), interleaved, limits, job, image);
    return image;
  }
  const std::size_t line = static_cast<std::size_t>(info.width) * stored * size;
  if (static_cast<std::size_t>(TIFFScanlineSize64(tiff.get())) != line)
    throw broken(path, "The rows of the TIFF do not have the length that its header says.");
  std::vector<std::byte> buffer(line);
  const int passes = interleaved ? 1 : info.bands;
  for (int plane = 0; plane < passes; ++plane)
    for (int y = 0; y < info.height; ++y) {
      if (y % 64 == 0) job.check();
      if (TIFFReadScanline(tiff.get(), buffer.data(), static_cast<std::uint32_t>(y),
                           static_cast<std::uint16_t>(plane)) < 0)
        throw tiff_error(path);
      unweave(buffer.data(), static_cast<int>(stored), plane, 0, y, info.width, image);
      if (job.progress && y % 64 == 0) job.progress((plane + static_cast<double>(y) / info.height) / passes);
    }
  return image;
}

void tiff_write(SafeFile& file, const fs::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                const Job& job) {
  install_handlers();
  const int descriptor = ::dup(file.descriptor());
  double total = 0;
  for (const Image& page : pages) total += static_cast<double>(page.row_bytes()) * page.height() * page.bands();
  TiffPointer owner(TIFFFdOpen(descriptor, path.c_str(), total > 3.9e9 ? "w8" : "w"));
  if (!owner) {
    ::close(descriptor);
    throw input_error("The TIFF could not be written.", path.string());
  }
  TIFF* tiff = owner.get();
  const auto failed = [&] {
    return input_error(fmt::format("The TIFF could not be written{}{}.", last_words.empty() ? "" : ": ", last_words),
                       path.string(), "Check that the disk has room, or choose another folder.");
  };
  for (std::size_t index = 0; index < pages.size(); ++index) {
    const Image& image = pages[index];
    const int samples = image.bands() - (options.alpha ? 1 : 0);
    const bool colour = samples == 3 || samples == 4;
    const std::size_t size = bytes_of(image.depth());
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, static_cast<std::uint32_t>(image.width()));
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, static_cast<std::uint32_t>(image.height()));
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, static_cast<std::uint16_t>(image.bands()));
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, static_cast<std::uint16_t>(8 * size));
    TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, image.depth() == Depth::f32 ? SAMPLEFORMAT_IEEEFP : SAMPLEFORMAT_UINT);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, colour ? PHOTOMETRIC_RGB : PHOTOMETRIC_MINISBLACK);
    const int extra = image.bands() - (colour ? 3 : 1);
    if (extra > 0) {
      std::vector<std::uint16_t> kinds(static_cast<std::size_t>(extra), EXTRASAMPLE_UNSPECIFIED);
      if (options.alpha) kinds.back() = EXTRASAMPLE_UNASSALPHA;
      TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, static_cast<std::uint16_t>(extra), kinds.data());
    }
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, options.compress ? COMPRESSION_ADOBE_DEFLATE : COMPRESSION_NONE);
    if (options.compress) {
      TIFFSetField(tiff, TIFFTAG_ZIPQUALITY, 1);
      TIFFSetField(tiff, TIFFTAG_PREDICTOR,
                   image.depth() == Depth::f32 ? PREDICTOR_FLOATINGPOINT : PREDICTOR_HORIZONTAL);
    }
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, TIFFDefaultStripSize(tiff, 0));
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_TOPLEFT);
    TIFFSetField(tiff, TIFFTAG_SOFTWARE, "Fexel");
    if (pages.size() > 1) {
      TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, FILETYPE_PAGE);
      TIFFSetField(tiff, TIFFTAG_PAGENUMBER, static_cast<std::uint16_t>(index),
                   static_cast<std::uint16_t>(pages.size()));
    }
    if (options.pixel_size) {
      const PixelSize centimetre = in_unit(*options.pixel_size, "cm");
      TIFFSetField(tiff, TIFFTAG_RESOLUTIONUNIT, RESUNIT_CENTIMETER);
      TIFFSetField(tiff, TIFFTAG_XRESOLUTION, 1 / centimetre.x);
      TIFFSetField(tiff, TIFFTAG_YRESOLUTION, 1 / centimetre.y);
    }
    const auto bands = static_cast<std::size_t>(image.bands());
    std::vector<std::byte> buffer(image.row_bytes() * bands);
    for (int y = 0; y < image.height(); ++y) {
      if (y % 16 == 0) job.check();
      weave(image, y, buffer.data());
      if (TIFFWriteScanline(tiff, buffer.data(), static_cast<std::uint32_t>(y), 0) < 0) throw failed();
      if (job.progress && y % 64 == 0)
        job.progress((static_cast<double>(index) + static_cast<double>(y) / image.height()) /
                     static_cast<double>(pages.size()));
    }
    if (TIFFWriteDirectory(tiff) == 0) throw failed();
  }
  last_words.clear();
  if (TIFFFlush(tiff) == 0 || !last_words.empty()) throw failed();
}

}  // namespace fexel::codec
