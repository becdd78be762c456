#pragma once
/// What a hand can take hold of to change a mask.
#include <vector>

#include "chain/masks.h"

namespace fexel {

struct MaskHandle {
  Point at;
  const char* name;  ///< short, for the picture
};
/// In the source's coordinates. The last one of rectangles and polygons moves the whole.
std::vector<MaskHandle> handles_of(const Mask& mask);
/// The mask when its handle `index` is put at `to`.
Mask with_handle_at(Mask mask, int index, Point to);
/// A mask that was drawn by a line: between a rectangle's corners, from a circle's or ring's centre to its rim.
Mask drawn_mask(Mask::Shape shape, Point from, Point to);

}  // namespace fexel
