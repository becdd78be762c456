#include "files/formats.h"

#include <jpeglib.h>
#include <png.h>
#include <tiffio.h>

#include <cctype>
#include <fstream>

#include "files/decoders/decoders.h"
#include "files/film.h"

namespace fexel {
namespace fs = std::filesystem;
namespace codec {
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

std::vector<PageInfo> film_pages(const fs::path& path, const Limits& limits) {
  const auto film = open_film(path, limits);
  std::vector<PageInfo> pages;
  pages.reserve(static_cast<std::size_t>(film->count()));
  for (int page = 1; page <= film->count(); ++page) pages.push_back({frame_info(*film, page), {}});
  return pages;
}

Image film_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  return open_film(path, limits, job)->read(page - 1, job);
}

std::string own_library() {
  return "Fexel";
}

std::string tiff_library() {
  const std::string text = ::TIFFGetVersion();
  return "libtiff " + text.substr(text.find("Version ") + 8, text.find('\n') - text.find("Version ") - 8);
}

/// What every build reads, and what the others would.
std::vector<Door> make_table() {
  std::vector<Door> all{
      {.format = Format::tiff,
       .name = "tiff",
       .endings = "tif tiff btf",
       .reads = "1 to 16 bits, 24, 32 and 64 bits with and without a sign, floating point of 16, 24, 32 and 64 bits; "
                "grey, RGB, palette, YCbCr, CMYK, Lab, white as zero, any number of bands, alpha",
       .writes = "8 and 16 bits, floating point of 32 bits; any number of bands, alpha",
       .pages = true,
       .turned = true,
       .library = tiff_library,
       .info = tiff_info,
       .read = tiff_read,
       .page_infos = tiff_pages,
       .attached = tiff_attached},
      {.format = Format::png,
       .name = "png",
       .endings = "png",
       .reads = "1 to 16 bits; grey, RGB, palette, alpha",
       .writes = "8 and 16 bits; grey, RGB, alpha",
       .library = [] { return std::string("libpng ") + ::png_get_libpng_ver(nullptr); },
       .info = [](const fs::path& path, const Limits& limits, int) { return png_info(path, limits); },
       .read = [](const fs::path& path, int, const Limits& limits,
                  const Job& job) { return png_read(path, limits, job); },
       .attached = png_attached},
      {.format = Format::pnm,
       .name = "pnm",
       .endings = "pgm ppm pnm pbm pam",
       .reads = "1, 8 and 16 bits; grey, RGB, of PAM any number of bands, alpha; binary and plain",
       .writes = "8 and 16 bits; grey, RGB",
       .pages = true,
       .library = own_library,
       .info = pnm_info,
       .read = pnm_read},
      {.format = Format::pfm,
       .name = "pfm",
       .endings = "pfm",
       .reads = "floating point of 32 bits; grey, RGB",
       .writes = "floating point of 32 bits; grey, RGB",
       .library = own_library,
       .info = pnm_info,
       .read = pnm_read},
      {.format = Format::jpeg,
       .name = "jpeg",
       .endings = "jpg jpeg",
       .reads = "8 bits; grey, YCbCr, CMYK",
       .writes = "8 bits, with loss; grey, RGB",
       .turned = true,
       .library = [] { return fmt::format("libjpeg-turbo (API {})", JPEG_LIB_VERSION); },
       .info = [](const fs::path& path, const Limits&, int) { return jpeg_info(path); },
       .read = [](const fs::path& path, int, const Limits& limits,
                  const Job& job) { return jpeg_read(path, limits, job); },
       .attached = jpeg_attached},
      {.format = Format::film,
       .name = "film",
       .endings = "mkv webm mp4 m4v mov avi mpg mpeg ts mts m2ts ogv wmv y4m mxf nut dv flv",
       .reads = "8 to 16 bits; grey, RGB, YUV",
       .writes = "8 to 16 bits without loss, 8 bits for showing (verb film)",
       .pages = true,
       .library = bmp_library,
       .info = film_info,
       .read = film_read,
       .page_infos = film_pages},
      {.format = Format::bmp,
       .name = "bmp",
       .endings = "bmp dib",
       .reads = "1 to 8 bits of a palette, 16, 24 and 32 bits; alpha",
       .library = bmp_library,
       .info = bmp_info,
       .read = bmp_read},
      {.format = Format::gif,
       .name = "gif",
       .endings = "gif",
       .reads = "8 bits of a palette, transparency, moving pictures",
       .pages = true},
      {.format = Format::webp,
       .name = "webp",
       .endings = "webp",
       .reads = "8 bits; RGB, alpha, moving pictures",
       .pages = true,
       .turned = true},
      {.format = Format::jpeg2000,
       .name = "jpeg2000",
       .endings = "jp2 j2k jpf jpx j2c",
       .reads = "1 to 31 bits with and without a sign; any number of bands, alpha, YCbCr"},
      {.format = Format::heif,
       .name = "heif",
       .endings = "heic heif avif hif",
       .reads = "8 to 16 bits; RGB, alpha, several pictures",
       .pages = true},
      {.format = Format::raw,
       .name = "raw",
       .endings = "dng cr2 cr3 nef nrw arw srf sr2 raf orf rw2 pef srw erf kdc dcr mrw iiq 3fr",
       .reads = "a camera's sensor, as 16 bits RGB"},
  };
  // Those whose library was there when this was built.
  [[maybe_unused]] const auto give = [&all](Format format, auto library, auto info, auto read, auto pages,
                                            auto attached) {
    Door& door = all[static_cast<std::size_t>(format)];
    door.library = library;
    door.info = info;
    door.read = read;
    door.page_infos = pages;
    door.attached = attached;
  };
#ifdef FEXEL_GIF
  give(Format::gif, gif_library, gif_info, gif_read, gif_pages, nullptr);
#endif
#ifdef FEXEL_WEBP
  give(Format::webp, webp_library, webp_info, webp_read, webp_pages, webp_attached);
#endif
#ifdef FEXEL_JPEG2000
  give(Format::jpeg2000, jpeg2000_library, jpeg2000_info, jpeg2000_read, nullptr, jpeg2000_attached);
#endif
#ifdef FEXEL_HEIF
  give(Format::heif, heif_library, heif_info, heif_read, heif_pages, heif_attached);
#endif
#ifdef FEXEL_RAW
  give(Format::raw, raw_library, raw_info, raw_read, nullptr, nullptr);
#endif
  return all;
}

const std::vector<Door>& table() {
  static const std::vector<Door> all = make_table();
  return all;
}

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

/// Heads of the other formats that are read and not written.
std::optional<Format> other_format(std::string_view head) {
  const auto at = [&](std::size_t place, std::string_view what) {
    return head.size() >= place + what.size() && head.substr(place, what.size()) == what;
  };
  using namespace std::string_view_literals;
  if (at(0, "GIF87a"sv) || at(0, "GIF89a"sv)) return Format::gif;
  if (at(0, "RIFF"sv) && at(8, "WEBP"sv)) return Format::webp;
  if (at(0, "\0\0\0\x0cjP  "sv) || at(0, "\xff\x4f\xff\x51"sv)) return Format::jpeg2000;
  // The file's own kind stands behind "ftyp"; others that it is good for follow.
  if (at(4, "ftyp"sv)) {
    if (at(8, "crx "sv)) return Format::raw;
    for (const auto brand : {"heic"sv, "heix"sv, "heim"sv, "heis"sv, "mif1"sv, "avif"sv, "avis"sv, "msf1"sv, "hevc"sv})
      if (at(8, brand)) return Format::heif;
  }
  for (const auto camera : {"FUJIFILMCCD-RAW"sv, "IIU\0"sv, "IIRO"sv, "IIRS"sv, "MMOR"sv, "\0MRM"sv})
    if (at(0, camera)) return Format::raw;
  if (at(0, "BM"sv) && head.size() > 18 && static_cast<unsigned char>(head[14]) >= 12 &&
      static_cast<unsigned char>(head[14]) <= 200 && at(15, "\0\0\0"sv))
    return Format::bmp;
  return std::nullopt;
}

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
  if (magic == std::string_view("II*\0", 4) || magic == std::string_view("MM\0*", 4))
    return is_raw_tiff(path) ? Format::raw : Format::tiff;
  if (magic == std::string_view("II+\0", 4) || magic == std::string_view("MM\0+", 4)) return Format::tiff;
  if (magic.size() > 2 && magic[0] == 'P') {
    const bool blank = std::isspace(static_cast<unsigned char>(magic[2])) != 0 || magic[2] == '#';
    if (magic[1] == '5' || magic[1] == '6' || (blank && magic[1] >= '1' && magic[1] <= '7')) return Format::pnm;
    if (magic[1] == 'f' || magic[1] == 'F') return Format::pfm;
  }
  if (const auto other = other_format(whole)) return other;
  if (looks_like_film(whole)) return Format::film;
  return std::nullopt;
}

}  // namespace

