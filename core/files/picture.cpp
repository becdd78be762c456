#include "files/picture.h"

#include <cstring>

#include "files/formats.h"
#include "files/orientation.h"

namespace fexel {
namespace fs = std::filesystem;
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
      return "pfm";
    default:
      break;
  }
  return std::string(name_of(format));
}

void check_fits(Format format, int bands, Depth depth, bool alpha) {
  if (format == Format::tiff) return;
  if (format > Format::film)
    throw call_error(fmt::format("{} is read, but not written.", name_of(format)), "--format",
                     "Use TIFF, PNG or JPEG (--format tiff).");
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

FileInfo read_info(const fs::path& path, const Limits& limits, int page) {
  const codec::Door& door = codec::door_of(path);
  if (page != 1 && !door.pages)
    throw call_error(fmt::format("The file has no page {}.", page), path.string(), "It has one page.");
  FileInfo info = door.info(path, limits, page);
  if (door.format == Format::film) return info;
  codec::check_size(path, info, limits);
  lay_upright(info);
  return info;
}

std::vector<PageInfo> read_pages(const fs::path& path, const Limits& limits) {
  const codec::Door& door = codec::door_of(path);
  std::vector<PageInfo> pages;
  if (door.page_infos) {
    pages = door.page_infos(path, limits);
    if (door.format == Format::film) return pages;
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
  const codec::Door& door = codec::door_of(path);
  if (door.format == Format::film) return door.read(path, page, limits, job);
  if (page != 1 && !door.pages)
    throw call_error(fmt::format("The file has no page {}.", page), path.string(), "It has one page.");
  Image image = door.read(path, page, limits, job);
  take_nan(image);
  paint_empty(image);
  const int orientation = door.turned ? read_info(path, limits, page).orientation : 1;
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
    default:
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
