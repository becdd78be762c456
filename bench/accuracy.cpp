/// Prints the tables of docs/accuracy.md.
#include <fmt/format.h>

#include "resample/warp.h"
#include "tests/plain.h"
#include "tests/support.h"
#include "tests/theory.h"

namespace {

using namespace fexel;

WarpPlan plan_of(const Matrix3& inverse_map, Size source, Size result) {
  Clip clip;
  clip.keep_inside(source);
  return {inverse_map, clip.through(Map(inverse_map).inverse()), result};
}

double turn_error(Kernel kernel, const std::vector<test::Wave>& all, double degrees) {
  const Pyramid source(std::make_shared<const Image>(test::picture_of(all, 800, 800)));
  const double angle = degrees * M_PI / 180;
  Matrix3 inverse_map;
  inverse_map << std::cos(angle), -std::sin(angle), 0, std::sin(angle), std::cos(angle), 0, 0, 0, 1;
  inverse_map = translation(400, 400) * inverse_map * translation(-250, -250);
  const Image out = warp(source, plan_of(inverse_map, {800, 800}, {500, 500}), {0, 0, 500, 500},
                         {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double square = 0;
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 500; ++x) {
      const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      square += std::pow(test::value(out, 0, x, y) - test::scene(all, at.x, at.y), 2);
    }
  return std::sqrt(square / (500.0 * 500));
}

/// The turned 16-bit scene against the formula: RMS errors in grey levels, ours and in plain double arithmetic.
std::pair<double, double> scene_errors(Kernel kernel) {
  const auto all = test::scene_waves();
  const Image samples = test::counted(test::picture_of(all, 800, 800));
  const test::Endless endless(samples, 0, kernel, BorderMode::fill);
  const double angle = 11.3 * M_PI / 180;
  Matrix3 turn;
  turn << std::cos(angle), -std::sin(angle), 0, std::sin(angle), std::cos(angle), 0, 0, 0, 1;
  const Matrix3 inverse_map = translation(400, 400) * turn * translation(-250, -250);
  const Image out =
      warp(Pyramid(std::make_shared<const Image>(samples.clone())), plan_of(inverse_map, {800, 800}, {500, 500}),
           {0, 0, 500, 500}, {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double ours = 0, plain = 0;
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 500; ++x) {
      const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      const double truth = test::scene(all, at.x, at.y) + test::half_of_u16;
      ours += std::pow(test::value(out, 0, x, y) - truth, 2);
      plain += std::pow(test::plain_sample(endless, kernel, at) - truth, 2);
    }
  return {std::sqrt(ours / (500.0 * 500)), std::sqrt(plain / (500.0 * 500))};
}

/// What is left of a wave along x in a slightly enlarged picture, whose pixels take all positions between the source's.
double measured_response(Kernel kernel, double frequency) {
  constexpr int side = 1000, height = 24;
  const Image wave = test::painted(side, height, [&](double x, double) { return std::cos(2 * M_PI * frequency * x); });
  const Matrix3 inverse_map = translation(20, 8) * scaling(0.97137, 1);
  const Image out =
      warp(Pyramid(std::make_shared<const Image>(wave.clone())), plan_of(inverse_map, {side, height}, {960, 8}),
           {0, 0, 960, 8}, {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double sum = 0, weights = 0;
  for (int x = 0; x < 960; ++x) {
    // A smooth window keeps the copies at other frequencies out.
    const double weight = std::pow(std::sin(M_PI * (x + 0.5) / 960), 4), at = (x + 0.5) * 0.97137 + 20;
    sum += 2 * weight * test::value(out, 0, x, 4) * std::cos(2 * M_PI * frequency * at);
    weights += weight;
  }
  return sum / weights;
}

double wave_left(Kernel kernel, double shrink, double frequency, double direction) {
  const int side = static_cast<int>(48 * shrink) + 16;
  const Matrix3 inverse_map = translation(8.37, 8.21) * scaling(shrink, shrink);
  const Map push = Map(inverse_map).inverse();
  const Image scene = test::painted(side, side, [&](double x, double y) {
    const Point p = *push.forward({x, y});
    return std::cos(2 * M_PI * frequency * (std::cos(direction) * p.x + std::sin(direction) * p.y) + 0.3);
  });
  const Pyramid source(std::make_shared<const Image>(scene.clone()));
  const Image out = warp(source, plan_of(inverse_map, {side, side}, {48, 48}), {0, 0, 48, 48},
                         {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
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
      "\nA scene in 16 bits: 80 waves from 0.005 to 0.18 cycles/px, amplitudes falling as 1/frequency, 8000 grey "
      "levels "
      "RMS;\na turn of 11.3 degrees, error in grey levels and against the full scale of 65535 in dB.\n\n");
  fmt::print("| kernel | ours | plain double arithmetic |\n|---|---|---|\n");
  for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3}) {
    const auto [ours, plain] = scene_errors(kernel);
    fmt::print("| {} | {:.2f} ({:.1f} dB) | {:.2f} ({:.1f} dB) |\n", name_of(kernel), ours,
               20 * std::log10(65535 / ours), plain, 20 * std::log10(65535 / plain));
  }
  fmt::print(
      "\nFrequency response: what a kernel leaves of a wave along x, on average over positions; measured, and in "
      "brackets by theory.\n\n");
  fmt::print("| kernel | 0.05 cycles/px | 0.1 | 0.2 | 0.3 | 0.4 | 0.45 |\n|---|---|---|---|---|---|---|\n");
  for (const Kernel kernel : {Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3}) {
    fmt::print("| {} |", name_of(kernel));
    for (const double f : {0.05, 0.1, 0.2, 0.3, 0.4, 0.45})
      fmt::print(" {:.4f} ({:.4f}) |", measured_response(kernel, f), test::response(kernel, f));
    fmt::print("\n");
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
