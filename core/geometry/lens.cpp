#include "geometry/lens.h"

#include <Eigen/LU>

namespace fexel {

Lens::Lens(const Terms& terms, Point centre, double focal) : terms_(terms), centre_(centre), focal_(focal) {
  // Where d/dr of r (1 + k1 r^2 + k2 r^4 + k3 r^6) reaches zero: the smallest root of a cubic in s = r^2.
  const auto rise = [&](double s) { return 1 + s * (3 * terms.k1 + s * (5 * terms.k2 + s * 7 * terms.k3)); };
  constexpr double farthest = 100;  // focal lengths: no lens sees that far aside
  constexpr int steps = 4000;
  double before = 0;
  for (int i = 1; i <= steps; ++i) {
    const double r = farthest * std::pow(double(i) / steps, 3), s = r * r;
    if (rise(s) > 0) {
      before = s;
      continue;
    }
    double low = before, high = s;
    for (int k = 0; k < 60; ++k) {
      const double middle = (low + high) / 2;
      (rise(middle) > 0 ? low : high) = middle;
    }
    fold_ = std::sqrt(low);
    break;
  }
}

Point Lens::bent(const Terms& terms, Point p) {
  const double s = p.x * p.x + p.y * p.y;
  const double radial = 1 + s * (terms.k1 + s * (terms.k2 + s * terms.k3));
  return {p.x * radial + 2 * terms.p1 * p.x * p.y + terms.p2 * (s + 2 * p.x * p.x),
          p.y * radial + terms.p1 * (s + 2 * p.y * p.y) + 2 * terms.p2 * p.x * p.y};
}

Matrix2 Lens::slope(Point p) const {
  const double s = p.x * p.x + p.y * p.y;
  const double radial = 1 + s * (terms_.k1 + s * (terms_.k2 + s * terms_.k3));
  const double change = 2 * (terms_.k1 + s * (2 * terms_.k2 + s * 3 * terms_.k3));  // of radial, by x dx + y dy
  const double mixed = p.x * p.y * change + 2 * terms_.p1 * p.x + 2 * terms_.p2 * p.y;
  Matrix2 out;
  out << radial + p.x * p.x * change + 2 * terms_.p1 * p.y + 6 * terms_.p2 * p.x, mixed, mixed,
      radial + p.y * p.y * change + 6 * terms_.p1 * p.y + 2 * terms_.p2 * p.x;
  return out;
}

std::optional<Point> Lens::forward(Point p) const {
  const Point at = 1 / focal_ * (p - centre_);
  if (!(std::hypot(at.x, at.y) < fold_) || !(slope(at).determinant() > 0)) return std::nullopt;
  return centre_ + focal_ * bent(at);
}

std::optional<Matrix2> Lens::jacobian(Point p) const {
  const Point at = 1 / focal_ * (p - centre_);
  if (!(std::hypot(at.x, at.y) < fold_)) return std::nullopt;
  const Matrix2 out = slope(at);
  return out.determinant() > 0 ? std::optional(out) : std::nullopt;
}

std::optional<Point> Lens::backward(Point p) const {
  const Point wanted = 1 / focal_ * (p - centre_);
  // Along the ray first, where the radial part rises without a turn up to the fold: that start never leads astray.
  const double radius = std::hypot(wanted.x, wanted.y);
  const auto out = [&](double r) {
    const double s = r * r;
    return r * (1 + s * (terms_.k1 + s * (terms_.k2 + s * terms_.k3)));
  };
  double low = 0, high = std::min(fold_, 100.0);
  if (out(high) < radius) low = high;
  for (int k = 0; k < 12 && low < high; ++k) {
    const double middle = std::min((low + high) / 2, k == 0 ? radius : high);
    (out(middle) < radius ? low : high) = middle;
  }
  Point at = radius > 0 ? ((low + high) / 2 / radius) * wanted : Point{};
  for (int round = 0; round < 20; ++round) {
    const Point miss = wanted - bent(at);
    const Matrix2 j = slope(at);
    if (!(j.determinant() > 1e-12)) return std::nullopt;
    const Eigen::Vector2d step = j.inverse() * Eigen::Vector2d(miss.x, miss.y);
    at = at + Point{step.x(), step.y()};
    if (!std::isfinite(at.x) || !std::isfinite(at.y)) return std::nullopt;
    if (step.norm() * focal_ < 1e-10) break;
  }
  if (!(std::hypot(at.x, at.y) < fold_) || distance(bent(at), wanted) * focal_ > 1e-7) return std::nullopt;
  return centre_ + focal_ * at;
}

}  // namespace fexel
