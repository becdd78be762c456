#pragma once
/// Interpolation of bytes in 16-bit numbers, 32 pixels at a time, where a map neither turns nor scales much. What a
/// tile reads is laid out as such numbers once, edges included, so that rows need no other code where the picture ends.
#include <vector>

#include "image/image.h"
#include "resample/coordinates/map_grid.h"
#include "resample/kernels/kernel.h"
#include "resample/paths/row_float.h"

namespace fexel {

/// What blocks read of a byte picture: the pixels of `box`, which may lie beyond the picture, where the border mode
/// says what is read (fill and extend: the pixel at the edge). Linear interpolation reads bytes, the picture's own
/// where it holds the box; wider kernels read 16-bit numbers, 128 (sample − 128).
class Int16Tile {
 public:
  /// Pixels that are interpolated together.
  static constexpr int block = 32;
  /// Pixels around a tile of whole blocks that these may read.
  static constexpr int around(Kernel kernel) {
    return (kernel == Kernel::linear ? 1 : kernel == Kernel::cubic ? 2 : 3) + 3;
  }
  /// What a bend within the tile may add to that.
  static constexpr int bent = 4;
  /// Rows are worked on in blocks that begin `phase` pixels before multiples of their length.
  Int16Tile(const Image& source, Kernel kernel, Region box, BorderMode edge, int phase);
  int phase() const { return phase_; }
  const Region& box() const { return box_; }
  int bands() const { return bands_; }
  /// Samples from row to row, and from band to band.
  std::ptrdiff_t stride() const { return stride_; }
  std::ptrdiff_t plane() const { return plane_; }
  /// Pixel (0, 0) of the picture, first band; bytes for linear and 16-bit numbers for others.
  template <class Sample>
  const Sample* origin() const {
    return reinterpret_cast<const Sample*>(first_) - box_.y * stride_ - box_.x;
  }

 private:
  void lay_out(const Image& source, BorderMode edge);

  Region box_;
  int phase_, bands_;
  Image samples_;  // none where the picture's own are read
  const std::byte* first_;
  std::ptrdiff_t stride_, plane_;
};

/// As interpolate_row(), into bytes, with linear, cubic or lanczos3; also leaves what is too steep for it, and all of
/// it on processors without vectors. Coordinates are right within 2^-14 px, and the unrounded value within 0.06 of a
/// grey level.
void interpolate_int16(const Int16Tile& words, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                       const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped);
/// The same for a row of a curved map; see interpolate_along().
void interpolate_int16_along(const Int16Tile& words, Kernel kernel, const MapGridRow& row, int x, int count,
                             const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped);

}  // namespace fexel
