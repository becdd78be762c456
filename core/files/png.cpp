#include <libdeflate.h>
#include <png.h>

#include <algorithm>
#include <bit>
#include <cctype>
#include <charconv>
#include <cstdio>
#include <fstream>
#include <span>

#include "files/codec.h"
#include "files/decoders/decoders.h"
#include "files/metadata.h"

namespace fexel::codec {
namespace {

struct CloseFile {
  void operator()(std::FILE* file) const { std::fclose(file); }
};
using FilePointer = std::unique_ptr<std::FILE, CloseFile>;

/// libpng reports through a callback that must not return; it throws, and the codec's state is freed by its owner.
[[noreturn]] void raise_png(png_structp png, png_const_charp message) {
  throw broken(*static_cast<const fs::path*>(png_get_error_ptr(png)),
               fmt::format("The PNG cannot be used: {}.", message));
}
void ignore_png(png_structp, png_const_charp) {}

constexpr png_alloc_size_t max_beside = 16 << 20;  // bytes of a chunk that is not the picture

class Reader {
 public:
  explicit Reader(const fs::path& path) : path_(path), file_(std::fopen(path.c_str(), "rb")) {
    if (!file_) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
    png_ = png_create_read_struct(PNG_LIBPNG_VER_STRING, &path_, raise_png, ignore_png);
    info_ = png_create_info_struct(png_);
    png_set_user_limits(png_, 0x7fffffff, 0x7fffffff);
    png_set_crc_action(png_, PNG_CRC_ERROR_QUIT, PNG_CRC_DEFAULT);
    // Text is not read, and nothing beside the picture may grow without bounds.
    png_set_keep_unknown_chunks(png_, PNG_HANDLE_CHUNK_NEVER,
                                reinterpret_cast<png_const_bytep>("tEXt\0zTXt\0iTXt\0sPLT\0iCCP"), 5);
    png_set_chunk_malloc_max(png_, max_beside);
    try {
      png_init_io(png_, file_.get());
      png_read_info(png_, info_);
    } catch (...) {
      png_destroy_read_struct(&png_, &info_, nullptr);
      throw;
    }
  }
  ~Reader() { png_destroy_read_struct(&png_, &info_, nullptr); }
  Reader(const Reader&) = delete;
  Reader& operator=(const Reader&) = delete;

  FileInfo info() const {
    FileInfo out;
    out.format = "png";
    out.width = static_cast<int>(png_get_image_width(png_, info_));
    out.height = static_cast<int>(png_get_image_height(png_, info_));
    out.depth = png_get_bit_depth(png_, info_) == 16 ? Depth::u16 : Depth::u8;
    const int colour = png_get_color_type(png_, info_);
    const bool transparent = png_get_valid(png_, info_, PNG_INFO_tRNS) != 0;
    out.alpha = transparent || (colour & PNG_COLOR_MASK_ALPHA) != 0;
    out.bands = (colour & PNG_COLOR_MASK_COLOR) != 0 ? 3 : 1;
    png_uint_32 x = 0, y = 0;
    int unit = 0;
    if (png_get_pHYs(png_, info_, &x, &y, &unit) != 0 && unit == PNG_RESOLUTION_METER)
      out.density = pixel_size_from_density(x, y);
    // The scale of what is shown, as against that of the print.
    png_charp wide = nullptr, high = nullptr;
    if (png_get_sCAL_s(png_, info_, &unit, &wide, &high) != 0 && unit == PNG_SCALE_METER) {
      const double x = number_in(wide).value_or(0), y = number_in(high).value_or(0);
      if (std::isfinite(x) && std::isfinite(y) && x > 0 && y > 0) out.pixel_size = in_unit({x, y, "m"}, "mm");
    }
    return out;
  }
  png_structp png() { return png_; }
  png_infop info_pointer() { return info_; }

