#include <catch2/catch.hpp>
#include <random>

#include "fit/coverage.h"
#include "fit/pairs_csv.h"
#include "fit/typing_mistakes.h"

using namespace fexel;

namespace {

using Kind = TypingMistake::Kind;

/// Twelve pairs, placed to half a pixel, of a map that turns a little and changes the scale.
std::vector<PointPair> sound_pairs(std::mt19937& random) {
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> hand(0, 0.5);
  const double turn = 0.4 * any(random) - 0.2, size = 0.5 + any(random);
  std::vector<PointPair> out;
  for (int i = 0; i < 12; ++i) {
    const Point p{1000 * any(random), 800 * any(random)};
    out.push_back({p,
                   {size * (std::cos(turn) * p.x - std::sin(turn) * p.y) + 60 + hand(random),
                    size * (std::sin(turn) * p.x + std::cos(turn) * p.y) + 200 + hand(random)},
                   std::to_string(i + 1),
                   true});
  }
  return out;
}

}  // namespace

TEST_CASE("each mistake of typing is named, its remedy brings the pairs back, and sound pairs are left alone",
          "[mistakes]") {
  std::mt19937 random(7);
  int alarms = 0, all = 0, exact = 0;
  for (const Model model : {Model::similarity, Model::affine, Model::projective})
    for (int round = 0; round < 40; ++round) {
      const std::vector<PointPair> sound = sound_pairs(random);
      alarms += !typing_mistakes(model, sound).empty();
      const auto i = static_cast<std::size_t>(random() % 12), k = (i + 1 + random() % 11) % 12;
      for (const Kind kind : {Kind::exchanged, Kind::swapped_from, Kind::swapped_to, Kind::other_unit,
                              Kind::all_swapped, Kind::y_upward, Kind::used_twice}) {
        std::vector<PointPair> wrong = sound;
        TypingMistake made{kind, static_cast<int>(i)};
        if (kind == Kind::exchanged) {
          made = {kind, static_cast<int>(std::min(i, k)), static_cast<int>(std::max(i, k))};
          if (distance(sound[i].to, sound[k].to) < 150) continue;
          std::swap(wrong[i].to, wrong[k].to);
        } else if (kind == Kind::swapped_from) {
          if (std::abs(sound[i].from.x - sound[i].from.y) < 200) continue;
          std::swap(wrong[i].from.x, wrong[i].from.y);
        } else if (kind == Kind::swapped_to) {
          if (std::abs(sound[i].to.x - sound[i].to.y) < 150) continue;
          std::swap(wrong[i].to.x, wrong[i].to.y);
        } else if (kind == Kind::other_unit) {
          made.factor = 25.4;
          wrong[i].to = 1 / 25.4 * wrong[i].to;
        } else if (kind == Kind::all_swapped) {
          made = {kind};
          for (PointPair& p : wrong) std::swap(p.to.x, p.to.y);
        } else if (kind == Kind::y_upward) {
          made = {kind};
          for (PointPair& p : wrong) p.to.y = 900 - p.to.y;
        } else {
          made = {kind, static_cast<int>(std::min(i, k)), static_cast<int>(std::max(i, k))};
          wrong[k].from = wrong[i].from;
          wrong[k].to = wrong[i].to;
        }
        const auto found = typing_mistakes(model, wrong);
        ++all;
        if (found.size() != 1 || found.front().pair != made.pair || found.front().other != made.other) continue;
        CHECK(found.front().kind == made.kind);
        CHECK(found.front().factor == Approx(made.factor));
        ++exact;
        const auto right = mended(wrong, found.front(), 900);
        const double rms = fit_pairs(model, right, false).rms;
        CHECK(rms < 1.5);
        const std::vector<std::string> labels(12, "wall");
        CHECK_FALSE(sentence_of(found.front(), labels).empty());
        CHECK_FALSE(remedy_of(found.front()).empty());
      }
    }
  INFO(exact << " of " << all);
  CHECK(exact >= 0.985 * all);
  CHECK(alarms == 0);
}

