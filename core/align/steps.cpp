#include "align/steps.h"
#include "geometry/linear.h"

#include <Eigen/LU>

namespace fexel {

StepBasis::StepBasis(Model model, Size frame)
    : model_(model),
      count_(2 * pairs_needed(model) - (model == Model::rigid ? 1 : 0)),
      frame_(frame),
      middle_(frame.middle()),
      unit_(std::max(frame.width, frame.height) * 0.5) {}

Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, 8> StepBasis::at(Point p) const {
  const double x = (p.x - middle_.x) / unit_, y = (p.y - middle_.y) / unit_;
  Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, 8> out(2, count_);
  out.col(0) << 1, 0;
  out.col(1) << 0, 1;
  if (model_ == Model::rigid || model_ == Model::similarity) out.col(2) << -y, x;
  if (model_ == Model::similarity) out.col(3) << x, y;
  if (model_ == Model::affine || model_ == Model::projective) {
    out.col(2) << x, 0;
    out.col(3) << y, 0;
    out.col(4) << 0, x;
    out.col(5) << 0, y;
  }
  if (model_ == Model::projective) {
    out.col(6) << -x * x, -x * y;
    out.col(7) << -x * y, -y * y;
  }
  return out;
}

Matrix3 StepBasis::transform(const SmallStep& step) const {
  const SmallStep s = step / unit_;
  Matrix3 inner = Matrix3::Identity();
  inner(0, 2) = s(0);
  inner(1, 2) = s(1);
  if (model_ == Model::rigid || model_ == Model::similarity) {
    const double grown = model_ == Model::similarity ? std::exp(s(3)) : 1;
    inner(0, 0) = inner(1, 1) = grown * std::cos(s(2));
    inner(1, 0) = grown * std::sin(s(2));
    inner(0, 1) = -inner(1, 0);
  }
  if (model_ == Model::affine || model_ == Model::projective) {
    inner(0, 0) += s(2);
    inner(0, 1) += s(3);
    inner(1, 0) += s(4);
    inner(1, 1) += s(5);
  }
  if (model_ == Model::projective) {
    inner(2, 0) = s(6);
    inner(2, 1) = s(7);
  }
  return translation(middle_.x, middle_.y) * scaling(unit_, unit_) * inner * scaling(1 / unit_, 1 / unit_) *
         translation(-middle_.x, -middle_.y);
}

SmallStep StepBasis::step_of(const Matrix3& given) const {
  StepMatrix normal = StepMatrix::Zero(count_, count_);
  SmallStep right = SmallStep::Zero(count_);
  for (const double u : {0.0, 0.5, 1.0})
    for (const double v : {0.0, 0.5, 1.0}) {
      const Point p{u * frame_.width, v * frame_.height};
      const auto moved = Map::apply(given, p);
      if (!moved) continue;
      const auto b = at(p);
      normal += b.transpose() * b;
      right += b.transpose() * Eigen::Vector2d(moved->x - p.x, moved->y - p.y);
    }
  return *solve_symmetric(normal, right);
}

double StepBasis::uncertainty(const StepMatrix& covariance) const {
  constexpr int cells = 8;
  double sum = 0;
  for (int i = 0; i < cells; ++i)
    for (int j = 0; j < cells; ++j) {
      const auto b = at({frame_.width * (i + 0.5) / cells, frame_.height * (j + 0.5) / cells});
      sum += (b * covariance * b.transpose()).trace() / 2;
    }
  return std::sqrt(std::max(0.0, sum / (cells * cells)));
}

Motion motion_of(const Matrix3& m, Size frame) {
  const auto middle = Map::apply(m, frame.middle());
  return {middle ? *middle - frame.middle() : Point{}, -std::atan2(m(1, 0), m(0, 0)) * 180 / M_PI,
          std::sqrt(std::abs(m(0, 0) * m(1, 1) - m(0, 1) * m(1, 0)))};
}

double rms_distance(const Matrix3& a, const Matrix3& b, Size frame) {
  constexpr int cells = 8;
  double sum = 0;
  for (int i = 0; i < cells; ++i)
    for (int j = 0; j < cells; ++j) {
      const Point p{frame.width * (i + 0.5) / cells, frame.height * (j + 0.5) / cells};
      const auto pa = Map::apply(a, p), pb = Map::apply(b, p);
      sum += pa && pb ? std::pow(distance(*pa, *pb), 2) : 1e12;
    }
  return std::sqrt(sum / (cells * cells));
}

}  // namespace fexel
