#include "measurements/angle.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fexel {

std::optional<Quantity> value_of(const AngleMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> p = in_units(input);
  const bool lines = p.size() == 4;
  const Point a = lines ? p[1] - p[0] : p[0] - p[1], b = lines ? p[3] - p[2] : p[2] - p[1];
  const double dot = a.x * b.x + a.y * b.y, turned = a.x * b.y - a.y * b.x;
  if (dot == 0 && turned == 0) return std::nullopt;
  double degrees = std::abs(std::atan2(turned, dot)) * 180 / std::numbers::pi;
  if (lines) degrees = std::min(degrees, 180 - degrees);
  return Quantity{degrees, "°"};
}

std::optional<std::string> problem_of(const AngleMeasurement&, std::span<const Point> points) {
  const bool same = distance(points[0], points[1]) < 0.01 || distance(points[points.size() - 2], points.back()) < 0.01;
  if (!same) return std::nullopt;
  return "Two of its points are the same: move them apart.";
}

std::vector<OutlinePart> drawn_of(const AngleMeasurement&, std::span<const Point> outline) {
  if (outline.size() == 4) return {{{outline[0], outline[1]}, false}, {{outline[2], outline[3]}, false}};
  return {{{outline.begin(), outline.end()}, false}};
}

}  // namespace fexel
