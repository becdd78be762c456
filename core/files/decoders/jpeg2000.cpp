#include <openjpeg.h>

#include <fstream>

#include "files/decoders/decoders.h"

namespace fexel::codec {
namespace {

struct FreeCodec {
  void operator()(opj_codec_t* codec) const { ::opj_destroy_codec(codec); }
};
struct FreeStream {
  void operator()(opj_stream_t* stream) const { ::opj_stream_destroy(stream); }
};
struct FreeImage {
  void operator()(opj_image_t* image) const { ::opj_image_destroy(image); }
};

/// What the boxes before the codestream say (ISO/IEC 15444-1, annex I).
struct Boxes {
  bool is_file = false, palette = false, luma = false;
  std::vector<int> alpha;   // components that are opacity
  bool associated = false;  // by which the others are multiplied
  std::optional<PixelSize> density;
};

std::uint32_t big(const std::vector<std::uint8_t>& bytes, std::size_t at, int count) {
  std::uint32_t out = 0;
  for (int i = 0; i < count; ++i)
    out = out << 8 | (at + static_cast<std::size_t>(i) < bytes.size() ? bytes[at + static_cast<std::size_t>(i)] : 0U);
  return out;
}

void read_boxes(const std::vector<std::uint8_t>& bytes, std::size_t at, std::size_t end, Boxes& out) {
  while (at + 8 <= end) {
    std::size_t length = big(bytes, at, 4), head = 8;
    const std::string name(bytes.begin() + static_cast<std::ptrdiff_t>(at) + 4,
                           bytes.begin() + static_cast<std::ptrdiff_t>(at) + 8);
    if (length == 1 && at + 16 <= end) {
      length = big(bytes, at + 12, 4);
      head = 16;
    }
    if (name == "jp2c" || length < head) return;
    const std::size_t stop = std::min(end, at + length), body = at + head;
    if (name == "jp2h" || name == "res ") read_boxes(bytes, body, stop, out);
    if (name == "pclr") out.palette = true;
    if (name == "colr" && big(bytes, body, 1) == 1 && big(bytes, body + 3, 4) == 18) out.luma = true;
    if (name == "cdef") {
      const std::uint32_t count = std::min(big(bytes, body, 2), 4096U);
      for (std::size_t i = 0; i < count; ++i)
        if (const auto kind = big(bytes, body + 4 + 6 * i, 2); kind == 1 || kind == 2) {
          out.associated = kind == 2;
          out.alpha.push_back(static_cast<int>(big(bytes, body + 2 + 6 * i, 2)));
        }
    }
    if (name == "resc" || (name == "resd" && !out.density)) {
      const auto axis = [&](std::size_t up, std::size_t exponent) {
        const double below = big(bytes, body + up + 2, 2);
        return below > 0 ? big(bytes, body + up, 2) / below *
                               std::pow(10.0, static_cast<std::int8_t>(big(bytes, body + exponent, 1)))
                         : 0;
      };
      out.density = pixel_size_from_density(axis(4, 9), axis(0, 8));
    }
    at = stop;
  }
}

Boxes boxes_of(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  std::vector<std::uint8_t> bytes(std::size_t{1} << 20);
  in.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
  bytes.resize(static_cast<std::size_t>(in.gcount()));
  Boxes out;
  out.is_file = big(bytes, 4, 4) == 0x6a502020;
  if (out.is_file) read_boxes(bytes, 0, bytes.size(), out);
  return out;
}

class Reader {
 public:
  explicit Reader(const fs::path& path) : path_(path), boxes_(boxes_of(path)) {
    codec_.reset(::opj_create_decompress(boxes_.is_file ? OPJ_CODEC_JP2 : OPJ_CODEC_J2K));
    stream_.reset(::opj_stream_create_default_file_stream(path.c_str(), OPJ_TRUE));
    if (!codec_ || !stream_) throw broken(path, "The JPEG 2000 file cannot be opened.");
    for (const auto set : {::opj_set_error_handler, ::opj_set_warning_handler, ::opj_set_info_handler})
      set(
          codec_.get(), [](const char*, void*) {}, nullptr);
    opj_dparameters_t how;
    ::opj_set_default_decoder_parameters(&how);
    opj_image_t* image = nullptr;
    if (!::opj_setup_decoder(codec_.get(), &how) || !::opj_decoder_set_strict_mode(codec_.get(), OPJ_TRUE) ||
        !::opj_read_header(stream_.get(), codec_.get(), &image) || !image)
      throw broken(path, "The JPEG 2000 file cannot be read: its header is not whole.");
    image_.reset(image);
  }

