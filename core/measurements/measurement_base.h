#pragma once
/// What every kind of measurement gets, and what it gives.
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/units.h"
#include "geometry/axes.h"
#include "image/image.h"

namespace fexel {

class JsonReader;

/// As many points as a measurement may have.
inline constexpr std::size_t many_points = 10000;

/// The outline of a measurement, carried to the station where it is read.
struct MeasurementInput {
  std::span<const Point> points;
  std::optional<PixelSize> pixel;     ///< of that station
  std::optional<AxesHere> axes = {};  ///< there; else coordinates count from the top left corner
};

/// A value with its unit; "px" where the pixel size is unknown, "°" of angles, a unit with "²" of areas, "" of counts.
struct Quantity {
  double value = 0;
  std::string unit = "px";
};

/// What is known beside the value: "perimeter" and its quantity.
struct Detail {
  std::string name;
  Quantity quantity;
};

/// The points in the unit of the pixel size, x and y apart; in pixels where it is unknown.
std::vector<Point> in_units(const MeasurementInput& input);
/// A place in the unit of the pixel size, as coordinates on the axes.
Point on_axes(const MeasurementInput& input, Point in_units);
/// That unit, and the unit of areas.
std::string unit_of(const MeasurementInput& input);
std::string area_unit_of(const MeasurementInput& input);

/// A line or a closed outline of a measurement, as it is drawn; a single point is a place.
struct OutlinePart {
  std::vector<Point> points;
  bool closed = false;
};

// What a kind does not say for itself.

/// What its carried outline looks like.
template <class Kind>
std::vector<OutlinePart> drawn_of(const Kind&, std::span<const Point> outline) {
  return {{{outline.begin(), outline.end()}, false}};
}

/// The points of its station that are carried to others: those that were placed.
template <class Kind>
std::vector<Point> outline_of(const Kind&, std::span<const Point> points) {
  return {points.begin(), points.end()};
}
/// Why it cannot be read from its points, in a sentence; nothing where it can.
template <class Kind>
std::optional<std::string> problem_of(const Kind&, std::span<const Point>) {
  return std::nullopt;
}
template <class Kind>
std::optional<Quantity> expected_of(const Kind&) {
  return std::nullopt;
}
template <class Kind>
void set_expected(Kind&, const std::optional<Quantity>&) {}
template <class Kind>
std::vector<Detail> details_of(const Kind&, const MeasurementInput&) {
  return {};
}
/// What the pixels of the station say.
template <class Kind>
std::vector<Detail> sampled_of(const Kind&, const MeasurementInput&, const Image&) {
  return {};
}
template <class Kind>
void read_measurement(JsonReader&, Kind&) {}
template <class Kind>
void write_measurement(nlohmann::ordered_json&, const Kind&) {}

}  // namespace fexel
