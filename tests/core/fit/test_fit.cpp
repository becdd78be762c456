#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "fit/fit.h"

using namespace fexel;

namespace {

/// Places over a picture of 1600 x 1200, and where `truth` carries them, with noise.
template <class Truth>
std::vector<PointPair> pairs_of(Truth truth, int count, double noise, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> x(0, 1600), y(0, 1200);
  std::normal_distribution<double> off(0, noise);
  std::vector<PointPair> out;
  for (int i = 0; i < count; ++i) {
    const Point p{x(random), y(random)}, q = truth(p);
    out.push_back({p, {q.x + (noise > 0 ? off(random) : 0), q.y + (noise > 0 ? off(random) : 0)}, {}, true});
  }
  return out;
}

Point bent(Point p) {  // a polynomial of order 3
  const double u = (p.x - 800) / 800, v = (p.y - 600) / 800;
  return {40 + 0.9 * p.x + 0.1 * p.y + 20 * u * u - 15 * u * v + 9 * u * u * v,
          -10 - 0.08 * p.x + 1.1 * p.y + 12 * v * v - 6 * v * v * v};
}

std::string refusal(Model model, const std::vector<PointPair>& pairs) {
  try {
    fit_pairs(model, pairs, false);
  } catch (const Error& error) {
    CHECK(error.where() == "/pairs");
    CHECK_FALSE(error.remedy().empty());
    return error.message();
  }
  return "fitted";
}

}  // namespace

TEST_CASE("every model finds the transform that made its pairs, and goes there and back", "[fit]") {
  Matrix3 turned, skewed, tilted;
  turned << 0.9998, 0.02, 13, -0.02, 0.9998, -7, 0, 0, 1;
  turned.topLeftCorner<2, 2>() /= std::hypot(0.9998, 0.02);
  skewed << 1.1, 0.03, 40, -0.05, 0.93, 20, 0, 0, 1;
  tilted << 1.05, 0.02, 30, -0.04, 0.97, 12, 8e-5, -5e-5, 1;
  const auto by = [](const Matrix3& m) { return [m](Point p) { return *Map::apply(m, p); }; };
  const std::pair<Model, std::function<Point(Point)>> cases[] = {
      {Model::translation, by(translation(31.5, -8.25))},
      {Model::rigid, by(turned)},
      {Model::similarity, by(Matrix3(scaling(1.3, 1.3) * turned))},
      {Model::affine, by(skewed)},
      {Model::projective, by(tilted)},
      {Model::polynomial3, bent},
      {Model::polynomial2, [](Point p) {
         return Point{p.x + 1e-5 * p.x * p.y, p.y - 2e-5 * p.x * p.x};
       }}};
  for (const auto& [model, truth] : cases) {
    INFO(name_of(model));
    const auto pairs = pairs_of(truth, std::max(12, 2 * pairs_needed(model)), 0, 3);
    const Fit fit = fit_pairs(model, pairs, false);
    CHECK(fit.rms < 1e-7);
    for (const Point p : {Point{100, 90}, Point{1500, 200}, Point{700, 1100}}) {
      const auto at = fit.map.forward(p);
      REQUIRE(at);
      CHECK(distance(*at, truth(p)) < 1e-6);
      const auto back = fit.map.backward(*at);
      REQUIRE(back);
      CHECK(distance(*back, p) < 1e-6);
      // The Jacobian is the slope of forward().
      const auto j = fit.map.jacobian(p);
      REQUIRE(j);
      const Point dx = *fit.map.forward({p.x + 0.01, p.y}) - *fit.map.forward({p.x - 0.01, p.y});
      CHECK((*j)(0, 0) == Approx(dx.x / 0.02).margin(1e-6));
      CHECK((*j)(1, 0) == Approx(dx.y / 0.02).margin(1e-6));
    }
  }
}

