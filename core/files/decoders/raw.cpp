#include <libraw/libraw.h>

#include <fstream>

#include "files/decoders/decoders.h"

namespace fexel::codec {
namespace {

constexpr int ahd = 3;  // K. Hirakawa and T. Parks, 2005, "Adaptive homogeneity-directed demosaicing algorithm"

class Reader {
 public:
  explicit Reader(const fs::path& path)
      : path_(path), raw_(std::make_unique<LibRaw>(LIBRAW_OPIONS_NO_DATAERR_CALLBACK)) {
    auto& how = raw_->imgdata.params;
    how.output_bps = 16;
    how.output_color = 1;  // sRGB
    how.use_camera_wb = 1;
    how.use_auto_wb = 0;
    how.no_auto_bright = 1;
    how.no_auto_scale = 0;
    how.adjust_maximum_thr = 0;  // the brightest pixel is the sensor's and not the picture's
    how.highlight = 0;
    how.user_qual = ahd;
    how.gamm[0] = 1 / 2.4;  // of sRGB
    how.gamm[1] = 12.92;
    check(raw_->open_file(path.c_str()));
    if (raw_->imgdata.idata.is_foveon != 0)
      throw unsupported(path, "The camera has a sensor of stacked colours, which Fexel does not read.");
  }

  FileInfo info() const {
    FileInfo out;
    const auto& sizes = raw_->imgdata.sizes;
    out.format = "raw";
    const bool turned = (sizes.flip & 4) != 0;
    out.width = turned ? sizes.iheight : sizes.iwidth;
    out.height = turned ? sizes.iwidth : sizes.iheight;
    out.bands = 3;
    out.depth = Depth::u16;
    const auto& camera = raw_->imgdata.idata;
    out.readings.push_back(
        fmt::format("What the sensor of the camera ({} {}) gave is made into colours: {}with the white balance of the "
                    "camera, in sRGB, not brightened.",
                    camera.make, camera.model, camera.filters != 0 ? "demosaiced (AHD), " : ""));
    return out;
  }

  Image read(const Job& job) {
    check(raw_->unpack());
    job.check();
    check(raw_->dcraw_process());
    job.check();
    int width = 0, height = 0, colours = 0, bits = 0;
    raw_->get_mem_image_format(&width, &height, &colours, &bits);
    const FileInfo said = info();
    if (width != said.width || height != said.height || (colours != 3 && colours != 1) || bits != 16)
      throw unsupported(path_, "The camera's picture comes in a form that Fexel does not read.");
    std::vector<std::uint16_t> samples(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) *
                                       static_cast<std::size_t>(colours));
    check(raw_->copy_mem_image(samples.data(), width * colours * 2, 0));
    Image out(width, height, 3, Depth::u16, Image::Start::unset);
    for (int band = 0; band < 3; ++band)
      for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
          out.row<std::uint16_t>(band, y)[x] =
              samples[(static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)) *
                          static_cast<std::size_t>(colours) +
                      static_cast<std::size_t>(colours == 1 ? 0 : band)];
    return out;
  }

 private:
  void check(int code) const {
    if (code == LIBRAW_SUCCESS) return;
    if (code == LIBRAW_FILE_UNSUPPORTED) throw unsupported(path_, "This camera's raw pictures are not known here.");
    throw broken(path_, fmt::format("The raw picture cannot be read: {}.", ::libraw_strerror(code)));
  }
  fs::path path_;
  std::unique_ptr<LibRaw> raw_;
};

}  // namespace

FileInfo raw_info(const fs::path& path, const Limits&, int page) {
  check_page(path, page, 1);
  return Reader(path).info();
}

Image raw_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  check_page(path, page, 1);
  Reader reader(path);
  check_size(path, reader.info(), limits);
  return reader.read(job);
}

std::string raw_library() {
  return fmt::format("LibRaw {}", ::libraw_version());
}

}  // namespace fexel::codec
