#include "measure/scale.h"

#include <algorithm>
#include <cmath>

namespace fexel {

std::optional<PixelScale> scale_of(std::span<const MeasuredLength> lengths) {
  // Lengths are exact and pixels are not: pixels are fitted as lengths times the pixels of one unit.
  double products = 0, squares = 0, placed = 0;
  for (const MeasuredLength& k : lengths) {
    if (!(k.pixels > 0 && k.length > 0)) return std::nullopt;
    products += k.pixels * k.length;
    squares += k.length * k.length;
    placed += k.length * k.length * k.by_hand * k.by_hand;
  }
  if (squares == 0) return std::nullopt;
  const double per_unit = products / squares, by_hand = std::sqrt(placed / squares);
  PixelScale out;
  out.per_pixel = 1 / per_unit;
  double residuals = 0;
  for (const MeasuredLength& k : lengths) {
    const double off = k.pixels - per_unit * k.length;
    residuals += off * off;
    out.worst = std::max(out.worst, std::abs(off) / (per_unit * k.length));
    out.agree = out.agree && std::abs(off) <= 4 * k.by_hand;
  }
  const double scatter = lengths.size() > 1 ? std::sqrt(residuals / static_cast<double>(lengths.size() - 1)) : 0;
  out.uncertainty = out.per_pixel / per_unit * std::max(by_hand, scatter) / std::sqrt(squares);
  return out;
}

}  // namespace fexel
