#include "fit/fit.h"
#include "base/statistics.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <algorithm>
#include <limits>

#include "base/error.h"
#include "fit/curves.h"
#include "fit/fit_quality.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr double singular = 1e-7;  // of the largest singular value: less says nothing

/// Points moved to their mean and scaled to a mean distance of sqrt(2).
struct Normal {
  Point middle{0, 0};
  double scale = 1;
  Point operator()(Point p) const { return 1 / scale * (p - middle); }
  Matrix3 matrix() const { return scaling(1 / scale, 1 / scale) * translation(-middle.x, -middle.y); }
};

struct Weighted {
  std::vector<Point> from, to;
  std::vector<double> weight;
  Normal of_from, of_to;
};

Normal normal_of(const std::vector<Point>& points, const std::vector<double>& weight) {
  Normal out;
  double sum = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    out.middle = out.middle + weight[i] * points[i];
    sum += weight[i];
  }
  out.middle = 1 / sum * out.middle;
  double away = 0;
  for (std::size_t i = 0; i < points.size(); ++i) away += weight[i] * distance(points[i], out.middle);
  out.scale = away / sum / std::sqrt(2.0);
  return out;
}

[[noreturn]] void refuse(const std::string& what, const std::string& remedy) {
  throw call_error(what, "/pairs", remedy);
}

/// Solves rows x = values in the least-squares sense; refuses what does not determine x.
Eigen::MatrixXd solved(const Eigen::MatrixXd& rows, const Eigen::MatrixXd& values, Model model) {
  const auto found = least_squares(rows, values, singular);
  if (!found)
    refuse(fmt::format("The points do not determine a {} transform: they lie on a line or a curve of its own kind.",
                       name_of(model)),
           "Add points away from the others, or choose a simpler model.");
  return *found;
}

/// [a -b; b a] with |a, b| = 1 where the size is kept.
Matrix3 turned(const Weighted& w, bool keeps_size) {
  // Source: S. Umeyama, 1991; in two dimensions the sums say all.
  double cosine = 0, sine = 0, square = 0;
  for (std::size_t i = 0; i < w.from.size(); ++i) {
    const Point a = w.from[i] - w.of_from.middle, b = w.to[i] - w.of_to.middle;
    cosine += w.weight[i] * (a.x * b.x + a.y * b.y);
    sine += w.weight[i] * (a.x * b.y - a.y * b.x);
    square += w.weight[i] * (a.x * a.x + a.y * a.y);
  }
  const double size = keeps_size ? std::hypot(cosine, sine) : square;
  if (!(size > 0)) refuse("The points say nothing of a turn: they are turned every way.", "Check the pairs.");
  Matrix3 m;
  m << cosine / size, -sine / size, 0, sine / size, cosine / size, 0, 0, 0, 1;
  return translation(w.of_to.middle.x, w.of_to.middle.y) * m * translation(-w.of_from.middle.x, -w.of_from.middle.y);
}

/// `columns` terms of each point, each row with its weight's root, against the target.
template <class Terms>
Eigen::MatrixXd linear(const Weighted& w, int columns, Model model, Terms terms) {
  const auto count = static_cast<Eigen::Index>(w.from.size());
  Eigen::MatrixXd rows(count, columns), values(count, 2);
  for (Eigen::Index i = 0; i < count; ++i) {
    const auto n = static_cast<std::size_t>(i);
    const double root = std::sqrt(w.weight[n]);
    const std::vector<double> t = terms(w.of_from(w.from[n]));
    for (int k = 0; k < columns; ++k) rows(i, k) = root * t[static_cast<std::size_t>(k)];
    values(i, 0) = root * w.to[n].x;
    values(i, 1) = root * w.to[n].y;
  }
  return solved(rows, values, model);
}

