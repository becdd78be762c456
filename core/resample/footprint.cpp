#include "resample/footprint.h"

namespace fexel {
namespace {

Matrix2 turn(double angle) {
  Matrix2 m;
  m << std::cos(angle), -std::sin(angle), std::sin(angle), std::cos(angle);
  return m;
}

}  // namespace

double shrinking_share(double shrink) {
  const double t = std::clamp((shrink - 1.2) / 0.8, 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

Footprint footprint(const Matrix2& j) {
  // j = turn(phi) diag(large, small) turn(theta); small is negative where j mirrors.
  const double e = (j(0, 0) + j(1, 1)) / 2, f = (j(0, 0) - j(1, 1)) / 2;
  const double g = (j(1, 0) + j(0, 1)) / 2, h = (j(1, 0) - j(0, 1)) / 2;
  const double large = std::hypot(e, h) + std::hypot(f, g);
  const double small = std::hypot(e, h) - std::hypot(f, g);
  const double a1 = std::atan2(g, f), a2 = std::atan2(h, e);
  const double raised_large = std::clamp(large, 1.0, largest_reach);
  const double raised_small = std::copysign(std::clamp(std::abs(small), 1.0, largest_reach), small);
  const Matrix2 left = turn((a2 + a1) / 2), right = turn((a2 - a1) / 2);
  Footprint out;
  out.reach = left * Eigen::Vector2d(raised_large, raised_small).asDiagonal() * right;
  out.to_result =
      right.transpose() * Eigen::Vector2d(1 / raised_large, 1 / raised_small).asDiagonal() * left.transpose();
  out.mix = shrinking_share(large);
  return out;
}

}  // namespace fexel
