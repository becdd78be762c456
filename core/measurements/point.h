#pragma once
/// One place.
#include "measurements/measurement_base.h"

namespace fexel {

/// One place; its value is x, and "y" goes with it.
struct PointMeasurement {
  static constexpr const char* word = "point";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 1, most_points = 1;
  static constexpr bool reads_pixels = true;
  bool operator==(const PointMeasurement&) const = default;
};

std::optional<Quantity> value_of(const PointMeasurement& point, const MeasurementInput& input);
/// "y".
std::vector<Detail> details_of(const PointMeasurement& point, const MeasurementInput& input);
/// "sample_1" ...: what each band holds there.
std::vector<Detail> sampled_of(const PointMeasurement& point, const MeasurementInput& input, const Image& image);

}  // namespace fexel
