#include <fcntl.h>
#include <libdeflate.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "files/directories.h"
#include "files/metadata.h"
#include "files/tiff.h"

namespace fexel::codec {
namespace {

constexpr std::size_t strip_bytes = 256 << 10;
constexpr int fast = 1;  // the compressor's level

struct FreeCompressor {
  void operator()(libdeflate_compressor* compressor) const { libdeflate_free_compressor(compressor); }
};

/// Each sample less the one `bands` before it. TIFF 6.0 (1992), section "Differencing predictor".
template <class T>
void difference(T* line, std::size_t samples, std::size_t bands) {
  for (std::size_t i = samples; i-- > bands;) line[i] = static_cast<T>(line[i] - line[i - bands]);
}

/// The bytes of floats by their weight, highest first, then each less the one `bands` before it. TIFF Technical Note 3
/// (2005), "Floating point predictor".
void difference_floats(std::byte* line, std::size_t samples, std::size_t bands) {
  thread_local std::vector<std::uint8_t> planes;
  planes.resize(4 * samples);
  for (std::size_t i = 0; i < samples; ++i) {
    std::uint32_t bits = 0;
    std::memcpy(&bits, line + 4 * i, 4);
    for (std::size_t k = 0; k < 4; ++k) planes[k * samples + i] = static_cast<std::uint8_t>(bits >> (24 - 8 * k));
  }
  difference(planes.data(), planes.size(), bands);
  std::memcpy(line, planes.data(), planes.size());
}

std::vector<std::byte> deflated(const std::vector<std::byte>& bytes) {
  thread_local const std::unique_ptr<libdeflate_compressor, FreeCompressor> compressor(
      libdeflate_alloc_compressor(fast));
  std::vector<std::byte> out(libdeflate_zlib_compress_bound(compressor.get(), bytes.size()));
  out.resize(libdeflate_zlib_compress(compressor.get(), bytes.data(), bytes.size(), out.data(), out.size()));
  return out;
}

constexpr ttag_t transformation_tag = 34264, keys_tag = 34735, numbers_tag = 34736, text_tag = 34737;

/// The library does not know the tags by itself.
void name_coordinate_tags(TIFF* tiff) {
  static const TIFFFieldInfo tags[] = {
      {transformation_tag, -1, -1, TIFF_DOUBLE, FIELD_CUSTOM, 1, 1, const_cast<char*>("ModelTransformation")},
      {keys_tag, -1, -1, TIFF_SHORT, FIELD_CUSTOM, 1, 1, const_cast<char*>("GeoKeyDirectory")},
      {numbers_tag, -1, -1, TIFF_DOUBLE, FIELD_CUSTOM, 1, 1, const_cast<char*>("GeoDoubleParams")},
      {text_tag, -1, -1, TIFF_ASCII, FIELD_CUSTOM, 1, 0, const_cast<char*>("GeoAsciiParams")}};
  TIFFMergeFieldInfo(tiff, tags, std::size(tags));
}

}  // namespace

TiffWriter::TiffWriter(SafeFile& file, fs::path path, double total_bytes, const WriteOptions& options)
    : path_(std::move(path)), options_(options) {
  hush_tiff();
  const int descriptor = ::dup(file.descriptor());
  tiff_.reset(TIFFFdOpen(descriptor, path_.c_str(), total_bytes > 3.9e9 ? "w8" : "w"));
  if (!tiff_) {
    ::close(descriptor);
    throw failed();
  }
  if (!options_.attached.camera.empty()) place_camera();
}

Error TiffWriter::failed() const {
  return input_error(fmt::format("The TIFF could not be written{}{}.", tiff_words().empty() ? "" : ": ", tiff_words()),
                     path_.string(), "Check that the disk has room, or choose another folder.");
}

void TiffWriter::begin_page(Size size, int bands, Depth depth, const std::optional<PixelSize>& pixel, int index,
                            int count) {
  TIFF* tiff = tiff_.get();
  const int samples = bands - (options_.alpha ? 1 : 0);
  const bool colour = samples == 3 || samples == 4;
  const std::size_t line = static_cast<std::size_t>(size.width) * static_cast<std::size_t>(bands) * bytes_of(depth);
  // A power of two, so that parts of a picture that begin at one of its multiples are made of whole strips.
  strip_rows_ = 64;
  while (strip_rows_ > 1 && line * static_cast<std::size_t>(strip_rows_) > strip_bytes) strip_rows_ /= 2;
  next_strip_ = 0;
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, static_cast<std::uint32_t>(size.width));
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, static_cast<std::uint32_t>(size.height));
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, static_cast<std::uint16_t>(bands));
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, static_cast<std::uint16_t>(8 * bytes_of(depth)));
  TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, depth == Depth::f32 ? SAMPLEFORMAT_IEEEFP : SAMPLEFORMAT_UINT);
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, colour ? PHOTOMETRIC_RGB : PHOTOMETRIC_MINISBLACK);
  const int extra = bands - (colour ? 3 : 1);
  if (extra > 0) {
    std::vector<std::uint16_t> kinds(static_cast<std::size_t>(extra), EXTRASAMPLE_UNSPECIFIED);
    if (options_.alpha) kinds.back() = EXTRASAMPLE_UNASSALPHA;
    TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, static_cast<std::uint16_t>(extra), kinds.data());
  }
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
  TIFFSetField(tiff, TIFFTAG_COMPRESSION, options_.compress ? COMPRESSION_ADOBE_DEFLATE : COMPRESSION_NONE);
  if (options_.compress)
    TIFFSetField(tiff, TIFFTAG_PREDICTOR, depth == Depth::f32 ? PREDICTOR_FLOATINGPOINT : PREDICTOR_HORIZONTAL);
  TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, static_cast<std::uint32_t>(strip_rows_));
  TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_TOPLEFT);
  TIFFSetField(tiff, TIFFTAG_SOFTWARE, "Fexel");
  if (!options_.attached.profile.empty())
    TIFFSetField(tiff, TIFFTAG_ICCPROFILE, static_cast<std::uint32_t>(options_.attached.profile.size()),
                 options_.attached.profile.data());
  constexpr std::uint16_t text_type = 2;
  if (!options_.attached.comment.empty())
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, options_.attached.comment.c_str());
  for (const TagEntry& entry : camera_tags(options_.attached.camera).picture)
    if (entry.type == text_type && entry.value.size() > 1)
      TIFFSetField(tiff, entry.tag, std::string(entry.value.begin(), entry.value.end()).c_str());
  if (index == 0 && !options_.description.empty())
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, options_.description.c_str());
  if (index == 0 && photo_at_ > 0) TIFFSetField(tiff, TIFFTAG_EXIFIFD, photo_at_);
  if (index == 0 && place_at_ > 0) TIFFSetField(tiff, TIFFTAG_GPSIFD, place_at_);
  if (index == 0 && !options_.attached.xmp.empty())
    TIFFSetField(tiff, TIFFTAG_XMLPACKET, static_cast<std::uint32_t>(options_.attached.xmp.size()),
                 options_.attached.xmp.data());
  if (index == 0 && !options_.attached.iptc.empty()) {
    std::vector<unsigned char> blocks = options_.attached.iptc;
    blocks.resize((blocks.size() + 3) / 4 * 4);
    // Older libraries count it in numbers of four bytes.
    const TIFFField* field = TIFFFindField(tiff, TIFFTAG_RICHTIFFIPTC, TIFF_ANY);
    const std::size_t each = field && TIFFFieldDataType(field) == TIFF_LONG ? 4 : 1;
    TIFFSetField(tiff, TIFFTAG_RICHTIFFIPTC, static_cast<std::uint32_t>(blocks.size() / each), blocks.data());
  }
  if (count > 1) TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, FILETYPE_PAGE);
  if (count > 1 && count <= 65535) {
    TIFFSetField(tiff, TIFFTAG_PAGENUMBER, static_cast<std::uint16_t>(index), static_cast<std::uint16_t>(count));
  }
  if (pixel) {
    const PixelSize centimetre = in_unit(*pixel, "cm");
    TIFFSetField(tiff, TIFFTAG_RESOLUTIONUNIT, RESUNIT_CENTIMETER);
    TIFFSetField(tiff, TIFFTAG_XRESOLUTION, 1 / centimetre.x);
    TIFFSetField(tiff, TIFFTAG_YRESOLUTION, 1 / centimetre.y);
  }
}