Matrix3 affine(const Weighted& w) {
  const Eigen::MatrixXd c = linear(w, 3, Model::affine, [](Point p) { return std::vector<double>{p.x, p.y, 1}; });
  Matrix3 m;
  m << c(0, 0), c(1, 0), c(2, 0), c(0, 1), c(1, 1), c(2, 1), 0, 0, 1;
  return m * w.of_from.matrix();
}

/// The normalised linear solve, then least squares on the distances in `to`.
Matrix3 projective(const Weighted& w) {
  const auto count = static_cast<Eigen::Index>(w.from.size());
  Eigen::MatrixXd rows(2 * count, 9);
  for (Eigen::Index i = 0; i < count; ++i) {
    const auto n = static_cast<std::size_t>(i);
    const Point a = w.of_from(w.from[n]), b = w.of_to(w.to[n]);
    const double root = std::sqrt(w.weight[n]);
    rows.row(2 * i) << a.x, a.y, 1, 0, 0, 0, -b.x * a.x, -b.x * a.y, -b.x;
    rows.row(2 * i + 1) << 0, 0, 0, a.x, a.y, 1, -b.y * a.x, -b.y * a.y, -b.y;
    rows.middleRows(2 * i, 2) *= root;
  }
  const auto direction = null_direction(rows, singular);
  if (!direction)
    refuse("The points do not determine a projective transform: three of four lie on a line.",
           "Add points away from the others, or choose a simpler model.");
  const Eigen::VectorXd& h = *direction;
  Matrix3 m;
  m << h(0), h(1), h(2), h(3), h(4), h(5), h(6), h(7), h(8);
  // w > 0 on the points' side of the horizon.
  int positive = 0, negative = 0;
  const auto side = [&](Point p) { return m(2, 0) * p.x + m(2, 1) * p.y + m(2, 2); };
  for (const Point p : w.from) (side(w.of_from(p)) > 0 ? positive : negative) += 1;
  if (positive > 0 && negative > 0)
    refuse("The points lie on both sides of a horizon: some pair is wrong.", "Check the pairs, or exclude outliers.");
  if (negative > 0) m = -m;
  m /= m.norm();
  // Levenberg and Marquardt on eight numbers: the largest stays.
  Eigen::Index big_r = 0, big_c = 0;
  m.cwiseAbs().maxCoeff(&big_r, &big_c);
  const auto cost = [&](const Matrix3& at) {
    double sum = 0;
    for (std::size_t i = 0; i < w.from.size(); ++i) {
      const auto p = Map::apply(at, w.of_from(w.from[i]));
      if (!p) return std::numeric_limits<double>::infinity();
      const Point d = *p - w.of_to(w.to[i]);
      sum += w.weight[i] * (d.x * d.x + d.y * d.y);
    }
    return sum;
  };
  double damping = 1e-3, now = cost(m);
  for (int round = 0; round < 50 && std::isfinite(now); ++round) {
    Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(9, 9);
    Eigen::VectorXd gradient = Eigen::VectorXd::Zero(9);
    for (std::size_t i = 0; i < w.from.size(); ++i) {
      const Point a = w.of_from(w.from[i]), b = w.of_to(w.to[i]);
      const double z = m(2, 0) * a.x + m(2, 1) * a.y + m(2, 2);
      const Point p = *Map::apply(m, a);
      Eigen::Matrix<double, 2, 9> j;
      j << a.x / z, a.y / z, 1 / z, 0, 0, 0, -p.x * a.x / z, -p.x * a.y / z, -p.x / z,  //
          0, 0, 0, a.x / z, a.y / z, 1 / z, -p.y * a.x / z, -p.y * a.y / z, -p.y / z;
      j.col(3 * big_r + big_c).setZero();
      normal += w.weight[i] * j.transpose() * j;
      gradient += w.weight[i] * j.transpose() * Eigen::Vector2d(p.x - b.x, p.y - b.y);
    }
    normal.diagonal() *= 1 + damping;
    normal(3 * big_r + big_c, 3 * big_r + big_c) = 1;
    const Eigen::VectorXd step = *solve_symmetric(normal, -gradient);
    Matrix3 next = m;
    for (int k = 0; k < 9; ++k) next(k / 3, k % 3) += step(k);
    const double then = cost(next);
    if (then < now) {
      const bool settled = now - then < 1e-14 * now;
      m = next;
      now = then;
      damping /= 10;
      if (settled) break;
    } else {
      damping *= 10;
      if (damping > 1e10) break;
    }
  }
  return w.of_to.matrix().inverse() * m * w.of_from.matrix();
}

