#include "points/patch_match.h"

#include <catch2/catch.hpp>

#include "base/error.h"
#include "points/features.h"
#include "tests/two_pictures.h"

using namespace fexel;

namespace {

constexpr Size size{320, 240};

Eigen::Matrix2d local_of(const Map& map, Point p) {
  const Point at = *map.forward(p), right = *map.forward(p + Point{0.01, 0}), down = *map.forward(p + Point{0, 0.01});
  Eigen::Matrix2d out;
  out << (right.x - at.x) / 0.01, (down.x - at.x) / 0.01, (right.y - at.y) / 0.01, (down.y - at.y) / 0.01;
  return out;
}

struct Tally {
  int all = 0, matched = 0, inside = 0, wrong = 0;
  double squares = 0, stated = 0;
};

/// Places anywhere or at corners, expected up to three pixels off.
void try_places(Tally& tally, const Image& a, const Image& b, const Matrix3& first, const Matrix3& second, int count,
                PatchMetric metric, unsigned seed, bool corners) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> any(0, 1);
  const std::vector<Point> places = corners ? spread_corners(a, 6, 2, 20) : std::vector<Point>{};
  const Map truth(second * first.inverse());
  while (count > 0) {
    const Point from = corners ? places[random() % places.size()] + Point{2 * any(random) - 1, 2 * any(random) - 1}
                               : Point{25 + (size.width - 50) * any(random), 25 + (size.height - 50) * any(random)};
    const auto to = truth.forward(from);
    const Point expected = *to + Point{6 * any(random) - 3, 6 * any(random) - 3};
    if (!to || to->x < 30 || to->y < 30 || to->x > size.width - 30 || to->y > size.height - 30) continue;
    --count;
    ++tally.all;
    try {
      const PatchMatch m = matched_patch(a, b, from, expected, local_of(truth, from), {12, 6, metric});
      const Point off = m.to - *to;
      ++tally.matched;
      tally.squares += (off.x * off.x + off.y * off.y) / 2;
      tally.stated += m.sigma * m.sigma;
      tally.wrong += std::hypot(off.x, off.y) > std::max(0.3, 6 * m.sigma);
      // Per axis the stated one is that of the worse axis.
      tally.inside += std::hypot(off.x, off.y) <= m.sigma * std::sqrt(2 * std::log(1 / (1 - 0.683)));
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
    }
  }
}

}  // namespace

TEST_CASE("a place is found in a view that is turned, scaled and tilted, as well as is said", "[patch][long]") {
  for (const auto kind : {test::Surface::Kind::waves, test::Surface::Kind::discs})
    for (const double scale : {0.6, 1.0, 1.7})
      for (const bool corners : {true, false}) {
        Tally tally;
        for (unsigned round = 0; round < 3; ++round) {
          const test::Surface surface(kind, 10 + round);
          const Matrix3 first = test::camera(size, 500, 500, 0, 1, 0, 0),
                        second = test::camera(size, 505, 496, 10.0 * round, scale, 12, 70.0 * round);
          const Image a = test::seen(surface, first, size, 4, 2 * round),
                      b = test::seen(surface, second, size, 4, 2 * round + 1, 0.9, 12);
          try_places(tally, a, b, first, second, 60, PatchMetric::automatic, round, corners);
        }
        const double rms = std::sqrt(tally.squares / tally.matched), stated = std::sqrt(tally.stated / tally.matched);
        INFO("kind " << int(kind) << " scale " << scale << (corners ? " corners: " : " anywhere: ") << tally.matched
                     << " of " << tally.all << ", off " << rms << ", said " << stated << ", inside "
                     << double(tally.inside) / tally.matched << ", wrong " << tally.wrong);
        CHECK(tally.wrong <= 0.005 * tally.matched);
        if (corners) CHECK(tally.matched > 0.7 * tally.all);
        CHECK(rms < 1.3 * stated);
        CHECK(stated < 2 * rms);
      }
}