 private:
  fs::path path_;
  FilePointer file_;
  png_structp png_ = nullptr;
  png_infop info_ = nullptr;
};

struct Target {
  SafeFile* file;
  fs::path path;
};
void write_png(png_structp png, png_bytep data, png_size_t size) {
  static_cast<Target*>(png_get_io_ptr(png))->file->write(data, size);
}
[[noreturn]] void raise_write(png_structp png, png_const_charp message) {
  throw input_error(fmt::format("The PNG could not be written: {}.", message),
                    static_cast<Target*>(png_get_error_ptr(png))->path.string(), "Write TIFF instead.");
}

constexpr double max_at_once = 512.0 * 1024 * 1024;
constexpr std::size_t piece_bytes = 1 << 20;
constexpr int fast = 1;  // the compressor's level

/// The rows as the format stores them: highest byte first, and each byte less the one a pixel before it (filter "Sub").
/// Portable Network Graphics, Third Edition (2025), section "Filtering".
std::vector<std::uint8_t> filtered(const Image& image, const Job& job) {
  const auto bands = static_cast<std::size_t>(image.bands());
  const std::size_t pixel = bands * bytes_of(image.depth()), line = image.row_bytes() * bands;
  std::vector<std::uint8_t> out((line + 1) * static_cast<std::size_t>(image.height()));
  parallel_for((image.height() + 63) / 64, {job.stop, {}}, [&](int index) {
    for (int y = 64 * index; y < std::min(64 * index + 64, image.height()); ++y) {
      std::uint8_t* row = out.data() + static_cast<std::size_t>(y) * (line + 1);
      *row++ = PNG_FILTER_VALUE_SUB;
      weave(image, y, reinterpret_cast<std::byte*>(row));
      if (image.depth() == Depth::u16 && std::endian::native == std::endian::little)
        for (std::size_t i = 0; i < line; i += 2) std::swap(row[i], row[i + 1]);
      for (std::size_t i = line; i-- > pixel;) row[i] = static_cast<std::uint8_t>(row[i] - row[i - pixel]);
    }
  });
  return out;
}

/// Compressed as a whole, which is several times faster.
void write_at_once(png_structp png, const Image& image, const Job& job) {
  const std::vector<std::uint8_t> rows = filtered(image, job);
  if (job.progress) job.progress(0.2);
  const std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> compressor(
      libdeflate_alloc_compressor(fast), libdeflate_free_compressor);
  std::vector<std::uint8_t> bytes(libdeflate_zlib_compress_bound(compressor.get(), rows.size()));
  bytes.resize(libdeflate_zlib_compress(compressor.get(), rows.data(), rows.size(), bytes.data(), bytes.size()));
  job.check();
  for (std::size_t at = 0; at < bytes.size(); at += piece_bytes)
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("IDAT"), bytes.data() + at,
                    std::min(piece_bytes, bytes.size() - at));
  png_write_chunk(png, reinterpret_cast<png_const_bytep>("IEND"), nullptr, 0);
}

void write_by_rows(png_structp png, const Image& image, const Job& job) {
  if (image.depth() == Depth::u16 && std::endian::native == std::endian::little) png_set_swap(png);
  std::vector<std::byte> line(image.row_bytes() * static_cast<std::size_t>(image.bands()));
  for (int y = 0; y < image.height(); ++y) {
    if (y % 16 == 0) job.check();
    weave(image, y, line.data());
    png_write_row(png, reinterpret_cast<png_const_bytep>(line.data()));
    if (job.progress && y % 64 == 0) job.progress(static_cast<double>(y) / image.height());
  }
  png_write_end(png, nullptr);
}

}  // namespace

FileInfo png_info(const fs::path& path, const Limits& limits) {
  FileInfo info = Reader(path).info();
  const Stored stored = png_attached(path);
  if (!stored.profile.empty()) info.profile = "embedded";
  if (stored.largest > 0 && stored.largest < top_of(info.depth)) info.largest = stored.largest;
  const CameraData camera = camera_data(stored.exif);
  const auto scale = info.pixel_size;
  take_density(info, info.density, camera.photo, camera.scan || stored.software == own_name);
  // Whole pixels a metre tell large pixels only roughly.
  if (scale) {
    info.pixel_size = scale;
    info.density.reset();
  }
  settle_alpha(info, limits);
  return info;
}

