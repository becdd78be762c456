#pragma once
/// The kernel that is widened where a map shrinks, laid along a pixel's footprint.
#include <array>
#include <cstdint>
#include <vector>

#include "image/image.h"
#include "resample/kernels/footprint.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// The taps under the widened kernels of up to 16 neighbouring pixels. Each pixel counts them from the one to the left
/// of and above its point: tap (i, j) stands (i − x, j − y) from the point, which is u = ux (i − x) + uy (j − y) and v
/// = vx (i − x) + vy (j − y) in the kernel's own units.
struct WidenedTaps {
  static constexpr int pixels = 16;
  /// What changes by as much from pixel to pixel.
  struct Line {
    float start, step;
  };
  /// Taps weigh nothing where |right (i − x) + down (j − y)| >= end, whichever the pixel.
  struct Band {
    float right, down, end;
  };
  Line ux, uy, vx, vy;
  Band along_u, along_v;
  int left, top, columns, rows;  ///< the box of taps (i, j) that may weigh something
  int first;                     ///< place of the first pixel on the lines
  alignas(64) float x[pixels], y[pixels];
  alignas(64) std::int32_t offset[pixels],
      nearest[pixels];  ///< bytes to tap (0, 0), and to the one nearest to the point
};

/// Interpolates points with the widened kernel laid along their footprints, in vector code.
class WidenedSampler {
 public:
  WidenedSampler(const Image& source, Kernel kernel, BorderMode edge);

  /// Up to 16 neighbouring pixels: footprints change evenly from the first one's to that of the one behind the last.
  struct FootprintSpan {
    const Footprint &from, &to;
    int pixels;
  };
  /// Pixels [first, first + count) of a stretch, and their points of the source, in its own coordinates.
  struct Points {
    int first, count;
    const double *x, *y;
  };
  /// The value of each band at the points, bands `apart` from each other in `out`. Along each axis of the footprint the
  /// kernel's own width and the widened one have the shares that the footprint says.
  void sample(const FootprintSpan& stretch, const Points& points, float* out, std::ptrdiff_t apart);

 private:
  /// The samples of a box, in bytes from row to row and from band to band.
  struct Samples {
    const std::byte* first;
    std::ptrdiff_t stride, plane;
  };
  /// The kernels along u and v.
  struct Axes {
    const ShrinkingKernel &u, &v;
  };
  WidenedTaps taps_of(const Axes& axes, const FootprintSpan& stretch, int begin, int end, bool& steady) const;
  void along_u(bool wide_v, const FootprintSpan& stretch, const Points& points, float* out, std::ptrdiff_t apart);
  void part(const Axes& axes, const FootprintSpan& stretch, int begin, int end, const Points& points, float* out,
            std::ptrdiff_t apart);
  void under(const Axes& axes, WidenedTaps& taps, const Points& points, float* out, std::ptrdiff_t apart);
  void weigh(const Axes& axes, WidenedTaps& taps, int count, const Samples& samples, const Region& box);
  Samples laid_out(const Region& box);

  const Image& source_;
  const ShrinkingKernel &wide_, &own_;
  bool area_;
  BorderMode edge_;
  std::ptrdiff_t sample_bytes_;
  std::array<int, WidenedTaps::pixels> columns_, rows_;  // of the taps that pixels count from
  std::vector<std::byte> laid_out_;
  std::vector<float> means_;          // of up to 16 pixels, band by band
  std::vector<float> across_, down_;  // likewise, of a second kernel along u, and along v
};

}  // namespace fexel
