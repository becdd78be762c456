#pragma once
/// The kernel that is widened where a map shrinks, laid along a pixel's footprint.
#include <vector>

#include "image/image.h"
#include "resample/footprint.h"
#include "resample/kernel.h"

namespace fexel {

/// The taps under a widened kernel: `columns` x `rows` of them. A tap at (x, y) from the point stands at u = ux x + uy
/// y and v = vx x + vy y, in result pixels, and weighs something where |u| < end_u and |v| < end_v.
struct WidenedTaps {
  float x, y;  ///< of the first tap
  float ux, uy, vx, vy, end_u, end_v;
  int columns, rows;
};

/// Interpolates points with the widened kernel laid along their footprints, in vector code.
class WidenedSampler {
 public:
  WidenedSampler(const Image& source, Kernel kernel, Edge edge)
      : source_(source),
        kernel_(ShrinkingKernel::of(kernel)),
        area_(kernel == Kernel::area),
        edge_(edge),
        values_(static_cast<std::size_t>(source.bands())) {}
  /// The value of each band at a point of the source (its own coordinates), `apart` from each other in `out`.
  void sample(double x, double y, const Matrix2& reach, const Matrix2& to_result, float* out, std::ptrdiff_t apart);

 private:
  void lay_out(const WidenedTaps& taps, int left, int top, std::ptrdiff_t stride);

  const Image& source_;
  const ShrinkingKernel& kernel_;
  bool area_;
  Edge edge_;
  std::vector<float> laid_out_, values_;
};

}  // namespace fexel