TEST_CASE("residuals are as large as theory says: noise less what the parameters take up", "[fit]") {
  const std::pair<Model, int> parameters[] = {
      {Model::translation, 2}, {Model::affine, 6}, {Model::projective, 8}, {Model::polynomial2, 12}};
  for (const auto& [model, count] : parameters) {
    constexpr int n = 30, rounds = 300;
    double square = 0;
    for (int round = 0; round < rounds; ++round) {
      const Fit fit =
          fit_pairs(model, pairs_of([](Point p) { return p; }, n, 0.5, 100 + static_cast<unsigned>(round)), false);
      square += fit.rms * fit.rms * n;
    }
    // Sum of squares: (2 n - parameters) sigma^2.
    INFO(name_of(model));
    CHECK(square / rounds == Approx((2 * n - count) * 0.25).epsilon(0.04));
  }
}

TEST_CASE("a robust fit excludes outliers and names them", "[fit]") {
  auto pairs = pairs_of(bent, 24, 0.3, 5);
  pairs[4].to = pairs[4].to + Point{60, -35};
  pairs[17].to = pairs[17].to + Point{-20, 44};
  const Fit plain = fit_pairs(Model::polynomial2, pairs, false), robust = fit_pairs(Model::polynomial2, pairs, true);
  CHECK(plain.used == 24);
  CHECK(robust.weights[4] == 0);
  CHECK(robust.weights[17] == 0);
  CHECK(robust.used >= 20);
  CHECK(robust.rms < 0.3 * plain.rms);
  CHECK(std::hypot(robust.residuals[4].x, robust.residuals[4].y) == Approx(std::hypot(60, 35)).epsilon(0.2));
}

TEST_CASE("a thin-plate spline goes through every pair and is affine where the pairs are", "[fit]") {
  const auto pairs = pairs_of(bent, 30, 0, 9);
  const Fit fit = fit_pairs(Model::thin_plate, pairs, false);
  CHECK(fit.rms < 1e-6);
  // Bookstein's spline by a plain reference: the same sum, worked out here from its conditions.
  for (const Point p : {Point{400, 400}, Point{900, 700}}) {
    CHECK(distance(*fit.map.forward(p), bent(p)) < 2);  // between pairs it bends as little as it can
    CHECK(distance(*fit.map.backward(*fit.map.forward(p)), p) < 1e-6);
  }
  const auto straight = [](Point p) { return Point{1.2 * p.x - 0.1 * p.y + 5, 0.2 * p.x + 0.8 * p.y}; };
  const Fit flat = fit_pairs(Model::thin_plate, pairs_of(straight, 12, 0, 10), false);
  for (const Point p : {Point{0, 0}, Point{1600, 1200}, Point{333, 999}})
    CHECK(distance(*flat.map.forward(p), straight(p)) < 1e-6);
}

TEST_CASE("pairs that do not determine a transform are refused with a remedy", "[fit]") {
  const auto on_line = [](int n) {
    std::vector<PointPair> out;
    for (int i = 0; i < n; ++i) out.push_back({{10.0 * i, 5.0 * i}, {10.0 * i + 3, 5.0 * i}, {}, true});
    return out;
  };
  CHECK(refusal(Model::affine, on_line(5)).find("line") != std::string::npos);
  CHECK(refusal(Model::projective, on_line(6)).find("line") != std::string::npos);
  CHECK(refusal(Model::thin_plate, on_line(6)).find("line") != std::string::npos);
  CHECK(refusal(Model::affine, on_line(2)).find("needs 3 pairs; there are 2") != std::string::npos);
  CHECK(refusal(Model::similarity, {{{5, 5}, {1, 1}, {}, true}, {{5, 5}, {2, 2}, {}, true}}).find("same point") !=
        std::string::npos);
  auto some = pairs_of(bent, 5, 0, 1);
  some[0].use = some[1].use = some[2].use = false;
  CHECK(refusal(Model::affine, some).find("there are 2") != std::string::npos);
  auto twice = pairs_of(bent, 6, 0, 2);
  twice[3] = twice[2];
  CHECK(refusal(Model::thin_plate, twice).find("same point") != std::string::npos);
  // A circle does not tell a conic's worth of second-order terms.
  std::vector<PointPair> circle;
  for (int i = 0; i < 12; ++i) {
    const Point p{100 + 50 * std::cos(i * 0.5), 100 + 50 * std::sin(i * 0.5)};
    circle.push_back({p, p, {}, true});
  }
  CHECK(refusal(Model::polynomial2, circle).find("do not determine") != std::string::npos);
}
