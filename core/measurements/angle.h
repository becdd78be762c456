#pragma once
/// The angle between two directions.
#include "measurements/measurement_base.h"

namespace fexel {

/// The angle at the second of three points, or between the lines through the first two and the last two of four; 0 to
/// 180 degrees, of lines 0 to 90.
struct AngleMeasurement {
  static constexpr const char* word = "angle";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 3, most_points = 4;
  bool operator==(const AngleMeasurement&) const = default;
};

std::optional<Quantity> value_of(const AngleMeasurement& angle, const MeasurementInput& input);
std::optional<std::string> problem_of(const AngleMeasurement& angle, std::span<const Point> points);
/// Two arms, or two lines.
std::vector<OutlinePart> drawn_of(const AngleMeasurement& angle, std::span<const Point> outline);

}  // namespace fexel
