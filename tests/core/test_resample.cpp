#include <catch2/catch.hpp>

#include "base/error.h"
#include "resample/footprint.h"
#include "resample/warp.h"
#include "tests/support.h"
#include "tests/theory.h"

using namespace fexel;
using test::value;

namespace {

/// One result sample in plain double arithmetic: the sum over all kernel taps, edge pixels repeated.
double plain_sample(const Image& source, int band, Kernel kernel, Point at) {
  const int reach = static_cast<int>(std::ceil(kernel_radius(kernel))) + 1;
  const int cx = static_cast<int>(std::floor(at.x)), cy = static_cast<int>(std::floor(at.y));
  double sum = 0;
  for (int y = cy - reach; y <= cy + reach; ++y)
    for (int x = cx - reach; x <= cx + reach; ++x)
      sum += kernel_value(kernel, x + 0.5 - at.x) * kernel_value(kernel, y + 0.5 - at.y) *
             value(source, band, std::clamp(x, 0, source.width() - 1), std::clamp(y, 0, source.height() - 1));
  return sum;
}

Matrix3 random_pull(std::mt19937& random, double scale) {
  std::uniform_real_distribution<double> unit(-1, 1);
  const double angle = M_PI * unit(random);
  Matrix3 m;
  m << scale * std::cos(angle), -scale * std::sin(angle), 60 + 30 * unit(random), scale * std::sin(angle),
      scale * std::cos(angle), 50 + 30 * unit(random), 1e-3 * unit(random), 1e-3 * unit(random), 1;
  return m;
}

WarpPlan plan_of(const Matrix3& pull, Size source, Size result) {
  Clip clip;
  clip.keep_inside(source);
  return {pull, clip.through(Map(pull).inverse()), result};
}

Pyramid pyramid_of(Image image) {
  return Pyramid(std::make_shared<const Image>(std::move(image)));
}

}  // namespace

TEST_CASE("every kernel, depth and band count agrees with a plain double reference over random maps", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const Edge edge = GENERATE(Edge::fill, Edge::extend);
  const int bands = GENERATE(1, 3, 5);
  std::mt19937 random(17);
  const Pyramid source = pyramid_of(test::noise(120, 100, bands, depth));
  const Size result{110, 70};
  const double allowed = depth == Depth::u8 ? 0.56 : depth == Depth::u16 ? 0.53 : 2e-6;
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  Resampling how{kernel, edge, {7}, false};
  for (int round = 0; round < 2; ++round) {
    const WarpPlan plan = plan_of(random_pull(random, 0.8), {120, 100}, result);
    WarpReport report;
    const Image out = warp(source, plan, {0, 0, result.width, result.height}, how, Quality::final, {}, &report);
    double worst = 0;
    int empty = 0;
    bool masks_agree = true;
    for (int y = 0; y < result.height; ++y)
      for (int x = 0; x < result.width; ++x) {
        const auto at = Map::apply(plan.pull, {x + 0.5, y + 0.5});
        const bool inside = at && at->x >= 0 && at->x <= 120 && at->y >= 0 && at->y <= 100;
        masks_agree = masks_agree && out.valid(x, y) == inside;
        empty += !inside;
        if (kernel == Kernel::nearest && at &&
            (std::abs(at->x - std::round(at->x)) < 1e-9 || std::abs(at->y - std::round(at->y)) < 1e-9))
          continue;
        for (int band = 0; band < bands; ++band) {
          double expected = 7;
          if (at && (inside || edge == Edge::extend)) expected = plain_sample(source.base(), band, kernel, *at);
          if (!at && edge == Edge::extend) continue;
          if (depth != Depth::f32) expected = std::clamp(expected, 0.0, top);
          worst = std::max(worst, std::abs(value(out, band, x, y) - expected));
        }
      }
    CHECK(worst < allowed);
    CHECK(masks_agree);
    CHECK(report.empty == empty);
  }
}

TEST_CASE("flat areas stay flat to the last bit, shrunk or not", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic);
  const double scale = GENERATE(0.7, 1.3, 1.9, 3.3, 7.0);
  std::mt19937 random(23);
  Image flat(400, 400, 1, Depth::f32);
  for (int y = 0; y < 400; ++y) std::fill_n(flat.row<float>(0, y), 400, 0.1F);
  const Pyramid source = pyramid_of(std::move(flat));
  const WarpPlan plan = plan_of(random_pull(random, scale), {400, 400}, {120, 120});
  const Image out = warp(source, plan, {0, 0, 120, 120}, {kernel, Edge::extend, {0}, true}, Quality::final, {});
  int other = 0;
  for (int y = 0; y < 120; ++y)
    for (int x = 0; x < 120; ++x) other += out.valid(x, y) && out.row<float>(0, y)[x] != 0.1F;
  CHECK(other == 0);
}

