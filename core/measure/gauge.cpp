#include "measure/gauge.h"

namespace fexel {

Length length_between(Point a, Point b, const std::optional<PixelSize>& pixel) {
  if (!pixel) return {distance(a, b), "px"};
  return {std::hypot((a.x - b.x) * pixel->x, (a.y - b.y) * pixel->y), pixel->unit};
}

std::optional<double> length_in(const Length& length, const std::string& unit) {
  if (length.unit == "px" || !is_length_unit(unit)) return std::nullopt;
  return length.value * metres_per(length.unit) / metres_per(unit);
}

}  // namespace fexel
