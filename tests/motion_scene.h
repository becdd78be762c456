#pragma once
/// Speckled surfaces from a formula, moved by another one: what movement is measured on, and its truth.
#include <cmath>
#include <cstdint>
#include <functional>
#include <random>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel::test {

/// Spots with a Gaussian profile, one in each cell of a lattice, at random places: band-limited, so that a sample at a
/// pixel's middle says all.
class Speckle {
 public:
  explicit Speckle(std::uint64_t seed, double cell = 4, double radius = 1.6, double contrast = 90)
      : seed_(seed), cell_(cell), radius_(radius), contrast_(contrast) {}
  double operator()(Point p) const {
    const auto i = static_cast<std::int64_t>(std::floor(p.x / cell_)),
               j = static_cast<std::int64_t>(std::floor(p.y / cell_));
    const auto reach = static_cast<std::int64_t>(std::ceil(4.2 * radius_ / cell_));
    double sum = 0;
    for (std::int64_t b = j - reach; b <= j + reach; ++b)
      for (std::int64_t a = i - reach; a <= i + reach; ++a) {
        const Point at{cell_ * (static_cast<double>(a) + part(a, b, 1)),
                       cell_ * (static_cast<double>(b) + part(a, b, 2))};
        const double d = ((p.x - at.x) * (p.x - at.x) + (p.y - at.y) * (p.y - at.y)) / (2 * radius_ * radius_);
        if (d < 9) sum += (part(a, b, 3) - 0.5) * 2 * std::exp(-d);
      }
    return 128 + contrast_ * sum;
  }

 private:
  double part(std::int64_t a, std::int64_t b, std::uint64_t what) const {
    std::uint64_t h = seed_ * 0x9E3779B97F4A7C15ULL + static_cast<std::uint64_t>(a) * 0xBF58476D1CE4E5B9ULL +
                      static_cast<std::uint64_t>(b) * 0x94D049BB133111EBULL + what * 0xD6E8FEB86659FD93ULL;
    h ^= h >> 30;
    h *= 0xBF58476D1CE4E5B9ULL;
    h ^= h >> 27;
    h *= 0x94D049BB133111EBULL;
    h ^= h >> 31;
    return static_cast<double>(h >> 11) / 9007199254740992.0;
  }
  std::uint64_t seed_;
  double cell_, radius_, contrast_;
};

using Displacement = std::function<Point(Point)>;

/// Where what is at `x` now came from, when `moved` says how far each place went.
inline Point came_from(const Displacement& moved, Point x) {
  // Newton's method, with slopes from differences.
  Point from = x;
  constexpr double h = 1e-4;
  for (int round = 0; round < 12; ++round) {
    const Point off = from + moved(from) - x;
    if (std::abs(off.x) + std::abs(off.y) < 1e-11) break;
    const Point dx = 1 / (2 * h) * (moved(from + Point{h, 0}) - moved(from - Point{h, 0}));
    const Point dy = 1 / (2 * h) * (moved(from + Point{0, h}) - moved(from - Point{0, h}));
    const double a = 1 + dx.x, b = dy.x, c = dx.y, d = 1 + dy.y, det = a * d - b * c;
    from = from - Point{(d * off.x - b * off.y) / det, (a * off.y - c * off.x) / det};
  }
  return from;
}

/// A frame of the surface after it moved, with noise of a standard deviation in grey levels.
inline Image moved_frame(int width, int height, const std::function<double(Point)>& surface, const Displacement& moved,
                         double noise, unsigned seed, Depth depth = Depth::f32) {
  Image out(width, height, 1, depth);
  std::mt19937_64 random(seed);
  std::normal_distribution<double> normal(0, 1);
  std::int64_t clamped = 0;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const double v = surface(came_from(moved, {x + 0.5, y + 0.5})) + (noise > 0 ? noise * normal(random) : 0);
      visit_depth(depth, [&](auto sample) {
        using T = decltype(sample);
        out.row<T>(0, y)[x] = to_sample<T>(static_cast<float>(v), clamped);
      });
    }
  return out;
}

}  // namespace fexel::test
