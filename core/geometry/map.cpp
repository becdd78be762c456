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

Map::Map(std::shared_ptr<const Curve> curve) : Map() {
  bends_.push_back({std::move(curve), false});
}

Map Map::inverse() const {
  if (planar()) return Map(inverse_, forward_);
  // The planar parts stand before, between and behind the curves; back to front they change places.
  Map out(bends_.back().inverse, bends_.back().forward);
  for (std::size_t i = bends_.size(); i-- > 0;) {
    const Matrix3& before = i > 0 ? bends_[i - 1].forward : forward_;
    const Matrix3& before_inverse = i > 0 ? bends_[i - 1].inverse : inverse_;
    out.bends_.push_back({bends_[i].curve, !bends_[i].reversed, before_inverse, before});
  }
  return out;
}

Map Map::after(const Map& first) const {
  Map out = first;
  Matrix3& last = first.planar() ? out.forward_ : out.bends_.back().forward;
  Matrix3& last_inverse = first.planar() ? out.inverse_ : out.bends_.back().inverse;
  last = forward_ * last;
  last_inverse = last_inverse * inverse_;
  // A curve and the same one back again are nothing, when nothing stands between.
  for (const Bend& bend : bends_) {
    const bool undone = !out.bends_.empty() && out.bends_.back().curve == bend.curve &&
                        out.bends_.back().reversed != bend.reversed &&
                        (out.bends_.back().forward - Matrix3::Identity()).cwiseAbs().maxCoeff() < 1e-12;
    if (!undone) {
      out.bends_.push_back(bend);
      continue;
    }
    out.bends_.pop_back();
    Matrix3& joint = out.planar() ? out.forward_ : out.bends_.back().forward;
    Matrix3& joint_inverse = out.planar() ? out.inverse_ : out.bends_.back().inverse;
    joint = bend.forward * joint;
    joint_inverse = joint_inverse * bend.inverse;
  }
  return out;
}

std::optional<Local> Curve::forward_local(Point p) const {
  const auto at = forward(p);
  const auto slope = at ? jacobian(p) : std::nullopt;
  return slope ? std::optional(Local{*at, *slope}) : std::nullopt;
}

std::optional<Local> Curve::backward_local(Point p) const {
  const auto at = backward(p);
  const auto slope = at ? jacobian(*at) : std::nullopt;
  return slope ? std::optional(Local{*at, *slope}) : std::nullopt;
}

std::optional<Point> Map::forward(Point p) const {
  auto at = apply(forward_, p);
  for (const Bend& bend : bends_) {
    if (at) at = bend.reversed ? bend.curve->backward(*at) : bend.curve->forward(*at);
    if (at) at = apply(bend.forward, *at);
  }
  return at;
}

std::optional<Point> Map::backward(Point p) const {
  std::optional<Point> at = p;
  for (std::size_t i = bends_.size(); i-- > 0;) {
    if (at) at = apply(bends_[i].inverse, *at);
    if (at) at = bends_[i].reversed ? bends_[i].curve->forward(*at) : bends_[i].curve->backward(*at);
  }
  return at ? apply(inverse_, *at) : at;
}

std::optional<Matrix2> Map::jacobian(Point p) const {
  const auto out = local(p);
  return out ? std::optional(out->slope) : std::nullopt;
}

std::optional<double> Map::scale_at(Point p) const {
  const auto j = jacobian(p);
  return j ? std::optional(std::sqrt(std::abs(j->determinant()))) : std::nullopt;
}

std::optional<Local> Map::local(Point p) const {
  auto slope = derivative(forward_, p);
  auto at = apply(forward_, p);
  for (const Bend& bend : bends_) {
    if (!slope || !at) return std::nullopt;
    auto next = bend.reversed ? bend.curve->backward_local(*at) : bend.curve->forward_local(*at);
    if (!next) return std::nullopt;
    if (bend.reversed) {
      if (!(std::abs(next->slope.determinant()) > 1e-300)) return std::nullopt;
      next->slope = Matrix2(next->slope.inverse());
    }
    const auto flat = derivative(bend.forward, next->at);
    if (!flat) return std::nullopt;
    slope = Matrix2(*flat * next->slope * *slope);
    at = apply(bend.forward, next->at);
  }
  if (!slope || !at) return std::nullopt;
  return Local{*at, *slope};
}

bool Map::operator==(const Map& other) const {
  return forward_ == other.forward_ && bends_ == other.bends_;
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
