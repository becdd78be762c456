#include "fit/curves.h"

namespace fexel {

double ThinPlate::bump(double square) {
  return square > 0 ? 0.5 * square * std::log(square) : 0;
}

ThinPlate::ThinPlate(std::vector<Point> centres, std::vector<Point> weights, const Matrix3& affine, Point middle,
                     double scale)
    : SmoothCurve(affine * scaling(1 / scale, 1 / scale) * translation(-middle.x, -middle.y), scale),
      centres_(std::move(centres)),
      weights_(std::move(weights)),
      affine_(affine),
      middle_(middle),
      scale_(scale) {}

Point ThinPlate::value(Point p) const {
  const Point q = 1 / scale_ * (p - middle_);
  Point out{affine_(0, 0) * q.x + affine_(0, 1) * q.y + affine_(0, 2),
            affine_(1, 0) * q.x + affine_(1, 1) * q.y + affine_(1, 2)};
  for (std::size_t i = 0; i < centres_.size(); ++i) {
    const Point d = q - centres_[i];
    out = out + bump(d.x * d.x + d.y * d.y) * weights_[i];
  }
  return out;
}

Matrix2 ThinPlate::slope(Point p) const {
  const Point q = 1 / scale_ * (p - middle_);
  Matrix2 out = affine_.topLeftCorner<2, 2>();
  for (std::size_t i = 0; i < centres_.size(); ++i) {
    const Point d = q - centres_[i];
    const double square = d.x * d.x + d.y * d.y;
    // d/dx r^2 ln r = x (2 ln r + 1)
    const double rise = square > 0 ? std::log(square) + 1 : 0;
    out(0, 0) += rise * d.x * weights_[i].x;
    out(0, 1) += rise * d.y * weights_[i].x;
    out(1, 0) += rise * d.x * weights_[i].y;
    out(1, 1) += rise * d.y * weights_[i].y;
  }
  return out / scale_;
}

}  // namespace fexel
