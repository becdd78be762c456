#pragma once
/// The way along several points.
#include "measurements/measurement_base.h"

namespace fexel {

/// A way along points; its value is the length along it.
struct PathMeasurement {
  static constexpr const char* word = "path";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 3, most_points = many_points;
  bool operator==(const PathMeasurement&) const = default;
};

std::optional<Quantity> value_of(const PathMeasurement& path, const MeasurementInput& input);
/// "straight": from the first point to the last.
std::vector<Detail> details_of(const PathMeasurement& path, const MeasurementInput& input);

}  // namespace fexel