TEST_CASE("a crossing of edges is found within 0.03 px at a noise of four grey levels", "[patch]") {
  std::mt19937 random(4);
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> error(0, 4);
  // Two edges that cross at any angle; the area that is bright, from 4 x 4 places in each pixel.
  const auto drawn = [&](Point at, double turn, double between, double scale) {
    Image out(80, 80, 1, Depth::f32);
    for (int y = 0; y < 80; ++y)
      for (int x = 0; x < 80; ++x) {
        double sum = 0;
        for (int j = 0; j < 4; ++j)
          for (int i = 0; i < 4; ++i) {
            const double u = (x + (i + 0.5) / 4 - at.x) / scale, v = (y + (j + 0.5) / 4 - at.y) / scale;
            const double p = u * std::sin(turn) - v * std::cos(turn),
                         q = u * std::sin(turn + between) - v * std::cos(turn + between);
            // Soft over a pixel or so, as a lens makes them.
            sum += 0.25 * std::erfc(p / 1.2) * std::erfc(q / 1.2) + 0.25 * std::erfc(-p / 1.2) * std::erfc(-q / 1.2);
          }
        out.row<float>(0, y)[x] = static_cast<float>(60 + 100 * sum / 16 + error(random));
      }
    return out;
  };
  double squares = 0, stated = 0;
  int inside = 0;
  constexpr int rounds = 200;
  for (int round = 0; round < rounds; ++round) {
    const double turn = 2 * M_PI * any(random), between = 1.2 + 0.7 * any(random), scale = 0.8 + 0.4 * any(random);
    const Point from{38 + 4 * any(random), 38 + 4 * any(random)}, to{38 + 4 * any(random), 38 + 4 * any(random)};
    const Image a = drawn(from, turn, between, 1), b = drawn(to, turn, between, scale);
    const PatchMatch m = matched_patch(a, b, from, to + Point{4 * any(random) - 2, 4 * any(random) - 2},
                                       Eigen::Matrix2d::Identity() * scale, {});
    const Point off = m.to - to;
    squares += (off.x * off.x + off.y * off.y) / 2;
    stated += m.sigma * m.sigma;
    inside += std::hypot(off.x, off.y) <= m.sigma * 1.515;  // of two axes 68.3 %
  }
  const double rms = std::sqrt(squares / rounds), said = std::sqrt(stated / rounds);
  INFO("off " << rms << ", said " << said << ", inside " << double(inside) / rounds);
  CHECK(rms < 0.03);
  CHECK(said < 1.6 * rms);
  CHECK(rms < 1.2 * said);
}

TEST_CASE("between bands of which one is a negative a place is found by its edges", "[patch]") {
  Tally tally;
  for (unsigned round = 0; round < 4; ++round) {
    const test::Surface surface(test::Surface::Kind::discs, 40 + round);
    const Matrix3 first = test::camera(size, 500, 500, 0, 1, 0, 0),
                  second = test::camera(size, 502, 497, 2, 1.01, 0, 0);
    const Image a = test::seen(surface, first, size, 3, 2 * round),
                b = test::seen(surface, second, size, 3, 2 * round + 1, 0.7, 20, true);
    try_places(tally, a, b, first, second, 60, PatchMetric::automatic, round, true);
  }
  INFO(tally.matched << " of " << tally.all << ", off " << std::sqrt(tally.squares / tally.matched) << ", said "
                     << std::sqrt(tally.stated / tally.matched) << ", wrong " << tally.wrong);
  CHECK(tally.matched > 0.45 * tally.all);
  CHECK(tally.wrong <= 0.005 * tally.matched);
  CHECK(std::sqrt(tally.squares / tally.matched) < 0.1);
}

TEST_CASE("what cannot be held on to is refused with the reason", "[patch]") {
  std::mt19937 random(5);
  const auto picture = [&random](const auto& f) {
    Image out(160, 120, 1, Depth::f32);
    std::normal_distribution<double> error(0, 2);
    for (int y = 0; y < 120; ++y)
      for (int x = 0; x < 160; ++x) out.row<float>(0, y)[x] = static_cast<float>(f(x + 0.5, y + 0.5) + error(random));
    return out;
  };
  const auto said = [](const Image& a, const Image& b, Point from, Point expected) -> std::string {
    try {
      matched_patch(a, b, from, expected, Eigen::Matrix2d::Identity(), {});
    } catch (const Error& error) {
      return error.message();
    }
    return {};
  };
  const auto grey = [](double, double) { return 100.0; };
  CHECK_FALSE(said(picture(grey), picture(grey), {80, 60}, {80, 60}).empty());
  const auto step = [](double x, double) { return x < 80 ? 60.0 : 160.0; };
  const Image edge = picture(step);
  // Along the edge every place is like the next.
  CHECK_FALSE(said(edge, picture(step), {80, 60}, {81, 60}).empty());
  const auto stripes = [](double x, double y) { return 100 + 40 * std::sin(x * 1.0) + 40 * std::sin(y * 1.0); };
  INFO(said(picture(stripes), picture(stripes), {80, 60}, {80, 60}));
  CHECK(said(picture(stripes), picture(stripes), {80, 60}, {80, 60}).find("alike") != std::string::npos);
  const test::Surface one(test::Surface::Kind::discs, 1), other(test::Surface::Kind::discs, 2);
  const Matrix3 view = test::camera(size, 500, 500, 0, 1, 0, 0);
  const Image a = test::seen(one, view, size, 3, 1), b = test::seen(other, view, size, 3, 2);
  int given = 0;
  for (int k = 0; k < 50; ++k) {
    const Point p{40.0 + 5 * k, 60.0 + (k * 37) % 120};
    given += said(a, b, p, p).empty();
  }
  CHECK(given == 0);
  CHECK(said(a, a.clone(), {2, 2}, {2, 2}).find("border") != std::string::npos);
  CHECK_FALSE(said(a, a.clone(), {100, 100}, {-400, 1e9}).empty());
}
