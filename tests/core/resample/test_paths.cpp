/// All paths of the engine on the same maps: each keeps its contract (core/resample/README.md), against the plain
/// reference in doubles and against the simplest path.
#include <catch2/catch.hpp>
#include <map>

#include "base/error.h"
#include "geometry/ring.h"
#include "tests/maps.h"
#include "tests/plain.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

namespace {

/// How far a path may be off, in levels of integers (half a level is rounding) or in shares of the range of floats.
double bound_of(Path path, Depth depth) {
  if (depth == Depth::f32) return path == Path::copy ? 1e-12 : 2e-6;  // the reference has the rounding of doubles
  if (path == Path::copy) return 1e-9;
  if (depth == Depth::u16) return 0.53;
  return path == Path::int16 || path == Path::digital_lines || path == Path::separable ? 0.56 : 0.51;
}

struct NamedMap {
  std::string name;
  Map inverse;
  bool serves_copy = false, serves_scaling = false;
};

std::vector<NamedMap> maps() {
  const auto ring = std::make_shared<Ring>(RingShape{{45, 35}, 12, 30, 0.3, 5, true, {110, 60}});
  return {{"whole-pixel move", Map(translation(3, -2)), true, true},
          {"translation", Map(translation(3.37, -2.61)), false, true},
          {"scaling", Map(translation(3.1, 1.4) * scaling(0.83, 0.71)), false, true},
          {"rotation by 1.8 degrees", Map(turned(1.8))},
          {"rotation by 30 degrees", Map(turned(30))},
          {"tilt", Map(tilted(4e-5))},
          {"ring", Map{ring}.inverse()}};
}

WarpPlan plan_for_map(const Map& inverse, Size source, Size result) {
  if (inverse.planar()) return plan_of(inverse.matrix(), source, result);
  Clip clip;
  clip.keep_inside(source);
  return {Matrix3::Identity(), clip.through(inverse.inverse()), result, {}, inverse};
}

}  // namespace

TEST_CASE("each path keeps its error bound on every map, kernel, depth and border mode that it serves",
          "[paths][long]") {
  const Kernel kernel = GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const BorderMode border = GENERATE(BorderMode::fill, BorderMode::extend, BorderMode::mirror, BorderMode::tile);
  const int bands = (static_cast<int>(kernel) + static_cast<int>(depth) + static_cast<int>(border)) % 2 == 0 ? 1 : 3;
  const Size size{90, 70}, result{110, 60};
  const Image samples = test::noise(size.width, size.height, bands, depth);
  const Pyramid source = pyramid_of(samples.clone());
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, border);
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  for (const NamedMap& map : maps()) {
    WarpPlan plan = plan_for_map(map.inverse, size, result);
    std::map<Path, Image> made;
    for (const Path path : all_paths) {
      INFO(name_of(path) << " on a " << map.name << ", " << name_of(kernel) << ", " << name_of(depth) << ", "
                         << name_of(border) << ", bands " << bands);
      plan.forced = path;
      WarpReport report;
      try {
        made[path] = warp(source, plan, {0, 0, result.width, result.height}, {kernel, border, {7}, false},
                          Quality::final, {}, &report);
      } catch (const Error&) {
        // Who serves what is part of the contract.
        const bool bytes = depth == Depth::u8 && kernel != Kernel::nearest && kernel != Kernel::bspline3;
        const bool serves = path == Path::sampler || (path == Path::row_float && kernel != Kernel::nearest) ||
                            ((path == Path::digital_lines || path == Path::int16) && bytes) ||
                            (path == Path::separable && map.serves_scaling && kernel != Kernel::nearest) ||
                            (path == Path::copy && map.serves_copy);
        CHECK_FALSE(serves);
        continue;
      }
      CHECK(report.paths[path] == std::int64_t{result.width} * result.height);
      const Image& out = made[path];
      double worst = 0, worst_to_simplest = 0;
      int compared = 0;
      for (int y = 0; y < result.height; y += 2)
        for (int x = y % 5; x < result.width; x += 5) {
          const auto at = map.inverse.forward({x + 0.5, y + 0.5});
          if (!at || !out.valid(x, y)) continue;
          // Nearest has two right answers half-way between two pixels.
          const auto half_way = [](double v) { return std::abs(v - std::round(v)) < 2e-3; };
          if (kernel == Kernel::nearest && (half_way(at->x) || half_way(at->y))) continue;
          ++compared;
          for (int band = 0; band < bands; ++band) {
            double expected = plain_sample(endless[static_cast<std::size_t>(band)], kernel, *at);
            if (depth != Depth::f32) expected = std::clamp(expected, 0.0, top);
            worst = std::max(worst, std::abs(value(out, band, x, y) - expected));
            worst_to_simplest = std::max(worst_to_simplest,
                                         std::abs(value(out, band, x, y) - value(made.at(Path::sampler), band, x, y)));
          }
        }
      CHECK(compared > 100);
      // Nonlinear maps are interpolated between exact places to 1/1024 px, which steep samples show.
      const double steep = map.inverse.planar() ? 0 : depth == Depth::f32 ? 1e-3 : top / 1000;
      CHECK(worst <= bound_of(path, depth) + steep);
      CHECK(worst_to_simplest <= (depth == Depth::f32 ? 4e-6 : 1) + 2 * steep);
    }
  }
}

TEST_CASE("the fastest path that serves is chosen and reported, and a forced one that cannot serve is refused",
          "[paths]") {
  const Size size{300, 200};
  const auto chosen = [&](const Matrix3& inverse, Depth depth, Kernel kernel) {
    const Pyramid source = pyramid_of(test::noise(size.width, size.height, 1, depth));
    WarpReport report;
    warp(source, plan_of(inverse, size, size), {0, 0, size.width, size.height}, {kernel, BorderMode::fill, {0}, true},
         Quality::final, {}, &report);
    for (const Path path : all_paths)
      if (report.paths[path] == std::int64_t{size.width} * size.height) return path;
    FAIL("more than one path");
    return Path::sampler;
  };
  CHECK(chosen(translation(3, 2), Depth::u8, Kernel::cubic) == Path::copy);
  CHECK(chosen(scaling(0.8, 0.9), Depth::u8, Kernel::cubic) == Path::separable);
  CHECK(chosen(turned(1.8), Depth::u8, Kernel::cubic) == Path::int16);
  CHECK(chosen(turned(30), Depth::u8, Kernel::cubic) == Path::digital_lines);
  CHECK(chosen(turned(30), Depth::u16, Kernel::cubic) == Path::row_float);
  CHECK(chosen(turned(30), Depth::u8, Kernel::nearest) == Path::sampler);
  WarpPlan plan = plan_of(turned(30), size, size);
  plan.forced = Path::copy;
  const Pyramid source = pyramid_of(test::noise(size.width, size.height, 1, Depth::u8));
  CHECK_THROWS_AS(warp(source, plan, {0, 0, 10, 10}, {}, Quality::final, {}), Error);
}
