#include "geometry/axes.h"

#include <cmath>
#include <numbers>

namespace fexel {

Point AxesHere::place(Point at) const {
  const double x = at.x - value.x, y = at.y - value.y;
  const double determinant = along.x * across.y - along.y * across.x;
  const Point d{(x * across.y - y * along.y) / determinant, (y * along.x - x * across.x) / determinant};
  return {origin.x + d.x / pixel.x, origin.y + d.y / pixel.y};
}

bool AxesHere::level() const {
  constexpr double slant = 1e-3;
  return std::abs(along.y) < slant && std::abs(across.x) < slant;
}

std::optional<AxesHere> axes_through(const Axes& axes, const Map& map, Point pixel_there, Point pixel_here) {
  const auto origin = map.forward(axes.origin);
  const auto slope = map.jacobian(axes.origin);
  if (!origin || !slope) return std::nullopt;
  const double turn = axes.turn * std::numbers::pi / 180, c = std::cos(turn), s = std::sin(turn);
  AxesHere out{*origin, pixel_here, axes.value, {}, {}};
  const auto carried = [&](Point direction) {
    const Eigen::Vector2d d = *slope * Eigen::Vector2d(direction.x / pixel_there.x, direction.y / pixel_there.y);
    return Point{d.x() * pixel_here.x, d.y() * pixel_here.y};
  };
  const Point along = carried({c, -s}), down = carried({s, c});
  const double length = std::hypot(along.x, along.y);
  if (!(length > 0)) return std::nullopt;
  out.along = (axes.right ? 1 : -1) / length * along;
  // Square to x, on the side to which y goes.
  const Point square{-along.y / length, along.x / length};
  const double side = square.x * down.x + square.y * down.y >= 0 ? 1 : -1;
  out.across = (axes.up ? -side : side) * square;
  return out;
}

}  // namespace fexel
