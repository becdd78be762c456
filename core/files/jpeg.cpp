#include <cstdio>
// The codec's header needs the one above.
#include <jerror.h>
#include <jpeglib.h>

#include "files/codec.h"
#include "files/metadata.h"

namespace fexel::codec {
namespace {

struct CloseFile {
  void operator()(std::FILE* file) const { std::fclose(file); }
};

/// libjpeg reports through callbacks that must not return; they throw, and the codec's state is freed by its owner.
struct Reports {
  jpeg_error_mgr base{};
  const fs::path* path = nullptr;
  bool damaged = false;

  explicit Reports(const fs::path& of) : path(&of) {
    jpeg_std_error(&base);
    base.error_exit = [](j_common_ptr codec) {
      char text[JMSG_LENGTH_MAX] = {};
      codec->err->format_message(codec, text);
      throw broken(*reinterpret_cast<Reports*>(codec->err)->path,
                   fmt::format("The JPEG cannot be used: {}.", static_cast<const char*>(text)));
    };
    base.emit_message = [](j_common_ptr codec, int level) {
      // Bytes between markers do no harm; any other warning means that pixels were made up.
      if (level < 0 && codec->err->msg_code != JWRN_EXTRANEOUS_DATA)
        reinterpret_cast<Reports*>(codec->err)->damaged = true;
    };
  }
};

class Reader {
 public:
  explicit Reader(const fs::path& path) : path_(path), file_(std::fopen(path.c_str(), "rb")), reports_(path_) {
    if (!file_) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
    codec_.err = &reports_.base;
    jpeg_create_decompress(&codec_);
    try {
      jpeg_stdio_src(&codec_, file_.get());
      jpeg_save_markers(&codec_, JPEG_APP0 + 2, 64);
      jpeg_read_header(&codec_, TRUE);
    } catch (...) {
      jpeg_destroy_decompress(&codec_);
      throw;
    }
  }
  ~Reader() { jpeg_destroy_decompress(&codec_); }
  Reader(const Reader&) = delete;
  Reader& operator=(const Reader&) = delete;

  FileInfo info() const {
    FileInfo out;
    out.format = "jpeg";
    out.width = static_cast<int>(codec_.image_width);
    out.height = static_cast<int>(codec_.image_height);
    out.bands = codec_.num_components;
    if (out.bands != 1 && out.bands != 3)
      throw input_error(fmt::format("The JPEG has {} inks; Fexel reads grey and RGB.", out.bands), path_.string(),
                        "Save it as RGB.");
    const CameraData camera = camera_data(path_);
    out.orientation = camera.orientation;
    out.pixel_size = camera.pixel_size;
    if (!out.pixel_size && codec_.saw_JFIF_marker != 0 && codec_.density_unit != 0) {
      const double per_metre = codec_.density_unit == 1 ? 1 / 0.0254 : 100;
      out.pixel_size = pixel_size_from_density(codec_.X_density * per_metre, codec_.Y_density * per_metre);
    }
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (marker->data_length >= 11 && std::memcmp(marker->data, "ICC_PROFILE", 11) == 0) out.profile = "embedded";
    return out;
  }
  jpeg_decompress_struct& codec() { return codec_; }
  bool damaged() const { return reports_.damaged; }

 private:
  fs::path path_;
  std::unique_ptr<std::FILE, CloseFile> file_;
  Reports reports_;
  jpeg_decompress_struct codec_{};
};

}  // namespace

FileInfo jpeg_info(const fs::path& path) {
  return Reader(path).info();
}

Image jpeg_read(const fs::path& path, const Limits& limits, const Job& job) {
  Reader reader(path);
  const FileInfo info = reader.info();
  check_size(path, info, limits);
  jpeg_decompress_struct& codec = reader.codec();
  codec.out_color_space = info.bands == 1 ? JCS_GRAYSCALE : JCS_RGB;
  codec.dct_method = JDCT_ISLOW;
  jpeg_start_decompress(&codec);
  Image image(info.width, info.height, info.bands, Depth::u8);
  const auto bands = static_cast<std::size_t>(info.bands);
  std::vector<JSAMPLE> line(static_cast<std::size_t>(info.width) * bands);
  for (int y = 0; y < info.height; ++y) {
    if (y % 64 == 0) {
      job.check();
      if (job.progress) job.progress(static_cast<double>(y) / info.height);
    }
    JSAMPROW row = line.data();
    jpeg_read_scanlines(&codec, &row, 1);
    for (int band = 0; band < info.bands; ++band) {
      auto* samples = image.row<std::uint8_t>(band, y);
      for (std::size_t x = 0; x < static_cast<std::size_t>(info.width); ++x)
        samples[x] = line[x * bands + static_cast<std::size_t>(band)];
    }
  }
  jpeg_finish_decompress(&codec);
  if (reader.damaged()) throw broken(path, "The JPEG is damaged or cut short.");
  return image;
}

void jpeg_write(SafeFile& file, const fs::path& path, const Image& image, const WriteOptions& options, const Job& job) {
  if (image.width() > JPEG_MAX_DIMENSION || image.height() > JPEG_MAX_DIMENSION)
    throw call_error(fmt::format("JPEG cannot hold {} x {} pixels.", image.width(), image.height()), path.string(),
                     fmt::format("Use TIFF, or at most {} pixels a side.", JPEG_MAX_DIMENSION));
  Reports reports(path);
  jpeg_compress_struct codec{};
  codec.err = &reports.base;
  struct Memory {
    jpeg_compress_struct* codec;
    unsigned char* bytes = nullptr;
    unsigned long size = 0;
    ~Memory() {
      jpeg_destroy_compress(codec);
      std::free(bytes);
    }
  } memory{&codec};
  jpeg_create_compress(&codec);
  jpeg_mem_dest(&codec, &memory.bytes, &memory.size);
  const auto bands = static_cast<std::size_t>(image.bands());
  codec.image_width = static_cast<JDIMENSION>(image.width());
  codec.image_height = static_cast<JDIMENSION>(image.height());
  codec.input_components = image.bands();
  codec.in_color_space = image.bands() == 1 ? JCS_GRAYSCALE : JCS_RGB;
  jpeg_set_defaults(&codec);
  jpeg_set_quality(&codec, options.quality, TRUE);
  // Colour at full resolution: what is measured may lie in a band.
  for (int i = 0; i < codec.num_components; ++i)
    codec.comp_info[i].h_samp_factor = codec.comp_info[i].v_samp_factor = 1;
  jpeg_start_compress(&codec, TRUE);
  std::vector<JSAMPLE> line(static_cast<std::size_t>(image.width()) * bands);
  for (int y = 0; y < image.height(); ++y) {
    if (y % 64 == 0) {
      job.check();
      if (job.progress) job.progress(static_cast<double>(y) / image.height());
    }
    for (int band = 0; band < image.bands(); ++band) {
      const auto* samples = image.row<std::uint8_t>(band, y);
      for (std::size_t x = 0; x < static_cast<std::size_t>(image.width()); ++x)
        line[x * bands + static_cast<std::size_t>(band)] = samples[x];
    }
    JSAMPROW row = line.data();
    jpeg_write_scanlines(&codec, &row, 1);
  }
  jpeg_finish_compress(&codec);
  if (options.pixel_size || !(options.attached == Attached{})) {
    const std::vector<unsigned char> whole =
        with_metadata({memory.bytes, memory.size}, options.pixel_size, options.attached);
    file.write(whole.data(), whole.size());
  } else {
    file.write(memory.bytes, memory.size);
  }
}

}  // namespace fexel::codec
