#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "measure/edges.h"
#include "measure/proposal.h"

using namespace fexel;

namespace {

/// A light quad on a dark ground: the share of 8 x 8 points of each pixel inside it, with noise of the sensor.
Image quad_picture(const Quad& quad, Size size, double noise, unsigned seed, double bend = 0) {
  Image image(size.width, size.height, 1, Depth::u8);
  std::mt19937 random(seed);
  std::normal_distribution<double> sensor(0, noise);
  // How far inside of its nearest side a point lies, in pixels.
  const auto within = [&](Point p) {
    double least = 1e9;
    for (std::size_t i = 0; i < 4; ++i) {
      const Point a = quad[i], b = quad[(i + 1) % 4];
      const double u = ((p.x - a.x) * (b.x - a.x) + (p.y - a.y) * (b.y - a.y)) / std::pow(distance(a, b), 2);
      const double away = i == 0 ? bend * 4 * u * (1 - u) : 0;  // the top side, bent inward by `bend`
      least = std::min(least, cross(a, b, p) / distance(a, b) - away);
    }
    return least;
  };
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double middle = within({x + 0.5, y + 0.5});
      int in = middle > 0 ? 64 : 0;
      if (std::abs(middle) < 2) {
        in = 0;
        for (int j = 0; j < 8; ++j)
          for (int i = 0; i < 8; ++i) in += within({x + (i + 0.5) / 8, y + (j + 0.5) / 8}) >= 0 ? 1 : 0;
      }
      const double value = 60 + 120.0 * in / 64 + sensor(random);
      image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(value + 0.5, 0.0, 255.0));
    }
  return image;
}

const Quad seen = {Point{61.3, 44.7}, Point{402.9, 71.2}, Point{377.4, 338.6}, Point{38.5, 301.9}};
constexpr Size frame{460, 380};

}  // namespace

TEST_CASE("edges give corners to a few hundredths of a pixel, and say how well", "[edges]") {
  double square = 0, stated = 0;
  int count = 0;
  for (unsigned seed = 1; seed <= 12; ++seed) {
    const Image image = quad_picture(seen, frame, 4, seed);
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> hand(-2, 2);
    Quad placed = seen;
    for (Point& p : placed) p = p + Point{hand(random), hand(random)};
    const EdgeCorners found = corners_from_edges({image, Map()}, placed, 10);
    for (std::size_t i = 0; i < 4; ++i) {
      INFO("seed " << seed << " corner " << i);
      CHECK(found.sides[i].kind == EdgeLine::Kind::step);
      CHECK(distance(found.corners[i], seen[i]) < 0.12);
      square += std::pow(distance(found.corners[i], seen[i]), 2) / 2;
      stated += std::pow(found.sigma[i], 2);
      ++count;
    }
  }
  const double rms = std::sqrt(square / count), said = std::sqrt(stated / count);
  INFO("RMS of a coordinate " << rms << " px, stated " << said << " px");
  CHECK(rms < 0.04);
  CHECK(said > 0.6 * rms);
  CHECK(said < 1.7 * rms);
}

TEST_CASE("a side that bows says by how much and to which side", "[edges]") {
  const Image image = quad_picture(seen, frame, 2, 5, 2.0);
  const auto line = find_edge({image, Map()}, seen[0], seen[1], 10);
  REQUIRE(line);
  // Inward is to the right of the way along the top side.
  CHECK(line->bow == Approx(2.0).margin(0.1));
  CHECK(line->bow_sigma < 0.1);
  const auto straight = find_edge({image, Map()}, seen[2], seen[3], 10);
  REQUIRE(straight);
  CHECK(std::abs(straight->bow) < 0.05 + 3 * straight->bow_sigma);
}

TEST_CASE("a part of a side that is covered does not pull the line away", "[edges]") {
  Image image = quad_picture(seen, frame, 3, 8);
  for (int y = 30; y < 90; ++y)
    for (int x = 150; x < 220; ++x) image.row<std::uint8_t>(0, y)[x] = 100;
  const EdgeCorners found = corners_from_edges({image, Map()}, seen, 10);
  for (std::size_t i = 0; i < 4; ++i) CHECK(distance(found.corners[i], seen[i]) < 0.12);
  CHECK(found.sides[0].used < found.sides[0].places);
}

