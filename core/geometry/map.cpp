#include "geometry/map.h"

#include <Eigen/LU>

#include "base/error.h"

namespace fexel {

Matrix3 translation(double dx, double dy) {
  Matrix3 m = Matrix3::Identity();
  m(0, 2) = dx;
  m(1, 2) = dy;
  return m;
}

Matrix3 scaling(double sx, double sy) {
  return Eigen::Vector3d(sx, sy, 1).asDiagonal();
}

Matrix3 quarter_turn(Size size, int turns) {
  Matrix3 m;
  switch (((turns % 4) + 4) % 4) {
    case 1:
      m << 0, 1, 0, -1, 0, size.width, 0, 0, 1;
      break;
    case 2:
      m << -1, 0, size.width, 0, -1, size.height, 0, 0, 1;
      break;
    case 3:
      m << 0, -1, size.height, 1, 0, 0, 0, 0, 1;
      break;
    default:
      m.setIdentity();
  }
  return m;
}

Matrix3 unit_square_to_quad(const Quad& q) {
  const Point s = q[0] - q[1] + q[2] - q[3];
  const Point d1 = q[1] - q[2];
  const Point d2 = q[3] - q[2];
  const double det = d1.x * d2.y - d2.x * d1.y;
  const double g = (s.x * d2.y - d2.x * s.y) / det;
  const double h = (d1.x * s.y - s.x * d1.y) / det;
  Matrix3 m;
  m << q[1].x - q[0].x + g * q[1].x, q[3].x - q[0].x + h * q[3].x, q[0].x,  //
      q[1].y - q[0].y + g * q[1].y, q[3].y - q[0].y + h * q[3].y, q[0].y,   //
      g, h, 1;
  return m;
}

Map::Map(const Matrix3& forward) : forward_(forward) {
  // Judged on rows and columns of comparable size, so that pixels and units do not decide it.
  const bool finite = forward.allFinite();
  const double scale = finite ? forward.cwiseAbs().maxCoeff() : 0;
  bool invertible = false;
  if (scale > 0) forward.computeInverseWithCheck(inverse_, invertible, scale * scale * scale * 1e-30);
  if (!invertible || !inverse_.allFinite())
    throw call_error("This map cannot be undone: it folds the picture onto a line or a point.", "matrix",
                     "Use a matrix with a determinant that is not zero.");
}

std::optional<Point> Map::apply(const Matrix3& m, Point p) {
  const double w = m(2, 0) * p.x + m(2, 1) * p.y + m(2, 2);
  if (!(w > 0)) return std::nullopt;
  const Point out{(m(0, 0) * p.x + m(0, 1) * p.y + m(0, 2)) / w, (m(1, 0) * p.x + m(1, 1) * p.y + m(1, 2)) / w};
  if (!std::isfinite(out.x) || !std::isfinite(out.y)) return std::nullopt;
  return out;
}

std::optional<Matrix2> Map::derivative(const Matrix3& m, Point p) {
  const auto q = apply(m, p);
  if (!q) return std::nullopt;
  const double w = m(2, 0) * p.x + m(2, 1) * p.y + m(2, 2);
  Matrix2 j;
  j << m(0, 0) - q->x * m(2, 0), m(0, 1) - q->x * m(2, 1), m(1, 0) - q->y * m(2, 0), m(1, 1) - q->y * m(2, 1);
  return Matrix2(j / w);
}

SingularValues singular_values(const Matrix2& m) {
  const double sum = std::hypot(m(0, 0) + m(1, 1), m(1, 0) - m(0, 1));
  const double difference = std::hypot(m(0, 0) - m(1, 1), m(1, 0) + m(0, 1));
  return {(sum + difference) / 2, std::abs(sum - difference) / 2};
}

}  // namespace fexel
