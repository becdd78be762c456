#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "measure/edges.h"
#include "measure/proposal.h"
#include "measure/ring_edge.h"
#include "tests/edged.h"

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

TEST_CASE("edges and rims of any contrast, noise and blur hold what they say, or are refused", "[edges][long]") {
  int inside = 0, all = 0, taken = 0, refused = 0;
  double squares = 0, stated = 0;  // in standard deviations, and of the sharp ones in pixels
  for (const double contrast : {15.0, 40.0, 130.0})
    for (const double noise : {1.0, 4.0, 8.0})
      for (const double blur : {0.3, 1.5, 3.0})
        for (unsigned seed = 1; seed <= 3; ++seed) {
          const test::EdgedLook look{contrast, noise, blur};
          const auto own = static_cast<unsigned>(1000 * contrast + 100 * noise + 10 * blur + seed);
          INFO("contrast " << contrast << ", noise " << noise << ", blur " << blur << ", seed " << seed);
          std::mt19937 random(own);
          std::uniform_real_distribution<double> hand(-2, 2), any(-12, 12);
          Quad quad = {Point{60, 50}, Point{390, 62}, Point{372, 330}, Point{44, 300}}, placed;
          for (std::size_t i = 0; i < 4; ++i) {
            quad[i] = quad[i] + Point{any(random), any(random)};
            placed[i] = quad[i] + Point{hand(random), hand(random)};
          }
          const auto count = [&](Point off, double sigma) {
            for (const double d : {off.x, off.y}) {
              inside += std::abs(d) <= sigma;
              ++all;
              squares += std::pow(d / sigma, 2);
              CHECK(std::abs(d) < std::max(0.1, 5 * sigma));
              if (contrast == 130 && blur < 1) {
                CHECK(std::abs(d) < 0.12);
                ++stated;
              }
            }
          };
          try {
            const EdgeCorners found =
                corners_from_edges({test::quad_seen(quad, {460, 380}, look, own), Map()}, placed, 10);
            ++taken;
            for (std::size_t i = 0; i < 4; ++i) count(found.corners[i] - quad[i], found.sigma[i]);
          } catch (const Error& error) {
            ++refused;
            CHECK_THAT(error.what(), Catch::Contains(" side"));
            CHECK(contrast < 40);  // what stands out by ten times its noise is found
          }
          const Point centre{150 + any(random), 140 + any(random)};
          const auto rim = find_ring_edge({test::disc_seen(centre, 95, {300, 280}, look, own), Map()},
                                          centre + Point{hand(random), hand(random)}, 95 + hand(random), 12);
          if (rim) count(rim->centre - centre, rim->centre_sigma);
          taken += rim.has_value();
          refused += !rim;
        }
  INFO(100.0 * inside / all << " % of " << all << " inside, " << refused << " refused, RMS "
                            << std::sqrt(squares / all));
  CHECK(stated > 0);
  CHECK(taken > 130);
  CHECK(inside > 0.55 * all);
  CHECK(inside < 0.75 * all);
}

TEST_CASE("the blur of an edge is measured where it is wider than a pixel", "[edges]") {
  for (const double blur : {1.0, 1.5, 3.0}) {
    const auto line = find_edge({test::quad_seen(seen, frame, {120, 2, blur}, 3), Map()}, seen[0], seen[1], 10);
    REQUIRE(line);
    // A pixel itself is a twelfth of a square pixel wide.
    CHECK(line->width == Approx(std::sqrt(blur * blur + 1.0 / 12)).epsilon(0.1));
    CHECK(line->contrast == Approx(120).epsilon(0.03));
  }
}

TEST_CASE("noise is no edge and no rim", "[edges][long]") {
  for (unsigned seed = 1; seed <= 25; ++seed) {
    const Image noise = test::quad_seen(seen, frame, {0, 8, 1}, seed);
    INFO("seed " << seed);
    EdgeRefusal why;
    CHECK_FALSE(find_edge({noise, Map()}, seen[0], seen[1], 12, &why));
    CHECK_FALSE(reason_of(why).empty());
    CHECK_FALSE(find_ring_edge({noise, Map()}, {220, 190}, 110, 12));
  }
}

TEST_CASE("a corner that is known better than its edges say stays where it is", "[edges]") {
  const Image soft = test::quad_seen(seen, frame, {40, 8, 3}, 5);
  Quad placed = seen;
  for (Point& p : placed) p = p + Point{0.02, -0.03};
  const EdgeCorners all = corners_from_edges({soft, Map()}, placed, 10, std::array<double, 4>{0.01, 5, 0.01, 5});
  CHECK(all.kept == std::array<bool, 4>{true, false, true, false});
  CHECK(all.corners[0] == placed[0]);
  CHECK(all.sigma[0] == 0.01);
  CHECK_FALSE(all.corners[1] == placed[1]);
  CHECK(all.sigma[1] < 5);
}
