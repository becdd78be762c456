#include <gif_lib.h>

#include "files/decoders/decoders.h"

namespace fexel::codec {
namespace {

constexpr int most_frames = 100000;

/// Goes through a file, picture by picture, and keeps what is seen.
class Reader {
 public:
  Reader(const fs::path& path, const Limits& limits) : path_(path), limits_(limits) {
    int error = 0;
    gif_ = ::DGifOpenFileName(path.c_str(), &error);
    if (!gif_) throw broken(path, "The GIF cannot be read: its header is not whole.");
  }
  ~Reader() { ::DGifCloseFile(gif_, nullptr); }
  Reader(const Reader&) = delete;
  Reader& operator=(const Reader&) = delete;

  /// What it says of its pictures; with `page` it also draws, up to that one.
  void go(int page, const Job& job) {
    width_ = gif_->SWidth;
    height_ = gif_->SHeight;
    FileInfo info;
    info.width = width_;
    info.height = height_;
    info.bands = 3;
    check_size(path_, info, limits_);
    if (page > 0) canvas_.assign(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_), 0);
    look_at(gif_->SColorMap);
    double time = 0;
    int delay = 0, transparent = NO_TRANSPARENT_COLOR, disposal = DISPOSAL_UNSPECIFIED;
    for (GifRecordType type = UNDEFINED_RECORD_TYPE; type != TERMINATE_RECORD_TYPE;) {
      job.check();
      if (::DGifGetRecordType(gif_, &type) == GIF_ERROR) {
        cut_ = true;
        return;
      }
      if (type == EXTENSION_RECORD_TYPE) {
        int code = 0;
        GifByteType* block = nullptr;
        if (::DGifGetExtension(gif_, &code, &block) == GIF_ERROR) return cut();
        GraphicsControlBlock control{};
        if (code == GRAPHICS_EXT_FUNC_CODE && block && ::DGifExtensionToGCB(block[0], block + 1, &control) == GIF_OK) {
          delay = control.DelayTime;
          transparent = control.TransparentColor;
          disposal = control.DisposalMode;
        }
        while (block)
          if (::DGifGetExtensionNext(gif_, &block) == GIF_ERROR) return cut();
      } else if (type == IMAGE_DESC_RECORD_TYPE) {
        if (::DGifGetImageDesc(gif_) == GIF_ERROR) return cut();
        look_at(gif_->Image.ColorMap);
        if (times_.size() >= most_frames) throw broken(path_, "The GIF has too many pictures.");
        // A first picture that covers the screen leaves nothing empty, unless what is shown is taken away again.
        const bool first = times_.empty();
        covered_ = covered_ || (first && transparent == NO_TRANSPARENT_COLOR && gif_->Image.Left == 0 &&
                                gif_->Image.Top == 0 && gif_->Image.Width == width_ && gif_->Image.Height == height_);
        transparent_ = transparent_ || !covered_ || disposal == DISPOSE_BACKGROUND;
        if (!draw(static_cast<int>(times_.size()) < page, transparent, disposal,
                  static_cast<int>(times_.size()) + 1 == page))
          return cut();
        times_.push_back(time);
        time += 0.01 * delay;
        delay = 0;
        transparent = NO_TRANSPARENT_COLOR;
        disposal = DISPOSAL_UNSPECIFIED;
        if (static_cast<int>(times_.size()) == page) return;
      }
    }
  }

  FileInfo info(int page) const {
    if (times_.empty()) throw broken(path_, "The GIF holds no whole picture.");
    check_page(path_, page, static_cast<int>(times_.size()));
    FileInfo out;
    out.format = "gif";
    out.width = width_;
    out.height = height_;
    out.bands = grey_ ? 1 : 3;
    out.alpha = transparent_;
    out.frames = static_cast<int>(times_.size());
    if (out.frames > 1) out.time = times_[static_cast<std::size_t>(page) - 1];
    out.readings.push_back(fmt::format("Its samples are indices into a palette; they are read as {}.",
                                       grey_ ? "grey" : "red, green and blue"));
    if (cut_) out.notes.push_back(fmt::format("The GIF is cut short; {} of its pictures are whole.", out.frames));
    settle_alpha(out, limits_);
    return out;
  }
  /// Red, green, blue and alpha of the page that was drawn to.
  const std::vector<std::uint32_t>& seen() const { return seen_; }

