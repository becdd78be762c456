#include <cstdio>
// The codec's header needs the one above.
#include <jerror.h>
#include <jpeglib.h>

#include <cstring>
#include <map>

#include "files/codec.h"
#include "files/colour.h"
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

  explicit Reports(const fs::path& of) : path(&of) {
    jpeg_std_error(&base);
    base.error_exit = [](j_common_ptr codec) {
      char text[JMSG_LENGTH_MAX] = {};
      codec->err->format_message(codec, text);
      throw broken(*reinterpret_cast<Reports*>(codec->err)->path,
                   fmt::format("The JPEG cannot be used: {}.", static_cast<const char*>(text)));
    };
    base.emit_message = [](j_common_ptr codec, int level) {
      // Bytes between markers do no harm; any other warning means that pixels are made up from there on.
      if (level < 0 && codec->err->msg_code != JWRN_EXTRANEOUS_DATA)
        throw broken(*reinterpret_cast<Reports*>(codec->err)->path, "The JPEG is damaged or cut short.");
    };
  }
};

/// Where the codec puts its bytes.
struct InMemory {
  jpeg_destination_mgr base{};
  std::vector<unsigned char> bytes, block = std::vector<unsigned char>(1 << 16);

  InMemory() {
    base.init_destination = [](j_compress_ptr codec) { of(codec).begin(); };
    base.empty_output_buffer = [](j_compress_ptr codec) -> boolean {
      of(codec).take(of(codec).block.size());
      return TRUE;
    };
    base.term_destination = [](j_compress_ptr codec) {
      of(codec).take(of(codec).block.size() - of(codec).base.free_in_buffer);
    };
  }

 private:
  static InMemory& of(j_compress_ptr codec) { return *reinterpret_cast<InMemory*>(codec->dest); }
  void begin() {
    base.next_output_byte = block.data();
    base.free_in_buffer = block.size();
  }
  void take(std::size_t count) {
    bytes.insert(bytes.end(), block.begin(), block.begin() + static_cast<std::ptrdiff_t>(count));
    begin();
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
      for (const int kind : {1, 2, 13}) jpeg_save_markers(&codec_, JPEG_APP0 + kind, 0xffff);
      jpeg_save_markers(&codec_, JPEG_COM, 0xffff);
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
    if (out.bands == 4 && convertible(colours(), profile())) {
      out.bands = 3;
      out.converted = name_of(colours());
    }
    if (out.bands == 4)
      throw input_error("The JPEG has inks (CMYK), without a profile that says how they look.", path_.string(),
                        "Save it as RGB.");
    if (out.bands != 1 && out.bands != 3)
      throw input_error(fmt::format("The JPEG has {} bands; Fexel reads grey, RGB and CMYK.", out.bands),
                        path_.string(), "Save it as RGB.");
    const CameraData camera = camera_data(exif());
    out.orientation = camera.orientation;
    auto density = camera.density;
    if (!density && codec_.saw_JFIF_marker != 0 && codec_.density_unit != 0) {
      const double per_metre = codec_.density_unit == 1 ? 1 / 0.0254 : 100;
      density = pixel_size_from_density(codec_.X_density * per_metre, codec_.Y_density * per_metre);
    }
    take_density(out, density, camera.photo, camera.scan || camera.software == own_name);
    if (!profile().empty() && out.converted.empty()) out.profile = "embedded";
    return out;
  }
  /// Four bands are inks; programs that leave their mark store how much of each is missing.
  Colours colours() const {
    if (codec_.num_components != 4) return Colours::plain;
    return codec_.saw_Adobe_marker != 0 ? Colours::cmyk_inverted : Colours::cmyk;
  }
  /// The Exif block, without what tells it apart.
  std::vector<unsigned char> exif() const {
    constexpr std::string_view head("Exif\0\0", 6);
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (begins(*marker, JPEG_APP0 + 1, head)) return {marker->data + head.size(), marker->data + marker->data_length};
    return {};
  }
  std::vector<unsigned char> xmp() const {
    constexpr std::string_view head("http://ns.adobe.com/xap/1.0/\0", 29);
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (begins(*marker, JPEG_APP0 + 1, head)) return {marker->data + head.size(), marker->data + marker->data_length};
    return {};
  }
  bool more_xmp() const {
    constexpr std::string_view head("http://ns.adobe.com/xmp/extension/\0", 35);
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (begins(*marker, JPEG_APP0 + 1, head)) return true;
    return false;
  }
  /// The resources in which IPTC stands.
  std::vector<unsigned char> resources() const {
    constexpr std::string_view head("Photoshop 3.0\0", 14);
    std::vector<unsigned char> whole;
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (begins(*marker, JPEG_APP0 + 13, head))
        whole.insert(whole.end(), marker->data + head.size(), marker->data + marker->data_length);
    return whole;
  }
  std::string comment() const {
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (marker->marker == JPEG_COM) return {marker->data, marker->data + marker->data_length};
    return {};
  }
  /// The ICC profile, whose parts say their number and how many there are (ICC.1:2022, annex B.4).
  std::vector<unsigned char> profile() const {
    constexpr std::string_view head("ICC_PROFILE\0", 12);
    std::map<int, std::vector<unsigned char>> parts;
    for (auto* marker = codec_.marker_list; marker != nullptr; marker = marker->next)
      if (begins(*marker, JPEG_APP0 + 2, head) && marker->data_length > head.size() + 2)
        parts[marker->data[head.size()]] = {marker->data + head.size() + 2, marker->data + marker->data_length};
    std::vector<unsigned char> whole;
    for (const auto& [number, part] : parts) whole.insert(whole.end(), part.begin(), part.end());
    return whole;
  }
  jpeg_decompress_struct& codec() { return codec_; }

