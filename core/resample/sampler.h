#pragma once
/// The inner loops: a short run of source coordinates in, interpolated samples out.
#include <array>

#include "image/image.h"
#include "resample/footprint.h"
#include "resample/kernel.h"

namespace fexel {

inline constexpr int run_length = 64;

/// Source coordinates of `count` neighbouring result pixels, with footprints where the map shrinks.
struct Run {
  int count = 0;
  std::array<double, run_length> x, y;
};

/// Interpolates with the kernel's own width; what lies outside is read by the edge rule. For bspline3 `source` holds
/// spline_coefficients(), and coordinates are still those of the picture. `out` receives run.count values; the error
/// against double arithmetic is below 1e-6 of the sample range.
void sample_plain(const Image& source, int band, Kernel kernel, Edge edge, const Run& run, float* out);

/// Interpolates one point with the widened kernel laid along the footprint, for all bands. The weights are computed
/// once.
class ShrinkingSampler {
 public:
  ShrinkingSampler(Kernel kernel, Edge edge)
      : kernel_(ShrinkingKernel::of(kernel)), area_(kernel == Kernel::area), edge_(edge) {}
  /// Prepares the weights for a point of `source` (its own coordinates) with its footprint.
  void place(const Image& source, double x, double y, const Matrix2& reach, const Matrix2& to_result);
  float value(const Image& source, int band) const;

 private:
  template <class Weight>
  void weigh(const Matrix2& to_result, float dx0, float dy0, const Weight& along_u, const Weight& along_v);

  const ShrinkingKernel& kernel_;
  bool area_;
  Edge edge_;
  int left_ = 0, top_ = 0, columns_ = 0, rows_ = 0;
  bool inside_ = false;
  float inverse_sum_ = 0;
  std::vector<float> weights_, across_;
};

}  // namespace fexel
