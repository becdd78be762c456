#pragma once
/// Textures that repeat.
#include <vector>

#include "filter/fft_plans.h"
#include "image/image.h"

namespace fexel {

/// The shifts by which a plane looks like itself: none, one, or two that span a lattice, the shorter first, in px. They
/// are peaks of the autocorrelation of the gradient over the plane's middle, at 4 px and more. NaN does not count.
std::vector<Point> periods_in(const Image& plane, int left, int top, Size size, const FftPlans& transforms);

}  // namespace fexel
