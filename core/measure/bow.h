#pragma once
/// What the bows of a rectangle's sides say of the lens.
#include "measure/edges.h"

namespace fexel {

struct BowedLens {
  double k1 = 0;      ///< of geometry/lens.h, about the picture's middle, in units of its width
  double before = 0;  ///< the largest bow, in pixels, as it was found
  double after = 0;   ///< and once the lens is undone
};

/// The k1 that straightens the four sides best, weighted by how well each bow is known; the picture is `size`. Nothing
/// where the sides are straight within twice their uncertainty, or where no lens straightens them to less than half:
/// then it is not the lens that bows.
std::optional<BowedLens> lens_of_bows(const EdgeCorners& found, Size size);

}  // namespace fexel
