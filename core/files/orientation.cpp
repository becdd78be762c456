#include "files/orientation.h"

#include <algorithm>

namespace fexel::codec {

Image upright(const Image& stored, int orientation) {
  const int w = stored.width(), h = stored.height();
  const bool swapped = swaps_sides(orientation);
  Image out(swapped ? h : w, swapped ? w : h, stored.bands(), stored.depth());
  out.set_largest(stored.stated_largest());
  // Where row 0 and column 0 of the stored picture lie: 1 top left, 2 top right, 3 bottom right, 4 bottom left, and
  // with rows for columns 5 left top, 6 right top, 7 right bottom, 8 left bottom.
  const bool from_right = orientation == 2 || orientation == 3 || orientation == 6 || orientation == 7;
  const bool from_bottom = orientation == 3 || orientation == 4 || orientation == 7 || orientation == 8;
  if (stored.has_mask()) out.make_mask(false);
  out.set_partly_there(stored.partly_there());
  const auto move = [&](auto read, auto write) {
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x) {
        const int u = from_right ? out.width() - 1 - x : x, v = from_bottom ? out.height() - 1 - y : y;
        write(x, y, swapped ? read(v, u) : read(u, v));
      }
  };
  visit_depth(stored.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < stored.bands(); ++band)
      move([&](int x, int y) { return stored.row<T>(band, y)[x]; },
           [&](int x, int y, T value) { out.row<T>(band, y)[x] = value; });
  });
  if (stored.has_mask())
    move([&](int x, int y) { return stored.valid(x, y); },
         [&](int x, int y, bool valid) { out.set_valid(x, y, valid); });
  return out;
}

}  // namespace fexel::codec
