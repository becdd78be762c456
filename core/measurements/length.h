#pragma once
/// The straight distance between two points.
#include "measurements/measurement_base.h"

namespace fexel {

/// A length between two points, with its true value where that is known.
struct LengthMeasurement {
  static constexpr const char* word = "length";
  static constexpr std::array keys{"expected", "unit"};
  static constexpr std::size_t least_points = 2, most_points = 2;
  std::optional<double> expected;  ///< the true length in `unit`, above zero
  std::string unit = "mm";
  bool operator==(const LengthMeasurement&) const = default;
};

std::optional<Quantity> value_of(const LengthMeasurement& length, const MeasurementInput& input);
/// The true value, where one is known.
/// "direction": from the first point to the second, -180 to 180 degrees: counter-clockwise on the screen from its rows;
/// with axes of one's own from x towards y.
std::vector<Detail> details_of(const LengthMeasurement& length, const MeasurementInput& input);
std::optional<Quantity> expected_of(const LengthMeasurement& length);
/// Takes another true value; nothing for none.
void set_expected(LengthMeasurement& length, const std::optional<Quantity>& expected);
void read_measurement(JsonReader& in, LengthMeasurement& length);
void write_measurement(nlohmann::ordered_json& out, const LengthMeasurement& length);

/// The straight distance of two points of a picture, in the unit of its pixel size (x and y apart), or in pixels.
Quantity length_between(Point a, Point b, const std::optional<PixelSize>& pixel);
/// The same length in `unit`; nothing where it is in pixels, or `unit` is no unit of length.
std::optional<double> length_in(const Quantity& length, const std::string& unit);

}  // namespace fexel
