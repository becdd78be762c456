#include <catch2/catch.hpp>

#include "geometry/ring.h"
#include "tests/maps.h"
#include "tests/plain.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

TEST_CASE("on every instruction set, small and large turns, tilts and shifts agree with the reference", "[resample]") {
  const BestTarget afterwards;
  const auto targets = vector_targets();
  REQUIRE(targets.size() >= 2);
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  // Every kernel and every depth has one band here and three there.
  const int bands = (static_cast<int>(kernel) + static_cast<int>(depth)) % 2 == 0 ? 1 : 3;
  const Size size{150, 110};
  const Image samples = test::noise(size.width, size.height, bands, depth);
  const Pyramid source = pyramid_of(samples.clone());
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, BorderMode::fill);
  const double allowed = depth == Depth::u8 ? 0.56 : depth == Depth::u16 ? 0.53 : 2e-6;
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  const std::vector<std::pair<std::string, Matrix3>> inverse_maps = {
      {"1.8 degrees", turned(1.8)},
      {"-2.5 degrees", turned(-2.5)},
      {"5 degrees", turned(5)},
      {"30 degrees", turned(30)},
      {"enlarged", turned(0.4, 0.7)},
      {"mild tilt", tilted(4e-6)},
      {"strong tilt", tilted(8e-4)},
      {"shift", translation(3.37, -2.61)},
      {"scaled", translation(3.1, 1.4) * scaling(0.83, 1.11)}};
  for (const std::string& target : targets) {
    use_vector_target(target);
    for (const auto& [name, inverse_map] : inverse_maps) {
      const Image out = warp(source, plan_of(inverse_map, size, size), {0, 0, size.width, size.height},
                             {kernel, BorderMode::fill, {7}, false}, Quality::final, {});
      double worst = 0;
      int compared = 0;
      for (int y = 0; y < size.height; y += 3)
        for (int x = y % 13; x < size.width; x += 13) {
          const auto at = Map::apply(inverse_map, {x + 0.5, y + 0.5});
          if (!at || !out.valid(x, y)) continue;
          ++compared;
          for (int band = 0; band < bands; ++band) {
            double expected = plain_sample(endless[static_cast<std::size_t>(band)], kernel, *at);
            if (depth != Depth::f32) expected = std::clamp(expected, 0.0, top);
            worst = std::max(worst, std::abs(value(out, band, x, y) - expected));
          }
        }
      INFO(target << ", " << name << ", " << name_of(kernel) << ", " << name_of(depth) << ", bands " << bands);
      CHECK(worst < allowed);
      CHECK(compared > 200);
    }
  }
}

