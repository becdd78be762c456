#include "measurements/areas.h"

#include <cmath>

#include "geometry/polygon.h"
#include "measure/area_statistics.h"

namespace fexel {

std::vector<Point> with_points_between(std::span<const Point> polygon) {
  constexpr int parts = 8;
  std::vector<Point> out;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    for (int k = 0; k < parts; ++k) out.push_back(a + static_cast<double>(k) / parts * (b - a));
  }
  return out;
}

Quantity area_value(const MeasurementInput& outline, double factor) {
  return {factor * std::abs(signed_area(in_units(outline))), area_unit_of(outline)};
}

std::vector<Detail> area_details(const MeasurementInput& outline) {
  const std::vector<Point> points = in_units(outline);
  const Point middle = on_axes(outline, centroid(points));
  const std::string unit = unit_of(outline);
  return {{"perimeter", {perimeter(points), unit}}, {"centroid_x", {middle.x, unit}}, {"centroid_y", {middle.y, unit}}};
}

std::vector<Detail> area_samples(const MeasurementInput& outline, const Image& image) {
  const auto found = statistics_inside(outline.points, image);
  if (!found) return {{"n", {0, ""}}, {"covered", {0, ""}}};
  return {{"n", {found->pixels, ""}},      {"mean", {found->mean, ""}},
          {"median", {found->median, ""}}, {"deviation", {found->deviation, ""}},
          {"min", {found->least, ""}},     {"max", {found->most, ""}},
          {"sum", {found->sum, ""}},       {"covered", {found->pixels / std::abs(signed_area(outline.points)), ""}}};
}

std::vector<OutlinePart> closed_outline(std::span<const Point> outline) {
  return {{{outline.begin(), outline.end()}, true}};
}

}  // namespace fexel
