#include "measurements/path.h"

namespace fexel {

std::optional<Quantity> value_of(const PathMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> points = in_units(input);
  double sum = 0;
  for (std::size_t i = 1; i < points.size(); ++i) sum += distance(points[i - 1], points[i]);
  return Quantity{sum, unit_of(input)};
}

std::vector<Detail> details_of(const PathMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> points = in_units(input);
  return {{"straight", {distance(points.front(), points.back()), unit_of(input)}}};
}

}  // namespace fexel