  FileInfo info() const {
    FileInfo out;
    out.format = "jpeg2000";
    if (boxes_.palette)
      throw unsupported(path_, "The JPEG 2000 file stores its colours as a palette, which Fexel does not read.");
    const opj_image_t& image = *image_;
    if (image.numcomps < 1 || image.numcomps > 4096) throw broken(path_, "The JPEG 2000 file has no bands.");
    const opj_image_comp_t& first = image.comps[0];
    for (OPJ_UINT32 i = 1; i < image.numcomps; ++i) {
      const opj_image_comp_t& other = image.comps[i];
      if (other.dx != first.dx || other.dy != first.dy)
        throw unsupported(path_, "The JPEG 2000 file has bands of different resolution, which Fexel does not read.");
      if (other.prec != first.prec || other.sgnd != first.sgnd)
        throw unsupported(path_, "The JPEG 2000 file has bands of different depths, which Fexel does not read.");
    }
    if (first.dx != 1 || first.dy != 1 || first.prec < 1 || first.prec > 31)
      throw unsupported(path_, "The JPEG 2000 file stores its samples in a way that Fexel does not read.");
    out.width = static_cast<int>(std::min<std::int64_t>(std::int64_t{image.x1} - image.x0, 0x7fffffff));
    out.height = static_cast<int>(std::min<std::int64_t>(std::int64_t{image.y1} - image.y0, 0x7fffffff));
    out.bands = static_cast<int>(image.numcomps);
    if (first.sgnd == 0 && first.prec <= 16) {
      settle_bits(out, static_cast<int>(first.prec));
    } else {
      out.depth = Depth::f32;
      out.readings.push_back(fmt::format("Its {}-bit samples{} are read as 32-bit floating-point ones{}.", first.prec,
                                         first.sgnd != 0 ? " with a sign" : "",
                                         first.prec <= 24 ? ", unchanged" : "; large numbers are rounded"));
    }
    out.alpha = out.bands > 1 && boxes_.alpha.size() == 1 && boxes_.alpha.front() == out.bands - 1;
    out.associated = out.alpha && boxes_.associated;
    if (out.alpha) --out.bands;
    if (luma(out)) out.readings.emplace_back("Its colours are stored as YCbCr; they are read as red, green and blue.");
    out.density = boxes_.density;
    if (image.icc_profile_len > 0) out.profile = "embedded";
    return out;
  }
  bool luma(const FileInfo& info) const { return boxes_.luma && info.bands == 3 && info.depth != Depth::f32; }

  Stored attached() const {
    Stored out;
    if (image_->icc_profile_len > 0)
      out.profile.assign(image_->icc_profile_buf, image_->icc_profile_buf + image_->icc_profile_len);
    return out;
  }

  Image read(const FileInfo& info, const Job& job) {
    ::opj_codec_set_threads(codec_.get(), 2);
    if (!::opj_decode(codec_.get(), stream_.get(), image_.get()) || !::opj_end_decompress(codec_.get(), stream_.get()))
      throw broken(path_, "The JPEG 2000 file cannot be read: its samples are not whole.");
    const int stored = info.bands + (info.alpha ? 1 : 0);
    Image out(info.width, info.height, stored, info.depth, Image::Start::unset);
    out.set_largest(info.largest);
    for (int band = 0; band < stored; ++band) {
      const opj_image_comp_t& from = image_->comps[band];
      if (!from.data || static_cast<int>(from.w) != info.width || static_cast<int>(from.h) != info.height)
        throw broken(path_, "The JPEG 2000 file does not hold all of its samples.");
      visit_depth(info.depth, [&](auto kind) {
        using T = decltype(kind);
        for (int y = 0; y < info.height; ++y) {
          if (y % 64 == 0) job.check();
          const OPJ_INT32* row = from.data + static_cast<std::size_t>(y) * from.w;
          T* to = out.row<T>(band, y);
          for (int x = 0; x < info.width; ++x)
            to[x] = std::is_floating_point_v<T>
                        ? static_cast<T>(row[x])
                        : static_cast<T>(std::clamp(row[x], 0, static_cast<int>(out.largest())));
        }
      });
    }
    if (luma(info)) to_rgb(out);
    return out;
  }

 private:
  /// ITU-R BT.601 over the full range, as sYCC has it (IEC 61966-2-1, amendment 1).
  static void to_rgb(Image& image) {
    const double top = image.largest(), middle = std::floor(top / 2) + 1;
    visit_depth(image.depth(), [&](auto kind) {
      using T = decltype(kind);
      for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x) {
          const double l = static_cast<double>(image.row<T>(0, y)[x]),
                       b = static_cast<double>(image.row<T>(1, y)[x]) - middle,
                       r = static_cast<double>(image.row<T>(2, y)[x]) - middle;
          const double colours[] = {l + 1.402 * r, l - 0.344136 * b - 0.714136 * r, l + 1.772 * b};
          for (int band = 0; band < 3; ++band)
            image.row<T>(band, y)[x] = static_cast<T>(std::clamp(std::round(colours[band]), 0.0, top));
        }
    });
  }

  fs::path path_;
  Boxes boxes_;
  std::unique_ptr<opj_codec_t, FreeCodec> codec_;
  std::unique_ptr<opj_stream_t, FreeStream> stream_;
  std::unique_ptr<opj_image_t, FreeImage> image_;
};

}  // namespace

FileInfo jpeg2000_info(const fs::path& path, const Limits& limits, int page) {
  check_page(path, page, 1);
  FileInfo info = Reader(path).info();
  settle_alpha(info, limits);
  return info;
}

Image jpeg2000_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  check_page(path, page, 1);
  Reader reader(path);
  const FileInfo info = reader.info();
  check_size(path, info, limits);
  // The smallest codestreams of empty pictures have some ten thousand pixels a byte.
  std::error_code code;
  if (const auto there = fs::file_size(path, code);
      !code && static_cast<double>(info.width) * info.height * info.bands > 1e5 * static_cast<double>(there))
    throw broken(path, "The file is too short for the picture that its header says.");
  Image image = reader.read(info, job);
  settle_alpha(image, info, limits, image.largest());
  return image;
}

Stored jpeg2000_attached(const fs::path& path) {
  return Reader(path).attached();
}

std::string jpeg2000_library() {
  return fmt::format("openjpeg {}", ::opj_version());
}

}  // namespace fexel::codec