TEST_CASE("black and white at random agree with the reference to beyond the edges, overshoots and all", "[resample]") {
  const BestTarget afterwards;
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  const BorderMode edge = GENERATE(BorderMode::fill, BorderMode::mirror, BorderMode::tile);
  const Size size{150, 60}, result{230, 90};
  Image samples = test::noise(size.width, size.height, 1, Depth::u8);
  for (int y = 0; y < size.height; ++y)
    for (auto* p = samples.row<std::uint8_t>(0, y); p < samples.row<std::uint8_t>(0, y) + size.width; ++p)
      *p = *p < 128 ? 0 : 255;
  const Pyramid source = pyramid_of(samples.clone());
  const Endless endless(samples, 0, kernel, edge);
  const std::vector<std::pair<std::string, Matrix3>> inverse_maps = {
      {"0.3 degrees", translation(-60.1, -20.4) * turned(0.3)},
      {"1.8 degrees", translation(-61.7, -20.4) * turned(1.8)},
      {"-2.9 degrees", translation(-60.2, -21.9) * turned(-2.9)},
      {"halves", translation(-40.5, -15.5)},
      {"mild tilt", translation(-50.3, -18.2) * tilted(4e-5)},
      {"hardly gentle", translation(-50.3, -18.2) * tilted(8.5e-5)},
      {"hardly gentle, the other way", translation(-50.3, -18.2) * tilted(-8.5e-5)},
      {"not gentle", translation(-50.3, -18.2) * tilted(1.7e-4)},
      {"gentle and steep", translation(-50.7, -10.4) * turned(3.4) * tilted(6e-5)},
      {"scaled", translation(-40.2, -15.9) * scaling(1.03, 0.95)},
      {"7 degrees", translation(-51.3, -40.2) * turned(7)},
      {"30 degrees", translation(-10.3, -60.2) * turned(30)},
      {"45 degrees", translation(-30.8, -70.4) * turned(45)},
      {"-60 degrees, reduced", translation(-20.1, 160.3) * turned(-60, 1.15)},
      {"95 degrees", translation(100.4, -50.9) * turned(95)},
      {"178 degrees, enlarged", translation(160.3, 60.4) * turned(178, 0.4)},
      {"turned over", translation(120.9, -40.3) * scaling(-1, 1) * turned(20)},
      {"turned and tilted", translation(-20.5, -60.7) * tilted(3e-4) * turned(33)},
      {"steep and tilted", translation(90.5, -60.7) * tilted(-9e-4) * turned(70)},
      {"far away", translation(-900.3, 700.8) * turned(1)}};
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    for (const auto& [name, inverse_map] : inverse_maps) {
      const Image out = warp(source, plan_of(inverse_map, size, result), {0, 0, result.width, result.height},
                             {kernel, edge, {7}, false}, Quality::final, {});
      double worst = 0;
      for (int y = 0; y < result.height; ++y)
        for (int x = y % 13; x < result.width; x += 13) {
          const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
          const bool inside = at.x >= 0 && at.y >= 0 && at.x <= size.width && at.y <= size.height;
          double expected = 7;
          if (inside || edge != BorderMode::fill) expected = plain_sample(endless, kernel, at);
          worst = std::max(worst, std::abs(value(out, 0, x, y) - std::clamp(expected, 0.0, 255.0)));
        }
      INFO(target << ", " << name << ", " << name_of(kernel) << ", " << name_of(edge));
      CHECK(worst < 0.56);
    }
  }
}

TEST_CASE("bytes under maps that squeeze or stretch beyond all measure are those of the reference", "[resample]") {
  const BestTarget afterwards;
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  const Size size{90, 70}, result{260, 200};
  const Image samples = test::noise(size.width, size.height, 1, Depth::u8);
  const Pyramid source = pyramid_of(samples.clone());
  const Endless endless(samples, 0, kernel, BorderMode::extend);
  // Places beyond some millions of pixels are not told apart any more.
  for (const Matrix3& inverse_map : {Matrix3(turned(30) * scaling(1, 900)), Matrix3(turned(30) * scaling(700, 1)),
                                     Matrix3(scaling(1, 5e3) * turned(8)), turned(80, 1e-4), turned(47, 60),
                                     Matrix3(turned(47) * scaling(1e-6, 1)), Matrix3(turned(12) * scaling(1, 1e-7))})
    for (const std::string& target : vector_targets()) {
      use_vector_target(target);
      WarpPlan plan{inverse_map, {}, result};
      const Image out = warp(source, plan, {0, 0, result.width, result.height},
                             {kernel, BorderMode::extend, {0}, false}, Quality::final, {});
      double worst = 0;
      for (int y = 0; y < result.height; y += 3)
        for (int x = y % 7; x < result.width; x += 7) {
          const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
          worst = std::max(worst,
                           std::abs(value(out, 0, x, y) - std::clamp(plain_sample(endless, kernel, at), 0.0, 255.0)));
        }
      INFO(target << ", " << name_of(kernel) << "\n" << inverse_map);
      CHECK(worst < 0.56);
    }
}

