#pragma once
/// What every kind of measurement gets, and what it gives.
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <span>
#include <string>

#include "base/units.h"
#include "geometry/map.h"

namespace fexel {

class JsonReader;

/// The points of a measurement, carried to the station where it is read.
struct MeasurementInput {
  std::span<const Point> points;
  std::optional<PixelSize> pixel;  ///< of that station
};

/// A value with its unit; "px" where the pixel size is unknown.
struct Quantity {
  double value = 0;
  std::string unit = "px";
};

}  // namespace fexel
