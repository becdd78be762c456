#pragma once
/// Pictures larger than memory: read by regions, and written from the top down.
#include <memory>

#include "files/picture.h"
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
  /// Checks the target as write_pictures() does. `options.format` is TIFF.
  PictureRows(const std::filesystem::path& path, Size size, int bands, Depth depth, int pages,
              const WriteOptions& options);
  ~PictureRows();
  /// The next rows of the page: a multiple of 64 of them, but for its last.
  void append(const Image& rows, const Job& job);
  /// Ends a page; the next one has the same shape.
  void end_page();
  /// Gives the file its name, after the last page.
  void commit();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace fexel
