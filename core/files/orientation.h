#pragma once
/// The orientation tag: how a stored picture has to be laid to stand upright.
#include "image/image.h"

namespace fexel::codec {

/// Whether the tag (1 to 8) makes rows of columns.
inline bool swaps_sides(int orientation) {
  return orientation >= 5;
}
/// The picture upright, its samples moved bit for bit. Tags by TIFF 6.0 (1992), section "Orientation".
Image upright(const Image& stored, int orientation);

}  // namespace fexel::codec
