#include <catch2/catch.hpp>
#include <map>

#include "filter/filter.h"
#include "tests/maps.h"
#include "tests/support.h"

using namespace fexel;
using test::value;

namespace {

/// A sample of the picture, or the nearest one.
double beyond(const Image& image, int band, int x, int y) {
  return value(image, band, std::clamp(x, 0, image.width() - 1), std::clamp(y, 0, image.height() - 1));
}

/// How far off a picture is from `expected(band, x, y)`, unrounded and clamped to its depth.
template <class Expected>
double worst_of(const Image& image, const Expected& expected) {
  double worst = 0;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) {
        double wanted = expected(band, x, y);
        if (image.depth() != Depth::f32) wanted = std::clamp(wanted, 0.0, top_of(image.depth()));
        worst = std::max(worst, std::abs(value(image, band, x, y) - wanted));
      }
  return worst;
}

double allowed(Depth depth) {
  return depth == Depth::f32 ? 2e-6 : depth == Depth::u8 ? 0.5001 : 0.52;
}

}  // namespace

TEST_CASE("Gaussian and high-pass agree with plain sums in double", "[filter]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const double radius = GENERATE(0.7, 3.0, 17.0);
  const Image image = test::noise(61, 47, 2, depth);
  const double sigma = radius / 2;
  const int reach = std::max(1, static_cast<int>(std::ceil(4 * sigma)));
  const auto mean = [&](int band, int x, int y) {
    double sum = 0, all = 0;
    for (int j = -reach; j <= reach; ++j)
      for (int i = -reach; i <= reach; ++i) {
        const double weight = std::exp(-0.5 * (i * i + j * j) / (sigma * sigma));
        sum += weight * beyond(image, band, x + i, y + j);
        all += weight;
      }
    return sum / all;
  };
  CHECK(worst_of(gaussian(image, radius), mean) < allowed(depth));
  const double middle = depth == Depth::u8 ? 128 : depth == Depth::u16 ? 32768 : 0;
  CHECK(worst_of(highpass(image, radius), [&](int band, int x, int y) {
          return value(image, band, x, y) - mean(band, x, y) + middle;
        }) < allowed(depth));
}

TEST_CASE("on every instruction set the Gaussian of a large picture has no seams", "[filter]") {
  const test::BestTarget afterwards;
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const double radius = GENERATE(1.0, 8.0);
  const Image image = test::noise(1100, 290, 1, depth);
  const double sigma = radius / 2;
  const int reach = std::max(1, static_cast<int>(std::ceil(4 * sigma)));
  const auto mean = [&](int x, int y) {
    double sum = 0, all = 0;
    for (int j = -reach; j <= reach; ++j)
      for (int i = -reach; i <= reach; ++i) {
        const double weight = std::exp(-0.5 * (i * i + j * j) / (sigma * sigma));
        sum += weight * beyond(image, 0, x + i, y + j);
        all += weight;
      }
    return sum / all;
  };
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    const Image out = gaussian(image, radius);
    double worst = 0;
    // More closely about multiples of powers of two, where parts of the work meet.
    for (int y = 0; y < 290; y += y % 128 < 2 || y % 128 > 125 ? 1 : 19)
      for (int x = 0; x < 1100; x += x % 512 < 2 || x % 512 > 509 ? 1 : 61)
        worst = std::max(worst, std::abs(value(out, 0, x, y) - mean(x, y)));
    INFO(target << ", radius " << radius);
    CHECK(worst < allowed(depth));
  }
}

TEST_CASE("the median is that of the samples around, sorted", "[filter]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int radius = GENERATE(1, 2, 5);
  const Image image = test::noise(GENERATE(41, 150), 33, 1, depth);
  CHECK(worst_of(median(image, radius), [&](int band, int x, int y) {
          std::vector<double> values;
          for (int j = -radius; j <= radius; ++j)
            for (int i = -radius; i <= radius; ++i) values.push_back(beyond(image, band, x + i, y + j));
          std::ranges::sort(values);
          return values[values.size() / 2];
        }) == 0);
}

