#include "measurements/length.h"

#include <cmath>

#include "text/reader.h"

namespace fexel {

std::optional<Quantity> value_of(const LengthMeasurement&, const MeasurementInput& input) {
  return length_between(input.points[0], input.points[1], input.pixel);
}

std::vector<Detail> details_of(const LengthMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> points = in_units(input);
  const Point a = on_axes(input, points[0]), b = on_axes(input, points[1]);
  if (a == b) return {};
  const double up = input.axes ? b.y - a.y : a.y - b.y;
  return {{"direction", {std::atan2(up, b.x - a.x) * 180 / M_PI, "°"}}};
}

std::optional<Quantity> expected_of(const LengthMeasurement& length) {
  return length.expected ? std::optional(Quantity{*length.expected, length.unit}) : std::nullopt;
}

void set_expected(LengthMeasurement& length, const std::optional<Quantity>& expected) {
  length.expected.reset();
  if (!expected) return;
  length.expected = expected->value;
  length.unit = expected->unit;
}

void read_measurement(JsonReader& in, LengthMeasurement& length) {
  constexpr double least = 1e-12, largest = 1e12;
  if (in.has("expected")) length.expected = in.number("expected", least, largest);
  if (in.has("unit")) length.unit = in.choice("unit", length_units());
}

void write_measurement(Json& out, const LengthMeasurement& length) {
  if (length.expected) out["expected"] = *length.expected;
  out["unit"] = length.unit;
}

Quantity length_between(Point a, Point b, const std::optional<PixelSize>& pixel) {
  if (!pixel) return {distance(a, b), "px"};
  return {std::hypot((a.x - b.x) * pixel->x, (a.y - b.y) * pixel->y), pixel->unit};
}

std::optional<double> length_in(const Quantity& length, const std::string& unit) {
  if (length.unit == "px" || !is_length_unit(unit)) return std::nullopt;
  return length.value * metres_per(length.unit) / metres_per(unit);
}

}  // namespace fexel
