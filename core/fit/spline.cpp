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

Point ThinPlate::value(Point p, Matrix2* slope) const {
  const Point q = 1 / scale_ * (p - middle_);
  Point out{affine_(0, 0) * q.x + affine_(0, 1) * q.y + affine_(0, 2),
            affine_(1, 0) * q.x + affine_(1, 1) * q.y + affine_(1, 2)};
  double xx = affine_(0, 0), xy = affine_(0, 1), yx = affine_(1, 0), yy = affine_(1, 1);
  for (std::size_t i = 0; i < centres_.size(); ++i) {
    const Point d = q - centres_[i], w = weights_[i];
    const double square = d.x * d.x + d.y * d.y;
    if (!(square > 0)) continue;
    const double log = std::log(square), u = 0.5 * square * log, rise = log + 1;  // d/dx r^2 ln r = x (2 ln r + 1)
    out = out + u * w;
    xx += rise * d.x * w.x;
    xy += rise * d.y * w.x;
    yx += rise * d.x * w.y;
    yy += rise * d.y * w.y;
  }
  if (slope) *slope << xx / scale_, xy / scale_, yx / scale_, yy / scale_;
  return out;
}

}  // namespace fexel