TEST_CASE("bytes of a ring that is rolled out agree with the reference all the way round", "[resample]") {
  const BestTarget afterwards;
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  constexpr int bands = 2;
  const Size size{900, 640}, result{2400, 80};
  // Its rim is cut off by the picture's end above and below.
  const Map inverse_map{
      std::make_shared<const Ring>(RingShape{{451.3, 320.2}, 340, 418, 0.3, 6.1, kernel == Kernel::cubic, result})};
  const Image samples = test::noise(size.width, size.height, bands, Depth::u8);
  const Pyramid source = pyramid_of(samples.clone());
  Clip clip;
  clip.keep_inside(size);
  const WarpPlan plan{Matrix3::Identity(), clip.through(inverse_map.inverse()), result, {}, inverse_map};
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, BorderMode::extend);
  auto targets = vector_targets();
  targets.pop_back();  // plain code does without lines
  for (const std::string& target : targets) {
    use_vector_target(target);
    const Image out = warp(source, plan, {0, 0, result.width, result.height}, {kernel, BorderMode::extend, {0}, false},
                           Quality::final, {});
    double worst = 0;
    for (int y = 0; y < result.height; ++y)
      for (int x = y % 23; x < result.width; x += 23) {
        const auto at = inverse_map.forward({x + 0.5, y + 0.5});
        if (!at) worst = 1e9;
        if (!at) continue;
        for (int band = 0; band < bands; ++band) {
          const double plain = plain_sample(endless[static_cast<std::size_t>(band)], kernel, *at);
          worst = std::max(worst, std::abs(value(out, band, x, y) - std::clamp(plain, 0.0, 255.0)));
        }
      }
    INFO(target << ", " << name_of(kernel));
    // Places are right within 1/8192 px, and noise may change by its whole range from pixel to pixel.
    CHECK(worst < 0.56 + 1.5 * 255 / 8192);
  }
}

TEST_CASE("samples that were clamped are counted the same on every instruction set", "[resample]") {
  const BestTarget afterwards;
  const Pyramid source = pyramid_of(test::noise(150, 110, 1, Depth::u8));
  const Matrix3 inverse_map = GENERATE(turned(1.8), turned(30), tilted(4e-5), scaling(0.83, 0.9));
  std::vector<std::int64_t> counts;
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    WarpReport report;
    warp(source, plan_of(inverse_map, {150, 110}, {133, 97}), {0, 0, 133, 97},
         {Kernel::cubic, BorderMode::fill, {0}, true}, Quality::final, {}, &report);
    counts.push_back(report.clamped);
  }
  // Counted from the picture kept as float, where nothing is clamped.
  std::int64_t none = 0;
  const Pyramid floats = pyramid_of(with_depth(source.base(), Depth::f32, none));
  const Image out = warp(floats, plan_of(inverse_map, {150, 110}, {133, 97}), {0, 0, 133, 97},
                         {Kernel::cubic, BorderMode::fill, {0}, true}, Quality::final, {});
  std::int64_t expected = 0;
  for (int y = 0; y < 97; ++y)
    for (int x = 0; x < 133; ++x) expected += value(out, 0, x, y) < -0.5 || value(out, 0, x, y) > 255.5;
  REQUIRE(expected > 20);
  for (const std::int64_t count : counts) CHECK(std::abs(count - expected) <= 1);
}

TEST_CASE("bytes of a part are those of the whole, asked for as a region or by a map of its own", "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  const Pyramid source = pyramid_of(test::noise(400, 300, 2, Depth::u8));
  const Resampling how{kernel, BorderMode::mirror, {9}, true};
  for (const Matrix3& inverse_map : {turned(1.8), turned(-2.9), turned(20), turned(100), tilted(4e-5), tilted(2e-4),
                                     Matrix3(tilted(2e-4) * turned(40))}) {
    const WarpPlan plan = plan_of(inverse_map, {400, 300}, {1100, 140});
    const Image whole = warp(source, plan, {0, 0, 1100, 140}, how, Quality::final, {});
    const Region part{333, 17, 701, 119};
    const Image region = warp(source, plan, part, how, Quality::final, {});
    WarpPlan own = plan_of(inverse_map * translation(part.x, part.y), {400, 300}, {part.width, part.height});
    own.whole_x = part.x, own.whole_y = part.y, own.whole = plan.result;
    const Image mapped = warp(source, own, {0, 0, part.width, part.height}, how, Quality::final, {});
    int other = 0, most = 0;
    for (int band = 0; band < 2; ++band)
      for (int y = 0; y < part.height; ++y)
        for (int x = 0; x < part.width; ++x)
          for (const Image* image : {&region, &mapped}) {
            const int off =
                image->row<std::uint8_t>(band, y)[x] - whole.row<std::uint8_t>(band, part.y + y)[part.x + x];
            other += off != 0;
            most = std::max(most, std::abs(off));
          }
    // Where single precision is on both sides of a rounding, which one in some ten thousand samples is.
    CHECK(most <= 1);
    CHECK(other <= 4 * part.width * part.height / 20000);
  }
}

