#include "files/picture.h"

#include <cctype>
#include <cstring>
#include <fstream>

#include "files/codec.h"
#include "files/film.h"
#include "files/orientation.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr std::string_view format_table[] = {"tiff", "png", "pnm", "pfm", "jpeg", "film"};

/// The heads of Matroska, MP4 and QuickTime, AVI, Ogg, MPEG streams, ASF, MXF and plain YUV.
bool looks_like_film(std::string_view head) {
  const auto at = [&](std::size_t place, std::string_view what) {
    return head.size() >= place + what.size() && head.substr(place, what.size()) == what;
  };
  using namespace std::string_view_literals;
  for (const auto box : {"ftyp"sv, "moov"sv, "mdat"sv, "wide"sv, "free"sv})
    if (at(4, box)) return true;
  return at(0, "\x1a\x45\xdf\xa3"sv) || (at(0, "RIFF"sv) && at(8, "AVI "sv)) || at(0, "OggS"sv) ||
         at(0, "YUV4MPEG2"sv) || at(0, "\0\0\1\xba"sv) || at(0, "\0\0\1\xb3"sv) ||
         (at(0, "\x47"sv) && at(188, "\x47"sv)) || at(0, "\x30\x26\xb2\x75"sv) || at(0, "\x06\x0e\x2b\x34"sv) ||
         at(0, "FLV\1"sv);
}

/// By content, never by name.
std::optional<Format> format_of_content(const fs::path& path) {
  std::error_code code;
  if (fs::is_directory(path, code))
    throw input_error("This is a folder, not a picture.", path.string(), "Name the pictures in it.");
  if (fs::exists(path, code) && !fs::is_regular_file(path, code))
    throw input_error("This is a pipe or a device, not a file.", path.string(), "Save the picture to a file first.");
  std::ifstream in(path, std::ios::binary);
  if (!in) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  char head[192] = {};
  in.read(head, sizeof head);
  const std::string_view whole(head, static_cast<std::size_t>(in.gcount())), magic = whole.substr(0, 4);
  if (magic == std::string_view("\x89PNG", 4)) return Format::png;
  if (magic.starts_with("\xff\xd8\xff")) return Format::jpeg;
  if (magic == std::string_view("II*\0", 4) || magic == std::string_view("MM\0*", 4) ||
      magic == std::string_view("II+\0", 4) || magic == std::string_view("MM\0+", 4))
    return Format::tiff;
  if (magic.size() > 2 && magic[0] == 'P' && (magic[1] == '5' || magic[1] == '6')) return Format::pnm;
  if (magic.size() > 2 && magic[0] == 'P' && (magic[1] == 'f' || magic[1] == 'F')) return Format::pfm;
  if (looks_like_film(whole)) return Format::film;
  return std::nullopt;
}

Format known_format(const fs::path& path) {
  const auto format = format_of_content(path);
  if (!format)
    throw input_error("This is not a picture that Fexel reads.", path.string(),
                      "It reads TIFF, PNG, JPEG, PNM (P5, P6), PFM and films.");
  return *format;
}

}  // namespace

std::string_view name_of(Format format) {
  return format_table[static_cast<std::size_t>(format)];
}

std::optional<Format> format_named(std::string_view name) {
  for (std::size_t i = 0; i < std::size(format_table); ++i)
    if (format_table[i] == name) return static_cast<Format>(i);
  return std::nullopt;
}

