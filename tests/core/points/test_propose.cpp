#include "points/propose_pairs.h"

#include <catch2/catch.hpp>

#include "base/error.h"
#include "tests/two_pictures.h"

using namespace fexel;

namespace {

constexpr Size size{480, 360};

/// RMS of where the map puts places of the first picture that the second shows too, against the truth.
double off_of(const Map& map, const Matrix3& first, const Matrix3& second) {
  const Map truth(second * first.inverse());
  double sum = 0, n = 0;
  for (int y = 5; y < size.height; y += 10)
    for (int x = 5; x < size.width; x += 10) {
      const Point p{double(x), double(y)};
      const auto at = truth.forward(p), found = map.forward(p);
      if (!at || at->x < 0 || at->y < 0 || at->x >= size.width || at->y >= size.height) continue;
      sum += found ? std::pow(distance(*at, *found), 2) : 1e6;
      ++n;
    }
  return std::sqrt(sum / n);
}

/// The share of the first picture that the second shows.
double overlap(const Matrix3& first, const Matrix3& second) {
  const Map truth(second * first.inverse());
  double in = 0, n = 0;
  for (int y = 5; y < size.height; y += 10)
    for (int x = 5; x < size.width; x += 10) {
      const auto at = truth.forward({double(x), double(y)});
      ++n;
      in += at && at->x >= 0 && at->y >= 0 && at->x < size.width && at->y < size.height;
    }
  return in / n;
}

}  // namespace

TEST_CASE("pairs are proposed between 30 views that are turned, scaled, tilted, lit differently and overlap partly",
          "[propose][long]") {
  std::mt19937 random(26);
  std::uniform_real_distribution<double> any(0, 1);
  int good = 0;
  for (int round = 0; round < 30; ++round) {
    const test::Surface surface(static_cast<test::Surface::Kind>(round % 3), 100 + static_cast<unsigned>(round));
    Matrix3 first, second;
    double turn = 0, scale = 1, tilt = 0, shared = 0;
    do {
      turn = 360 * any(random) - 180;
      scale = std::pow(2.0, 2 * any(random) - 1);
      tilt = 40 * any(random);
      first = test::camera(size, 500, 500, 20 * any(random), 1, 0, 0);
      second = test::camera(size, 500 + 400 * (any(random) - 0.5), 500 + 300 * (any(random) - 0.5), turn, scale, tilt,
                            360 * any(random));
      shared = std::min(overlap(first, second) * std::max(1.0, scale * scale),
                        overlap(second, first) / std::min(1.0, scale * scale));
    } while (shared < 0.4 || (round % 2 == 0 && shared > 0.6));
    const Image a = test::seen(surface, first, size, 3, 2U * static_cast<unsigned>(round)),
                b = test::seen(surface, second, size, 3, 2U * static_cast<unsigned>(round) + 1, 0.6 + 0.6 * any(random),
                               40 * any(random) - 10);
    double off = -1;
    std::string why;
    std::size_t count = 0;
    try {
      const Proposal made = propose_pairs(a, b, 40, {});
      off = off_of(made.map, first, second);
      count = made.pairs.size();
    } catch (const Error& error) {
      why = error.message();
    }
    UNSCOPED_INFO("round " << round << ": kind " << round % 3 << ", turn " << turn << ", scale " << scale << ", tilt "
                           << tilt << ", shared " << shared << ": off " << off << ", " << count << " pairs " << why);
    CHECK(off < 0.5);  // a wrong transform is never given
    good += off >= 0 && off < 0.5;
  }
  CHECK(good >= 28);
}

TEST_CASE("no transform comes of 30 pairs of pictures that have nothing in common", "[propose][long]") {
  // Four surfaces of each kind, seen from different sides: all pairs of one kind, and some of two.
  std::vector<Image> seen;
  for (int k = 0; k < 12; ++k)
    seen.push_back(test::seen(test::Surface(static_cast<test::Surface::Kind>(k / 4), 300 + static_cast<unsigned>(k)),
                              test::camera(size, 500, 500, 31.0 * k, 1, 4.0 * (k % 4), 30), size, 3,
                              static_cast<unsigned>(k)));
  std::vector<std::pair<int, int>> pairs;
  for (int i = 0; i < 12; ++i)
    for (int k = i + 1; k < 12; ++k)
      if (i / 4 == k / 4 || (k - i == 4 && pairs.size() < 30) || (k - i == 5 && i % 2 == 0)) pairs.emplace_back(i, k);
  REQUIRE(pairs.size() >= 30);
  pairs.resize(30);
  int given = 0;
  for (const auto& [i, k] : pairs) {
    try {
      const Proposal made = propose_pairs(seen[static_cast<std::size_t>(i)], seen[static_cast<std::size_t>(k)], 40, {});
      UNSCOPED_INFO(i << " and " << k << ": " << made.pairs.size() << " of " << made.tried << " rms " << made.rms);
      ++given;
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
    }
  }
  CHECK(given == 0);
}

namespace {

/// Empty but for a disc of this radius about the middle: as a chain makes it that has turned or cut a picture.
Image disc_of(Image image, double radius) {
  image.make_mask(true);
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x)
      if (std::hypot(x - image.width() / 2.0, y - image.height() / 2.0) > radius) {
        image.set_valid(x, y, false);
        image.row<float>(0, y)[x] = 0;
      }
  return image;
}

}  // namespace

TEST_CASE("the edge of what is empty is no place that two pictures have in common", "[propose]") {
  const test::Surface one(test::Surface::Kind::discs, 900), other(test::Surface::Kind::discs, 901);
  const Matrix3 first = test::camera(size, 500, 500, 0, 1, 0, 0),
                second = test::camera(size, 508, 496, 30, 1.1, 10, 20);
  const auto view = [&](const test::Surface& surface, const Matrix3& camera, unsigned seed) {
    return disc_of(test::seen(surface, camera, size, 3, seed), 150);
  };
  CHECK_THROWS_AS(propose_pairs(view(one, first, 1), view(other, first, 2), 40, {}), Error);
  const Proposal made = propose_pairs(view(one, first, 1), view(one, second, 3), 40, {});
  CHECK(off_of(made.map, first, second) < 0.5);
  for (const ProposedPair& p : made.pairs)
    CHECK(std::hypot(p.pair.from.x - size.width / 2.0, p.pair.from.y - size.height / 2.0) < 150);
}

TEST_CASE("what samples mean changes no pair: integers of either depth, and floats of any size", "[propose]") {
  const test::Surface wall(test::Surface::Kind::discs, 910);
  const Matrix3 first = test::camera(size, 500, 500, 0, 1, 0, 0),
                second = test::camera(size, 508, 496, 30, 1.1, 10, 20);
  const Image a = test::seen(wall, first, size, 3, 1), b = test::seen(wall, second, size, 3, 2);
  for (const auto& [gain, offset] : {std::pair(1.0, 0.0), {257.0, 0.0}, {1e-6, 0.0}, {1e9, -1e11}, {1 / 255.0, -0.5}}) {
    const auto scaled = [&, gain = gain, offset = offset](const Image& image) {
      Image out = image.clone();
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
          out.row<float>(0, y)[x] = static_cast<float>(gain * static_cast<double>(image.row<float>(0, y)[x]) + offset);
      return out;
    };
    INFO(gain << " " << offset);
    CHECK(off_of(propose_pairs(scaled(a), b, 40, {}).map, first, second) < 0.5);
    CHECK(off_of(propose_pairs(a, scaled(b), 40, {}).map, first, second) < 0.5);
  }
}
