#include "fit/curves.h"

namespace fexel {

double ThinPlate::bump(double square) {
  return square > 0 ? 0.5 * square * std::log(square) : 0;
}

ThinPlate::ThinPlate(const std::vector<Point>& centres, const std::vector<Point>& weights, const Matrix3& affine,
                     Point middle, double scale)
    : SmoothCurve(affine * scaling(1 / scale, 1 / scale) * translation(-middle.x, -middle.y), scale),
      bumps_(centres, weights),
      affine_(affine),
      middle_(middle),
      scale_(scale) {}

Point ThinPlate::value(Point p, Matrix2* slope) const {
  const Point q = 1 / scale_ * (p - middle_);
  const Bumps::Sum sum = bumps_.at(q);
  const auto& a = affine_;
  if (slope)
    *slope << (a(0, 0) + sum.x_by_x) / scale_, (a(0, 1) + sum.x_by_y) / scale_, (a(1, 0) + sum.y_by_x) / scale_,
        (a(1, 1) + sum.y_by_y) / scale_;
  return {a(0, 0) * q.x + a(0, 1) * q.y + a(0, 2) + sum.x, a(1, 0) * q.x + a(1, 1) * q.y + a(1, 2) + sum.y};
}

}  // namespace fexel
