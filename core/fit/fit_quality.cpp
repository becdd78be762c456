#include "fit/fit_quality.h"

#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <algorithm>
#include <limits>

#include "fit/curves.h"

namespace fexel {

int parameters_of(Model model, int pairs) {
  constexpr int parameters[] = {2, 3, 4, 6, 8, 12, 20, 0};
  return model == Model::thin_plate ? 2 * pairs : parameters[static_cast<std::size_t>(model)];
}

FitQuality::FitQuality(Model model, const std::vector<PointPair>& pairs, const std::vector<bool>& kept, const Map& map)
    : model_(model), pairs_(pairs), kept_(kept), weights_(stated_weights(pairs)), map_(map) {
  int count = 0;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (kept[i]) {
      middle_ = middle_ + pairs[i].from;
      middle_to_ = middle_to_ + pairs[i].to;
      ++count;
    }
  if (count == 0) return;
  middle_ = 1.0 / count * middle_;
  middle_to_ = 1.0 / count * middle_to_;
  double away = 0, away_to = 0;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (kept[i]) {
      away += distance(pairs[i].from, middle_) / count;
      away_to += distance(pairs[i].to, middle_to_) / count;
    }
  scale_ = std::max(away, 1e-300);
  scale_to_ = std::max(away_to, 1e-300);
  freedom_ = 2 * count - parameters_of(model, count);
  Eigen::MatrixXd normal;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    if (!kept[i]) continue;
    const Eigen::MatrixXd j = jacobian(pairs[i].from);
    if (normal.size() == 0) normal = Eigen::MatrixXd::Zero(j.cols(), j.cols());
    normal += weights_[i] * j.transpose() * j;
    const auto at = map.forward(pairs[i].from);
    if (at)
      squares_ +=
          weights_[i] * std::pow(distance(*at, pairs[i].to), 2);  // one beyond the horizon disagrees without bound
  }
  if (freedom_ > 0) noise_ = std::sqrt(squares_ / freedom_);
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(normal);
  const Eigen::VectorXd values = solver.eigenvalues();
  determined_ = values(0) > 1e-15 * values(values.size() - 1);
  if (determined_)
    inverse_ = solver.eigenvectors() * values.cwiseInverse().asDiagonal() * solver.eigenvectors().transpose();
}

Eigen::MatrixXd FitQuality::jacobian(Point from) const {
  const Point p = 1 / scale_ * (from - middle_);
  const auto both = [](std::initializer_list<double> terms) {
    const auto n = static_cast<Eigen::Index>(terms.size());
    Eigen::MatrixXd j = Eigen::MatrixXd::Zero(2, 2 * n);
    Eigen::Index k = 0;
    for (const double term : terms) {
      j(0, k) = j(1, n + k) = term;
      ++k;
    }
    return j;
  };
  switch (model_) {
    case Model::translation:
      return Eigen::MatrixXd::Identity(2, 2);
    case Model::rigid:
    case Model::similarity: {
      const Point at = map_.forward(from).value_or(middle_to_);
      const Point q = 1 / scale_to_ * (at - middle_to_);
      Eigen::MatrixXd j(2, model_ == Model::rigid ? 3 : 4);
      j.leftCols(3) << 1, 0, -q.y, 0, 1, q.x;
      if (model_ == Model::similarity) j.col(3) << q.x, q.y;
      return j;
    }
    case Model::projective: {
      const Matrix3 here = scaling(scale_, scale_), there = scaling(1 / scale_to_, 1 / scale_to_);
      Matrix3 m =
          there * translation(-middle_to_.x, -middle_to_.y) * map_.matrix() * translation(middle_.x, middle_.y) * here;
      m /= m.norm();
      const double z = m(2, 0) * p.x + m(2, 1) * p.y + m(2, 2);
      const Point q = Map::apply(m, p).value_or(Point{0, 0});
      Eigen::MatrixXd all(2, 9);
      all << p.x / z, p.y / z, 1 / z, 0, 0, 0, -q.x * p.x / z, -q.x * p.y / z, -q.x / z,  //
          0, 0, 0, p.x / z, p.y / z, 1 / z, -q.y * p.x / z, -q.y * p.y / z, -q.y / z;
      // The largest of the nine numbers stays as it is: only their ratios count.
      Eigen::Index row = 0, column = 0;
      m.cwiseAbs().maxCoeff(&row, &column);
      Eigen::MatrixXd j(2, 8);
      for (Eigen::Index k = 0, to = 0; k < 9; ++k)
        if (k != 3 * row + column) j.col(to++) = scale_to_ * all.col(k);
      return j;
    }
    case Model::polynomial2:
    case Model::polynomial3: {
      const std::vector<double> terms = Polynomial::terms(model_ == Model::polynomial2 ? 2 : 3, p);
      const auto n = static_cast<Eigen::Index>(terms.size());
      Eigen::MatrixXd j = Eigen::MatrixXd::Zero(2, 2 * n);
      for (Eigen::Index k = 0; k < n; ++k) j(0, k) = j(1, n + k) = terms[static_cast<std::size_t>(k)];
      return j;
    }
    case Model::affine:
    case Model::thin_plate:
      break;
  }
  return both({p.x, p.y, 1});
}

