#include "measurements/polygon.h"

#include <fmt/format.h>

#include "geometry/polygon.h"
#include "measurements/areas.h"

namespace fexel {

std::optional<Quantity> value_of(const PolygonMeasurement&, const MeasurementInput& input) {
  return area_value(input);
}

std::vector<Detail> details_of(const PolygonMeasurement&, const MeasurementInput& input) {
  return area_details(input);
}

std::vector<Detail> sampled_of(const PolygonMeasurement&, const MeasurementInput& input, const Image& image) {
  return area_samples(input, image);
}

std::vector<Point> outline_of(const PolygonMeasurement&, std::span<const Point> points) {
  return with_points_between(points);
}

std::optional<std::string> problem_of(const PolygonMeasurement&, std::span<const Point> points) {
  if (const auto sides = crossing_sides(points))
    return fmt::format("Its sides {} and {} cross or touch: move a corner so that they do not.", sides->first + 1,
                       sides->second + 1);
  if (signed_area(points) == 0) return "It has no area: move a corner off the line.";
  return std::nullopt;
}

std::vector<OutlinePart> drawn_of(const PolygonMeasurement&, std::span<const Point> outline) {
  return closed_outline(outline);
}

}  // namespace fexel