void TiffWriter::put_coordinates(const PlaneCoordinates& plane) {
  TIFF* tiff = tiff_.get();
  name_coordinate_tags(tiff);
  const Matrix3& m = plane.to_plane;
  // Columns and rows count from the outer corner of the first pixel, and z is nothing.
  double numbers[16] = {m(0, 0), m(0, 1), 0, m(0, 2), m(1, 0), m(1, 1), 0, m(1, 2), 0, 0, 0, 0, 0, 0, 0, 1};
  TIFFSetField(tiff, transformation_tag, 16, numbers);
  const std::string citation = fmt::format("plane coordinates in {}, y downward, no projection|", plane.unit);
  double metres = metres_per(plane.unit);
  constexpr std::uint16_t own = 32767;  // "user-defined"
  const auto letters = static_cast<std::uint16_t>(citation.size());
  // Each key: its number, where its value stands (0: here), how many, and the value or where it begins.
  std::uint16_t keys[] = {1,    1,           0,       5,    // version, revision, minor revision, keys
                          1024, 0,           1,       own,  // GTModelTypeGeoKey
                          1025, 0,           1,       1,    // GTRasterTypeGeoKey: a pixel is an area
                          1026, text_tag,    letters, 0,    // GTCitationGeoKey
                          3076, 0,           1,       own,  // ProjLinearUnitsGeoKey
                          3077, numbers_tag, 1,       0};   // ProjLinearUnitSizeGeoKey, in metres
  TIFFSetField(tiff, keys_tag, static_cast<int>(std::size(keys)), keys);
  TIFFSetField(tiff, numbers_tag, 1, &metres);
  TIFFSetField(tiff, text_tag, citation.c_str());
}