double FitQuality::uncertainty_at(Point from, double sigma) const {
  if (!determined_) return std::numeric_limits<double>::infinity();
  const Eigen::MatrixXd j = jacobian(from);
  return sigma * std::sqrt((j * inverse_ * j.transpose()).trace());
}

Eigen::MatrixXd FitQuality::covariance_of(const std::vector<Point>& places) const {
  if (!determined_) return {};
  Eigen::MatrixXd rows(2 * static_cast<Eigen::Index>(places.size()), inverse_.cols());
  for (std::size_t i = 0; i < places.size(); ++i)
    rows.middleRows(2 * static_cast<Eigen::Index>(i), 2) = jacobian(places[i]);
  return rows * inverse_ * rows.transpose();
}

std::vector<std::size_t> FitQuality::most_helpful(const std::vector<Point>& candidates,
                                                  const std::vector<Point>& judged, int count) const {
  std::vector<std::size_t> out;
  if (!determined_) return out;
  Eigen::MatrixXd inverse = inverse_, wanted = Eigen::MatrixXd::Zero(inverse.rows(), inverse.cols());
  for (const Point p : judged) {
    const Eigen::MatrixXd j = jacobian(p);
    wanted += j.transpose() * j;
  }
  std::vector<Eigen::MatrixXd> slopes;
  for (const Point p : candidates) slopes.push_back(jacobian(p));
  for (int k = 0; k < count; ++k) {
    // A pair changes the inverse by a matrix of rank two (M. A. Woodbury, 1950).
    const Eigen::MatrixXd weighed = inverse * wanted * inverse;
    double most = 0;
    std::size_t best = candidates.size();
    for (std::size_t i = 0; i < candidates.size(); ++i) {
      const Matrix2 own = Matrix2::Identity() + Matrix2(slopes[i] * inverse * slopes[i].transpose());
      const double less = (own.inverse() * Matrix2(slopes[i] * weighed * slopes[i].transpose())).trace();
      if (less > most) {
        most = less;
        best = i;
      }
    }
    if (best == candidates.size()) break;
    out.push_back(best);
    const Matrix2 own = Matrix2::Identity() + Matrix2(slopes[best] * inverse * slopes[best].transpose());
    const Eigen::MatrixXd side = inverse * slopes[best].transpose();
    inverse -= side * own.inverse() * side.transpose();
  }
  return out;
}