TEST_CASE("check points are kept out of the fit, and say how good it is", "[fit]") {
  std::mt19937 random(3);
  std::vector<PointPair> pairs = sound_pairs(random);
  const Fit without = fit_pairs(Model::affine, {pairs.begin(), pairs.begin() + 9}, false);
  for (std::size_t i = 9; i < 12; ++i) pairs[i].check = true;
  const Fit with = fit_pairs(Model::affine, pairs, false);
  CHECK(with.used == 9);
  CHECK(with.checks == 3);
  CHECK((with.map.matrix() - without.map.matrix()).norm() < 1e-12);
  double sum = 0;
  for (std::size_t i = 9; i < 12; ++i) sum += std::pow(distance(*without.map.forward(pairs[i].from), pairs[i].to), 2);
  CHECK(with.check_rms == Approx(std::sqrt(sum / 3)));
  const auto read = pairs_from_csv(csv_of_pairs(pairs), 0);
  REQUIRE(read.size() == 12);
  for (std::size_t i = 0; i < 12; ++i) {
    CHECK(distance(read[i].from, pairs[i].from) < 1e-6);
    CHECK(distance(read[i].to, pairs[i].to) < 1e-6);
    CHECK(read[i].check == pairs[i].check);
    CHECK(read[i].name == pairs[i].name);
  }
}

TEST_CASE("the uncertainty over a picture is that of repeated fits, and proposed places lower it", "[fit]") {
  std::mt19937 random(8);
  std::normal_distribution<double> hand(0, 1);
  std::uniform_real_distribution<double> any(0, 1);
  // Pairs in one half of the picture only.
  std::vector<Point> from;
  for (int i = 0; i < 8; ++i) from.push_back({400 * any(random), 800 * any(random)});
  const std::vector<Point> places{{100, 100}, {500, 400}, {1000, 800}, {1000, 0}};
  const auto sets = [&](const std::vector<Point>& at, std::vector<double>& measured) {
    std::vector<double> stated;
    measured.assign(places.size(), 0);
    constexpr int rounds = 3000;
    for (int round = 0; round <= rounds; ++round) {
      std::vector<PointPair> pairs;
      for (const Point p : at) {
        const Point off = round == 0 ? Point{} : Point{hand(random), hand(random)};
        pairs.push_back({p, p + off, {}, true});
      }
      const Fit fit = fit_pairs(Model::affine, pairs, false);
      if (round == 0) stated = uncertainty_at(Model::affine, pairs, fit, places, 1);
      for (std::size_t k = 0; k < places.size(); ++k)
        measured[k] += std::pow(distance(*fit.map.forward(places[k]), places[k]), 2) / rounds;
    }
    for (double& m : measured) m = std::sqrt(m);
    return stated;
  };
  std::vector<double> measured;
  const auto stated = sets(from, measured);
  for (std::size_t k = 0; k < places.size(); ++k) CHECK(stated[k] == Approx(measured[k]).epsilon(0.05));
  std::vector<PointPair> pairs;
  for (const Point p : from) pairs.push_back({p, p, {}, true});
  const Fit fit = fit_pairs(Model::affine, pairs, false);
  const auto helpful = helpful_places(Model::affine, pairs, fit, 1000, 800, 2);
  REQUIRE(helpful.size() == 2);
  for (const Point p : helpful) CHECK(p.x > 800);
  // No other place of a grid does better, by fits with one pair more.
  const auto sum_with = [&](std::optional<Point> extra) {
    std::vector<PointPair> with = pairs;
    if (extra) with.push_back({*extra, *extra, {}, true});
    std::vector<Point> judged;
    for (int j = 0; j < 13; ++j)
      for (int i = 0; i < 13; ++i) judged.push_back({1000.0 * i / 12, 800.0 * j / 12});
    double sum = 0;
    for (const double sigma : uncertainty_at(Model::affine, with, fit_pairs(Model::affine, with, false), judged, 1))
      sum += sigma * sigma;
    return sum;
  };
  const double first = sum_with(helpful[0]);
  for (int j = 0; j < 15; ++j)
    for (int i = 0; i < 15; ++i)
      CHECK(first <= sum_with(Point{1000 * (0.03 + 0.94 * i / 14), 800 * (0.03 + 0.94 * j / 14)}) * (1 + 1e-9));
  std::vector<Point> more = from;
  more.insert(more.end(), helpful.begin(), helpful.end());
  std::vector<double> then;
  sets(more, then);
  CHECK(then[2] < 0.5 * measured[2]);
  // The hull: all pairs are inside, places far from them are not.
  const auto hull = hull_of(pairs, fit);
  for (const Point p : from) CHECK(inside_hull(hull, p));
  CHECK_FALSE(inside_hull(hull, {1000, 800}));
  CHECK_FALSE(inside_hull(hull, {-5, 400}));
}