namespace {

/// What a chunk holds compressed, if it is at most so long.
std::vector<unsigned char> inflated(std::span<const unsigned char> bytes, std::size_t most) {
  const std::unique_ptr<libdeflate_decompressor, void (*)(libdeflate_decompressor*)> decompressor(
      libdeflate_alloc_decompressor(), libdeflate_free_decompressor);
  // How long it is does not stand anywhere.
  for (std::size_t size = std::max<std::size_t>(1 << 14, 4 * bytes.size()); size <= most; size *= 4) {
    std::vector<unsigned char> out(size);
    std::size_t made = 0;
    const auto result =
        libdeflate_zlib_decompress(decompressor.get(), bytes.data(), bytes.size(), out.data(), out.size(), &made);
    if (result == LIBDEFLATE_INSUFFICIENT_SPACE) continue;
    if (result != LIBDEFLATE_SUCCESS) return {};
    out.resize(made);
    return out;
  }
  return {};
}

/// A block in hexadecimal behind its name and length, as many programs keep Exif in text.
std::vector<unsigned char> from_hexadecimal(const std::vector<unsigned char>& text) {
  int line = 0;
  std::vector<unsigned char> out;
  int high = -1;
  for (const unsigned char c : text) {
    if (c == '\n' && line < 3) ++line;
    if (line < 3 || std::isxdigit(c) == 0) continue;
    const int digit = std::isdigit(c) != 0 ? c - '0' : std::tolower(c) - 'a' + 10;
    if (high >= 0) out.push_back(static_cast<unsigned char>(16 * high + digit));
    high = high >= 0 ? -1 : digit;
  }
  constexpr unsigned char head[] = {'E', 'x', 'i', 'f', 0, 0};
  if (out.size() > 6 && std::equal(std::begin(head), std::end(head), out.begin()))
    out.erase(out.begin(), out.begin() + 6);
  return out;
}

}  // namespace

/// Chunks are gone through by hand: the library refuses some valid profiles, and unpacks all text.
Stored png_attached(const fs::path& path) {
  constexpr std::size_t max_packed = 8 << 20, max_text = 512 << 10;
  Stored out;
  std::ifstream in(path, std::ios::binary);
  in.seekg(8);
  for (unsigned char head[8]; in.read(reinterpret_cast<char*>(head), 8);) {
    const std::size_t length =
        std::size_t{head[0]} << 24 | std::size_t{head[1]} << 16 | std::size_t{head[2]} << 8 | head[3];
    const std::string_view type(reinterpret_cast<const char*>(head + 4), 4);
    if (type == "IDAT" || type == "IEND") break;
    const bool wanted = type == "iCCP" || type == "eXIf" || type == "zTXt" || type == "tEXt" || type == "iTXt";
    if (!wanted || length > max_packed || ((type == "tEXt" || type == "zTXt") && length > max_text)) {
      in.seekg(static_cast<std::streamoff>(length) + 4, std::ios::cur);
      continue;
    }
    std::vector<unsigned char> bytes(length);
    if (!in.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(length))) break;
    in.seekg(4, std::ios::cur);
    const auto end = std::find(bytes.begin(), bytes.end(), 0);
    const std::string keyword(bytes.begin(), end);
    const auto behind = [&](std::ptrdiff_t skipped) {
      const auto at = static_cast<std::size_t>(end - bytes.begin() + skipped);
      return at < bytes.size() ? std::span<const unsigned char>(bytes).subspan(at) : std::span<const unsigned char>();
    };
    if (type == "tEXt" && keyword == "Software") {
      const auto text = behind(1);
      out.software.assign(text.begin(), text.end());
    }
    if (type == "tEXt" && keyword == largest_keyword) {
      const auto text = behind(1);
      const char* begin = reinterpret_cast<const char*>(text.data());
      std::from_chars(begin, begin + text.size(), out.largest);
    }
    if (type == "eXIf") out.exif = bytes;
    if (type == "iCCP") out.profile = inflated(behind(2), 2 * max_packed);
    if (type == "tEXt" && keyword == "Comment") {
      const auto text = behind(1);
      out.comment.assign(text.begin(), text.end());
    }
    // Behind the keyword: whether it is compressed, how, the language, the keyword in it, and the text.
    if (type == "iTXt" && (keyword == "XML:com.adobe.xmp" || keyword == "Comment")) {
      const auto rest = behind(1);
      std::size_t at = 2;
      for (int ends = 0; ends < 2 && at < rest.size(); ++at) ends += rest[at] == 0;
      const auto body = rest.subspan(std::min(at, rest.size()));
      std::vector<unsigned char> text(body.begin(), body.end());
      if (!rest.empty() && rest[0] == 1) text = inflated(body, max_packed);
      if (keyword == "Comment")
        out.comment.assign(text.begin(), text.end());
      else
        out.xmp = std::move(text);
    }
    if (type == "zTXt" && keyword == "Raw profile type iptc")
      out.iptc = iptc_in(from_hexadecimal(inflated(behind(2), max_text)));
    const bool exif = keyword == "Raw profile type exif" || keyword == "Raw profile type APP1";
    if (type == "zTXt" && exif && out.exif.empty()) out.exif = from_hexadecimal(inflated(behind(2), max_text));
    if (type == "tEXt" && exif && out.exif.empty()) {
      const auto text = behind(1);
      out.exif = from_hexadecimal({text.begin(), text.end()});
    }
  }
  return out;
}

