#include <catch2/catch.hpp>
#include <random>

#include "measure/rim.h"

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
    const auto rim = find_rim({picture, Map()}, {207, 179}, 134, 12);
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
  const auto rim = find_rim({picture, to_image}, {132, 80}, 66, 8);
  REQUIRE(rim);
  CHECK(distance(rim->centre, {203.37 / 2 + 30, 181.82 / 2 - 10}) < 0.05);
  CHECK(std::abs(rim->radius - 65.7) < 0.05);
}

TEST_CASE("what has no round edge gives no rim", "[rim]") {
  Image flat(200, 200, 1, Depth::u8);
  for (int y = 0; y < 200; ++y) std::fill_n(flat.row<std::uint8_t>(0, y), 200, std::uint8_t{90});
  CHECK_FALSE(find_rim({flat, Map()}, {100, 100}, 60, 10));
  CHECK_FALSE(find_rim({flat, Map()}, {100, 100}, 2, 10));
}

TEST_CASE("a circle through points leaves strays out and states its uncertainty truly", "[rim]") {
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
