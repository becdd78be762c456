#pragma once
/// The distortion of a lens.
#include <limits>

#include "geometry/map.h"

namespace fexel {

/// Radial and decentring distortion, from a picture without it to the picture with it: with (x, y) from the centre in
/// units of the focal length and r their distance from it,
///   x' = x (1 + k1 r^2 + k2 r^4 + k3 r^6) + 2 p1 x y + p2 (r^2 + 2 x^2),
///   y' = y (1 + k1 r^2 + k2 r^4 + k3 r^6) + p1 (r^2 + 2 y^2) + 2 p2 x y.
/// Not defined from the radius on at which it would fold the picture over. Source: D. C. Brown, 1971, "Close-range
/// camera calibration".
class Lens : public Curve {
 public:
  struct Terms {
    double k1 = 0, k2 = 0, k3 = 0, p1 = 0, p2 = 0;
    bool operator==(const Terms&) const = default;
  };
  /// `focal` in pixels, more than 0.
  Lens(const Terms& terms, Point centre, double focal);
  std::optional<Point> forward(Point p) const override;
  /// By Newton's method; nothing where no point within the fold leads there.
  std::optional<Point> backward(Point p) const override;
  std::optional<Matrix2> jacobian(Point p) const override;
  /// The formula alone, with both points in focal lengths from the centre; also where it folds.
  static Point bent(const Terms& terms, Point p);
  /// The radius, in pixels, at which the radial part turns back; infinite when it never does.
  double fold() const { return fold_ * focal_; }

 private:
  Point bent(Point p) const { return bent(terms_, p); }
  Matrix2 slope(Point p) const;  // of bent()
  Terms terms_;
  Point centre_;
  double focal_, fold_ = std::numeric_limits<double>::infinity();
};

}  // namespace fexel
