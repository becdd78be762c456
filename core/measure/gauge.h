#pragma once
/// Gauges: lines of known or unknown length, laid on a picture.
#include <array>
#include <optional>
#include <span>
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
  std::array<double, 2> picking{0.5, 0.5};  ///< standard uncertainty to which the ends were placed, in source pixels
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

/// A length that was laid in a picture, in pixels, and what it truly is, in some unit.
struct MeasuredLength {
  double pixels, length;
  double by_hand;  ///< standard uncertainty of `pixels` from placing its ends
};
/// What one pixel is by known lengths, in their unit.
struct PixelScale {
  double per_pixel = 0;
  double uncertainty = 0;  ///< standard uncertainty, in the same unit
  double worst = 0;        ///< the largest share by which one of the lengths departs from it
  bool agree = true;       ///< none departs by more than four times what placing its ends explains
};
/// The scale by least squares through the origin over pixels. Of several lengths, how they scatter counts where that is
/// more than how they were placed. The lengths themselves are taken as exact. Nothing without a length, or where one is
/// not above zero.
std::optional<PixelScale> scale_of(std::span<const MeasuredLength> lengths);

}  // namespace fexel
