#include "measurements/point.h"

#include <cmath>

#include "measure/area_statistics.h"

namespace fexel {

std::optional<Quantity> value_of(const PointMeasurement&, const MeasurementInput& input) {
  return Quantity{on_axes(input, in_units(input)[0]).x, unit_of(input)};
}

std::vector<Detail> details_of(const PointMeasurement&, const MeasurementInput& input) {
  return {{"y", {on_axes(input, in_units(input)[0]).y, unit_of(input)}}};
}

std::vector<Detail> sampled_of(const PointMeasurement&, const MeasurementInput& input, const Image& image) {
  const Point p = input.points[0];
  if (!(p.x >= 0 && p.y >= 0 && p.x < image.width() && p.y < image.height())) return {};
  const int x = static_cast<int>(p.x), y = static_cast<int>(p.y);
  if (!image.valid(x, y)) return {};
  std::vector<Detail> out;
  for (int band = 0; band < image.bands(); ++band)
    out.push_back({"sample_" + std::to_string(band + 1), {sample_of(image, band, x, y), ""}});
  return out;
}

}  // namespace fexel
