#include "measurements/rectangle.h"

#include <array>

#include "measurements/areas.h"

namespace fexel {

std::optional<Quantity> value_of(const RectangleMeasurement&, const MeasurementInput& input) {
  return area_value(input);
}

std::vector<Detail> details_of(const RectangleMeasurement&, const MeasurementInput& input) {
  return area_details(input);
}

std::vector<Detail> sampled_of(const RectangleMeasurement&, const MeasurementInput& input, const Image& image) {
  return area_samples(input, image);
}

std::vector<Point> outline_of(const RectangleMeasurement&, std::span<const Point> points) {
  const Point a = points[0], b = points[1];
  const std::array<Point, 4> corners = {a, {b.x, a.y}, b, {a.x, b.y}};
  return with_points_between(corners);
}

std::optional<std::string> problem_of(const RectangleMeasurement&, std::span<const Point> points) {
  if (points[0].x != points[1].x && points[0].y != points[1].y) return std::nullopt;
  return "It has no area: move its corners apart in both directions.";
}

std::vector<OutlinePart> drawn_of(const RectangleMeasurement&, std::span<const Point> outline) {
  return closed_outline(outline);
}

}  // namespace fexel
