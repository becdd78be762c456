#pragma once
/// A map between two pictures that carries points both ways, knows its Jacobian and its horizon.
#include <Eigen/Core>
#include <memory>
#include <optional>
#include <vector>

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

/// Where a map leads, and its slope there.
struct Local {
  Point at;
  Matrix2 slope;
};

/// A map that no matrix gives: a lens, a spline, a ring. Points where it is not defined, or where going back leads to
/// no single point, have no image.
class Curve {
 public:
  virtual ~Curve() = default;
  virtual std::optional<Point> forward(Point p) const = 0;
  virtual std::optional<Point> backward(Point p) const = 0;
  /// d(result)/d(source) at a source point.
  virtual std::optional<Matrix2> jacobian(Point p) const = 0;
  /// What forward() or backward() says, and the jacobian at the source point of the two.
  virtual std::optional<Local> forward_local(Point p) const;
  virtual std::optional<Local> backward_local(Point p) const;
};

/// A map: planar (projective), or planar maps with curves in between. A point that a planar part puts on or behind its
/// horizon (w <= 0), or for which a curve is not defined, has no image.
class Map {
 public:
  Map() : forward_(Matrix3::Identity()), inverse_(Matrix3::Identity()) {}
  /// Raises a call error when the matrix is not finite or cannot be inverted.
  explicit Map(const Matrix3& forward);
  explicit Map(std::shared_ptr<const Curve> curve);

  /// Whether one matrix gives all of it; matrix() and inverse_matrix() are for such maps only.
  bool planar() const { return bends_.empty(); }
  const Matrix3& matrix() const { return forward_; }
  const Matrix3& inverse_matrix() const { return inverse_; }
  Map inverse() const;
  /// This map after `first`.
  Map after(const Map& first) const;

  std::optional<Point> forward(Point p) const;
  std::optional<Point> backward(Point p) const;
  /// d(result)/d(source) at a source point; nothing where it has no image.
  std::optional<Matrix2> jacobian(Point p) const;
  /// How much longer a short line becomes at a source point, in the mean of all directions.
  std::optional<double> scale_at(Point p) const;
  /// Both at once, for no more than one of them takes.
  std::optional<Local> local(Point p) const;
  bool operator==(const Map& other) const;

  static std::optional<Point> apply(const Matrix3& m, Point p);
  static std::optional<Matrix2> derivative(const Matrix3& m, Point p);

 private:
  Map(const Matrix3& forward, const Matrix3& inverse) : forward_(forward), inverse_(inverse) {}
  /// A curve, gone through forward or backward, and the planar map behind it.
  struct Bend {
    std::shared_ptr<const Curve> curve;
    bool reversed = false;
    Matrix3 forward = Matrix3::Identity(), inverse = Matrix3::Identity();
    bool operator==(const Bend&) const = default;
  };
  Matrix3 forward_, inverse_;
  std::vector<Bend> bends_;
};

/// The two singular values of a 2x2 matrix, the larger first.
struct SingularValues {
  double large, small;
};
SingularValues singular_values(const Matrix2& m);

}  // namespace fexel