Image png_read(const fs::path& path, const Limits& limits, const Job& job) {
  Reader reader(path);
  const FileInfo info = reader.info();
  check_size(path, info, limits);
  png_structp png = reader.png();
  png_set_expand(png);
  if (info.depth == Depth::u16 && std::endian::native == std::endian::little) png_set_swap(png);
  const int passes = png_set_interlace_handling(png);
  png_read_update_info(png, reader.info_pointer());
  const std::size_t line = png_get_rowbytes(png, reader.info_pointer());
  const int stored = info.bands + (info.alpha ? 1 : 0);
  // Deflate makes at most 1032 bytes of one, and rows of no difference of almost none: a header that says more than the
  // file can hold is not followed into memory.
  std::error_code code;
  const auto there = fs::file_size(path, code);
  if (!code && static_cast<double>(line) * info.height > 1040.0 * static_cast<double>(there))
    throw broken(path, "The file is too short for the picture that its header says.");
  if (line != static_cast<std::size_t>(info.width) * static_cast<std::size_t>(stored) * bytes_of(info.depth))
    throw unsupported(path, "The PNG stores its samples in a way that Fexel does not read.");
  Image image(info.width, info.height, stored, info.depth, Image::Start::unset);
  image.set_largest(png_attached(path).largest);
  // An interlaced picture comes in passes, each of which needs the rows of the one before.
  std::vector<std::byte> rows(line * (passes > 1 ? static_cast<std::size_t>(info.height) : 1));
  for (int pass = 0; pass < passes; ++pass)
    for (int y = 0; y < info.height; ++y) {
      if (y % 64 == 0) job.check();
      std::byte* at = rows.data() + (passes > 1 ? line * static_cast<std::size_t>(y) : 0);
      png_read_row(png, reinterpret_cast<png_bytep>(at), nullptr);
      if (pass + 1 == passes) unweave(at, stored, 0, 0, y, info.width, image);
      if (job.progress && pass + 1 == passes && y % 64 == 0) job.progress(static_cast<double>(y) / info.height);
    }
  png_read_end(png, nullptr);
  settle_alpha(image, info, limits, top_of(info.depth));
  return image;
}

