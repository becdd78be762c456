#pragma once
/// Pages of TIFF files: any part of one is read, and one is written from the top down.
#include <tiffio.h>

#include <mutex>

#include "files/codec.h"
#include "files/colour.h"
#include "geometry/plane_coordinates.h"
#include "geometry/point.h"

namespace fexel::codec {

struct CloseTiff {
  void operator()(TIFF* tiff) const { TIFFClose(tiff); }
};
using TiffPointer = std::unique_ptr<TIFF, CloseTiff>;

/// What the library said last on this thread, cleared by hush(); it says it through process-wide handlers.
const std::string& tiff_words();
void hush_tiff();

/// The file at one of its pages, from 1. Raises an input error where it cannot be opened.
TiffPointer open_tiff_page(const fs::path& path, int page);
std::vector<unsigned char> tiff_profile(TIFF* tiff);
Colours colours_of(TIFF* tiff);
/// What a page says, as it is stored; and as it is given, once its colours are red, green and blue, and alpha is what
/// was asked for.
FileInfo page_info(const fs::path& path, TIFF* tiff);
FileInfo as_shown(FileInfo info, const Limits& limits);

class TiffPage {
 public:
  /// Raises an input error for a file that is broken, unknown or over the limits, and a call error when it has no such
  /// page.
  TiffPage(fs::path path, int page, const Limits& limits);
  /// As stored, before it is laid upright; pages are not counted.
  const FileInfo& info() const { return info_; }
  /// As read() gives it: colours that are stored otherwise are red, green and blue.
  FileInfo shown() const;
  std::string description() const;
  /// The pixels of a region inside the page, as stored. Strips and tiles are decoded side by side.
  Image read(Region region, const Job& job) const;

 private:
  /// Pixels that are stored together: a strip or a tile of the interleaved samples, or of one plane of them.
  struct Chunk {
    int left, top, width, height, plane;
    std::uint32_t number;
  };
  class Borrowed;
  std::vector<Chunk> chunks_in(Region region) const;
  void read_plain(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const;
  void read_encoded(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const;
  void read_lines(TIFF* tiff, const Chunk& chunk, Region region, const Job& job, Image& image) const;
  /// Of so many pixels, as samples of the picture.
  std::size_t line_bytes(int pixels) const {
    return static_cast<std::size_t>(pixels) * static_cast<std::size_t>(stored_) * bytes_of(info_.depth);
  }
  /// The same, as they are stored.
  std::size_t raw_bytes(int pixels) const;
  /// A row of a chunk from its first pixel, as samples of the picture; in `room` where it has to be unpacked.
  const std::byte* unpacked(const std::byte* row, int pixels, std::vector<std::byte>& room) const;
  void read_by_library(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const;
  int stored_bands() const { return info_.bands + (info_.alpha || alpha_band_ ? 1 : 0); }

  fs::path path_;
  int page_;
  std::size_t max_bytes_;
  FileInfo info_;
  Colours colours_ = Colours::plain;
  std::vector<unsigned char> profile_;  // of inks
  std::shared_ptr<const struct SampleForm> form_;
  bool interleaved_ = true, tiled_ = false, plain_ = false, swapped_ = false;
  std::uint64_t shift_ = 0;         // of the samples, from where the directory says that they are
  bool alpha_band_ = false;         // alpha is there, and given as a band
  double expansion_ = 1;            // decoded bytes that a stored one may stand for
  int stored_ = 1;                  // samples of a pixel that stand together
  int chunk_width_, chunk_height_;  // of whole chunks
  mutable std::mutex mutex_;
  mutable std::vector<TiffPointer> idle_;  // the library's state is one thread's at a time
};

/// Writes the pages of a file, each from the top down.
class TiffWriter {
 public:
  /// `total_bytes` are all samples of all pages, which the kind of TIFF depends on.
  TiffWriter(SafeFile& file, fs::path path, double total_bytes, const WriteOptions& options);
  void begin_page(Size size, int bands, Depth depth, const std::optional<PixelSize>& pixel, int index, int count);
  /// Coordinates of the page that was begun, as GeoTIFF tags (OGC 19-008r4, "OGC GeoTIFF Standard", 2019): a
  /// transformation, no projection.
  void put_coordinates(const PlaneCoordinates& plane);
  /// The next rows: as many as strip_rows() or a multiple of it, but for the page's last.
  void append(const Image& rows, const Job& job);
  int strip_rows() const { return strip_rows_; }
  void end_page();
  void finish();

 private:
  void place_camera();
  std::vector<std::byte> encoded(const Image& rows, int y, int count) const;
  Error failed() const;

  fs::path path_;
  WriteOptions options_;
  TiffPointer tiff_;
  std::uint64_t photo_at_ = 0, place_at_ = 0;  // the camera's directories
  int strip_rows_ = 1;
  std::uint32_t next_strip_ = 0;
};

}  // namespace fexel::codec
