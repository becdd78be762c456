#pragma once
/// Parts of byte pictures with what lies beyond their edges.
#include "geometry/point.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// Whether a picture has all pixels of the box.
inline bool holds(const Image& image, const Region& box) {
  return box.x >= 0 && box.y >= 0 && box.x + box.width <= image.width() && box.y + box.height <= image.height();
}

/// Copies what the box covers of a byte picture; beyond the picture, what the border mode reads there (fill and extend:
/// the pixel at the edge). Rows of the copy are `stride` bytes apart and bands `plane`.
void copy_with_border(const Image& source, const Region& box, BorderMode edge, std::uint8_t* out, std::ptrdiff_t stride,
                      std::ptrdiff_t plane);

}  // namespace fexel
