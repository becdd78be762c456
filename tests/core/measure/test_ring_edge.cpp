#include <catch2/catch.hpp>
#include <random>

#include "geometry/lens.h"
#include "measure/bow.h"
#include "measure/ring_edge.h"

using namespace fexel;

namespace {

/// A light disc on a dark ground: the share of 8 x 8 points of each pixel inside it, with noise of the sensor.
Image disc_picture(Size size, Point centre, double radius, double noise, unsigned seed) {
  Image image(size.width, size.height, 1, Depth::u8);
  std::mt19937 random(seed);
  std::normal_distribution<double> sensor(0, noise);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      int in = 0;
      for (int j = 0; j < 8; ++j)
        for (int i = 0; i < 8; ++i) in += distance({x + (i + 0.5) / 8, y + (j + 0.5) / 8}, centre) < radius ? 1 : 0;
      const double value = 60 + 120.0 * in / 64 + sensor(random);
      image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(value + 0.5, 0.0, 255.0));
    }
  return image;
}

}  // namespace

TEST_CASE("the rim of a disc is found to a few hundredths of a pixel from a centre that is off", "[rim]") {
  const Point truth{203.37, 181.82};
  for (const double noise : {0.0, 3.0}) {
    const Image picture = disc_picture({400, 360}, truth, 131.4, noise, 7);
    const auto rim = find_ring_edge({picture, Map()}, {207, 179}, 134, 12);
    REQUIRE(rim);
    INFO("noise " << noise << ", " << rim->centre.x << " " << rim->centre.y << ", stated " << rim->centre_sigma);
    CHECK(distance(rim->centre, truth) < 0.05);
    CHECK(std::abs(rim->radius - 131.4) < 0.05);
    CHECK(rim->used > 0.9 * rim->places);
  }
}

TEST_CASE("the rim is found on the station that the step gets, wherever the picture lies", "[rim]") {
  const Image picture = disc_picture({400, 360}, {203.37, 181.82}, 131.4, 2, 8);
  // The station is the picture made half as large and moved.
  const Map to_image(scaling(2, 2) * translation(-30, 10));
  const auto rim = find_ring_edge({picture, to_image}, {132, 80}, 66, 8);
  REQUIRE(rim);
  CHECK(distance(rim->centre, {203.37 / 2 + 30, 181.82 / 2 - 10}) < 0.05);
  CHECK(std::abs(rim->radius - 65.7) < 0.05);
}

TEST_CASE("what has no round edge gives no rim", "[rim]") {
  Image flat(200, 200, 1, Depth::u8);
  for (int y = 0; y < 200; ++y) std::fill_n(flat.row<std::uint8_t>(0, y), 200, std::uint8_t{90});
  CHECK_FALSE(find_ring_edge({flat, Map()}, {100, 100}, 60, 10));
  CHECK_FALSE(find_ring_edge({flat, Map()}, {100, 100}, 2, 10));
}

TEST_CASE("a circle through points excludes outliers and states its uncertainty truly", "[rim]") {
  std::mt19937 random(11);
  std::normal_distribution<double> off(0, 0.2);
  int covered = 0;
  constexpr int rounds = 400;
  for (int round = 0; round < rounds; ++round) {
    std::vector<Point> points;
    for (int i = 0; i < 60; ++i) {
      const double a = i * 0.07, r = 50 + off(random);  // two thirds of a turn
      points.push_back({300 + r * std::cos(a), 200 + r * std::sin(a)});
    }
    points[10] = {340, 260};
    points[40] = {310, 190};
    const auto rim = fit_circle(points);
    REQUIRE(rim);
    CHECK(distance(rim->centre, {300, 200}) < 0.5);
    CHECK(rim->used < 60);
    covered += std::abs(rim->radius - 50) < rim->radius_sigma;
  }
  CHECK(covered > 0.58 * rounds);
  CHECK(covered < 0.78 * rounds);
  CHECK_FALSE(fit_circle({{0, 0}, {1, 1}}));
  CHECK_FALSE(fit_circle({{0, 0}, {1, 1}, {2, 2}, {3, 3}}));
}

namespace {

/// What edges would say of a straight quad seen through a lens: its corners, and how its sides bow.
EdgeCorners seen_through(const Lens& lens, const Quad& straight, const double more[4]) {
  EdgeCorners out;
  for (std::size_t i = 0; i < 4; ++i) out.corners[i] = *lens.forward(straight[i]);
  for (std::size_t i = 0; i < 4; ++i) {
    EdgeLine& side = out.sides[i];
    side.from = out.corners[i];
    side.to = out.corners[(i + 1) % 4];
    const Point middle = *lens.forward(0.5 * (straight[i] + straight[(i + 1) % 4]));
    // Right of the way on the screen, where y is down.
    const double length = distance(side.from, side.to);
    side.bow = cross(side.from, side.to, middle) / length;
    // The line that is fitted through the bow, two thirds of it to the right of the ends.
    const Point right{(side.from.y - side.to.y) / length, (side.to.x - side.from.x) / length};
    side.from = side.from + 2.0 / 3 * side.bow * right;
    side.to = side.to + 2.0 / 3 * side.bow * right;
    side.bow += more[i];
    side.bow_sigma = 0.05;
  }
  return out;
}

}  // namespace

TEST_CASE("the bows of a rectangle's sides give the lens that bent them", "[rim]") {
  const Size size{2400, 1600};
  const Quad quad{Point{300, 240}, Point{2100, 330}, Point{2000, 1350}, Point{380, 1280}};
  for (const double k1 : {-0.08, -0.02, 0.05}) {
    const Lens lens({k1, 0, 0, 0, 0}, size.middle(), size.width);
    const double none[4] = {}, noise[4] = {0.05, -0.04, 0.03, -0.05};
    const auto found = lens_of_bows(seen_through(lens, quad, none), size);
    REQUIRE(found);
    // The middle of a bent side is not quite the bend of its middle.
    CHECK(found->k1 == Approx(k1).epsilon(0.03));
    CHECK(found->after < 0.05 * found->before);
    const auto noisy = lens_of_bows(seen_through(lens, quad, noise), size);
    REQUIRE(noisy);
    CHECK(noisy->k1 == Approx(k1).epsilon(0.05));
  }
  const Lens plain({}, size.middle(), size.width);
  const double straight[4] = {0.05, -0.1, 0.02, 0.04};
  CHECK_FALSE(lens_of_bows(seen_through(plain, quad, straight), size));
  // One bent side is no lens.
  const double one[4] = {4, 0, 0, 0};
  CHECK_FALSE(lens_of_bows(seen_through(plain, quad, one), size));
}
