#pragma once
/// Frames that are written one after the other, as the pages of one file or as numbered files.
#include <memory>
#include <vector>

#include "files/picture.h"
#include "geometry/point.h"

namespace fexel {

/// What stands in a file's name for a frame's number, from 1.
inline constexpr std::string_view frame_number = "{index}";

/// The files that `count` frames are written to: `out` itself, or one for each frame where its name holds "{index}".
std::vector<std::filesystem::path> sequence_names(const std::filesystem::path& out, int count);
/// Raises the call errors of check_target() for each of them, and one for a name that ends in what no picture has, or,
/// where all frames go into one file, in anything but TIFF.
void check_sequence(const std::filesystem::path& out, int count, const WriteOptions& options);

/// All frames have one shape. A numbered file is whole as soon as it has its name; the pages of one file appear
/// together, with commit().
class SequenceWriter {
 public:
  struct Shape {
    Size size;
    int bands = 1;
    Depth depth = Depth::u8;
  };
  SequenceWriter(const std::filesystem::path& out, const Shape& shape, int count, const WriteOptions& options);
  ~SequenceWriter();
  void append(const Image& frame, const Job& job);
  /// After the last frame.
  void commit();
  const std::vector<std::filesystem::path>& names() const { return names_; }

 private:
  std::vector<std::filesystem::path> names_;
  WriteOptions options_;
  std::size_t next_ = 0;
  std::unique_ptr<class PictureRows> rows_;  // of one file with all
};

}  // namespace fexel