std::vector<std::byte> TiffWriter::encoded(const Image& rows, int y, int count) const {
  const auto bands = static_cast<std::size_t>(rows.bands());
  const std::size_t samples = static_cast<std::size_t>(rows.width()) * bands, line = rows.row_bytes() * bands;
  std::vector<std::byte> bytes(line * static_cast<std::size_t>(count));
  for (int k = 0; k < count; ++k) {
    std::byte* at = bytes.data() + static_cast<std::size_t>(k) * line;
    weave(rows, y + k, at);
    if (!options_.compress) continue;
    if (rows.depth() == Depth::u8) difference(reinterpret_cast<std::uint8_t*>(at), samples, bands);
    if (rows.depth() == Depth::u16) difference(reinterpret_cast<std::uint16_t*>(at), samples, bands);
    if (rows.depth() == Depth::f32) difference_floats(at, samples, bands);
  }
  return options_.compress ? deflated(bytes) : bytes;
}

void TiffWriter::append(const Image& rows, const Job& job) {
  const int strips = (rows.height() + strip_rows_ - 1) / strip_rows_;
  if (rows.stated_largest() > 0)
    TIFFSetField(tiff_.get(), TIFFTAG_MAXSAMPLEVALUE, static_cast<std::uint16_t>(rows.stated_largest()));
  constexpr int at_once = 32;
  const auto write = [&](const void* bytes, std::size_t size) {
    // The library takes what is not const, and does not change it.
    if (TIFFWriteRawStrip(tiff_.get(), next_strip_++, const_cast<void*>(bytes), static_cast<tmsize_t>(size)) < 0)
      throw failed();
  };
  const bool as_it_is =
      !options_.compress && rows.bands() == 1 && static_cast<std::size_t>(rows.stride<std::byte>()) == rows.row_bytes();
  for (int first = 0; first < strips; first += at_once) {
    const int count = std::min(at_once, strips - first);
    const auto rows_of = [&](int strip) {
      return std::min(strip_rows_, rows.height() - (first + strip) * strip_rows_);
    };
    if (as_it_is) {
      job.check();
      for (int i = 0; i < count; ++i)
        write(rows.bytes(0, (first + i) * strip_rows_), rows.row_bytes() * static_cast<std::size_t>(rows_of(i)));
    } else {
      std::vector<std::vector<std::byte>> made(static_cast<std::size_t>(count));
      parallel_for(count, {job.stop, {}}, [&](int i) {
        made[static_cast<std::size_t>(i)] = encoded(rows, (first + i) * strip_rows_, rows_of(i));
      });
      for (const auto& strip : made) write(strip.data(), strip.size());
    }
    // The disk begins with what it has, so that less is left for the end.
    ::sync_file_range(TIFFFileno(tiff_.get()), 0, 0, SYNC_FILE_RANGE_WRITE);
    if (job.progress) job.progress(static_cast<double>(first + count) / strips);
  }
}

void TiffWriter::end_page() {
  if (TIFFWriteDirectory(tiff_.get()) == 0) throw failed();
}

/// The Exif part stands in a directory of its own, which the first page points to.
/// The directories of what a camera says, before the first page: the library puts all else behind what is there.
void TiffWriter::place_camera() {
  const CameraTags tags = camera_tags(options_.attached.camera);
  const int descriptor = TIFFFileno(tiff_.get());
  const bool big = TIFFIsBigTIFF(tiff_.get()) != 0;
  const auto put = [&](const std::vector<TagEntry>& entries) -> std::uint64_t {
    if (entries.empty()) return 0;
    struct stat state {};
    if (::fstat(descriptor, &state) != 0) throw failed();
    const auto at = static_cast<std::uint64_t>(state.st_size + state.st_size % 2);
    const std::vector<unsigned char> bytes = directory_bytes(entries, at, big);
    for (std::size_t done = 0; done < bytes.size();) {
      const ssize_t put = ::pwrite(descriptor, bytes.data() + done, bytes.size() - done, static_cast<off_t>(at + done));
      if (put < 0 && errno == EINTR) continue;
      if (put <= 0) throw failed();
      done += static_cast<std::size_t>(put);
    }
    return at;
  };
  photo_at_ = put(tags.photo);
  place_at_ = put(tags.place);
}

void TiffWriter::finish() {
  hush_tiff();
  if (TIFFFlush(tiff_.get()) == 0 || !tiff_words().empty()) throw failed();
}

void tiff_write(SafeFile& file, const fs::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                const Job& job) {
  double total = 0;
  for (const Image& page : pages) total += static_cast<double>(page.row_bytes()) * page.height() * page.bands();
  TiffWriter writer(file, path, total, options);
  const auto count = static_cast<int>(pages.size());
  for (int index = 0; index < count; ++index) {
    const Image& page = pages[static_cast<std::size_t>(index)];
    writer.begin_page({page.width(), page.height()}, page.bands(), page.depth(), options.pixel_size, index, count);
    writer.append(page, job.part(static_cast<double>(index) / count, (index + 1.0) / count));
    writer.end_page();
  }
  writer.finish();
}

}  // namespace fexel::codec
