#include <Eigen/LU>

#include "fit/curves.h"

namespace fexel {

SmoothCurve::SmoothCurve(const Matrix3& near, double extent) : near_inverse_(near.inverse()), extent_(extent) {
  sign_ = near.topLeftCorner<2, 2>().determinant() < 0 ? -1 : 1;
}

std::optional<Local> SmoothCurve::forward_local(Point p) const {
  Local out;
  out.at = value(p, &out.slope);
  const bool sound = sign_ * out.slope.determinant() > 0 && std::isfinite(out.at.x) && std::isfinite(out.at.y) &&
                     out.slope.allFinite();
  return sound ? std::optional(out) : std::nullopt;
}

std::optional<Point> SmoothCurve::forward(Point p) const {
  const auto out = forward_local(p);
  return out ? std::optional(out->at) : std::nullopt;
}

std::optional<Matrix2> SmoothCurve::jacobian(Point p) const {
  const auto out = forward_local(p);
  return out ? std::optional(out->slope) : std::nullopt;
}

std::optional<Point> SmoothCurve::backward(Point wanted) const {
  const auto out = backward_local(wanted);
  return out ? std::optional(out->at) : std::nullopt;
}

std::optional<Local> SmoothCurve::backward_local(Point wanted) const {
  const auto start = Map::apply(near_inverse_, wanted);
  if (!start) return std::nullopt;
  Local out{*start, {}};
  Point miss = wanted - value(out.at, &out.slope);
  const auto length = [](Point p) { return std::sqrt(p.x * p.x + p.y * p.y); };  // hypot() takes ten times as long
  double off = length(miss);
  constexpr int rounds = 60;
  for (int round = 0; round < rounds && off > 1e-13 * extent_; ++round) {
    if (!(sign_ * out.slope.determinant() > 1e-12)) return std::nullopt;
    const Eigen::Vector2d step = out.slope.inverse() * Eigen::Vector2d(miss.x, miss.y);
    // Half as far while that leads away.
    bool nearer = false;
    for (double share = 1; share > 1e-6 && !nearer; share /= 2) {
      const Point next = out.at + share * Point{step.x(), step.y()};
      Matrix2 there;
      const Point left = wanted - value(next, &there);
      const double now = length(left);
      nearer = now < off;
      if (!nearer) continue;
      out = {next, there};
      miss = left;
      off = now;
    }
    // The error that is left is about the square of the step, which rounding hides.
    if (!nearer || step.norm() < 1e-7 * extent_) break;
  }
  const bool found = off < 1e-9 * extent_ && sign_ * out.slope.determinant() > 0;
  return found ? std::optional(out) : std::nullopt;
}

std::vector<double> Polynomial::terms(int order, Point p) {
  std::vector<double> out{1, p.x, p.y, p.x * p.x, p.x * p.y, p.y * p.y};
  if (order == 3) out.insert(out.end(), {p.x * p.x * p.x, p.x * p.x * p.y, p.x * p.y * p.y, p.y * p.y * p.y});
  return out;
}

namespace {

Matrix3 linear_part(const std::vector<Point>& c, Point middle, double scale) {
  Matrix3 m;
  m << c[1].x / scale, c[2].x / scale, c[0].x, c[1].y / scale, c[2].y / scale, c[0].y, 0, 0, 1;
  return m * translation(-middle.x, -middle.y);
}

}  // namespace

Polynomial::Polynomial(std::vector<Point> coefficients, Point middle, double scale)
    : SmoothCurve(linear_part(coefficients, middle, scale), scale),
      c_(std::move(coefficients)),
      middle_(middle),
      scale_(scale) {}

Point Polynomial::value(Point p, Matrix2* slope) const {
  const Point q = 1 / scale_ * (p - middle_);
  Point out = c_[0] + q.x * c_[1] + q.y * c_[2] + q.x * q.x * c_[3] + q.x * q.y * c_[4] + q.y * q.y * c_[5];
  Point x = c_[1] + 2 * q.x * c_[3] + q.y * c_[4], y = c_[2] + q.x * c_[4] + 2 * q.y * c_[5];
  if (c_.size() > 6) {
    out = out + q.x * q.x * q.x * c_[6] + q.x * q.x * q.y * c_[7] + q.x * q.y * q.y * c_[8] + q.y * q.y * q.y * c_[9];
    x = x + 3 * q.x * q.x * c_[6] + 2 * q.x * q.y * c_[7] + q.y * q.y * c_[8];
    y = y + q.x * q.x * c_[7] + 2 * q.x * q.y * c_[8] + 3 * q.y * q.y * c_[9];
  }
  if (slope) *slope << x.x / scale_, y.x / scale_, x.y / scale_, y.y / scale_;
  return out;
}

}  // namespace fexel
