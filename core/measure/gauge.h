#pragma once
/// Gauges: lines of known or unknown length, laid on a picture.
#include <optional>
#include <string>

#include "base/units.h"
#include "geometry/map.h"

namespace fexel {

/// A line between two points of one station. It measures and changes nothing.
struct Gauge {
  std::string name;
  int station = 0;
  Point from, to;
  std::optional<double> expected;  ///< its true length in `unit`, above zero
  std::string unit = "mm";
  bool operator==(const Gauge&) const = default;
};

/// A length with the unit that it is in; unit "px" where the pixel size is unknown.
struct Length {
  double value = 0;
  std::string unit = "px";
};

/// The straight distance of two points of a picture, in the unit of its pixel size (x and y apart), or in pixels.
Length length_between(Point a, Point b, const std::optional<PixelSize>& pixel);
/// The same length said in `unit`; nothing when the length is in pixels.
std::optional<double> length_in(const Length& length, const std::string& unit);

}  // namespace fexel