Map polynomial(const Weighted& w, int order) {
  const int terms = order == 2 ? 6 : 10;
  const Eigen::MatrixXd c = linear(w, terms, order == 2 ? Model::polynomial2 : Model::polynomial3,
                                   [order](Point p) { return Polynomial::terms(order, p); });
  std::vector<Point> coefficients;
  for (int k = 0; k < terms; ++k) coefficients.push_back({c(k, 0), c(k, 1)});
  return Map(std::make_shared<const Polynomial>(coefficients, w.of_from.middle, w.of_from.scale));
}

Map thin_plate(const Weighted& w) {
  const auto n = static_cast<Eigen::Index>(w.from.size());
  std::vector<Point> centres;
  for (const Point p : w.from) centres.push_back(w.of_from(p));
  for (std::size_t i = 0; i < centres.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      if (distance(centres[i], centres[k]) < 1e-9)
        refuse(fmt::format("Points {} and {} are the same point.", k + 1, i + 1), "Leave one of them out.");
  affine(w);  // refuses points on a line
  Eigen::MatrixXd rows = Eigen::MatrixXd::Zero(n + 3, n + 3), values = Eigen::MatrixXd::Zero(n + 3, 2);
  for (Eigen::Index i = 0; i < n; ++i) {
    const Point p = centres[static_cast<std::size_t>(i)];
    for (Eigen::Index k = 0; k < n; ++k) {
      const Point d = p - centres[static_cast<std::size_t>(k)];
      rows(i, k) = ThinPlate::bump(d.x * d.x + d.y * d.y);
    }
    rows.block<1, 3>(i, n) << p.x, p.y, 1;
    rows.block<3, 1>(n, i) << p.x, p.y, 1;
    values.row(i) << w.to[static_cast<std::size_t>(i)].x, w.to[static_cast<std::size_t>(i)].y;
  }
  const Eigen::MatrixXd c = solve_square(rows, values);
  std::vector<Point> weights;
  for (Eigen::Index i = 0; i < n; ++i) weights.push_back({c(i, 0), c(i, 1)});
  Matrix3 m;
  m << c(n, 0), c(n + 1, 0), c(n + 2, 0), c(n, 1), c(n + 1, 1), c(n + 2, 1), 0, 0, 1;
  if (!(std::abs(m.topLeftCorner<2, 2>().determinant()) > 1e-12))
    refuse("The points are carried to a line.", "Check the pairs.");
  return Map(std::make_shared<const ThinPlate>(centres, weights, m, w.of_from.middle, w.of_from.scale));
}

Map fitted(Model model, const Weighted& w) {
  switch (model) {
    case Model::translation:
      return Map(translation(w.of_to.middle.x - w.of_from.middle.x, w.of_to.middle.y - w.of_from.middle.y));
    case Model::rigid:
    case Model::similarity:
      return Map(turned(w, model == Model::rigid));
    case Model::affine:
      return Map(affine(w));
    case Model::projective:
      return Map(projective(w));
    case Model::polynomial2:
    case Model::polynomial3:
      return polynomial(w, model == Model::polynomial2 ? 2 : 3);
    case Model::thin_plate:
      break;
  }
  return thin_plate(w);
}

/// The fit to pairs with these weights.
Map fitted_to(Model model, const std::vector<PointPair>& pairs, const std::vector<double>& weights) {
  Weighted w;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    if (!(weights[i] > 0)) continue;
    w.from.push_back(pairs[i].from);
    w.to.push_back(pairs[i].to);
    w.weight.push_back(weights[i]);
  }
  w.of_from = normal_of(w.from, w.weight);
  w.of_to = normal_of(w.to, w.weight);
  if (model != Model::translation && !(w.of_from.scale > 0))
    refuse("All points are the same point.", "Add points away from each other.");
  if (model != Model::translation && !(w.of_to.scale > 0))
    refuse("All points are carried to the same point.", "Check the pairs.");
  return fitted(model, w);
}

