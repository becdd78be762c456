#include <catch2/catch.hpp>
#include <random>

#include "geometry/polygon.h"
#include "measure/area_statistics.h"
#include "measure/profile.h"
#include "tests/edged.h"

using namespace fexel;

namespace {

/// The part of a pixel inside a convex or concave polygon, by cutting the polygon with the pixel's four sides.
double part_inside(std::vector<Point> polygon, double x, double y) {
  for (int side = 0; side < 4; ++side) {
    const auto inside = [&](Point p) {
      return side == 0 ? p.x - x : side == 1 ? x + 1 - p.x : side == 2 ? p.y - y : y + 1 - p.y;
    };
    std::vector<Point> cut;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
      const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
      const double da = inside(a), db = inside(b);
      if (da >= 0) cut.push_back(a);
      if ((da > 0 && db < 0) || (da < 0 && db > 0)) cut.push_back(a + da / (da - db) * (b - a));
    }
    polygon = cut;
    if (polygon.empty()) return 0;
  }
  double twice = 0;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    twice += a.x * b.y - b.x * a.y;
  }
  return std::abs(twice) / 2;
}

}  // namespace

TEST_CASE("each pixel counts with the part of it that lies inside a polygon", "[areas]") {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> any(-4, 24);
  for (int round = 0; round < 200; ++round) {
    std::vector<Point> polygon;
    // Around a middle, so that sides do not cross; every third one upright, with corners on whole pixels.
    const Point middle{any(random), any(random)};
    const int corners = 3 + round % 6;
    for (int i = 0; i < corners; ++i) {
      const double turn = (round % 2 ? 1 : -1) * 2 * M_PI * i / corners, reach = 2 + std::abs(any(random)) / 3;
      polygon.push_back(middle + reach * Point{std::cos(turn), std::sin(turn)});
    }
    if (round % 3 == 0) {
      const double x = std::floor(middle.x), y = std::floor(middle.y);
      polygon = {{x, y}, {x + 5, y}, {x + 5, y + 3}, {x + 2, y + 3}, {x + 2, y + 7}, {x, y + 7}};
    }
    const PolygonCoverage cover(polygon, 20, 18);
    INFO("round " << round);
    for (int y = 0; y < 18; ++y)
      for (int x = 0; x < 20; ++x) {
        const bool within = x >= cover.left() && x < cover.left() + cover.columns() && y >= cover.top() &&
                            y < cover.top() + cover.rows();
        // Cutting a polygon that is not convex leaves parts joined by lines without area.
        CHECK(std::abs((within ? cover.at(x - cover.left(), y - cover.top()) : 0) - part_inside(polygon, x, y)) < 1e-9);
      }
  }
}

TEST_CASE("statistics inside an area are those of its pixels, empty ones left out", "[areas]") {
  for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32}) {
    Image image(40, 30, 2, depth);
    std::vector<double> values;
    for (int band = 0; band < 2; ++band)
      for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 40; ++x) {
          const int v = (7 * x + 3 * y + 11 * band) % 97;
          if (depth == Depth::u8) image.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(v);
          if (depth == Depth::u16) image.row<std::uint16_t>(band, y)[x] = static_cast<std::uint16_t>(v);
          if (depth == Depth::f32) image.row<float>(band, y)[x] = static_cast<float>(v);
        }
    image.make_mask(true);
    image.set_valid(10, 10, false);
    double sum = 0, squares = 0;
    for (int y = 5; y < 20; ++y)
      for (int x = 8; x < 31; ++x) {
        if (x == 10 && y == 10) continue;
        values.push_back(((7 * x + 3 * y) % 97 + (7 * x + 3 * y + 11) % 97) / 2.0);
        sum += values.back();
      }
    const auto count = static_cast<double>(values.size());
    for (const double v : values) squares += (v - sum / count) * (v - sum / count);
    const std::vector<Point> area = {{8, 5}, {31, 5}, {31, 20}, {8, 20}};
    const auto found = statistics_inside(area, image);
    REQUIRE(found);
    CHECK(found->pixels == Approx(count));
    CHECK(found->sum == Approx(sum));
    CHECK(found->mean == Approx(sum / count));
    CHECK(found->deviation == Approx(std::sqrt(squares / (count - 1))));
    std::ranges::sort(values);
    CHECK(found->least == values.front());
    CHECK(found->most == values.back());
    CHECK(found->median == values[values.size() / 2]);
    CHECK_FALSE(statistics_inside(std::vector<Point>{{-9, -9}, {-2, -9}, {-2, -2}}, image));
  }
}