std::optional<Format> format_of_name(const fs::path& path) {
  std::string ending = path.extension().string();
  std::ranges::transform(ending, ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (ending == ".tif" || ending == ".tiff") return Format::tiff;
  if (ending == ".png") return Format::png;
  if (ending == ".pgm" || ending == ".ppm" || ending == ".pnm") return Format::pnm;
  if (ending == ".jpg" || ending == ".jpeg") return Format::jpeg;
  if (ending == ".pfm") return Format::pfm;
  for (const char* film : {".mkv", ".webm", ".mp4", ".m4v", ".mov", ".avi", ".mpg", ".mpeg", ".ts", ".mts", ".m2ts",
                           ".ogv", ".wmv", ".y4m", ".mxf", ".nut", ".dv", ".flv"})
    if (ending == film) return Format::film;
  return std::nullopt;
}

std::string extension_of(Format format, int bands) {
  switch (format) {
    case Format::tiff:
      return "tif";
    case Format::png:
      return "png";
    case Format::pnm:
      return bands == 1 ? "pgm" : "ppm";
    case Format::jpeg:
      return "jpg";
    case Format::film:
      return "mkv";
    case Format::pfm:
      break;
  }
  return "pfm";
}

void check_fits(Format format, int bands, Depth depth, bool alpha) {
  if (format == Format::tiff) return;
  if (format == Format::film)
    throw call_error("Pictures are not written as a film here.", "--format",
                     "Use TIFF (--format tiff), or the verb film.");
  // More bands in a PNG would be taken for an alpha band.
  if ((bands != 1 && bands != 3) || (alpha && format != Format::png))
    throw call_error(fmt::format("{} cannot hold {} bands.", name_of(format), bands + (alpha ? 1 : 0)), "--format",
                     "Use TIFF (--format tiff).");
  if (format == Format::jpeg && depth != Depth::u8)
    throw call_error(fmt::format("jpeg cannot hold {} samples.", name_of(depth)), "--format",
                     "Convert the samples (--depth u8), or use TIFF (--format tiff).");
  if ((format == Format::pfm) != (depth == Depth::f32))
    throw call_error(fmt::format("{} cannot hold {} samples.", name_of(format), name_of(depth)), "--format",
                     "Use TIFF (--format tiff), or convert the samples (--depth).");
}

namespace {

void lay_upright(FileInfo& info) {
  if (!codec::swaps_sides(info.orientation)) return;
  std::swap(info.width, info.height);
  for (auto* size : {&info.pixel_size, &info.density})
    if (*size) std::swap((*size)->x, (*size)->y);
}

}  // namespace

namespace {

FileInfo frame_info(const Film& film, int page) {
  FileInfo info = film.info();
  info.time = film.time(page - 1);
  if (page == 1) info.notes = film.notes();
  return info;
}

FileInfo film_info(const fs::path& path, const Limits& limits, int page) {
  const auto film = open_film(path, limits);
  if (page < 1 || page > film->count())
    throw call_error(fmt::format("The film has no frame {}.", page), path.string(),
                     fmt::format("It has {}.", film->count()));
  return frame_info(*film, page);
}

}  // namespace

FileInfo read_info(const fs::path& path, const Limits& limits, int page) {
  FileInfo info;
  const Format format = known_format(path);
  if (format == Format::film) return film_info(path, limits, page);
  const bool pages = format == Format::tiff || format == Format::pnm;
  if (page != 1 && !pages)
    throw call_error(fmt::format("The file has no page {}.", page), path.string(), "It has one page.");
  switch (format) {
    case Format::png:
      info = codec::png_info(path);
      break;
    case Format::tiff:
      info = codec::tiff_info(path, limits, page);
      break;
    case Format::jpeg:
      info = codec::jpeg_info(path);
      break;
    case Format::pnm:
    case Format::pfm:
      info = codec::pnm_info(path, limits, page);
      break;
    case Format::film:
      break;
  }
  codec::check_size(path, info, limits);
  lay_upright(info);
  return info;
}

std::vector<PageInfo> read_pages(const fs::path& path, const Limits& limits) {
  std::vector<PageInfo> pages;
  if (known_format(path) == Format::film) {
    const auto film = open_film(path, limits);
    pages.reserve(static_cast<std::size_t>(film->count()));
    for (int page = 1; page <= film->count(); ++page) pages.push_back({frame_info(*film, page), {}});
    return pages;
  }
  if (known_format(path) == Format::tiff) {
    pages = codec::tiff_pages(path, limits);
    codec::check_size(path, *pages.front().info, limits);
    for (PageInfo& page : pages)
      if (page.info) lay_upright(*page.info);
    return pages;
  }
  const FileInfo first = read_info(path, limits);
  pages.push_back({first, {}});
  for (int page = 2; page <= first.frames; ++page) {
    PageInfo next;
    try {
      next.info = read_info(path, limits, page);
    } catch (const Error& error) {
      next.trouble = error.message();
    }
    pages.push_back(std::move(next));
  }
  return pages;
}

Image read_picture(const fs::path& path, int page, const Limits& limits, const Job& job) {
  job.check();
  const Format format = known_format(path);
  if (format == Format::film) return open_film(path, limits, job)->read(page - 1, job);
  if (page != 1 && format != Format::tiff && format != Format::pnm)
    throw call_error(fmt::format("The file has no page {}.", page), path.string(), "It has one page.");
  const auto stored = [&] {
    switch (format) {
      case Format::png:
        return codec::png_read(path, limits, job);
      case Format::tiff:
        return codec::tiff_read(path, page, limits, job);
      case Format::jpeg:
        return codec::jpeg_read(path, limits, job);
      case Format::pnm:
      case Format::pfm:
      case Format::film:
        break;
    }
    return codec::pnm_read(path, page, limits, job);
  };
  Image image = stored();
  take_nan(image);
  paint_empty(image);
  const int orientation =
      format == Format::tiff || format == Format::jpeg ? read_info(path, limits, page).orientation : 1;
  return orientation == 1 ? std::move(image) : codec::upright(image, orientation);
}

void check_target(const fs::path& path, const WriteOptions& options) {
  if (options.keep) options.keep->check(path);
  std::error_code code;
  if (fs::is_directory(path, code)) throw call_error("This is a folder.", path.string(), "Name a file in it.");
  const fs::path folder = path.parent_path().empty() ? fs::path(".") : path.parent_path();
  if (fs::exists(folder, code) && !fs::is_directory(folder, code))
    throw call_error("This is not a folder.", folder.string(), "Name a folder.");
  const auto state = fs::status(path, code);
  if (fs::exists(state) && !fs::is_regular_file(state))
    throw call_error("This is no plain file; it was kept.", path.string(), "Choose another name.");
  if (!options.replace && fs::exists(fs::symlink_status(path, code)))
    throw call_error("This file exists already and was kept.", path.string(),
                     "Choose another name, or say that it may be replaced (--replace).");
}

std::unique_ptr<SafeFile> prepare_pictures(const fs::path& path, const std::vector<Image>& pages,
                                           const WriteOptions& options, const Job& job) {
  check_target(path, options);
  for (const Image& page : pages)
    check_fits(options.format, page.bands() - (options.alpha ? 1 : 0), page.depth(), options.alpha);
  if (pages.size() != 1 && options.format != Format::tiff)
    throw call_error(fmt::format("{} cannot hold {} pages.", name_of(options.format), pages.size()), path.string(),
                     "Use TIFF (--format tiff).");
  auto file = std::make_unique<SafeFile>(path, options.replace);
  switch (options.format) {
    case Format::png:
      codec::png_write(*file, path, pages.front(), options, job);
      break;
    case Format::tiff:
      codec::tiff_write(*file, path, pages, options, job);
      break;
    case Format::jpeg:
      codec::jpeg_write(*file, path, pages.front(), options, job);
      break;
    case Format::pnm:
    case Format::pfm:
      codec::pnm_write(*file, pages.front(), job);
      break;
    case Format::film:
      break;
  }
  job.check();
  return file;
}

void write_pictures(const fs::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                    const Job& job) {
  prepare_pictures(path, pages, options, job)->commit();
}

void codec::unweave(const std::byte* from, int stored, int plane, int x, int y, int count, Image& image) {
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < stored; ++band) {
      T* target = image.row<T>(plane + band, y) + x;
      if (stored == 1) {
        std::memcpy(target, from, sizeof(T) * static_cast<std::size_t>(count));
        continue;
      }
      const std::byte* at = from + static_cast<std::size_t>(band) * sizeof(T);
      for (int i = 0; i < count; ++i, at += static_cast<std::size_t>(stored) * sizeof(T))
        std::memcpy(target + i, at, sizeof(T));
    }
  });
}