TEST_CASE("edges are found through the steps before", "[edges]") {
  const Image image = quad_picture(seen, frame, 3, 9);
  const Map half(scaling(0.5, 0.5) * translation(-20, -10));  // a station: cropped and shrunk
  Quad there = seen;
  for (Point& p : there) p = *half.forward(p);
  const EdgeCorners found = corners_from_edges({image, half.inverse()}, there, 6);
  for (std::size_t i = 0; i < 4; ++i) CHECK(distance(found.corners[i], there[i]) < 0.06);
}

TEST_CASE("where nothing is to be seen no edge is found, and the side is named", "[edges]") {
  Image flat(300, 200, 1, Depth::u8);
  const Quad quad = {Point{50, 50}, Point{250, 50}, Point{250, 150}, Point{50, 150}};
  CHECK_FALSE(find_edge({flat, Map()}, quad[0], quad[1], 10));
  try {
    corners_from_edges({flat, Map()}, quad, 10);
    FAIL("an edge was found");
  } catch (const Error& error) {
    CHECK_THAT(error.what(), Catch::Contains("top side"));
  }
  // Half of the side hangs out of the picture.
  CHECK_FALSE(find_edge({flat, Map()}, {-400, 50}, {100, 50}, 10));
}

TEST_CASE("a rectangle that stands out is proposed, near enough for its edges to be found", "[edges]") {
  std::mt19937 random(71);
  std::uniform_real_distribution<double> off(-45, 45);
  double squares = 0, stated = 0;
  for (unsigned seed = 1; seed <= 12; ++seed) {
    Quad quad = {Point{90, 80}, Point{370, 80}, Point{370, 300}, Point{90, 300}};
    for (Point& p : quad) p = p + Point{off(random), off(random)};
    INFO("seed " << seed);
    const Pyramid picture(std::make_shared<const Image>(quad_picture(quad, frame, 6, seed)));
    const auto proposals = propose_rectangles(picture);
    REQUIRE_FALSE(proposals.empty());
    const Proposal* proposed = &proposals.front();
    CHECK(proposed->support > 0.6);
    for (std::size_t i = 0; i < 4; ++i) CHECK(distance(proposed->corners[i], quad[i]) < 4);
    for (std::size_t i = 0; i < 4; ++i) squares += std::pow(distance(proposed->corners[i], quad[i]), 2) / 2;
    stated += 4 * proposed->sigma * proposed->sigma;
    const EdgeCorners found = corners_from_edges({picture.base(), Map()}, proposed->corners, 8);
    for (std::size_t i = 0; i < 4; ++i) CHECK(distance(found.corners[i], quad[i]) < 0.25);
  }
  // What is said of the corners covers how far they are off.
  CHECK(squares <= stated);
}

TEST_CASE("no rectangle is proposed where there is none", "[edges]") {
  Image noise(400, 300, 1, Depth::u8), disc(400, 300, 1, Depth::u8);
  std::mt19937 random(72);
  for (int y = 0; y < 300; ++y)
    for (int x = 0; x < 400; ++x) {
      noise.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(random() & 255);
      disc.row<std::uint8_t>(0, y)[x] = std::hypot(x - 200, y - 150) < 110 ? 200 : 50;
    }
  CHECK(propose_rectangles(Pyramid(std::make_shared<const Image>(std::move(noise)))).empty());
  CHECK(propose_rectangles(Pyramid(std::make_shared<const Image>(std::move(disc)))).empty());
  CHECK(propose_rectangles(Pyramid(std::make_shared<const Image>(400, 300, 3, Depth::u16))).empty());
  CHECK(propose_rectangles(Pyramid(std::make_shared<const Image>(3, 2, 1, Depth::f32))).empty());
}
