#include <Eigen/Dense>
#include <catch2/catch.hpp>
#include <random>

#include "fit/coverage.h"
#include "fit/fit_quality.h"
#include "fit/model_choice.h"
#include "fit/pairs_csv.h"

// Pairs that state how well they are known.

using namespace fexel;

namespace {

const Matrix3 affine_truth = (Matrix3() << 1.1, 0.05, 20, -0.04, 0.95, -7, 0, 0, 1).finished();
const Matrix3 projective_truth = (Matrix3() << 1.1, 0.05, 20, -0.04, 0.95, -7, 2e-4, -1e-4, 1).finished();

/// A grid of pairs of which every third is ten times worse than the others, each off by what it states.
std::vector<PointPair> unequal(const Matrix3& truth, std::mt19937& random) {
  std::normal_distribution<double> normal;
  std::vector<PointPair> out;
  for (int k = 0; k < 24; ++k) {
    const Point p{60.0 + 150 * (k % 6) + 7 * (k % 5), 50.0 + 160 * (k / 6) + 5 * (k % 7)};
    const double sigma = k % 3 == 0 ? 2 : 0.2;
    const Point to = *Map::apply(truth, p) + Point{sigma * normal(random), sigma * normal(random)};
    out.push_back({p, to, {}, true, false, sigma});
  }
  return out;
}

}  // namespace

TEST_CASE("an affine fit of unequal pairs is the weighted least-squares solution", "[fit][weights]") {
  std::mt19937 random(3);
  const auto pairs = unequal(affine_truth, random);
  const Fit fit = fit_pairs(Model::affine, pairs, false);
  // The plain normal equations, each row over its own uncertainty.
  Eigen::MatrixXd rows(24, 3);
  Eigen::MatrixXd values(24, 2);
  for (int k = 0; k < 24; ++k) {
    const PointPair& p = pairs[static_cast<std::size_t>(k)];
    rows.row(k) = Eigen::RowVector3d(p.from.x, p.from.y, 1) / *p.uncertainty;
    values.row(k) = Eigen::RowVector2d(p.to.x, p.to.y) / *p.uncertainty;
  }
  const Eigen::MatrixXd inverse = (rows.transpose() * rows).inverse();
  const Eigen::MatrixXd c = inverse * rows.transpose() * values;
  for (int axis = 0; axis < 2; ++axis)
    for (int k = 0; k < 3; ++k) CHECK(fit.map.matrix()(axis, k) == Approx(c(k, axis)).epsilon(1e-7));
  for (int k = 0; k < 24; ++k) CHECK(fit.weights[static_cast<std::size_t>(k)] == Approx(k % 3 == 0 ? 0.01 : 1));
  const double squares = (rows * c - values).squaredNorm();
  CHECK(fit.noise == Approx(0.2 * std::sqrt(squares / (48 - 6))));
  // The covariance of its six numbers is the inverse of those equations, for x and y alike and apart.
  const Eigen::MatrixXd covariance = matrix_covariance(Model::affine, pairs, fit, 0.2);
  REQUIRE(covariance.rows() == 8);
  for (int i = 0; i < 3; ++i)
    for (int k = 0; k < 3; ++k) {
      const double scale = std::sqrt(inverse(i, i) * inverse(k, k));
      CHECK(std::abs(covariance(i, k) - inverse(i, k)) < 1e-6 * scale);
      CHECK(std::abs(covariance(3 + i, 3 + k) - inverse(i, k)) < 1e-6 * scale);
      CHECK(std::abs(covariance(i, 3 + k)) < 1e-6 * scale);
    }
  CHECK(covariance.bottomRows(2).norm() < 1e-12);
}

