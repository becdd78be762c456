#include "measurements/ellipse.h"

#include <cmath>
#include <numbers>

#include "measurements/areas.h"

namespace fexel {
namespace {

constexpr int outline_points = 256;
/// The area of an ellipse in areas of the polygon on it, which every affine map keeps.
const double full_of_polygon = 2 * std::numbers::pi / outline_points / std::sin(2 * std::numbers::pi / outline_points);

}  // namespace

std::optional<Quantity> value_of(const EllipseMeasurement&, const MeasurementInput& input) {
  return area_value(input, full_of_polygon);
}

std::vector<Detail> details_of(const EllipseMeasurement&, const MeasurementInput& input) {
  return area_details(input);
}

std::vector<Detail> sampled_of(const EllipseMeasurement&, const MeasurementInput& input, const Image& image) {
  return area_samples(input, image);
}

std::vector<Point> outline_of(const EllipseMeasurement&, std::span<const Point> points) {
  const Point axis = points[1] - points[0];
  const double length = distance(points[0], points[1]);
  if (length == 0) return std::vector<Point>(outline_points, points[0]);
  const double other = std::abs(cross(points[0], points[1], points[2])) / length;
  const Point across = other / length * Point{-axis.y, axis.x};
  std::vector<Point> out;
  for (int i = 0; i < outline_points; ++i) {
    const double turn = 2 * std::numbers::pi * i / outline_points;
    out.push_back(points[0] + std::cos(turn) * axis + std::sin(turn) * across);
  }
  return out;
}

std::optional<std::string> problem_of(const EllipseMeasurement&, std::span<const Point> points) {
  const double length = distance(points[0], points[1]);
  if (length > 0.01 && std::abs(cross(points[0], points[1], points[2])) / length > 0.01) return std::nullopt;
  return "It has no area: move its points apart, the third off the line through the other two.";
}

std::vector<OutlinePart> drawn_of(const EllipseMeasurement&, std::span<const Point> outline) {
  return closed_outline(outline);
}

}  // namespace fexel
