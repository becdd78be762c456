#pragma once
/// Rows of a picture's half.
#include "image/image.h"

namespace fexel {

/// Rows [y0, y1) of one band of the half of a picture, as described at Pyramid; vector code.
void halve_rows(const Image& in, int band, int y0, int y1, Image& out);

}  // namespace fexel