TEST_CASE("edges on a profile lie within 0.03 px, with their blur, contrast and uncertainty", "[profile][long]") {
  std::mt19937 random(4);
  std::uniform_real_distribution<double> any(0, 1);
  int inside = 0, all = 0;
  for (int round = 0; round < 60; ++round) {
    const double angle = any(random) * M_PI, blur = 0.6 + 1.4 * any(random), bar = 20 + 20 * any(random);
    const Point middle{100 + any(random), 100 + any(random)}, along{std::cos(angle), std::sin(angle)};
    // A light bar across the profile.
    const Image image = test::edged_picture(
        [&](Point p) {
          const double d = (p.x - middle.x) * along.x + (p.y - middle.y) * along.y;
          return test::blurred(d + bar / 2, blur) * test::blurred(bar / 2 - d, blur);
        },
        {200, 200}, {120, 3, blur}, static_cast<unsigned>(round));
    const auto profile = profile_along(image, middle - 45 * along, middle + 45 * along, 9);
    REQUIRE(profile);
    const auto edges = edges_on(*profile);
    INFO("round " << round << ", blur " << blur << ", " << edges.size() << " edges");
    REQUIRE(edges.size() == 2);
    for (int i = 0; i < 2; ++i) {
      const ProfileEdge& edge = edges[static_cast<std::size_t>(i)];
      const double off = edge.place - (45 + (i ? bar / 2 : -bar / 2));
      CHECK(std::abs(off) < std::max(0.03, 4 * edge.sigma));
      CHECK(edge.sigma < 0.06);
      // A ramp of light beside the edge is free, and takes some of its contrast.
      CHECK(edge.contrast == Approx(i ? -120 : 120).epsilon(0.2));
      // A pixel itself is a twelfth of a square pixel wide.
      CHECK(edge.blur == Approx(std::sqrt(blur * blur + 1.0 / 12)).epsilon(0.2));
      inside += std::abs(off) <= edge.sigma;
      ++all;
    }
    const auto [first, last] = strongest_two(edges);
    CHECK(last.place - first.place == Approx(bar).margin(0.15));
  }
  INFO(100.0 * inside / all << " % inside");
  CHECK(inside > 0.5 * all);
}

TEST_CASE("a profile without edges has none, and one that leaves the picture is none", "[profile]") {
  const Image noise = test::edged_picture([](Point) { return 0.5; }, {120, 100}, {0, 5, 0}, 7);
  const auto profile = profile_along(noise, {10, 50}, {110, 52}, 5);
  REQUIRE(profile);
  CHECK(edges_on(*profile).empty());
  CHECK_FALSE(profile_along(noise, {10, 50}, {130, 50}, 1));
  CHECK_FALSE(profile_along(noise, {10, 50}, {10.2, 50}, 1));
  CHECK_FALSE(profile_along(noise, {10, 2}, {100, 2}, 9));
}

TEST_CASE("edges as sharp as the pixels lie within twice what they say, at every phase", "[profile]") {
  // No blur but the pixels' own, and the same phase in every row: nothing averages it.
  std::mt19937 random(3);
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> sensor(0, 0.5);
  int far = 0;
  constexpr int rounds = 200;
  for (int round = 0; round < rounds; ++round) {
    const double edge = 30 + any(random);
    Image image(60, 40, 1, Depth::f32);
    for (int y = 0; y < 40; ++y)
      for (int x = 0; x < 60; ++x)
        image.row<float>(0, y)[x] = static_cast<float>(60 + 120 * std::clamp(x + 1 - edge, 0.0, 1.0) + sensor(random));
    const auto profile = profile_along(image, {5, 20}, {55, 20}, 15);
    REQUIRE(profile);
    const auto edges = edges_on(*profile);
    REQUIRE(edges.size() == 1);
    if (std::abs(edges[0].place + 5 - edge) > 2 * edges[0].sigma) ++far;
  }
  CHECK(far < rounds / 10);
}
