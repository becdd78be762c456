#pragma once
/// Pictures larger than memory: read by regions, and written from the top down.
#include <memory>

#include "files/picture.h"
#include "files/safe_file.h"
#include "geometry/plane_coordinates.h"
#include "geometry/point.h"

namespace fexel {

/// One page of a file, of which any part can be read. Several threads may read.
class PictureParts {
 public:
  virtual ~PictureParts() = default;
  /// The pixels of a region inside the page. Raises an input error as read_picture() does.
  virtual Image read(Region region, const Job& job) const = 0;
};
/// Nothing for a file that only comes whole: other formats than TIFF, and pages that have to be laid upright.
std::unique_ptr<PictureParts> open_parts(const std::filesystem::path& path, int page, const Limits& limits = {});

/// A TIFF that grows by rows and appears whole under its name, or not at all.
class PictureRows {
 public:
  struct Page {
    Size size;
    int bands = 1;
    Depth depth = Depth::u8;
    std::optional<PixelSize> pixel_size = {};
    std::optional<PlaneCoordinates> plane = {};
  };
  /// Checks the target as write_pictures() does. `options.format` is TIFF; pixel sizes are those of the pages.
  PictureRows(const std::filesystem::path& path, std::vector<Page> pages, const WriteOptions& options);
  ~PictureRows();
  /// The next rows of the page: a multiple of 64 of them, but for its last.
  void append(const Image& rows, const Job& job);
  /// Ends a page.
  void end_page();
  /// After the last page that there is to be: the file is complete but for its name.
  SafeFile& finish();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace fexel