std::vector<Point> residuals_of(const Map& map, const std::vector<PointPair>& pairs) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  std::vector<Point> out;
  for (const PointPair& pair : pairs) {
    const auto p = map.forward(pair.from);
    out.push_back(p ? *p - pair.to : Point{nan, nan});
  }
  return out;
}

/// Weights 0 for outliers and 1 for the rest: Tukey's biweight finds pairs that surely belong together, and F-tests at
/// a rate of false alarms for the whole set decide on each of the others.
void exclude_outliers(Model model, const std::vector<PointPair>& pairs, Fit& out) {
  constexpr int rounds = 30;
  const int needed = pairs_needed(model);
  const auto many = [](const std::vector<double>& weights) {
    return std::ranges::count_if(weights, [](double v) { return v > 0; });
  };
  const std::vector<double> stated = out.weights;
  std::vector<double> weights = stated;
  for (int round = 0; round < rounds; ++round) {
    const std::vector<Point> residuals = residuals_of(fitted_to(model, pairs, weights), pairs);
    const auto off_by = [&](std::size_t i) {
      return std::sqrt(stated[i]) * std::hypot(residuals[i].x, residuals[i].y);
    };
    std::vector<double> off;
    double extent = 0;
    for (std::size_t i = 0; i < pairs.size(); ++i)
      if (pairs[i].counts()) {
        const double d = off_by(i);
        off.push_back(std::isnan(d) ? std::numeric_limits<double>::infinity() : d);
        extent = std::max(extent, distance(pairs[i].to, pairs.front().to));
      }
    // The median of distances of two normal numbers is 1.1774 of their deviation.
    const double limit = 4.685 * std::max(median(off) / 1.1774, 1e-9 * std::max(extent, 1e-12));
    double change = 0;
    for (std::size_t i = 0; i < pairs.size(); ++i) {
      if (!pairs[i].counts()) continue;
      const double u = off_by(i) / limit;
      const double weight = u < 1 ? stated[i] * (1 - u * u) * (1 - u * u) : 0;
      change = std::max(change, std::abs(weight - weights[i]));
      weights[i] = weight;
    }
    if (many(weights) <= needed) {
      weights = out.weights;  // some pairs agree by chance far better than the rest: the tests begin with all
      break;
    }
    if (change < 1e-6) break;
  }
  std::vector<bool> start;
  for (const double weight : weights) start.push_back(weight > 0);
  // With fewer than two numbers left over nothing can be tested: then all that are used belong together.
  if (2 * many(weights) - parameters_of(model, 0) < 2)
    for (std::size_t i = 0; i < pairs.size(); ++i) start[i] = pairs[i].counts();
  const auto kept =
      pairs_that_agree(model, pairs, std::move(start), outlier_rate, [&](const std::vector<bool>& marked) {
        std::vector<double> kept_weights = stated;
        for (std::size_t i = 0; i < marked.size(); ++i)
          if (!marked[i]) kept_weights[i] = 0;
        return fitted_to(model, pairs, kept_weights);
      });
  for (std::size_t i = 0; i < pairs.size(); ++i) out.weights[i] = kept[i] ? stated[i] : 0;
  if (many(out.weights) < needed)
    refuse("Too many pairs disagree for any to be believed.", "Check the pairs, or fit without excluding outliers.");
}

}  // namespace

