#include <catch2/catch.hpp>

#include "resample/warp.h"
#include "tests/support.h"

using namespace fexel;

namespace {

/// The amplitude that is left of a wave of amplitude 1 and `frequency` cycles per result pixel after `inverse_map`.
double left_of_wave(const Matrix3& inverse_map, Size source, Size result, Kernel kernel, double frequency,
                    double direction) {
  const Map push = Map(inverse_map).inverse();
  const double cx = frequency * std::cos(direction), cy = frequency * std::sin(direction);
  const Image scene = test::painted(source.width, source.height, [&](double x, double y) {
    const auto p = push.forward({x, y});
    return p ? std::cos(2 * M_PI * (cx * p->x + cy * p->y) + 0.3) : 0.0;
  });
  Clip clip;
  clip.keep_inside(source);
  const Pyramid pyramid(std::make_shared<const Image>(scene.clone()));
  const Image out = warp(pyramid, {inverse_map, clip.through(push), result}, {0, 0, result.width, result.height},
                         {kernel, BorderMode::fill, {0}, true}, Quality::final, {});
  double square = 0;
  int count = 0;
  for (int y = 3; y < result.height - 3; ++y)
    for (int x = 3; x < result.width - 3; ++x) {
      const double v = static_cast<double>(out.row<float>(0, y)[x]);
      square += v * v;
      ++count;
    }
  return std::sqrt(2 * square / count);
}

}  // namespace

TEST_CASE("shrinking leaves under 6 % of waves above 0.8 cycles per result pixel, in every direction", "[long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const double shrink = GENERATE(1.25, 1.5, 1.75, 2.0, 2.4, 3.0, 3.9, 4.1, 5.0, 6.5, 8.0, 10.0);
  const double turn = GENERATE(0.0, 0.5);
  const Size result{48, 48};
  const int side = static_cast<int>(48 * shrink * 1.5);
  Matrix3 inverse_map;
  inverse_map << shrink * std::cos(turn), -shrink * std::sin(turn), side / 2.0, shrink * std::sin(turn),
      shrink * std::cos(turn), side / 2.0, 0, 0, 1;
  inverse_map = inverse_map * translation(-24 + 0.37, -24 + 0.21);
  double worst = 0;
  for (const double frequency : {0.8, 0.84, 0.88, 0.95, 1.05, 1.45, 2.3, 4.6})
    for (const double direction : {0.0, 0.4, M_PI / 4 - turn, M_PI / 4, M_PI / 2}) {
      // Along the source's axes no wave is finer than half a cycle per source pixel.
      const double along = frequency / shrink;
      const double fx = along * std::abs(std::cos(direction + turn)), fy = along * std::abs(std::sin(direction + turn));
      if (std::max(fx, fy) > 0.5) continue;
      worst = std::max(worst, left_of_wave(inverse_map, {side, side}, result, kernel, frequency, direction));
    }
  CHECK(worst < 0.06);
  CHECK(worst > 0.001);
}

TEST_CASE(
    "up to a shrink of 1.13 no wave above 0.8 cycles per result pixel is in a picture; what is finest is lessened",
    "[long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const double shrink = GENERATE(1.05, 1.1);
  // The finest wave of all: half a cycle along both of the source's axes.
  CHECK(shrink * std::sqrt(0.5) < 0.8);
  for (const double direction : {0.0, 0.4, M_PI / 4, 1.2, M_PI / 2}) {
    const double finest = 0.499 * shrink / std::max(std::abs(std::cos(direction)), std::abs(std::sin(direction)));
    const Matrix3 inverse_map = translation(7.3, 6.1) * scaling(shrink, shrink);
    const double left = left_of_wave(inverse_map, {72, 72}, {48, 48}, kernel, finest, direction);
    CHECK(left < 0.75);
  }
}

TEST_CASE("a picture that shrinks is the same resized and resized behind a turn of a hundredth of a degree", "[long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const double across = GENERATE(1.0, 1.02, 1.05, 1.09, 1.1, 1.25, 1.5, 1.75, 2.5);
  const double down = GENERATE(1.0, 1.1, 1.5);
  // Waves that bend little over what the turn moves, 0.005 px at the most.
  const Image scene = test::painted(90, 80, [](double x, double y) {
    return std::cos(0.9 * x + 0.4 * y) + std::cos(2.1 * x - 0.3) * std::cos(1.7 * y);
  });
  const Pyramid pyramid(std::make_shared<const Image>(scene.clone()));
  const Size result{30, 28};
  const double a = 0.01 * M_PI / 180;
  Matrix3 turn;
  turn << std::cos(a), -std::sin(a), 0, std::sin(a), std::cos(a), 0, 0, 0, 1;
  const auto made = [&](const Matrix3& inverse_map) {
    Clip clip;
    clip.keep_inside({90, 80});
    return warp(pyramid, {inverse_map, clip.through(Map(inverse_map).inverse()), result},
                {0, 0, result.width, result.height}, {kernel, BorderMode::extend, {0}, true}, Quality::final, {});
  };
  const Matrix3 straight = translation(6.4, 5.7) * scaling(across, down);
  const Image plain = made(straight), turned = made(straight * translation(15, 14) * turn * translation(-15, -14));
  double worst = 0;
  for (int y = 0; y < result.height; ++y)
    for (int x = 0; x < result.width; ++x)
      worst = std::max(worst, std::abs(static_cast<double>(plain.row<float>(0, y)[x] - turned.row<float>(0, y)[x])));
  CHECK(worst < 0.02 * std::max(across, down));
}

TEST_CASE("the same holds in perspective", "[long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const double nearest = GENERATE(2.2, 3.0, 4.5);
  // The plane falls away upward: the shrink grows from `nearest` at the lower edge to about twice that at the upper.
  Matrix3 inverse_map;
  inverse_map << nearest, 0.1, 20, 0, nearest * 0.9, 30, 0, -0.0045, 1;
  const Size result{90, 70};
  double right = 0, bottom = 0;
  for (const Point corner : {Point{0, 0}, Point{90, 0}, Point{90, 70}, Point{0, 70}}) {
    const Point p = *Map::apply(inverse_map, corner);
    right = std::max(right, p.x);
    bottom = std::max(bottom, p.y);
  }
  const Size source{static_cast<int>(right) + 40, static_cast<int>(bottom) + 40};
  double worst = 0;
  for (const double frequency : {0.8, 0.85, 0.92})
    for (const double direction : {0.0, 0.6, M_PI / 4, M_PI / 2})
      worst = std::max(worst, left_of_wave(inverse_map, source, result, kernel, frequency, direction));
  CHECK(worst < 0.06);
  CHECK(worst > 0.001);
}

TEST_CASE("waves that the result can show are kept", "[long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const double shrink = GENERATE(2.5, 7.0);
  const int side = static_cast<int>(48 * shrink) + 20;
  const double left =
      left_of_wave(translation(10, 10) * scaling(shrink, shrink), {side, side}, {48, 48}, kernel, 0.1, 0.3);
  CHECK(left > (kernel == Kernel::linear ? 0.93 : 0.96));
}
