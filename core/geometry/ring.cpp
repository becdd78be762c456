#include "geometry/ring.h"

#include <numbers>

namespace fexel {

Ring::Polar Ring::polar(Point p) const {
  const double turned = p.x / shape_.strip.width * shape_.sweep;
  return {shape_.outer - p.y / shape_.strip.height * (shape_.outer - shape_.inner),
          shape_.start + (shape_.clockwise ? -turned : turned)};
}

std::optional<Point> Ring::forward(Point p) const {
  const auto [radius, angle] = polar(p);
  if (!(radius > 0)) return std::nullopt;
  return Point{shape_.centre.x + radius * std::cos(angle), shape_.centre.y - radius * std::sin(angle)};
}

std::optional<Point> Ring::backward(Point p) const {
  const Point from = p - shape_.centre;
  const double radius = std::hypot(from.x, from.y);
  if (!(radius > 0)) return std::nullopt;
  double turned = std::atan2(-from.y, from.x) - shape_.start;
  if (shape_.clockwise) turned = -turned;
  turned = shape_.sweep / 2 + std::remainder(turned - shape_.sweep / 2, 2 * std::numbers::pi);
  return Point{turned / shape_.sweep * shape_.strip.width,
               (shape_.outer - radius) / (shape_.outer - shape_.inner) * shape_.strip.height};
}

std::optional<Matrix2> Ring::jacobian(Point p) const {
  const auto [radius, angle] = polar(p);
  if (!(radius > 0)) return std::nullopt;
  const double turn = (shape_.clockwise ? -1 : 1) * shape_.sweep / shape_.strip.width;
  const double down = -(shape_.outer - shape_.inner) / shape_.strip.height;
  Matrix2 out;
  out << -radius * std::sin(angle) * turn, std::cos(angle) * down, -radius * std::cos(angle) * turn,
      -std::sin(angle) * down;
  return out;
}

}  // namespace fexel