TEST_CASE("a kernel is laid over the picture as it is written", "[filter]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const Grid kernel = GENERATE(Grid{3, 3, {0, -1, 0, -1, 5, -1, 0, -1, 2}}, Grid{2, 1, {-1, 1}},
                               Grid{4, 2, {1, 2, 3, 4, 5, 6, 7, 8}}, Grid{1, 1, {2}}, Grid{1, 5, {1, 1, 1, 1, 1}});
  const Image image = test::noise(37, 29, 2, depth);
  const double scale = 0.25, offset = depth == Depth::f32 ? 0.1 : 20;
  std::int64_t clamped = 0, expected_clamped = 0;
  const Image out = convolved(image, kernel, scale, offset, depth, {}, &clamped);
  const auto sum_at = [&](int band, int x, int y) {
    double sum = 0;
    for (int j = 0; j < kernel.height; ++j)
      for (int i = 0; i < kernel.width; ++i)
        sum += kernel.numbers[static_cast<std::size_t>(j * kernel.width + i)] *
               beyond(image, band, x + i - (kernel.width - 1) / 2, y + j - (kernel.height - 1) / 2);
    return scale * sum + offset;
  };
  CHECK(worst_of(out, sum_at) < allowed(depth));
  for (int band = 0; band < 2 && depth != Depth::f32; ++band)
    for (int y = 0; y < 29; ++y)
      for (int x = 0; x < 37; ++x) {
        const double v = sum_at(band, x, y);
        expected_clamped += v < -0.5 || v >= top_of(depth) + 0.5;
      }
  CHECK(clamped == expected_clamped);
  CHECK(convolved(image, kernel, scale, offset, Depth::f32).depth() == Depth::f32);
}

TEST_CASE("contrast is evened as the definition says, in plain double arithmetic", "[filter]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16);
  const int tile = GENERATE(16, 40);
  const double limit = GENERATE(1.5, 4.0);
  const double top = top_of(depth);
  Image image(90, 70, 1, depth);
  const Image grain = test::noise(90, 70, 1, depth);
  for (int y = 0; y < 70; ++y)
    for (int x = 0; x < 90; ++x) {
      const double v = std::floor(0.3 * top + 0.2 * top * std::sin(x * 0.07) + 0.1 * value(grain, 0, x, y));
      if (depth == Depth::u8)
        image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(v);
      else
        image.row<std::uint16_t>(0, y)[x] = static_cast<std::uint16_t>(v);
    }
  constexpr int levels = 1024;
  const int across = (90 + tile / 2) / tile, down = (70 + tile / 2) / tile;
  const double w = 90.0 / across, h = 70.0 / down;
  std::map<std::pair<int, int>, std::vector<double>> curves;
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < across; ++i) {
      std::vector<double> counts(levels);
      double all = 0, over = 0;
      for (int y = 0; y < 70; ++y)
        for (int x = 0; x < 90; ++x) {
          if (static_cast<int>(x / w) != i) continue;
          if (y < static_cast<int>(j * h) || y >= static_cast<int>((j + 1) * h)) continue;
          counts[static_cast<std::size_t>(std::min(value(image, 0, x, y) / top * levels, levels - 1.0))] += 1;
          all += 1;
        }
      for (double& c : counts) {
        over += std::max(0.0, c - limit * all / levels);
        c = std::min(c, limit * all / levels);
      }
      std::vector<double> curve{0};
      for (const double c : counts) curve.push_back(curve.back() + (c + over / levels) / all);
      curves[{i, j}] = curve;
    }
  const double worst = worst_of(equalised(image, tile, limit), [&](int, int x, int y) {
    const double u = std::clamp((x + 0.5) / w - 0.5, 0.0, across - 1.0),
                 v = std::clamp((y + 0.5) / h - 0.5, 0.0, down - 1.0);
    const double at = value(image, 0, x, y) / top * levels;
    const auto k = std::min(static_cast<std::size_t>(at), std::size_t{levels - 1});
    double sum = 0;
    for (int j = 0; j < down; ++j)
      for (int i = 0; i < across; ++i) {
        const double weight = std::max(0.0, 1 - std::abs(u - i)) * std::max(0.0, 1 - std::abs(v - j));
        if (weight == 0) continue;
        const auto& curve = curves[{i, j}];
        sum += weight * (curve[k] + (at - static_cast<double>(k)) * (curve[k + 1] - curve[k]));
      }
    return sum * top;
  });
  CHECK(worst < 0.5 + 2e-5 * top);
}

TEST_CASE("bands are chosen bit for bit, weighed with their weights, and masks stay", "[filter]") {
  Image image = test::noise(23, 19, 3, Depth::u16);
  image.make_mask(true);
  image.set_valid(4, 5, false);
  const Image chosen = chosen_bands(image, {2, 0, 2});
  CHECK(chosen.bands() == 3);
  CHECK(worst_of(chosen, [&](int band, int x, int y) { return value(image, band == 1 ? 0 : 2, x, y); }) == 0);
  const Image grey = weighed_bands(image, {0.2, 0.7, 0.1});
  CHECK(worst_of(grey, [&](int, int x, int y) {
          return 0.2 * value(image, 0, x, y) + 0.7 * value(image, 1, x, y) + 0.1 * value(image, 2, x, y);
        }) < 0.51);
  for (const Image* each : {&chosen, &grey}) {
    CHECK_FALSE(each->valid(4, 5));
    CHECK(each->valid(5, 5));
  }
  CHECK_FALSE(median(image, 2).valid(4, 5));
  CHECK_FALSE(equalised(image, 8, 2).valid(4, 5));
}