const Door& door_of(Format format) {
  return table()[static_cast<std::size_t>(format)];
}

const Door& door_of(const fs::path& path) {
  const auto format = format_of_content(path);
  if (!format)
    throw input_error("This is not a picture that Fexel reads.", path.string(),
                      "It reads TIFF, PNG, JPEG, JPEG 2000, WebP, HEIF, GIF, BMP, PNM, PFM, camera raw and films; "
                      "fexel-cli formats lists them.");
  const Door& door = door_of(*format);
  if (!door.read)
    throw input_error(
        fmt::format("This is a picture of the format {}, for which this build of Fexel has no library.", door.name),
        path.string(), "Save it as TIFF or PNG, or install a build with that library.");
  return door;
}

}  // namespace codec

std::string_view name_of(Format format) {
  return codec::door_of(format).name;
}

std::optional<Format> format_named(std::string_view name) {
  for (const codec::Door& door : codec::table())
    if (door.name == name) return door.format;
  return std::nullopt;
}

std::optional<Format> format_of_name(const fs::path& path) {
  std::string ending = path.extension().string();
  if (ending.size() < 2) return std::nullopt;
  std::ranges::transform(ending, ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  const std::string wanted = " " + ending.substr(1) + " ";
  for (const codec::Door& door : codec::table())
    if ((" " + std::string(door.endings) + " ").find(wanted) != std::string::npos) return door.format;
  return std::nullopt;
}

std::vector<FormatFacts> known_formats() {
  std::vector<FormatFacts> out;
  for (const codec::Door& door : codec::table())
    out.push_back({door.format, std::string(door.endings), std::string(door.reads), std::string(door.writes),
                   door.library ? door.library() : "", door.pages});
  return out;
}

}  // namespace fexel
