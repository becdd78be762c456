#include "marks/ground.h"

#include <algorithm>
#include <cmath>

namespace fexel {

std::vector<double> luminances(const RgbPicture& under, const Rect& box, Size whole) {
  std::vector<double> out;
  const double sx = static_cast<double>(under.width) / whole.width,
               sy = static_cast<double>(under.height) / whole.height;
  const auto at = [](double v, int most) { return std::clamp(static_cast<int>(v), 0, most - 1); };
  const int x0 = at(std::floor(box.x * sx), under.width), x1 = at((box.x + box.width) * sx, under.width),
            y0 = at(std::floor(box.y * sy), under.height), y1 = at((box.y + box.height) * sy, under.height);
  for (int y = y0; y <= y1; ++y)
    for (int x = x0; x <= x1; ++x) {
      const std::uint8_t* p =
          under.pixels.data() +
          3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(under.width) + static_cast<std::size_t>(x));
      out.push_back(luminance({p[0] / 255.0, p[1] / 255.0, p[2] / 255.0, 1}));
    }
  std::ranges::sort(out);
  return out;
}

double worst_contrast(double ink, const std::vector<double>& sorted) {
  if (sorted.empty()) return 21;
  const std::size_t skip = sorted.size() / 50;
  double worst = 21;
  for (std::size_t i = skip; i < sorted.size() - skip; ++i) worst = std::min(worst, contrast_ratio(ink, sorted[i]));
  return worst;
}

}  // namespace fexel
