#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "fit/model_choice.h"
#include "fit/pairs_csv.h"

using namespace fexel;

namespace {

/// Pairs over a picture of 1000 x 800, moved by a map of the model and placed to `noise` pixels.
std::vector<PointPair> pairs_of(Model model, int count, double noise, std::mt19937& random) {
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> hand(0, noise);
  const double turn = 0.1 + 0.3 * any(random), size = 0.8 + 0.1 * any(random);
  std::vector<PointPair> out;
  for (int i = 0; i < count; ++i) {
    const Point p{1000 * any(random), 800 * any(random)};
    const double x = p.x - 500, y = p.y - 400;
    Point q{x + 30, y - 20};
    if (model != Model::translation)
      q = {std::cos(turn) * x - std::sin(turn) * y + 30, std::sin(turn) * x + std::cos(turn) * y - 20};
    if (model == Model::similarity) q = size * q;
    if (model == Model::affine) q = {1.1 * x + 0.15 * y, -0.05 * x + 0.9 * y};
    if (model == Model::projective) {
      const double w = 1 + 2e-4 * x - 1.5e-4 * y;
      q = {(1.05 * x + 0.1 * y) / w, (0.95 * y - 0.04 * x) / w};
    }
    if (model == Model::polynomial2) q = {x + 8e-5 * x * x - 5e-5 * x * y, y + 7e-5 * y * y};
    out.push_back({p, q + Point{500 + hand(random), 400 + hand(random)}, "", true});
  }
  return out;
}

}  // namespace

TEST_CASE("left out, a pair lies where the fit of the others says", "[fit]") {
  std::mt19937 random(3);
  for (const Model model : {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective,
                            Model::polynomial2, Model::thin_plate}) {
    INFO(name_of(model));
    std::vector<PointPair> pairs = pairs_of(Model::affine, 14, 2, random);
    if (model == Model::rigid || model == Model::projective) pairs = pairs_of(model, 14, 2, random);
    pairs[5].use = false;
    const Fit fit = fit_pairs(model, pairs, false);
    const auto found = leave_one_out(model, pairs, fit);
    const bool linear = model != Model::rigid && model != Model::projective;
    for (std::size_t i = 0; i < pairs.size(); ++i) {
      if (i == 5) {
        CHECK_FALSE(found[i]);
        continue;
      }
      std::vector<PointPair> others = pairs;
      others[i].use = false;
      const double away = distance(*fit_pairs(model, others, false).map.forward(pairs[i].from), pairs[i].to);
      REQUIRE(found[i]);
      CHECK(*found[i] == Approx(away).epsilon(linear ? 1e-6 : 0.05).margin(linear ? 1e-9 : 0.02));
    }
  }
}

TEST_CASE("the model that made the pairs is suggested, and seldom a larger one", "[fit]") {
  std::mt19937 random(5);
  int right = 0, larger = 0, all = 0;
  for (const Model model :
       {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective, Model::polynomial2})
    for (int round = 0; round < 50; ++round) {
      const auto suggested = suggested_model(try_models(pairs_of(model, 12 + round % 20, 0.7, random), false));
      REQUIRE(suggested);
      right += *suggested == model;
      larger += static_cast<int>(*suggested) > static_cast<int>(model);
      ++all;
    }
  INFO(right << " of " << all << " right, " << larger << " too large");
  CHECK(right > 0.9 * all);
  CHECK(larger < 0.08 * all);
  // Exact pairs are of the smallest model that goes through them.
  CHECK(suggested_model(try_models(pairs_of(Model::similarity, 10, 0, random), false)) == Model::similarity);
  // One pair says nothing of models.
  CHECK_FALSE(suggested_model(try_models(pairs_of(Model::translation, 1, 0, random), false)));
}

TEST_CASE("pairs are read from a table, whatever the order of its columns", "[fit]") {
  const auto pairs = pairs_from_csv(
      "\xEF\xBB\xBFname,to_x,to_y,from_x,from_y,use,remark\r\n\"a, \"\"left\"\"\", 3,4 ,1,2,,x\r\nb,7,8,5,6,false,\n\n",
      0.5);
  REQUIRE(pairs.size() == 2);
  CHECK(pairs[0].name == "a, \"left\"");
  CHECK(pairs[0].from == Point{1.5, 2.5});
  CHECK(pairs[0].to == Point{3.5, 4.5});
  CHECK(pairs[0].use);
  CHECK_FALSE(pairs[1].use);
  for (const auto& [text, row] : {std::pair{"", "row 1"},
                                  {"x,y\n1,2\n", "row 1"},
                                  {"from_x,from_y,to_x,to_y\n1,2,3\n", "row 2"},
                                  {"from_x,from_y,to_x,to_y\n1,2,3,4\n1,2,3,four\n", "row 3"},
                                  {"from_x,from_y,to_x,to_y\n1,2,3,nan\n", "row 2"},
                                  {"from_x,from_y,to_x,to_y,use\n1,2,3,4,maybe\n", "row 2"}}) {
    INFO(text);
    try {
      pairs_from_csv(text, 0);
      FAIL("it was read");
    } catch (const Error& error) {
      CHECK(error.where() == row);
      CHECK(error.kind() == Error::Kind::call);
    }
  }
}