const char* name_of(Model model) {
  return model_names()[static_cast<std::size_t>(model)].c_str();
}
const std::vector<std::string>& model_names() {
  static const std::vector<std::string> names = {"translation", "rigid",       "similarity",  "affine",
                                                 "projective",  "polynomial2", "polynomial3", "thin-plate"};
  return names;
}
std::optional<Model> model_named(const std::string& name) {
  const auto at = std::ranges::find(model_names(), name);
  if (at == model_names().end()) return std::nullopt;
  return static_cast<Model>(at - model_names().begin());
}
int pairs_needed(Model model) {
  constexpr int needed[] = {1, 2, 2, 3, 4, 6, 10, 3};
  return needed[static_cast<std::size_t>(model)];
}

std::optional<double> least_uncertainty(const std::vector<PointPair>& pairs) {
  std::optional<double> out;
  for (const PointPair& pair : pairs)
    if (pair.counts() && pair.uncertainty) out = std::min(out.value_or(*pair.uncertainty), *pair.uncertainty);
  return out;
}

std::vector<double> stated_weights(const std::vector<PointPair>& pairs) {
  const auto least = least_uncertainty(pairs);
  double most = 0;
  for (const PointPair& pair : pairs)
    if (pair.counts()) most = std::max(most, pair.uncertainty.value_or(0));
  std::vector<double> out;
  for (const PointPair& pair : pairs) {
    const double share = least ? *least / pair.uncertainty.value_or(most) : 1;
    out.push_back(pair.counts() ? share * share : 0);
  }
  return out;
}

Fit fit_pairs(Model model, const std::vector<PointPair>& pairs, bool robust) {
  Fit out;
  out.weights = stated_weights(pairs);
  out.used = static_cast<int>(std::ranges::count_if(pairs, &PointPair::counts));
  if (out.used < pairs_needed(model))
    refuse(fmt::format("A {} transform needs {} pair{}; there {} {}.", name_of(model), pairs_needed(model),
                       pairs_needed(model) == 1 ? "" : "s", out.used == 1 ? "is" : "are", out.used),
           "Add pairs, or choose a simpler model.");
  if (robust && model != Model::thin_plate && out.used > pairs_needed(model) + 1) exclude_outliers(model, pairs, out);
  out.map = fitted_to(model, pairs, out.weights);
  out.residuals = residuals_of(out.map, pairs);
  double sum = 0, weighted = 0;
  out.used = 0;
  std::vector<bool> kept;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    kept.push_back(out.weights[i] > 0);
    if (!kept.back()) continue;
    const double square = out.residuals[i].x * out.residuals[i].x + out.residuals[i].y * out.residuals[i].y;
    sum += square;
    weighted += out.weights[i] * square;
    ++out.used;
  }
  out.rms = std::sqrt(sum / std::max(1, out.used));
  out.freedom = 2 * out.used - parameters_of(model, out.used);
  if (out.freedom > 0) out.noise = std::sqrt(weighted / out.freedom);
  double checked = 0;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    if (!pairs[i].use || !pairs[i].check) continue;
    checked += out.residuals[i].x * out.residuals[i].x + out.residuals[i].y * out.residuals[i].y;
    ++out.checks;
  }
  if (out.checks > 0) out.check_rms = std::sqrt(checked / out.checks);
  return out;
}

double largest_uncertainty(Model model, const std::vector<PointPair>& pairs, const Fit& fit,
                           const std::vector<Point>& places, double sigma) {
  std::vector<bool> kept;
  for (const double weight : fit.weights) kept.push_back(weight > 0);
  const FitQuality quality(model, pairs, kept, fit.map);
  double largest = 0;
  for (const Point place : places)
    if (fit.map.forward(place)) largest = std::max(largest, quality.uncertainty_at(place, sigma));
  return largest;
}

}  // namespace fexel
