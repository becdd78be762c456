#pragma once
/// Smooth curves that go back by Newton's method from where an affine map leads.
#include <vector>

#include "fit/radial_basis.h"
#include "geometry/map.h"

namespace fexel {

/// What a curve is near: begins each search, and tells on which side of a fold a place lies.
class SmoothCurve : public Curve {
 public:
  std::optional<Point> forward(Point p) const override;
  std::optional<Point> backward(Point p) const override;
  std::optional<Matrix2> jacobian(Point p) const override;
  std::optional<Local> forward_local(Point p) const override;
  std::optional<Local> backward_local(Point p) const override;

 protected:
  /// `near` is the affine map that comes closest; `extent` is how far points stand from each other.
  SmoothCurve(const Matrix3& near, double extent);
  /// The place, and its slope where it is asked for.
  virtual Point value(Point p, Matrix2* slope) const = 0;

 private:
  Matrix3 near_inverse_;
  double sign_, extent_;
};

/// Two polynomials of x and y of order 2 or 3, in coordinates moved and scaled to about one.
class Polynomial : public SmoothCurve {
 public:
  /// Coefficients of 1, x, y, x^2, xy, y^2, x^3, x^2 y, x y^2, y^3, as far as the order goes, of ((p - middle) /
  /// scale).
  Polynomial(std::vector<Point> coefficients, Point middle, double scale);
  /// The terms at a place, in the same order.
  static std::vector<double> terms(int order, Point p);

 protected:
  Point value(Point p, Matrix2* slope) const override;

 private:
  std::vector<Point> c_;
  Point middle_;
  double scale_;
};

/// a + A p + sum w_i U(|p - p_i|) with U(r) = r^2 ln r.
class ThinPlate : public SmoothCurve {
 public:
  ThinPlate(const std::vector<Point>& centres, const std::vector<Point>& weights, const Matrix3& affine, Point middle,
            double scale);
  static double bump(double square);  ///< U, from the squared distance

 protected:
  Point value(Point p, Matrix2* slope) const override;

 private:
  Bumps bumps_;  // in moved and scaled coordinates
  Matrix3 affine_;
  Point middle_;
  double scale_;
};

}  // namespace fexel