void codec::weave(const Image& image, int y, std::byte* to) {
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    const auto bands = static_cast<std::size_t>(image.bands());
    for (std::size_t band = 0; band < bands; ++band) {
      const T* from = image.row<T>(static_cast<int>(band), y);
      if (bands == 1) {
        std::memcpy(to, from, image.row_bytes());
        continue;
      }
      std::byte* at = to + band * sizeof(T);
      for (int i = 0; i < image.width(); ++i, at += bands * sizeof(T)) std::memcpy(at, from + i, sizeof(T));
    }
  });
}

void codec::check_size(const fs::path& path, const FileInfo& info, const Limits& limits) {
  const auto pixels = static_cast<std::int64_t>(info.width) * info.height;
  if (info.width < 1 || info.height < 1 || info.bands < 1)
    throw broken(path, fmt::format("The file says that it holds {} x {} pixels with {} bands.", info.width, info.height,
                                   info.bands));
  if (pixels > limits.pixels || info.bands > 4096 ||
      static_cast<double>(pixels) * info.bands * static_cast<double>(bytes_of(info.depth)) >
          static_cast<double>(limits.bytes))
    throw input_error(
        fmt::format(
            "The file says that it holds {} x {} pixels with {} bands, more than the limit of {} pixels or {} bytes.",
            info.width, info.height, info.bands, limits.pixels, limits.bytes),
        path.string(), "If that is true, read a part of it or a smaller copy.");
}

void codec::take_density(FileInfo& info, const std::optional<PixelSize>& density, bool photo, bool trusted) {
  info.pixel_size = trusted ? density : std::nullopt;
  info.density = trusted || photo ? std::nullopt : density;
}

std::optional<PixelSize> codec::pixel_size_from_density(double x_per_metre, double y_per_metre) {
  if (!std::isfinite(x_per_metre) || !std::isfinite(y_per_metre) || x_per_metre <= 0 || y_per_metre <= 0)
    return std::nullopt;
  return PixelSize{1000 / x_per_metre, 1000 / y_per_metre, "mm"};
}

}  // namespace fexel
