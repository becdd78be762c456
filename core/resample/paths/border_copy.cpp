#include "resample/paths/border_copy.h"

#include <algorithm>
#include <cstring>

namespace fexel {

void copy_with_border(const Image& source, const Region& box, BorderMode edge, std::uint8_t* out, std::ptrdiff_t stride,
                      std::ptrdiff_t plane) {
  const int right = box.x + box.width;
  const int begin = std::clamp(0, box.x, right), end = std::clamp(source.width(), begin, right);
  for (int band = 0; band < source.bands(); ++band, out += plane)
    for (int y = 0; y < box.height; ++y) {
      const auto* in = source.row<std::uint8_t>(band, folded(box.y + y, source.height(), edge));
      std::uint8_t* row = out + y * stride;
      for (int x = box.x; x < begin; ++x) row[x - box.x] = in[folded(x, source.width(), edge)];
      if (begin < end) std::memcpy(row + (begin - box.x), in + begin, static_cast<std::size_t>(end - begin));
      for (int x = end; x < right; ++x) row[x - box.x] = in[folded(x, source.width(), edge)];
    }
}

}  // namespace fexel
