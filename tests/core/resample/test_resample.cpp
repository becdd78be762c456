#include <catch2/catch.hpp>

#include "base/error.h"
#include "geometry/lens.h"
#include "geometry/ring.h"
#include "resample/kernels/footprint.h"
#include "resample/warp.h"
#include "tests/maps.h"
#include "tests/plain.h"
#include "tests/support.h"
#include "tests/theory.h"

using namespace fexel;
using test::Endless;
using test::plain_sample;
using test::plain_weight;
using test::plan_of;
using test::pyramid_of;
using test::turned;
using test::value;
using test::walked;

namespace {

Matrix3 random_inverse(std::mt19937& random, double scale) {
  std::uniform_real_distribution<double> unit(-1, 1);
  const double angle = M_PI * unit(random);
  Matrix3 m;
  m << scale * std::cos(angle), -scale * std::sin(angle), 60 + 30 * unit(random), scale * std::sin(angle),
      scale * std::cos(angle), 50 + 30 * unit(random), 1e-3 * unit(random), 1e-3 * unit(random), 1;
  return m;
}

/// The share of the widened kernel: a smooth step between a shrink of 1.2 and 2.
double shrinking_mix(double shrink) {
  const double t = std::clamp((shrink - 1.09) / 0.04, 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

}  // namespace

TEST_CASE("edge rules repeat a line as they say, at any distance", "[resample]") {
  const auto line = [](BorderMode edge, int count, int from, int to) {
    std::string text;
    for (int i = from; i < to; ++i) text += static_cast<char>('a' + folded(i, count, edge));
    return text;
  };
  CHECK(line(BorderMode::extend, 3, -3, 6) == "aaaabcccc");
  CHECK(line(BorderMode::mirror, 3, -3, 6) == "cbaabccba");
  CHECK(line(BorderMode::mirror_once, 3, -2, 5) == "cbabcba");
  CHECK(line(BorderMode::tile, 3, -3, 6) == "abcabcabc");
  const BorderMode edge = GENERATE(BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  for (const int count : {1, 2, 3, 7})
    for (int i = -40; i < 40; ++i) CHECK(folded(i, count, edge) == walked(i, count, edge));
}

TEST_CASE("every kernel, depth, band count and edge rule agrees with a plain double reference", "[resample]") {
  const Kernel kernel =
      GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const BorderMode edge =
      GENERATE(BorderMode::fill, BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  const int bands = GENERATE(1, 3, 5);
  std::mt19937 random(17);
  const Image samples = test::noise(60, 50, bands, depth);
  const Pyramid source = pyramid_of(samples.clone());
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, edge);
  const Size result{41, 30};
  const double allowed = depth == Depth::u8 ? 0.56 : depth == Depth::u16 ? 0.53 : 2e-6;
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  const Resampling how{kernel, edge, {7}, false};
  for (int round = 0; round < 2; ++round) {
    const WarpPlan plan = plan_of(random_inverse(random, round == 0 ? 0.8 : 4), {60, 50}, result);
    WarpReport report;
    const Image out = warp(source, plan, {0, 0, result.width, result.height}, how, Quality::final, {}, &report);
    double worst = 0;
    int empty = 0;
    bool masks_agree = true;
    for (int y = 0; y < result.height; ++y)
      for (int x = 0; x < result.width; ++x) {
        const auto at = Map::apply(plan.inverse_map, {x + 0.5, y + 0.5});
        const bool inside = at && at->x >= 0 && at->x <= 60 && at->y >= 0 && at->y <= 50;
        masks_agree = masks_agree && out.valid(x, y) == inside;
        empty += !inside;
        if (kernel == Kernel::nearest && at &&
            (std::abs(at->x - std::round(at->x)) < 1e-9 || std::abs(at->y - std::round(at->y)) < 1e-9))
          continue;
        for (int band = 0; band < bands; ++band) {
          double expected = 7;
          if (at && (inside || edge != BorderMode::fill))
            expected = plain_sample(endless[static_cast<std::size_t>(band)], kernel, *at);
          if (!at && edge != BorderMode::fill) continue;
          if (depth != Depth::f32) expected = std::clamp(expected, 0.0, top);
          worst = std::max(worst, std::abs(value(out, band, x, y) - expected));
        }
      }
    INFO(name_of(kernel) << ", " << name_of(edge) << ", round " << round);
    CHECK(worst < allowed);
    CHECK(masks_agree);
    CHECK(report.empty == empty);
  }
}

TEST_CASE("a scaling is the double sum over columns and rows, each axis by itself", "[resample][long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  const double sx = GENERATE(0.6, 1.5, 2.0, 5.3), sy = GENERATE(0.9, 1.7, 3.1);
  const BorderMode edge = GENERATE(BorderMode::extend, BorderMode::mirror_once);
  const Size size{90, 70}, result{23, 19};
  const Image samples = test::noise(size.width, size.height, 2, Depth::f32);
  const Matrix3 inverse_map = translation(-4.3, 2.2) * scaling(sx, sy);
  const Image out = warp(pyramid_of(samples.clone()), plan_of(inverse_map, size, result),
                         {0, 0, result.width, result.height}, {kernel, edge, {0}, true}, Quality::final, {});
  const auto weights = [&](double centre, double scale) {
    const double mix = shrinking_mix(scale), reach = std::max(scale, 1.0);
    std::vector<double> plain, wide;
    double plain_sum = 0, wide_sum = 0;
    for (int i = -60; i < 200; ++i) {
      const double d = i + 0.5 - centre;
      plain_sum += plain.emplace_back(plain_weight(kernel, d));
      wide_sum += wide.emplace_back(std::abs(d) < 4 * reach ? ShrinkingKernel::exact(kernel, d / reach) : 0);
    }
    std::vector<double> both;
    for (std::size_t i = 0; i < plain.size(); ++i)
      both.push_back((1 - mix) * plain[i] / plain_sum + mix * wide[i] / wide_sum);
    return both;
  };
  double worst = 0;
  for (const int y : {0, 9, 18})
    for (const int x : {0, 3, 15, 22}) {
      const auto across = weights(sx * (x + 0.5) - 4.3, sx), down = weights(sy * (y + 0.5) + 2.2, sy);
      for (int band = 0; band < 2; ++band) {
        double sum = 0;
        for (int j = -60; j < 200; ++j)
          for (int i = -60; i < 200; ++i)
            if (const double w = across[static_cast<std::size_t>(i + 60)] * down[static_cast<std::size_t>(j + 60)])
              sum += w * value(samples, band, walked(i, size.width, edge), walked(j, size.height, edge));
        worst = std::max(worst, std::abs(value(out, band, x, y) - sum));
      }
    }
  CHECK(worst < 3e-5);
}

TEST_CASE("area is the mean over the result pixel, by shares", "[resample]") {
  const Image samples = test::noise(300, 200, 1, Depth::f32);
  const double sx = GENERATE(1.5, 2.0, 7.7), sy = GENERATE(1.0, 3.25);
  const Pyramid source = pyramid_of(samples.clone());
  const Matrix3 inverse_map = translation(3.3, 5.1) * scaling(sx, sy);
  const Size result{30, 25};
  const Image out = warp(source, plan_of(inverse_map, {300, 200}, result), {0, 0, 30, 25},
                         {Kernel::area, BorderMode::fill, {0}, true}, Quality::final, {});
  double worst = 0;
  for (int y = 0; y < 25; ++y)
    for (int x = 0; x < 30; ++x) {
      const double left = 3.3 + sx * x, top = 5.1 + sy * y;
      double sum = 0;
      for (int j = static_cast<int>(top); j < top + sy; ++j)
        for (int i = static_cast<int>(left); i < left + sx; ++i)
          sum += (std::min(i + 1.0, left + sx) - std::max<double>(i, left)) *
                 (std::min(j + 1.0, top + sy) - std::max<double>(j, top)) * value(samples, 0, i, j);
      worst = std::max(worst, std::abs(value(out, 0, x, y) - sum / (sx * sy)));
    }
  CHECK(worst < 2e-6);
}

TEST_CASE("under shrinking, edge rules repeat the picture too", "[resample]") {
  // A picture whose continuation is laid out in full gives the same as the rule does.
  const BorderMode edge = GENERATE(BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::lanczos3, Kernel::area);
  const double shrink = GENERATE(1.6, 3.1);
  const int width = GENERATE(2, 75), height = 48, around = 110;
  const Image samples = test::noise(width, height, 1, Depth::f32);
  Image laid_out(width + 2 * around, height + 2 * around, 1, Depth::f32);
  for (int y = 0; y < laid_out.height(); ++y)
    for (int x = 0; x < laid_out.width(); ++x)
      laid_out.row<float>(0, y)[x] =
          samples.row<float>(0, walked(y - around, height, edge))[walked(x - around, width, edge)];
  Matrix3 inverse_map;
  inverse_map << shrink * std::cos(0.3), -shrink * std::sin(0.3), -20, shrink * std::sin(0.3), shrink * std::cos(0.3),
      -40, 0, 0, 1;
  const Size result{14, 14};
  const Resampling how{kernel, edge, {0}, true};
  const Image by_rule = warp(pyramid_of(samples.clone()), plan_of(inverse_map, {width, height}, result), {0, 0, 14, 14},
                             how, Quality::final, {});
  const Image by_hand =
      warp(pyramid_of(laid_out.clone()),
           plan_of(translation(around, around) * inverse_map, {laid_out.width(), laid_out.height()}, result),
           {0, 0, 14, 14}, how, Quality::final, {});
  double worst = 0;
  for (int y = 0; y < 14; ++y)
    for (int x = 0; x < 14; ++x) worst = std::max(worst, std::abs(value(by_rule, 0, x, y) - value(by_hand, 0, x, y)));
  CHECK(worst < 3e-6);
}

TEST_CASE("flat areas stay flat to the last bit, shrunk or not", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const double scale = GENERATE(0.7, 1.3, 1.9, 3.3, 7.0);
  std::mt19937 random(23);
  Image flat(400, 400, 1, Depth::f32);
  for (int y = 0; y < 400; ++y) std::fill_n(flat.row<float>(0, y), 400, 0.1F);
  const Pyramid source = pyramid_of(std::move(flat));
  const WarpPlan plan = plan_of(random_inverse(random, scale), {400, 400}, {120, 120});
  const Image out = warp(source, plan, {0, 0, 120, 120}, {kernel, BorderMode::extend, {0}, true}, Quality::final, {});
  int other = 0;
  for (int y = 0; y < 120; ++y)
    for (int x = 0; x < 120; ++x) other += out.valid(x, y) && out.row<float>(0, y)[x] != 0.1F;
  CHECK(other == 0);
}

TEST_CASE("the error of a turn is the one that theory gives", "[resample][long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const auto all = test::waves(80, 0.18, 11);
  const Pyramid source = pyramid_of(test::picture_of(all, 700, 700));
  const double angle = 11.3 * M_PI / 180;
  Matrix3 inverse_map;
  inverse_map << std::cos(angle), -std::sin(angle), 130, std::sin(angle), std::cos(angle), 10, 0, 0, 1;
  const Image out = warp(source, plan_of(inverse_map, {700, 700}, {500, 500}), {0, 0, 500, 500},
                         {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double square = 0;
  int count = 0;
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 500; ++x) {
      const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      if (at.x < 4 || at.y < 4 || at.x > 696 || at.y > 696) continue;
      const double error = value(out, 0, x, y) - test::scene(all, at.x, at.y);
      square += error * error;
      ++count;
    }
  CHECK(std::sqrt(square / count) == Approx(test::expected_error(kernel, all)).epsilon(0.03));
}

TEST_CASE("a measured scene in 16 bits is turned as well as in plain double arithmetic", "[resample][long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const auto all = test::scene_waves();
  const Image samples = test::counted(test::picture_of(all, 420, 420));
  const Endless endless(samples, 0, kernel, BorderMode::fill);
  const Matrix3 inverse_map = translation(210, 210) * turned(11.3) * translation(-140, -140);
  const Image out = warp(pyramid_of(samples.clone()), plan_of(inverse_map, {420, 420}, {280, 280}), {0, 0, 280, 280},
                         {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double ours = 0, plain = 0;
  for (int y = 0; y < 280; ++y)
    for (int x = 0; x < 280; ++x) {
      const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      const double truth = test::scene(all, at.x, at.y) + test::half_of_u16;
      ours += std::pow(value(out, 0, x, y) - truth, 2);
      plain += std::pow(plain_sample(endless, kernel, at) - truth, 2);
    }
  const double lost = 10 * std::log10(ours / plain);
  INFO(name_of(kernel) << ": " << 20 * std::log10(65535 / std::sqrt(ours / (280.0 * 280))) << " dB, " << lost
                       << " dB under plain double");
  CHECK(std::abs(lost) < 0.3);
}

TEST_CASE("what a source holds in empty pixels reaches no result, and their places stay empty", "[resample]") {
  const Kernel kernel =
      GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const Matrix3 inverse_map = GENERATE(translation(10.25, 8.75), scaling(3.1, 2.6),
                                       Matrix3(translation(20, -3) * turned(24)), translation(3, 5));
  const auto made = [&](std::uint16_t garbage, std::int64_t* empty) {
    Image image = test::noise(90, 70, 1, Depth::u16);
    image.make_mask(true);
    for (int y = 20; y < 41; ++y)
      for (int x = 30; x < 62; ++x) {
        image.set_valid(x, y, false);
        image.row<std::uint16_t>(0, y)[x] = garbage;
      }
    paint_empty(image);
    WarpReport report;
    Image out = warp(pyramid_of(std::move(image)), plan_of(inverse_map, {90, 70}, {60, 50}), {0, 0, 60, 50},
                     {kernel, BorderMode::fill, {7}, true}, Quality::final, {}, &report);
    *empty = report.empty;
    return out;
  };
  std::int64_t empty = 0;
  const Image out = made(0, &empty);
  CHECK(test::same_samples(out, made(65535, &empty)));
  bool right = true;
  std::int64_t counted = 0;
  for (int y = 0; y < 50; ++y)
    for (int x = 0; x < 60; ++x) {
      const Point p = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      const bool inside = p.x >= 0 && p.y >= 0 && p.x <= 90 && p.y <= 70;
      const bool masked = p.x >= 30 && p.x < 62 && p.y >= 20 && p.y < 41;
      right = right && out.valid(x, y) == (inside && !masked);
      if (!out.valid(x, y)) right = right && value(out, 0, x, y) == 7;
      counted += !(inside && !masked);
    }
  CHECK(right);
  CHECK(empty == counted);
}

TEST_CASE("NaN in a floating-point picture stays where it is", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  Image image = test::noise(80, 60, 2, Depth::f32);
  const auto beside = [](int x, int y) { return x >= 30 && x < 41 && y >= 20 && y < 29; };
  for (int y = 0; y < 60; ++y)
    for (int x = 0; x < 80; ++x)
      if (beside(x, y)) image.row<float>(1, y)[x] = std::numeric_limits<float>::quiet_NaN();
  take_nan(image);
  paint_empty(image);
  const Matrix3 inverse_map = translation(10, -5) * turned(17);
  const Image out = warp(pyramid_of(std::move(image)), plan_of(inverse_map, {80, 60}, {50, 50}), {0, 0, 50, 50},
                         {kernel, BorderMode::fill, {7}, true}, Quality::final, {});
  bool right = true;
  int nan = 0;
  for (int y = 0; y < 50; ++y)
    for (int x = 0; x < 50; ++x) {
      const Point p = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      const bool there = beside(static_cast<int>(std::floor(p.x)), static_cast<int>(std::floor(p.y)));
      nan += there;
      for (int band = 0; band < 2; ++band) right = right && std::isnan(value(out, band, x, y)) == there;
    }
  CHECK(right);
  CHECK(nan > 50);
}

TEST_CASE("any region of a result is that part of the whole", "[resample]") {
  const Pyramid source = pyramid_of(test::noise(300, 200, 3, Depth::u8));
  std::mt19937 random(29);
  const WarpPlan plan = plan_of(random_inverse(random, 1.7), {300, 200}, {330, 310});
  const Resampling how{Kernel::cubic, BorderMode::fill, {9, 8, 7}, true};
  const Image whole = warp(source, plan, {0, 0, 330, 310}, how, Quality::final, {});
  const Image part = warp(source, plan, {0, 64, 256, 100}, how, Quality::final, {});
  double worst = 0;
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 100; ++y)
      for (int x = 0; x < 256; ++x)
        worst = std::max(worst, std::abs(value(part, band, x, y) - value(whole, band, x, y + 64)));
  CHECK(worst <= 1);
}

TEST_CASE("pixels beyond the horizon of a map are empty, under every border mode", "[resample]") {
  const BorderMode edge =
      GENERATE(BorderMode::fill, BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  const Kernel kernel = GENERATE(Kernel::cubic, Kernel::bspline3, Kernel::area);
  const Pyramid source = pyramid_of(test::noise(300, 200, 1, Depth::u8));
  Matrix3 inverse_map;
  inverse_map << 1, 0, 0, 0.2, 1, 0, 0, -0.01, 1;
  WarpReport report;
  const Image out = warp(source, plan_of(inverse_map, {300, 200}, {17, 130}), {0, 0, 17, 130},
                         {kernel, edge, {0}, true}, Quality::final, {}, &report);
  CHECK_FALSE(out.valid(10, 120));
  CHECK(report.empty > 17 * 29);
}

TEST_CASE("a stopped warp raises the cancelled error", "[resample]") {
  std::stop_source stop;
  stop.request_stop();
  const Pyramid source = pyramid_of(test::noise(64, 64, 1, Depth::u8));
  CHECK_THROWS_AS(warp(source, plan_of(scaling(0.9, 0.9), {64, 64}, {64, 64}), {0, 0, 64, 64}, {}, Quality::final,
                       {stop.get_token(), {}}),
                  Error);
}

namespace {

/// Pulls through curves: a lens whose corners bend by dozens of pixels, the rim of a disc, both with a tilt.
Map curved_inverse(int which) {
  const auto lens = std::make_shared<const Lens>(Lens::Terms{-0.25, 0.05, 0, 0.002, -0.001}, Point{160, 110}, 300);
  const auto ring = std::make_shared<const Ring>(RingShape{{150, 120}, 30, 100, 0.4, 5.5, which == 2, {430, 75}});
  Matrix3 tilted;
  tilted << 0.9, -0.1, 20, 0.12, 0.93, -6, 1e-4, -2e-4, 1;
  if (which == 0) return Map(lens).after(Map(tilted));
  if (which == 1) return Map(ring);
  return Map(lens).inverse().after(Map(ring).after(Map(translation(-30, 2))));
}

}  // namespace

TEST_CASE("through curved maps every kernel, depth and edge rule agrees with a plain double reference", "[resample]") {
  const Kernel kernel =
      GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const BorderMode edge = GENERATE(BorderMode::fill, BorderMode::mirror);
  const int which = GENERATE(0, 1, 2);
  const int bands = which == 1 ? 3 : 1;
  const Size size{310, 230}, result{420, 70};
  const Image samples = test::noise(size.width, size.height, bands, depth);
  const Map inverse_map = curved_inverse(which);
  Clip clip;
  clip.keep_inside(size);
  const WarpPlan plan{Matrix3::Identity(), clip.through(inverse_map.inverse()), result, {}, inverse_map};
  const Resampling how{kernel, edge, {7}, false};
  WarpReport report;
  const Image out =
      warp(pyramid_of(samples.clone()), plan, {0, 0, result.width, result.height}, how, Quality::final, {}, &report);
  // A grid is off by less than 1/1024 px, and noise changes by up to its whole range within a pixel and a half.
  const double range = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1;
  const double allowed = (depth == Depth::u8 ? 0.56 : depth == Depth::u16 ? 0.53 : 2e-6) + range / 1024;
  double worst = 0, square = 0;
  std::int64_t empty = 0;
  int count = 0;
  bool masks_agree = true;
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, edge);
  for (int y = 0; y < result.height; ++y)
    for (int x = 0; x < result.width; ++x) {
      const auto at = inverse_map.forward({x + 0.5, y + 0.5});
      const bool inside = at && at->x >= 0 && at->x <= size.width && at->y >= 0 && at->y <= size.height;
      masks_agree = masks_agree && out.valid(x, y) == inside;
      empty += !inside;
      if (!at || (!inside && edge == BorderMode::fill)) {
        masks_agree = masks_agree && value(out, 0, x, y) == 7;
        continue;
      }
      const auto off_half = [](double v) { return std::abs(v - std::round(v)); };
      if (kernel == Kernel::nearest && std::min(off_half(at->x), off_half(at->y)) < 1e-3) continue;
      for (int band = 0; band < bands; ++band) {
        double expected = plain_sample(endless[static_cast<std::size_t>(band)], kernel, *at);
        if (depth != Depth::f32) expected = std::clamp(expected, 0.0, range);
        const double off = value(out, band, x, y) - expected;
        worst = std::max(worst, std::abs(off));
        square += off * off;
        ++count;
      }
    }
  INFO("kernel " << static_cast<int>(kernel) << " depth " << static_cast<int>(depth) << " map " << which << " edge "
                 << static_cast<int>(edge) << ": off by up to " << worst << ", RMS " << std::sqrt(square / count));
  CHECK(masks_agree);
  CHECK(report.empty == empty);
  CHECK(count > 10000);
  CHECK(worst < allowed);
  CHECK_FALSE(report.exact);
}

TEST_CASE("a curved map that shrinks keeps flat areas flat and takes the mean of what it covers", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::area);
  const Size size{900, 900}, result{120, 40};
  const auto ring = std::make_shared<const Ring>(RingShape{{450, 450}, 150, 420, 0, 2 * M_PI, false, result});
  const Map inverse_map{ring};
  Clip clip;
  clip.keep_inside(size);
  const WarpPlan plan{Matrix3::Identity(), clip.through(inverse_map.inverse()), result, {}, inverse_map};
  Image flat(size.width, size.height, 1, Depth::u8), wheel(size.width, size.height, 1, Depth::f32);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      flat.row<std::uint8_t>(0, y)[x] = 93;
      // Smooth along and across the ring, so that its mean over a result pixel is nearly its value there.
      const double angle = std::atan2(450 - (y + 0.5), x + 0.5 - 450),
                   radius = std::hypot(x + 0.5 - 450, y + 0.5 - 450);
      wheel.row<float>(0, y)[x] = static_cast<float>(0.5 + 0.2 * std::sin(3 * angle) + 0.2 * std::sin(radius / 60));
    }
  const Resampling how{kernel, BorderMode::fill, {0}, true};
  const Image out = warp(pyramid_of(std::move(flat)), plan, {0, 0, 120, 40}, how, Quality::final, {});
  const Image turned = warp(pyramid_of(std::move(wheel)), plan, {0, 0, 120, 40}, how, Quality::final, {});
  for (int y = 1; y < 39; ++y)
    for (int x = 0; x < 120; ++x) {
      CHECK(value(out, 0, x, y) == 93);
      const double angle = (x + 0.5) / 120 * 2 * M_PI, radius = 420 - (y + 0.5) / 40 * 270;
      CHECK(value(turned, 0, x, y) ==
            Approx(0.5 + 0.2 * std::sin(3 * angle) + 0.2 * std::sin(radius / 60)).margin(0.004));
    }
}