void png_write(SafeFile& file, const fs::path& path, const Image& image, const WriteOptions& options, const Job& job) {
  Target target{&file, path};
  png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, &target, raise_write, ignore_png);
  png_infop info = png_create_info_struct(png);
  struct Guard {
    png_structp* png;
    png_infop* info;
    ~Guard() { png_destroy_write_struct(png, info); }
  } const guard{&png, &info};
  png_set_write_fn(png, &target, write_png, [](png_structp) {});
  constexpr int colours[] = {PNG_COLOR_TYPE_GRAY, PNG_COLOR_TYPE_GRAY_ALPHA, PNG_COLOR_TYPE_RGB,
                             PNG_COLOR_TYPE_RGB_ALPHA};
  png_set_compression_level(png, 1);
  png_set_filter(png, 0, PNG_FILTER_SUB);
  png_set_IHDR(png, info, static_cast<png_uint_32>(image.width()), static_cast<png_uint_32>(image.height()),
               image.depth() == Depth::u16 ? 16 : 8, colours[image.bands() - 1], PNG_INTERLACE_NONE,
               PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
  if (options.pixel_size) {
    const PixelSize metre = in_unit(*options.pixel_size, "m");
    const double x = std::round(1 / metre.x);
    const double y = std::round(1 / metre.y);
    if (x >= 1 && y >= 1 && x < 4e9 && y < 4e9)
      png_set_pHYs(png, info, static_cast<png_uint_32>(x), static_cast<png_uint_32>(y), PNG_RESOLUTION_METER);
  }
  if (options.pixel_size) {
    const PixelSize metre = in_unit(*options.pixel_size, "m");
    png_set_sCAL_s(png, info, PNG_SCALE_METER, fmt::format("{:.12g}", metre.x).c_str(),
                   fmt::format("{:.12g}", metre.y).c_str());
  }
  Attached attached = options.attached;
  if (!attached.camera.empty())
    png_set_eXIf_1(png, info, static_cast<png_uint_32>(attached.camera.size()), attached.camera.data());
  png_write_info(png, info);
  const auto say = [png](std::string_view keyword, std::string_view value) {
    std::string text(keyword);
    text += '\0';
    text += value;
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("tEXt"), reinterpret_cast<png_const_bytep>(text.data()),
                    text.size());
  };
  say("Software", own_name);
  if (image.stated_largest() > 0) say(largest_keyword, std::to_string(image.stated_largest()));
  if (!attached.xmp.empty()) {
    constexpr std::string_view head("XML:com.adobe.xmp\0\0\0\0\0", 22);
    std::vector<std::uint8_t> bytes(head.begin(), head.end());
    bytes.insert(bytes.end(), attached.xmp.begin(), attached.xmp.end());
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("iTXt"), bytes.data(), bytes.size());
  }
  if (!attached.comment.empty()) {
    // In UTF-8, which text of the older kind is not.
    std::string text("Comment\0\0\0\0\0", 12);
    text += attached.comment;
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("iTXt"), reinterpret_cast<png_const_bytep>(text.data()),
                    text.size());
  }
  const auto pack = [](std::string_view head, std::span<const unsigned char> what) {
    const std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> compressor(
        libdeflate_alloc_compressor(6), libdeflate_free_compressor);
    std::vector<std::uint8_t> bytes(head.size() + libdeflate_zlib_compress_bound(compressor.get(), what.size()));
    std::copy(head.begin(), head.end(), bytes.begin());
    bytes.resize(head.size() + libdeflate_zlib_compress(compressor.get(), what.data(), what.size(),
                                                        bytes.data() + head.size(), bytes.size() - head.size()));
    return bytes;
  };
  if (!attached.iptc.empty()) {
    // As text of hexadecimal digits, the way most programs read it.
    const std::vector<unsigned char> resource = resource_of(attached.iptc);
    std::string text = fmt::format("\niptc\n{:8}\n", resource.size());
    for (std::size_t i = 0; i < resource.size(); ++i)
      text += fmt::format("{:02x}{}", resource[i], i % 36 == 35 ? "\n" : "");
    text += '\n';
    const auto bytes = pack(std::string_view("Raw profile type iptc\0\0", 23),
                            {reinterpret_cast<const unsigned char*>(text.data()), text.size()});
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("zTXt"), bytes.data(), bytes.size());
  }
  // By hand: the library refuses some valid profiles.
  if (!attached.profile.empty()) {
    const auto bytes = pack(std::string_view("profile\0\0", 9), attached.profile);
    png_write_chunk(png, reinterpret_cast<png_const_bytep>("iCCP"), bytes.data(), bytes.size());
  }
  if (static_cast<double>(image.row_bytes()) * image.height() * image.bands() < max_at_once)
    write_at_once(png, image, job);
  else
    write_by_rows(png, image, job);
}

}  // namespace fexel::codec
