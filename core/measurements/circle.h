#pragma once
/// A circle through points on a rim.
#include "measurements/measurement_base.h"

namespace fexel {

/// A circle through points on a rim, by least squares; its value is the diameter.
struct CircleMeasurement {
  static constexpr const char* word = "circle";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 3, most_points = many_points;
  bool operator==(const CircleMeasurement&) const = default;
};

std::optional<Quantity> value_of(const CircleMeasurement& circle, const MeasurementInput& input);
/// "centre_x", "centre_y", "circumference", "area", and "roundness": the largest distance of a point from it.
std::vector<Detail> details_of(const CircleMeasurement& circle, const MeasurementInput& input);
std::optional<std::string> problem_of(const CircleMeasurement& circle, std::span<const Point> points);
/// The circle through its points.
std::vector<OutlinePart> drawn_of(const CircleMeasurement& circle, std::span<const Point> outline);

}  // namespace fexel
