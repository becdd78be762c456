/// The fit step names sets of pairs that hardly determine its model.
#include <catch2/catch.hpp>
#include <random>

#include "chain/layout.h"

using namespace fexel;

namespace {

/// Why a chain with this step cannot be made; empty where it can.
std::string trouble(const FitStep& step) {
  Chain chain;
  chain.steps.push_back({step, true, {}});
  const Layout layout = lay_out(chain, {{1600, 1200}, 1, Depth::u8, {}});
  return layout.stations[1].problem ? layout.stations[1].problem->message() : std::string();
}

}  // namespace

TEST_CASE("pairs that nearly fail to determine a model are named, and sound ones are not", "[fit]") {
  std::mt19937 random(2);
  std::uniform_real_distribution<double> share(0, 1), little(-0.01, 0.01);
  const auto step_with = [&](Model model, const std::vector<Point>& places) {
    FitStep step;
    step.model = model;
    for (const Point p : places)
      step.pairs.push_back({p, p + Point{0.3 * share(random), 0.3 * share(random)}, {}, true});
    return step;
  };
  const auto near_line = [&] {
    const double t = share(random);
    return Point{200 + 1200 * t + little(random), 150 + 800 * t + little(random)};
  };
  const auto near_circle = [&](int i, int n) {
    const double a = 6.2831853 * i / n;
    return Point{800 + 500 * std::cos(a) + little(random), 600 + 500 * std::sin(a) + little(random)};
  };
  for (int round = 0; round < 20; ++round) {
    std::vector<Point> line, same, circle, three;
    for (int i = 0; i < 6; ++i) line.push_back(near_line());
    const Point p{300 + 900 * share(random), 200 + 700 * share(random)};
    for (int i = 0; i < 4; ++i) same.push_back(p + Point{little(random), little(random)});
    for (int i = 0; i < 9; ++i) circle.push_back(near_circle(i, 9));
    for (int i = 0; i < 3; ++i) three.push_back(near_line());
    three.push_back({1300, 200});
    CHECK_FALSE(trouble(step_with(Model::affine, line)).empty());
    CHECK_FALSE(trouble(step_with(Model::projective, line)).empty());
    CHECK_FALSE(trouble(step_with(Model::projective, three)).empty());
    CHECK_FALSE(trouble(step_with(Model::rigid, same)).empty());
    CHECK_FALSE(trouble(step_with(Model::similarity, same)).empty());
    CHECK_FALSE(trouble(step_with(Model::polynomial2, circle)).empty());
    std::vector<Point> spread;
    for (int i = 0; i < 16; ++i) spread.push_back({150.0 + 430 * (i % 4) + 9 * little(random), 100.0 + 330 * (i / 4)});
    for (const Model model : {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective,
                              Model::polynomial2, Model::polynomial3, Model::thin_plate}) {
      INFO(name_of(model));
      CHECK(trouble(step_with(model, spread)).empty());
    }
  }
}
