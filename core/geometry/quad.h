#pragma once
/// The four corners of a rectangle that is seen at an angle.
#include <array>
#include <optional>
#include <string>

#include "geometry/point.h"

namespace fexel {

/// The same number for each corner.
constexpr std::array<double, 4> each_corner(double value) {
  return {value, value, value, value};
}

/// What keeps four points from being the view of a rectangle.
struct QuadProblem {
  enum class Kind { not_finite, same_point, collinear, crossed, concave, mirrored };
  Kind kind;
  std::string message;  ///< a sentence that names the corners by number, 1 to 4
  std::string remedy;
};

/// Nothing when the corners go top-left, top-right, bottom-right, bottom-left around a convex quad (clockwise on the
/// screen). Points closer than a hundredth of a pixel are the same; three are collinear when the middle one of them is
/// less than 1e-3 of their longest distance, or a tenth of a pixel, off the line.
std::optional<QuadProblem> check_quad(const Quad& quad);

/// The same four points in an order that check_quad accepts, where there is one: clockwise around their middle,
/// starting as close to the given first corner as the picture's top-left allows.
Quad in_order(const Quad& quad);

}  // namespace fexel
