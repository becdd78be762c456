#pragma once
/// Points, sizes and pixel regions. Conventions: core/geometry/README.md.
#include <array>
#include <cmath>
#include <numbers>

namespace fexel {

struct Point {
  double x = 0;
  double y = 0;
  bool operator==(const Point&) const = default;
  friend Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }
  friend Point operator-(Point a, Point b) { return {a.x - b.x, a.y - b.y}; }
  friend Point operator*(double s, Point p) { return {s * p.x, s * p.y}; }
};

inline double distance(Point a, Point b) {
  return std::hypot(a.x - b.x, a.y - b.y);
}
/// Twice the signed area of the triangle a b c: positive when it goes clockwise on the screen (y is down).
inline double cross(Point a, Point b, Point c) {
  return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}

inline constexpr double degree = std::numbers::pi / 180;  ///< in radians

/// Width x height in pixels.
struct Size {
  int width = 0;
  int height = 0;
  bool operator==(const Size&) const = default;
  Point middle() const { return {width * 0.5, height * 0.5}; }
};

/// The pixels with x <= column < x + width and y <= row < y + height.
struct Region {
  int x = 0, y = 0, width = 0, height = 0;
  bool operator==(const Region&) const = default;
};

/// Top-left, top-right, bottom-right, bottom-left of a real rectangle, as seen.
using Quad = std::array<Point, 4>;

}  // namespace fexel
