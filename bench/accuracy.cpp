/// Prints the tables of docs/accuracy.md.
#include <fmt/format.h>

#include "resample/warp.h"
#include "tests/support.h"
#include "tests/theory.h"

namespace {

using namespace fexel;

WarpPlan plan_of(const Matrix3& pull, Size source, Size result) {
  Clip clip;
  clip.keep_inside(source);
  return {pull, clip.through(Map(pull).inverse()), result};
}

double turn_error(Kernel kernel, const std::vector<test::Wave>& all, double degrees) {
  const Pyramid source(std::make_shared<const Image>(test::picture_of(all, 800, 800)));
  const double angle = degrees * M_PI / 180;
  Matrix3 pull;
  pull << std::cos(angle), -std::sin(angle), 0, std::sin(angle), std::cos(angle), 0, 0, 0, 1;
  pull = translation(400, 400) * pull * translation(-250, -250);
  const Image out = warp(source, plan_of(pull, {800, 800}, {500, 500}), {0, 0, 500, 500},
                         {kernel, Edge::fill, {0}, true}, Quality::final, {});
  double square = 0;
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 500; ++x) {
      const Point at = *Map::apply(pull, {x + 0.5, y + 0.5});
      square += std::pow(test::value(out, 0, x, y) - test::scene(all, at.x, at.y), 2);
    }
  return std::sqrt(square / (500.0 * 500));
}

double wave_left(Kernel kernel, double shrink, double frequency, double direction) {
  const int side = static_cast<int>(48 * shrink) + 16;
  const Matrix3 pull = translation(8.37, 8.21) * scaling(shrink, shrink);
  const Map push = Map(pull).inverse();
  const Image scene = test::painted(side, side, [&](double x, double y) {
    const Point p = *push.forward({x, y});
    return std::cos(2 * M_PI * frequency * (std::cos(direction) * p.x + std::sin(direction) * p.y) + 0.3);
  });
  const Pyramid source(std::make_shared<const Image>(scene.clone()));
  const Image out = warp(source, plan_of(pull, {side, side}, {48, 48}), {0, 0, 48, 48}, {kernel, Edge::fill, {0}, true},
                         Quality::final, {});
  double square = 0;
  for (int y = 3; y < 45; ++y)
    for (int x = 3; x < 45; ++x) square += std::pow(test::value(out, 0, x, y), 2);
  return std::sqrt(2 * square / (42.0 * 42));
}

}  // namespace

int main() {
  fmt::print("Interpolation: a turn of 11.3 degrees; error as a share of the scene's RMS, and in dB.\n\n");
  fmt::print("| waves up to, cycles/px | kernel | theory | measured |\n|---|---|---|---|\n");
  for (const double highest : {0.05, 0.10, 0.18, 0.25}) {
    const auto all = test::waves(80, highest, 11);
    for (const Kernel kernel : {Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3}) {
      const double theory = test::expected_error(kernel, all) / test::scene_rms(all),
                   measured = turn_error(kernel, all, 11.3) / test::scene_rms(all);
      fmt::print("| {:.2f} | {} | {:.5f} ({:.1f} dB) | {:.5f} ({:.1f} dB) |\n", highest, name_of(kernel), theory,
                 -20 * std::log10(theory), measured, -20 * std::log10(measured));
    }
  }
  fmt::print(
      "\nShrinking: what is left of the amplitude of a wave, in percent; the largest over directions 0, 23, 45 and 90 "
      "degrees.\n\n");
  fmt::print("| shrink | kernel | 0.1 cycles/result px | 0.25 | 0.5 | 0.8 | 0.95 |\n|---|---|---|---|---|---|---|\n");
  for (const double shrink : {2.0, 3.0, 4.1, 6.5, 10.0})
    for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area}) {
      fmt::print("| {:.1f} | {} |", shrink, name_of(kernel));
      for (const double frequency : {0.1, 0.25, 0.5, 0.8, 0.95}) {
        double worst = 0;
        for (const double direction : {0.0, 0.4, M_PI / 4, M_PI / 2})
          worst = std::max(worst, wave_left(kernel, shrink, frequency, direction));
        fmt::print(" {:.1f} |", 100 * worst);
      }
      fmt::print("\n");
    }
}
