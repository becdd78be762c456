#pragma once
/// Reading and writing pictures, whatever the format.
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/job.h"
#include "base/units.h"
#include "files/identity.h"
#include "files/protected.h"
#include "image/image.h"

namespace fexel {

/// What a file may ask for before anything is allocated.
struct Limits {
  std::int64_t pixels = 4'000'000'000;             ///< width x height of one page
  std::int64_t bytes = 16LL * 1024 * 1024 * 1024;  ///< all samples of one page
  std::int64_t memory = std::int64_t{1} << 50;     ///< bytes that reading may take beside the picture itself
  bool salvage = false;     ///< a stack that is cut short is read as far as it goes, and not refused
  bool alpha_band = false;  ///< alpha is one more band of numbers, and says nothing of which pixels are empty
};

/// What the pages of an OME-TIFF are: so many channels, planes of the depth, and times.
struct StackAxes {
  int channels = 1, planes = 1, times = 1;
  std::vector<std::string> channel_names = {};
  std::optional<double> plane_step = {};  ///< mm from plane to plane
  std::optional<double> time_step = {};   ///< seconds
  bool operator==(const StackAxes&) const = default;
};
/// One of its pages, from 0.
struct StackPlace {
  int channel = 0, plane = 0, time = 0;
  bool operator==(const StackPlace&) const = default;
};

/// What a file says about itself, and about one of its pages.
struct FileInfo {
  std::string format;  ///< see name_of(Format)
  int width = 0, height = 0, bands = 0;
  Depth depth = Depth::u8;
  int largest = 0;  ///< value that a sample means, where the file says less than the depth's own; else 0
  int frames = 1;
  std::optional<PixelSize> pixel_size;  ///< nothing when the file does not say, or says something impossible
  std::optional<PixelSize> density;  ///< for printing, which says nothing of the scene: offered as a scale, not taken
  int orientation = 1;               ///< the tag in the file, 1 to 8; sizes here are those of the upright picture
  std::string profile;               ///< "embedded" or empty
  std::string converted;             ///< "CMYK" or "Lab" where colours are stored so; they are read as sRGB
  bool alpha = false;                ///< an alpha band tells which pixels are empty; `bands` does not count it
  std::optional<double> time = {};   ///< of a film's frame: seconds from the first
  std::vector<std::string> notes = {};     ///< what may be wrong with a film, in sentences; of its first frame
  std::vector<std::string> readings = {};  ///< what becomes of samples that are stored otherwise, in sentences
  bool associated = false;                 ///< colours are stored times alpha; they are divided by it
  std::vector<std::string> page_names;     ///< of an OME-TIFF whose pages are bands
  std::optional<StackAxes> axes = {};      ///< of an OME-TIFF
  std::optional<StackPlace> place = {};    ///< of this page among them
};

/// From film on: read only; a film is written by FilmWriter.
enum class Format { tiff, png, pnm, pfm, jpeg, film, bmp, gif, webp, jpeg2000, heif, raw };
std::string_view name_of(Format format);
std::optional<Format> format_named(std::string_view name);
/// What this build does with a format.
struct FormatFacts {
  Format format;
  std::string endings;  ///< of file names, apart by blanks
  std::string reads;    ///< depths and kinds of samples
  std::string writes;   ///< the same; empty for what is only read
  std::string library;  ///< that decodes it, with its version; empty where this build has none
  bool pages;           ///< may hold several pictures
};
std::vector<FormatFacts> known_formats();
/// The format that a file name's ending stands for; nothing for an unknown one.
std::optional<Format> format_of_name(const std::filesystem::path& path);
/// The ending that a written file gets, without the point.
std::string extension_of(Format format, int bands);
/// Raises a call error when the format cannot hold such a picture, its alpha band not counted.
void check_fits(Format format, int bands, Depth depth, bool alpha = false);

/// Reads the header, and what it says of a page, counted from 1. Raises an input error for a missing, unreadable,
/// broken or unknown file, and for a stack that is cut short.
FileInfo read_info(const std::filesystem::path& path, const Limits& limits = {}, int page = 1);
/// The same of every page. A page that cannot be used has nothing, and says why in `trouble`.
struct PageInfo {
  std::optional<FileInfo> info;
  std::string trouble;
};
std::vector<PageInfo> read_pages(const std::filesystem::path& path, const Limits& limits = {});
/// Reads one page, counted from 1, laid upright as its orientation tag says. What an alpha band says to be less than
/// half there is empty, and so is what is NaN; it has the samples of what is there beside it.
Image read_picture(const std::filesystem::path& path, int page = 1, const Limits& limits = {}, const Job& job = {});

/// The text that a TIFF page carries; empty where it has none, and for other formats.
std::string read_description(const std::filesystem::path& path, int page = 1);

/// What a file says beside its pixels and goes on saying in what is made of it.
struct Attached {
  std::vector<unsigned char> profile;  ///< an ICC profile, for grey or RGB
  std::vector<unsigned char>
      camera;                       ///< Exif: who took it, when, with what, and where; nothing of size or place in file
  std::vector<unsigned char> xmp;   ///< a packet of XMP (ISO 16684-1), but for what it says of the size
  std::vector<unsigned char> iptc;  ///< IPTC-IIM, as blocks
  std::string comment;              ///< as JPEG and PNG have one
  std::vector<std::string> dropped;  ///< what else the file says, that does not go on, such as "maker notes"
  bool operator==(const Attached&) const = default;
};
/// Reads it from the formats that have it. What is broken, or does not belong to so many bands, is left out.
Attached read_attached(const std::filesystem::path& path, int bands);
/// The profile's own name, such as "sRGB"; empty for what is no profile.
std::string profile_name(const std::vector<unsigned char>& profile);

/// Pictures to be written one after the other as the pages of one file.
struct WriteOptions {
  Format format = Format::tiff;
  std::optional<PixelSize> pixel_size;
  bool replace = false;                        ///< may an existing file be replaced
  std::shared_ptr<const ProtectedPaths> keep;  ///< files that must never be written
  int quality = 92;                            ///< of JPEG, 1 to 100
  bool compress = true;                        ///< TIFF: deflate, without loss
  Attached attached = {};                      ///< TIFF, PNG, JPEG
  std::string description = {};                ///< TIFF: of the first page
  bool alpha = false;                          ///< the last band tells how much of a pixel is there (TIFF, PNG)
};
/// Writes `pages` to `path` through a temporary file. Raises a call error when the target is protected, exists and may
/// not be replaced, or its format cannot hold the picture; an input error when the disk says no.
void write_pictures(const std::filesystem::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                    const Job& job = {});
/// The same checks without writing.
void check_target(const std::filesystem::path& path, const WriteOptions& options);

/// The same, but for its name, which the file gets by SafeFile::commit().
std::unique_ptr<class SafeFile> prepare_pictures(const std::filesystem::path& path, const std::vector<Image>& pages,
                                                 const WriteOptions& options, const Job& job = {});

/// Text to a file, with the same care and the same rules.
void write_text(const std::filesystem::path& path, const std::string& text, bool replace,
                const ProtectedPaths* keep = nullptr);
std::string read_text(const std::filesystem::path& path, std::int64_t limit = 64 << 20);

}  // namespace fexel