TEST_CASE("bytes under maps that scale a little are the same to the last bit in whatever region they are asked for",
          "[resample]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3);
  const Pyramid source = pyramid_of(test::noise(400, 300, 2, Depth::u8));
  const Resampling how{kernel, BorderMode::mirror, {9}, true};
  Matrix3 smaller, larger;
  smaller << 0.955, 0.02, 6, -0.015, 0.97, 7, -4e-6, 3e-6, 1;
  larger << 1.05, -0.03, 3, 0.05, 1.02, 9, 5e-6, -2e-6, 1;
  for (const Matrix3& inverse_map : {smaller, larger, turned(1.8)}) {
    const WarpPlan plan = plan_of(inverse_map, {400, 300}, {1100, 140});
    const Image whole = warp(source, plan, {0, 0, 1100, 140}, how, Quality::final, {});
    int other = 0;
    for (const int x0 : {1, 75, 333, 1000}) {  // within the stretches that rows are worked on in
      const Region part{x0, 17, std::min(420, 1100 - x0), 60};
      const Image region = warp(source, plan, part, how, Quality::final, {});
      for (int band = 0; band < 2; ++band)
        for (int y = 0; y < part.height; ++y)
          other += !std::equal(region.row<std::uint8_t>(band, y), region.row<std::uint8_t>(band, y) + part.width,
                               whole.row<std::uint8_t>(band, part.y + y) + part.x);
    }
    CHECK(other == 0);
  }
}

TEST_CASE("a half is what its eight taps say, on every instruction set, whatever the size", "[resample]") {
  const BestTarget afterwards;
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const Size size =
      GENERATE(Size{1, 1}, Size{2, 3}, Size{7, 5}, Size{17, 9}, Size{33, 20}, Size{70, 41}, Size{131, 12});
  // Cubic convolution, a = -0.5, at twice its width: at 1/4, 3/4, 5/4 and 7/4 of its unit, halved.
  const auto kernel = [](double x) {
    return x < 1 ? 1.5 * x * x * x - 2.5 * x * x + 1 : -0.5 * x * x * x + 2.5 * x * x - 4 * x + 2;
  };
  const Image picture = test::noise(size.width, size.height, 2, depth);
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  const double allowed = depth == Depth::f32 ? 2e-6 : 0.51;
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    const Image half = halved(picture);
    REQUIRE(half.width() == (size.width + 1) / 2);
    REQUIRE(half.height() == (size.height + 1) / 2);
    double worst = 0;
    for (int band = 0; band < 2; ++band)
      for (int y = 0; y < half.height(); ++y)
        for (int x = 0; x < half.width(); ++x) {
          double sum = 0;
          for (int r = -3; r <= 4; ++r)
            for (int c = -3; c <= 4; ++c)
              sum += kernel(std::abs(c - 0.5) / 2) * kernel(std::abs(r - 0.5) / 2) / 4 *
                     value(picture, band, std::clamp(2 * x + c, 0, size.width - 1),
                           std::clamp(2 * y + r, 0, size.height - 1));
          const double expected = depth == Depth::f32 ? sum : std::clamp(sum, 0.0, top);
          worst = std::max(worst, std::abs(value(half, band, x, y) - expected));
        }
    INFO(target << ", " << size.width << " x " << size.height);
    CHECK(worst < allowed);
  }
}
