#pragma once
/// The inner loops: a short run of source coordinates in, interpolated samples out.
#include "image/image.h"
#include "resample/coordinates/source_points.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// Interpolates with the kernel's own width; what lies outside is read by the border mode. For bspline3 `source` holds
/// spline_coefficients(), and coordinates are still those of the picture. `out` receives run.count values; the error
/// against double arithmetic is below 1e-6 of the sample range.
void sample_plain(const Image& source, int band, Kernel kernel, BorderMode edge, const SourcePoints& run, float* out);

}  // namespace fexel
