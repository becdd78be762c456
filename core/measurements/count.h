#pragma once
/// A number of places.
#include "measurements/measurement_base.h"

namespace fexel {

/// Places of one class; its value is how many they are.
struct CountMeasurement {
  static constexpr const char* word = "count";
  static constexpr std::array keys{"class"};
  static constexpr std::size_t least_points = 1, most_points = many_points;
  std::string of_class;  ///< what was counted; may be empty
  bool operator==(const CountMeasurement&) const = default;
};

std::optional<Quantity> value_of(const CountMeasurement& count, const MeasurementInput& input);
void read_measurement(JsonReader& in, CountMeasurement& count);
void write_measurement(nlohmann::ordered_json& out, const CountMeasurement& count);
/// Each of its places.
std::vector<OutlinePart> drawn_of(const CountMeasurement& count, std::span<const Point> outline);

}  // namespace fexel
