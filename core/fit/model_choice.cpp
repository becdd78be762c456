#include "fit/model_choice.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "base/error.h"
#include "fit/curves.h"
#include "fit/fit_quality.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr double enough_better = 4;  // of the criterion, for a model with more numbers
constexpr double rounding = 1e-6;    // pixels: below it residuals are no noise
constexpr int least_freedom = 6;     // of a model that can tell an outlier
constexpr std::array compared = {Model::translation, Model::rigid,       Model::similarity, Model::affine,
                                 Model::projective,  Model::polynomial2, Model::polynomial3};

/// The pairs less those that most models exclude: models are compared on the same pairs, and a large one would rather
/// bend to an outlier than exclude it.
std::vector<PointPair> without_outliers(std::vector<PointPair> pairs) {
  std::vector<int> votes(pairs.size(), 0);
  int voters = 0;
  for (const Model model : compared) {
    try {
      const Fit plain = fit_pairs(model, pairs, false);
      if (plain.freedom < least_freedom) continue;
      const Fit fit = fit_pairs(model, pairs, true);
      ++voters;
      for (std::size_t i = 0; i < pairs.size(); ++i) votes[i] += pairs[i].counts() && fit.weights[i] == 0;
    } catch (const Error&) {
      continue;  // it is not determined, and says nothing
    }
  }
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (2 * votes[i] > voters) pairs[i].use = false;
  return pairs;
}

}  // namespace

std::vector<std::optional<double>> leave_one_out(Model model, const std::vector<PointPair>& pairs, const Fit& fit) {
  std::vector<std::optional<double>> out(pairs.size());
  std::vector<bool> kept(pairs.size());
  for (std::size_t i = 0; i < pairs.size(); ++i) kept[i] = fit.weights[i] > 0;
  if (model != Model::thin_plate) {
    const FitQuality quality(model, pairs, kept, fit.map);
    for (std::size_t i = 0; i < pairs.size(); ++i)
      if (kept[i]) out[i] = quality.left_out(static_cast<int>(i));
    return out;
  }
  // What a spline through the others is off by follows from the inverse of its equations (S. Rippa, 1999, "An algorithm
  // for selecting a good value for the parameter c in radial basis function interpolation").
  std::vector<std::size_t> used;
  Point middle;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (kept[i]) {
      used.push_back(i);
      middle = middle + pairs[i].from;
    }
  const auto n = static_cast<Eigen::Index>(used.size());
  if (n < 4) return out;
  middle = 1.0 / static_cast<double>(n) * middle;
  double scale = 0;
  for (const std::size_t i : used) scale = std::max(scale, distance(pairs[i].from, middle));
  if (!(scale > 0)) return out;
  Eigen::MatrixXd rows = Eigen::MatrixXd::Zero(n + 3, n + 3), values = Eigen::MatrixXd::Zero(n + 3, 2);
  for (Eigen::Index i = 0; i < n; ++i) {
    const PointPair& pair = pairs[used[static_cast<std::size_t>(i)]];
    const Point p = 1 / scale * (pair.from - middle);
    for (Eigen::Index k = 0; k < n; ++k) {
      const Point d = p - 1 / scale * (pairs[used[static_cast<std::size_t>(k)]].from - middle);
      rows(i, k) = ThinPlate::bump(d.x * d.x + d.y * d.y);
    }
    rows.block<1, 3>(i, n) << p.x, p.y, 1;
    rows.block<3, 1>(n, i) << p.x, p.y, 1;
    values.row(i) << pair.to.x, pair.to.y;
  }
  const Eigen::MatrixXd inverse = solve_square(rows, Eigen::MatrixXd::Identity(n + 3, n + 3));
  const Eigen::MatrixXd weights = inverse * values;
  for (Eigen::Index i = 0; i < n; ++i) {
    const double off = weights.row(i).norm() / std::abs(inverse(i, i));
    // Where the others lie on a line they determine no spline.
    if (std::isfinite(off) && std::abs(inverse(i, i)) > 1e-9) out[used[static_cast<std::size_t>(i)]] = off;
  }
  return out;
}

std::vector<ModelTried> try_models(const std::vector<PointPair>& given, bool robust) {
  const std::vector<PointPair> pairs = robust ? without_outliers(given) : given;
  std::vector<ModelTried> out;
  for (const Model model : compared) {
    ModelTried tried{model, {}, {}, 0, 0};
    try {
      tried.fit = fit_pairs(model, pairs, false);
      double squares = 0, left = 0, count = 0;
      for (std::size_t i = 0; i < pairs.size(); ++i)
        if (tried.fit->weights[i] > 0)
          squares +=
              tried.fit->weights[i] * (std::pow(tried.fit->residuals[i].x, 2) + std::pow(tried.fit->residuals[i].y, 2));
      for (const auto& away : leave_one_out(model, pairs, *tried.fit))
        if (away) {
          left += *away * *away;
          ++count;
        }
      tried.left_out_rms = count > 0 ? std::sqrt(left / count) : 0;
      const double numbers = 2 * tried.fit->used, adjusted = parameters_of(model, tried.fit->used) + 1;
      tried.criterion = numbers - adjusted - 1 > 0
                            ? numbers * std::log(std::max(squares / numbers, rounding * rounding)) + 2 * adjusted +
                                  2 * adjusted * (adjusted + 1) / (numbers - adjusted - 1)
                            : std::numeric_limits<double>::infinity();
    } catch (const Error& error) {
      tried.problem = error.message();
    }
    out.push_back(std::move(tried));
  }
  return out;
}

std::optional<Model> suggested_model(const std::vector<ModelTried>& tried) {
  double best = std::numeric_limits<double>::infinity();
  for (const ModelTried& one : tried)
    if (one.fit) best = std::min(best, one.criterion);
  for (const ModelTried& one : tried)  // from few numbers to many
    if (one.fit && std::isfinite(one.criterion) && one.criterion <= best + enough_better) return one.model;
  return std::nullopt;
}

}  // namespace fexel
