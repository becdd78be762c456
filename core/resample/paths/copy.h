#pragma once
/// Whole-pixel moves: shifts, quarter turns and mirrors, which copy pixels bit for bit.
#include <optional>

#include "geometry/clip.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// Result pixel (i, j) is the source pixel (xx i + xy j + x0, yx i + yy j + y0).
struct PixelMove {
  int xx, xy, x0, yx, yy, y0;
};

/// Source pixels from one result pixel to the next, along the result's axes.
struct Stride {
  int x = 1, y = 1;
  bool operator==(const Stride&) const = default;
};

/// The whole-pixel move that `inverse_map` (result to source) is, when it differs from one by at most 1e-6 px at every
/// corner of the result; otherwise nothing. With a stride above 1, the move that takes every such pixel.
std::optional<PixelMove> whole_pixel_move(const Matrix3& inverse_map, Size result, Stride stride = {});

/// Copies the pixels of `region` (half-open rows y0 to y1 of it, counted from its top) into `out`. Pixels outside
/// `clip` are filled, or extended, as `resampling` says.
void copy_moved(const Image& source, const PixelMove& move, const Clip& clip, Region region, int y0, int y1,
                const Resampling& resampling, Image& out);

}  // namespace fexel
