#include <catch2/catch.hpp>
#include <random>

#include "measure/snap.h"
#include "tests/edged.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

namespace {

Image as_plane(const Image& image) {
  Image out(image.width(), image.height(), 1, Depth::f32);
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x)
      out.row<float>(0, y)[x] = static_cast<float>(image.row<std::uint8_t>(0, y)[x]);
  return out;
}

/// 1 on one side of a line, blurred, as far as its blur goes.
double side_of(Point p, Point on, double degrees, double blur) {
  const double turn = degrees * M_PI / 180;
  return blurred((p.x - on.x) * std::cos(turn) + (p.y - on.y) * std::sin(turn), blur);
}

}  // namespace

TEST_CASE("a place snaps to the edge that is near, across it, to a few hundredths of a pixel, as it says", "[snap]") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> any(0, 1);
  int inside = 0;
  double sum = 0;
  constexpr int rounds = 300;
  for (int round = 0; round < rounds; ++round) {
    const double degrees = 360 * any(random), blur = 0.4 + 1.2 * any(random), turn = degrees * M_PI / 180;
    const Point on{32 + 3 * any(random), 32 + 3 * any(random)};
    const Image picture = as_plane(edged_picture([&](Point p) { return side_of(p, on, degrees, blur); }, {64, 64},
                                                 {100, 3, blur}, static_cast<unsigned>(round)));
    const Point near = on + Point{5 * (any(random) - 0.5), 5 * (any(random) - 0.5)};
    const auto found = snapped_to_edge(picture, near, 8);
    INFO(round << ": " << degrees << " degrees, blur " << blur);
    REQUIRE(found);
    CHECK_FALSE(found->corner);
    const double off = (found->at.x - on.x) * std::cos(turn) + (found->at.y - on.y) * std::sin(turn);
    sum += off * off;
    inside += std::abs(off) <= found->sigma;
    CHECK(std::abs(off) < 0.25);
    // Along the edge it stays where it was pointed at.
    const double along = -(found->at.x - near.x) * std::sin(turn) + (found->at.y - near.y) * std::cos(turn);
    CHECK(std::abs(along) < 0.3);
  }
  CHECK(std::sqrt(sum / rounds) < 0.06);
  const double share = static_cast<double>(inside) / rounds;
  CHECK(share > 0.5);
  CHECK(share < 0.9);
}

TEST_CASE("a place snaps to the corner that two edges make", "[snap]") {
  std::mt19937 random(6);
  std::uniform_real_distribution<double> any(0, 1);
  int inside = 0;
  double sum = 0;
  constexpr int rounds = 200;
  for (int round = 0; round < rounds; ++round) {
    const double first = 360 * any(random), second = first + 65 + 50 * any(random), blur = 0.4 + 0.8 * any(random);
    const Point corner{32 + any(random), 32 + any(random)};
    const Image picture = as_plane(
        edged_picture([&](Point p) { return side_of(p, corner, first, blur) * side_of(p, corner, second, blur); },
                      {64, 64}, {110, 2, blur}, static_cast<unsigned>(round)));
    const auto found = snapped_to_edge(picture, corner + Point{4 * (any(random) - 0.5), 4 * (any(random) - 0.5)}, 10);
    INFO(round << ": " << first << " and " << second << " degrees, blur " << blur);
    REQUIRE(found);
    CHECK(found->corner);
    const double off = distance(found->at, corner) / std::sqrt(2.0);
    sum += off * off;
    inside += off <= found->sigma;
    CHECK(off < 0.5);
  }
  CHECK(std::sqrt(sum / rounds) < 0.12);
  CHECK(static_cast<double>(inside) / rounds > 0.4);
}

TEST_CASE("where there is no edge nothing is snapped to", "[snap]") {
  for (unsigned seed = 1; seed <= 40; ++seed) {
    const Image flat = as_plane(edged_picture([](Point) { return 0.0; }, {64, 64}, {0, 4, 0}, seed));
    CHECK_FALSE(snapped_to_edge(flat, {32, 32}, 10));
    // An edge that is too far.
    const Image far =
        as_plane(edged_picture([](Point p) { return p.x > 55 ? 1.0 : 0.0; }, {64, 64}, {100, 2, 0}, seed));
    CHECK_FALSE(snapped_to_edge(far, {30, 32}, 8));
  }
}
