#include "measurements/circle.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/ring_edge.h"

namespace fexel {

std::optional<Quantity> value_of(const CircleMeasurement&, const MeasurementInput& input) {
  const auto circle = fit_circle(in_units(input));
  if (!circle) return std::nullopt;
  return Quantity{2 * circle->radius, unit_of(input)};
}

std::vector<Detail> details_of(const CircleMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> points = in_units(input);
  const auto circle = fit_circle(points);
  if (!circle) return {};
  double departure = 0;
  for (const Point p : points) departure = std::max(departure, std::abs(distance(p, circle->centre) - circle->radius));
  const std::string unit = unit_of(input);
  const Point centre = on_axes(input, circle->centre);
  return {{"centre_x", {centre.x, unit}},
          {"centre_y", {centre.y, unit}},
          {"circumference", {2 * std::numbers::pi * circle->radius, unit}},
          {"area", {std::numbers::pi * circle->radius * circle->radius, area_unit_of(input)}},
          {"roundness", {departure, unit}}};
}

std::optional<std::string> problem_of(const CircleMeasurement&, std::span<const Point> points) {
  if (fit_circle({points.begin(), points.end()})) return std::nullopt;
  return "Its points lie on a line, or too close to one: place some farther around the rim.";
}

std::vector<OutlinePart> drawn_of(const CircleMeasurement&, std::span<const Point> outline) {
  const auto circle = fit_circle({outline.begin(), outline.end()});
  if (!circle) return {{{outline.begin(), outline.end()}, false}};
  OutlinePart around{{}, true};
  constexpr int steps = 180;
  for (int i = 0; i < steps; ++i) {
    const double turn = 2 * std::numbers::pi * i / steps;
    around.points.push_back(circle->centre + circle->radius * Point{std::cos(turn), std::sin(turn)});
  }
  return {around};
}

}  // namespace fexel
