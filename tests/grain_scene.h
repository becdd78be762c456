#pragma once
/// Grains in a fluid from a formula: pairs of frames, and their truth.
#include <cmath>
#include <functional>
#include <random>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel::test {

struct GrainScene {
  int width = 512, height = 512;
  double per_pixel = 8.0 / 1024;  ///< grains
  double diameter = 2.8;          ///< px, to 1/e² of the middle
  double light = 120;             ///< of a grain's middle, grey levels, at most; at least half of it
  double ground = 20;             ///< grey levels where there is none
  double noise = 4;
  double lost = 0.1;                             ///< share of the grains that only one of the two frames has
  std::function<bool(Point)> bare = {};          ///< where there are no grains
  std::function<double(Point)> background = {};  ///< light that stays where it is
};

/// Both frames: grains half of the way before and after their middle place, integrated over each pixel.
inline std::pair<Image, Image> grain_pair(const GrainScene& scene, const std::function<Point(Point)>& moved,
                                          unsigned seed, Depth depth = Depth::u8) {
  std::mt19937_64 random(seed);
  std::uniform_real_distribution<double> flat(0, 1);
  std::normal_distribution<double> normal(0, 1);
  constexpr double room = 40;
  const auto area = (scene.width + 2 * room) * (scene.height + 2 * room);
  const auto pixels = static_cast<std::size_t>(scene.width) * static_cast<std::size_t>(scene.height);
  std::vector<double> sum[2]{std::vector<double>(pixels, 0), std::vector<double>(pixels, 0)};
  const double s = scene.diameter / 4;
  const auto draw = [&](std::vector<double>& to, Point at, double light) {
    const int reach = static_cast<int>(std::ceil(5 * s)) + 1;
    const auto part = [&](double from, double middle) {
      return 0.5 *
             (std::erf((from + 1 - middle) / (s * std::sqrt(2.0))) - std::erf((from - middle) / (s * std::sqrt(2.0))));
    };
    const double whole = light * 2 * 3.14159265358979323846 * s * s;
    for (int y = std::max(0, static_cast<int>(at.y) - reach);
         y <= std::min(scene.height - 1, static_cast<int>(at.y) + reach); ++y)
      for (int x = std::max(0, static_cast<int>(at.x) - reach);
           x <= std::min(scene.width - 1, static_cast<int>(at.x) + reach); ++x)
        to[static_cast<std::size_t>(y) * static_cast<std::size_t>(scene.width) + static_cast<std::size_t>(x)] +=
            whole * part(x, at.x) * part(y, at.y);
  };
  const auto count = static_cast<int>(area * scene.per_pixel);
  for (int k = 0; k < count; ++k) {
    const Point at{flat(random) * (scene.width + 2 * room) - room, flat(random) * (scene.height + 2 * room) - room};
    const double light = scene.light * (0.5 + 0.5 * flat(random)), fate = flat(random);
    if (scene.bare && scene.bare(at)) continue;
    const Point by = moved(at);
    if (fate >= scene.lost / 2) draw(sum[0], at - 0.5 * by, light);
    if (fate < 1 - scene.lost / 2) draw(sum[1], at + 0.5 * by, light);
  }
  std::pair<Image, Image> out{Image(scene.width, scene.height, 1, depth), Image(scene.width, scene.height, 1, depth)};
  std::int64_t clamped = 0;
  for (int f = 0; f < 2; ++f)
    for (int y = 0; y < scene.height; ++y)
      for (int x = 0; x < scene.width; ++x) {
        const double v =
            scene.ground + (scene.background ? scene.background({x + 0.5, y + 0.5}) : 0) +
            scene.noise * normal(random) +
            sum[f][static_cast<std::size_t>(y) * static_cast<std::size_t>(scene.width) + static_cast<std::size_t>(x)];
        visit_depth(depth, [&](auto sample) {
          using T = decltype(sample);
          (f == 0 ? out.first : out.second).row<T>(0, y)[x] = to_sample<T>(static_cast<float>(v), clamped);
        });
      }
  return out;
}

}  // namespace fexel::test
