#pragma once
/// The inner loops: a short run of source coordinates in, interpolated samples out.
#include <array>

#include "image/image.h"
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

}  // namespace fexel