 private:
  static bool begins(const jpeg_marker_struct& marker, int kind, std::string_view head) {
    return marker.marker == kind && marker.data_length >= head.size() &&
           std::memcmp(marker.data, head.data(), head.size()) == 0;
  }

  fs::path path_;
  std::unique_ptr<std::FILE, CloseFile> file_;
  Reports reports_;
  jpeg_decompress_struct codec_{};
};

}  // namespace

FileInfo jpeg_info(const fs::path& path) {
  return Reader(path).info();
}

Stored jpeg_attached(const fs::path& path) {
  const Reader reader(path);
  Stored out{reader.profile(), reader.exif(), reader.xmp(), iptc_in(reader.resources())};
  out.comment = reader.comment();
  out.more_xmp = reader.more_xmp();
  return out;
}

Image jpeg_read(const fs::path& path, const Limits& limits, const Job& job) {
  Reader reader(path);
  const FileInfo info = reader.info();
  check_size(path, info, limits);
  jpeg_decompress_struct& codec = reader.codec();
  const Colours colours = reader.colours();
  const int stored = codec.num_components;
  const std::vector<unsigned char> profile = reader.profile();  // gone with the end of reading
  codec.out_color_space = colours != Colours::plain ? JCS_CMYK : info.bands == 1 ? JCS_GRAYSCALE : JCS_RGB;
  codec.dct_method = JDCT_ISLOW;
  jpeg_start_decompress(&codec);
  Image image(info.width, info.height, stored, Depth::u8);
  const auto bands = static_cast<std::size_t>(stored);
  std::vector<JSAMPLE> line(static_cast<std::size_t>(info.width) * bands);
  for (int y = 0; y < info.height; ++y) {
    if (y % 64 == 0) {
      job.check();
      if (job.progress) job.progress(static_cast<double>(y) / info.height);
    }
    JSAMPROW row = line.data();
    jpeg_read_scanlines(&codec, &row, 1);
    for (int band = 0; band < stored; ++band) {
      auto* samples = image.row<std::uint8_t>(band, y);
      for (std::size_t x = 0; x < static_cast<std::size_t>(info.width); ++x)
        samples[x] = line[x * bands + static_cast<std::size_t>(band)];
    }
  }
  jpeg_finish_decompress(&codec);
  return colours == Colours::plain ? std::move(image) : to_srgb(image, colours, profile, {job.stop, {}});
}

void jpeg_write(SafeFile& file, const fs::path& path, const Image& image, const WriteOptions& options, const Job& job) {
  if (image.width() > JPEG_MAX_DIMENSION || image.height() > JPEG_MAX_DIMENSION)
    throw call_error(fmt::format("JPEG cannot hold {} x {} pixels.", image.width(), image.height()), path.string(),
                     fmt::format("Use TIFF, or at most {} pixels a side.", JPEG_MAX_DIMENSION));
  Reports reports(path);
  jpeg_compress_struct codec{};
  codec.err = &reports.base;
  struct Destroyed {
    jpeg_compress_struct* codec;
    ~Destroyed() { jpeg_destroy_compress(codec); }
  } const destroyed{&codec};
  jpeg_create_compress(&codec);
  InMemory memory;
  codec.dest = &memory.base;
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
        with_metadata({memory.bytes.data(), memory.bytes.size()}, options.pixel_size, options.attached);
    file.write(whole.data(), whole.size());
  } else {
    file.write(memory.bytes.data(), memory.bytes.size());
  }
}

}  // namespace fexel::codec
