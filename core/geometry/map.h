#pragma once
/// A map between two pictures that carries points both ways, knows its Jacobian and its horizon.
#include <Eigen/Core>
#include <optional>

#include "geometry/point.h"

namespace fexel {

using Matrix3 = Eigen::Matrix3d;
using Matrix2 = Eigen::Matrix2d;

Matrix3 translation(double dx, double dy);
Matrix3 scaling(double sx, double sy);
/// `turns` quarter turns counter-clockwise on the screen of a picture of `size`, moved so that the turned picture
/// starts at the origin.
Matrix3 quarter_turn(Size size, int turns);
/// The projective map of the unit square (0,0) (1,0) (1,1) (0,1) to the corners of `quad`, in that order, with w > 0
/// inside. Needs a quad that check_quad() accepts.
Matrix3 unit_square_to_quad(const Quad& quad);

/// A planar (projective) map. A point with w <= 0 lies on or behind the horizon and has no image.
class Map {
 public:
  Map() : forward_(Matrix3::Identity()), inverse_(Matrix3::Identity()) {}
  /// Raises a call error when the matrix is not finite or cannot be inverted.
  explicit Map(const Matrix3& forward);

  const Matrix3& matrix() const { return forward_; }
  const Matrix3& inverse_matrix() const { return inverse_; }
  Map inverse() const { return Map(inverse_, forward_); }
  /// This map after `first`.
  Map after(const Map& first) const { return Map(forward_ * first.forward_, first.inverse_ * inverse_); }

  std::optional<Point> forward(Point p) const { return apply(forward_, p); }
  std::optional<Point> backward(Point p) const { return apply(inverse_, p); }
  /// d(result)/d(source) at a source point; nothing behind the horizon.
  std::optional<Matrix2> jacobian(Point p) const { return derivative(forward_, p); }

  static std::optional<Point> apply(const Matrix3& m, Point p);
  static std::optional<Matrix2> derivative(const Matrix3& m, Point p);

 private:
  Map(const Matrix3& forward, const Matrix3& inverse) : forward_(forward), inverse_(inverse) {}
  Matrix3 forward_, inverse_;
};

/// The two singular values of a 2x2 matrix, the larger first.
struct SingularValues {
  double large, small;
};
SingularValues singular_values(const Matrix2& m);

}  // namespace fexel