double FitQuality::disagreement(int i) const {
  const auto k = static_cast<std::size_t>(i);
  const auto at = map_.forward(pairs_[k].from);
  if (!determined_ || !at) return std::numeric_limits<double>::infinity();
  const Eigen::MatrixXd j = jacobian(pairs_[k].from);
  const Matrix2 known = weights_[k] * j * inverse_ * j.transpose();
  const Eigen::Vector2d off = std::sqrt(weights_[k]) * Eigen::Vector2d(at->x - pairs_[k].to.x, at->y - pairs_[k].to.y);
  // What is left of a kept pair is less than its error by what it has pulled the fit; a new one's is more.
  const Matrix2 spread = kept_[k] ? Matrix2(Matrix2::Identity() - known) : Matrix2(Matrix2::Identity() + known);
  if (!(spread.determinant() > 1e-12)) return 0;  // the fit goes through it, whatever it is
  const double square = off.dot(spread.inverse() * off);
  const int freedom = freedom_ - (kept_[k] ? 2 : 0);
  if (freedom < 1) return 0;
  // Rounding is no disagreement.
  const double least = 1e-18 * (scale_to_ * scale_to_ + middle_to_.x * middle_to_.x + middle_to_.y * middle_to_.y);
  const double rest = std::max((squares_ - (kept_[k] ? square : 0)) / freedom, least);
  return square / 2 / rest;
}

std::optional<double> FitQuality::left_out(int i) const {
  const auto k = static_cast<std::size_t>(i);
  const auto at = map_.forward(pairs_[k].from);
  if (!determined_ || !at) return std::nullopt;
  const Eigen::MatrixXd j = jacobian(pairs_[k].from);
  const Matrix2 rest = Matrix2::Identity() - Matrix2(weights_[k] * j * inverse_ * j.transpose());
  if (!(std::abs(rest.determinant()) > 1e-9)) return std::nullopt;
  return (rest.inverse() * Eigen::Vector2d(at->x - pairs_[k].to.x, at->y - pairs_[k].to.y)).norm();
}

double FitQuality::limit(int i, double rate) const {
  const int freedom = freedom_ - (kept_[static_cast<std::size_t>(i)] ? 2 : 0);
  if (freedom < 1) return std::numeric_limits<double>::infinity();
  // F(2, n) has the distribution 1 - (1 + 2 x / n)^(-n / 2).
  return 0.5 * freedom * (std::pow(rate, -2.0 / freedom) - 1);
}

std::vector<bool> pairs_that_agree(Model model, const std::vector<PointPair>& pairs, std::vector<bool> start,
                                   double rate, const std::function<Map(const std::vector<bool>&)>& fit) {
  const int count = static_cast<int>(pairs.size());
  const auto used = static_cast<int>(std::ranges::count_if(pairs, [](const PointPair& p) { return p.counts(); }));
  const double each = rate / used;
  std::vector<bool> kept = std::move(start);
  // Where little is left over, pairs come in and go out one at a time, else all at once.
  constexpr int ample = 30, max_rounds = 120;
  const int rounds = std::min(3 * count, max_rounds);
  for (int round = 0; round < rounds; ++round) {
    const FitQuality quality(model, pairs, kept, fit(kept));
    std::vector<std::pair<double, std::size_t>> agree, disagree;
    for (int i = 0; i < count; ++i) {
      const auto k = static_cast<std::size_t>(i);
      if (!pairs[k].counts()) continue;
      const double share = quality.disagreement(i) / quality.limit(i, each);
      if (!kept[k] && share <= 1) agree.emplace_back(share, k);
      if (kept[k] && share > 1) disagree.emplace_back(-share, k);
    }
    // Those outside that agree come in first, the best of them; the last rounds only take out, so that there is an end.
    const bool in = !agree.empty() && round < 2 * rounds / 3;
    auto& chosen = in ? agree : disagree;
    if (chosen.empty()) break;
    std::ranges::sort(chosen);
    if (quality.freedom() < ample) chosen.resize(1);
    for (const auto& [share, k] : chosen) kept[k] = in;
  }
  return kept;
}

}  // namespace fexel