TEST_CASE("a widened kernel agrees with a plain double sum over the footprint", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic);
  const double shrink = GENERATE(1.4, 2.5, 3.7);
  const Pyramid source = pyramid_of(test::noise(300, 300, 1, Depth::f32));
  const double angle = 0.4;
  Matrix3 pull;
  pull << shrink * std::cos(angle), -1.3 * std::sin(angle), 120, shrink * std::sin(angle), 1.3 * std::cos(angle), 60, 0,
      0, 1;
  const Image out = warp(source, plan_of(pull, {300, 300}, {40, 40}), {0, 0, 40, 40}, {kernel, Edge::fill, {0}, true},
                         Quality::final, {});
  const Matrix2 jacobian = pull.topLeftCorner<2, 2>();
  const auto s = singular_values(jacobian);
  // The footprint's definition, from its square root: reach^-1 = inverse of the Jacobian with singular values of at
  // least 1.
  const double t = std::clamp(s.large - 1, 0.0, 1.0), share = t * t * (3 - 2 * t);
  REQUIRE(s.small >= 1);  // so that the footprint is the Jacobian itself
  const Matrix2 to_result = Map(pull).inverse_matrix().topLeftCorner<2, 2>();
  double worst = 0;
  int compared = 0;
  for (int y = 0; y < 40; y += 9)
    for (int x = 0; x < 40; x += 7) {
      const Point at = *Map::apply(pull, {x + 0.5, y + 0.5});
      if (!out.valid(x, y) || at.x < 25 || at.y < 25 || at.x > 275 || at.y > 275) continue;
      double sum = 0, weights = 0;
      for (int j = static_cast<int>(at.y) - 24; j < at.y + 24; ++j)
        for (int i = static_cast<int>(at.x) - 24; i < at.x + 24; ++i) {
          const double dx = i + 0.5 - at.x, dy = j + 0.5 - at.y;
          const double u = to_result(0, 0) * dx + to_result(0, 1) * dy, v = to_result(1, 0) * dx + to_result(1, 1) * dy;
          if (std::max(std::abs(u), std::abs(v)) > 2.6) continue;
          const double w = ShrinkingKernel::exact(kernel, u) * ShrinkingKernel::exact(kernel, v);
          sum += w * value(source.base(), 0, i, j);
          weights += w;
        }
      ++compared;
      const double plain = plain_sample(source.base(), 0, kernel, at);
      const double expected = plain + share * (sum / weights - plain);
      worst = std::max(worst, std::abs(value(out, 0, x, y) - expected));
    }
  CHECK(worst < 5e-5);
  CHECK(compared > 10);
}

TEST_CASE("the error of a turn is the one that theory gives", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic);
  const auto all = test::waves(80, 0.18, 11);
  const Pyramid source = pyramid_of(test::picture_of(all, 700, 700));
  const double angle = 11.3 * M_PI / 180;
  Matrix3 pull;
  pull << std::cos(angle), -std::sin(angle), 130, std::sin(angle), std::cos(angle), 10, 0, 0, 1;
  const Image out = warp(source, plan_of(pull, {700, 700}, {500, 500}), {0, 0, 500, 500},
                         {kernel, Edge::fill, {0}, true}, Quality::final, {});
  double square = 0;
  int count = 0;
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 500; ++x) {
      const Point at = *Map::apply(pull, {x + 0.5, y + 0.5});
      if (at.x < 4 || at.y < 4 || at.x > 696 || at.y > 696) continue;
      const double error = value(out, 0, x, y) - test::scene(all, at.x, at.y);
      square += error * error;
      ++count;
    }
  CHECK(std::sqrt(square / count) == Approx(test::expected_error(kernel, all)).epsilon(0.03));
}

TEST_CASE("any region of a result is that part of the whole", "[resample]") {
  const Pyramid source = pyramid_of(test::noise(300, 200, 3, Depth::u8));
  std::mt19937 random(29);
  const WarpPlan plan = plan_of(random_pull(random, 1.7), {300, 200}, {330, 310});
  const Resampling how{Kernel::cubic, Edge::fill, {9, 8, 7}, true};
  const Image whole = warp(source, plan, {0, 0, 330, 310}, how, Quality::final, {});
  const Image part = warp(source, plan, {0, 64, 256, 100}, how, Quality::final, {});
  double worst = 0;
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 100; ++y)
      for (int x = 0; x < 256; ++x)
        worst = std::max(worst, std::abs(value(part, band, x, y) - value(whole, band, x, y + 64)));
  CHECK(worst <= 1);
}

TEST_CASE("a map to the horizon gives no crash, no hang and a mask", "[resample]") {
  const Edge edge = GENERATE(Edge::fill, Edge::extend);
  const Pyramid source = pyramid_of(test::noise(300, 200, 1, Depth::u8));
  Matrix3 pull;
  pull << 1, 0, 0, 0.2, 1, 0, 0, -0.01, 1;
  WarpReport report;
  const Image out = warp(source, plan_of(pull, {300, 200}, {300, 200}), {0, 0, 300, 200},
                         {Kernel::cubic, edge, {0}, true}, Quality::final, {}, &report);
  CHECK_FALSE(out.valid(10, 150));
  CHECK(report.empty > 300 * 100);
}

TEST_CASE("a stopped warp raises the cancelled error", "[resample]") {
  std::stop_source stop;
  stop.request_stop();
  const Pyramid source = pyramid_of(test::noise(64, 64, 1, Depth::u8));
  CHECK_THROWS_AS(warp(source, plan_of(scaling(0.9, 0.9), {64, 64}, {64, 64}), {0, 0, 64, 64}, {}, Quality::final,
                       {stop.get_token(), {}}),
                  Error);
}