 private:
  void cut() { cut_ = true; }
  void look_at(const ColorMapObject* map) {
    for (int i = 0; map && grey_ && i < map->ColorCount; ++i)
      grey_ = map->Colors[i].Red == map->Colors[i].Green && map->Colors[i].Green == map->Colors[i].Blue;
  }
  /// Whether the picture is whole.
  bool draw(bool wanted, int transparent, int disposal, bool last) {
    const GifImageDesc& at = gif_->Image;
    const ColorMapObject* map = at.ColorMap ? at.ColorMap : gif_->SColorMap;
    const std::vector<std::uint32_t> before =
        wanted && !last && disposal == DISPOSE_PREVIOUS ? canvas_ : std::vector<std::uint32_t>();
    std::vector<GifPixelType> line(static_cast<std::size_t>(std::max(at.Width, 1)));
    const auto row = [&](int y) {
      if (::DGifGetLine(gif_, line.data(), at.Width) == GIF_ERROR) return false;
      const int v = at.Top + y;
      for (int x = 0; wanted && v >= 0 && v < height_ && x < at.Width; ++x) {
        const int u = at.Left + x, index = line[static_cast<std::size_t>(x)];
        if (u < 0 || u >= width_ || index == transparent || !map || index >= map->ColorCount) continue;
        const GifColorType& colour = map->Colors[index];
        canvas_[static_cast<std::size_t>(v) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(u)] =
            std::uint32_t{colour.Red} | std::uint32_t{colour.Green} << 8 | std::uint32_t{colour.Blue} << 16 |
            0xff000000U;
      }
      return true;
    };
    // Interlaced rows come in four passes (GIF89a, appendix E).
    constexpr int first[] = {0, 4, 2, 1}, step[] = {8, 8, 4, 2};
    if (at.Interlace) {
      for (int pass = 0; pass < 4; ++pass)
        for (int y = first[pass]; y < at.Height; y += step[pass])
          if (!row(y)) return false;
    } else {
      for (int y = 0; y < at.Height; ++y)
        if (!row(y)) return false;
    }
    if (!wanted) return true;
    if (last) seen_ = canvas_;
    if (disposal == DISPOSE_PREVIOUS && !last) canvas_ = before;
    if (disposal == DISPOSE_BACKGROUND)
      for (int y = std::max(0, at.Top); y < std::min(height_, at.Top + at.Height); ++y)
        for (int x = std::max(0, at.Left); x < std::min(width_, at.Left + at.Width); ++x)
          canvas_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)] = 0;
    return true;
  }

  fs::path path_;
  Limits limits_;
  GifFileType* gif_ = nullptr;
  int width_ = 0, height_ = 0;
  bool grey_ = true, covered_ = false, transparent_ = false, cut_ = false;
  std::vector<double> times_;
  std::vector<std::uint32_t> canvas_, seen_;
};

}  // namespace

FileInfo gif_info(const fs::path& path, const Limits& limits, int page) {
  Reader reader(path, limits);
  reader.go(0, {});
  return reader.info(page);
}

std::vector<PageInfo> gif_pages(const fs::path& path, const Limits& limits) {
  Reader reader(path, limits);
  reader.go(0, {});
  std::vector<PageInfo> pages;
  for (int page = 1; page <= reader.info(1).frames; ++page) {
    pages.push_back({reader.info(page), {}});
    if (page > 1) pages.back().info->notes.clear();
  }
  return pages;
}

Image gif_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  const FileInfo info = gif_info(path, {limits.pixels, limits.bytes, limits.memory}, page);
  Reader reader(path, limits);
  reader.go(page, job);
  Image image(info.width, info.height, info.bands + (info.alpha ? 1 : 0), Depth::u8, Image::Start::unset);
  for (int y = 0; y < info.height; ++y)
    for (int x = 0; x < info.width; ++x) {
      const std::uint32_t colour =
          reader
              .seen()[static_cast<std::size_t>(y) * static_cast<std::size_t>(info.width) + static_cast<std::size_t>(x)];
      for (int band = 0; band < info.bands; ++band)
        image.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(colour >> (8 * band));
      if (info.alpha) image.row<std::uint8_t>(info.bands, y)[x] = static_cast<std::uint8_t>(colour >> 24);
    }
  settle_alpha(image, info, limits, image.largest());
  return image;
}

std::string gif_library() {
  return fmt::format("giflib {}.{}.{}", GIFLIB_MAJOR, GIFLIB_MINOR, GIFLIB_RELEASE);
}

}  // namespace fexel::codec