TEST_CASE("weights bring the error to what is stated, for every model that has a covariance", "[fit][weights][long]") {
  const auto [model, truth] =
      GENERATE(std::pair(Model::affine, affine_truth), std::pair(Model::projective, projective_truth));
  std::mt19937 random(11);
  const std::vector<Point> places{{30, 30}, {500, 300}, {980, 650}};
  std::vector<double> squares(3, 0), plain(3, 0), stated(3, 0);
  Eigen::MatrixXd scatter = Eigen::MatrixXd::Zero(8, 8), said = Eigen::MatrixXd::Zero(8, 8);
  double noise = 0;
  constexpr int sets = 1500;
  for (int set = 0; set < sets; ++set) {
    auto pairs = unequal(truth, random);
    const Fit fit = fit_pairs(model, pairs, false);
    const auto sigmas = uncertainty_at(model, pairs, fit, places, 0.2);
    const Matrix3 off = fit.map.matrix() / fit.map.matrix()(2, 2) - truth;
    Eigen::VectorXd numbers(8);
    for (int k = 0; k < 8; ++k) numbers(k) = off(k / 3, k % 3);
    scatter += numbers * numbers.transpose() / sets;
    said += matrix_covariance(model, pairs, fit, 0.2) / sets;
    noise += fit.noise / sets;
    for (PointPair& p : pairs) p.uncertainty.reset();
    const Fit equal = fit_pairs(model, pairs, false);
    for (std::size_t k = 0; k < 3; ++k) {
      const Point right = *Map::apply(truth, places[k]);
      squares[k] += std::pow(distance(*fit.map.forward(places[k]), right), 2) / sets;
      plain[k] += std::pow(distance(*equal.map.forward(places[k]), right), 2) / sets;
      stated[k] += sigmas[k] * sigmas[k] / sets;
    }
  }
  CHECK(noise == Approx(0.2).epsilon(0.03));
  for (std::size_t k = 0; k < 3; ++k) {
    CHECK(std::sqrt(squares[k] / stated[k]) == Approx(1).margin(0.06));
    CHECK(squares[k] < 0.2 * plain[k]);
  }
  for (int i = 0; i < (model == Model::affine ? 6 : 8); ++i)
    CHECK(std::sqrt(scatter(i, i) / said(i, i)) == Approx(1).margin(0.06));
}

TEST_CASE("an outlier is one by what it states", "[fit][weights]") {
  std::mt19937 random(5);
  auto pairs = unequal(affine_truth, random);
  // Three pixels are within what pair 0 states, and far beyond what pair 1 does.
  pairs[0].to = *Map::apply(affine_truth, pairs[0].from) + Point{3, 0};
  pairs[1].to = *Map::apply(affine_truth, pairs[1].from) + Point{3, 0};
  const Fit fit = fit_pairs(Model::affine, pairs, true);
  CHECK(fit.weights[0] > 0);
  CHECK(fit.weights[1] == 0);
}

TEST_CASE("what a pair would be off without its help counts its weight", "[fit][weights]") {
  std::mt19937 random(8);
  const auto pairs = unequal(affine_truth, random);
  const auto left = leave_one_out(Model::affine, pairs, fit_pairs(Model::affine, pairs, false));
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    auto others = pairs;
    others[i].use = false;
    const Fit fit = fit_pairs(Model::affine, others, false);
    REQUIRE(left[i]);
    CHECK(*left[i] == Approx(distance(*fit.map.forward(pairs[i].from), pairs[i].to)).epsilon(1e-6));
  }
}

TEST_CASE("uncertainties are read from a table and written to it", "[fit][weights]") {
  const auto pairs = pairs_from_csv("from_x,from_y,to_x,to_y,uncertainty\n1,2,3,4,0.25\n5,6,7,8,\n", 0);
  REQUIRE(pairs.size() == 2);
  CHECK(pairs[0].uncertainty == 0.25);
  CHECK_FALSE(pairs[1].uncertainty);
  CHECK(pairs_from_csv(csv_of_pairs(pairs), 0) == pairs);
  for (const char* wrong : {"0", "-1", "nan", "1e7", "much"})
    CHECK_THROWS_WITH(pairs_from_csv("from_x,from_y,to_x,to_y,uncertainty\n1,2,3,4," + std::string(wrong) + "\n", 0),
                      Catch::Contains("uncertainty"));
}
