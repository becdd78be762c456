#include "measurements/measurement_base.h"

namespace fexel {

std::vector<Point> in_units(const MeasurementInput& input) {
  std::vector<Point> out(input.points.begin(), input.points.end());
  if (input.pixel)
    for (Point& p : out) p = {p.x * input.pixel->x, p.y * input.pixel->y};
  return out;
}

Point on_axes(const MeasurementInput& input, Point in_units) {
  if (!input.axes) return in_units;
  const Point pixel = input.pixel ? Point{input.pixel->x, input.pixel->y} : Point{1, 1};
  return input.axes->coordinates({in_units.x / pixel.x, in_units.y / pixel.y});
}

std::string unit_of(const MeasurementInput& input) {
  return input.pixel ? input.pixel->unit : "px";
}

std::string area_unit_of(const MeasurementInput& input) {
  return unit_of(input) + "²";
}

}  // namespace fexel
