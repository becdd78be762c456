#pragma once
/// Numbers that are the same on every machine: no library sine, no fused multiply-add.
#include <cmath>
#include <cstdint>

namespace fexel::scene {

/// A well-mixed 64-bit number of a seed (the finaliser of S. Vigna's splitmix64, 2015).
inline std::uint64_t mixed(std::uint64_t z) {
  z += 0x9e3779b97f4a7c15ULL;
  z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31);
}
/// A number of two whole coordinates and a seed.
inline std::uint64_t mixed_at(std::int64_t x, std::int64_t y, std::uint64_t seed) {
  return mixed(static_cast<std::uint64_t>(x) * 0xd6e8feb86659fd93ULL +
               static_cast<std::uint64_t>(y) * 0xa0761d6478bd642fULL + seed * 0xe7037ed1a0b428dbULL);
}
/// 0 to 1, from whole coordinates.
inline double random_at(std::int64_t x, std::int64_t y, std::uint64_t seed) {
  const auto h = mixed_at(x, y, seed);
  return static_cast<double>(h >> 11) * (1.0 / 9007199254740992.0);
}
/// About a normal number of mean 0 and deviation 1: the sum of twelve even ones.
inline double normal_at(std::int64_t x, std::int64_t y, std::uint64_t seed) {
  double sum = -6;
  for (std::uint64_t k = 0; k < 6; ++k) {
    const auto h = mixed_at(x, y, seed + 7919 * k);
    sum += static_cast<double>(h >> 32) * (1.0 / 4294967296.0) +
           static_cast<double>(h & 0xffffffffU) * (1.0 / 4294967296.0);
  }
  return sum;
}

/// The whole number below; of numbers of any place in a scene, and without a call.
inline std::int64_t whole_below(double v) {
  const auto whole = static_cast<std::int64_t>(v);
  return whole - (static_cast<double>(whole) > v ? 1 : 0);
}

inline double smooth(double t) {
  return t * t * (3 - 2 * t);
}
inline double mix(double a, double b, double t) {
  return a + (b - a) * t;
}
inline double step_between(double low, double high, double v) {
  const double t = (v - low) / (high - low);
  return t <= 0 ? 0 : t >= 1 ? 1 : smooth(t);
}

/// Value noise, −1 to 1, of one cell a unit.
inline double noise(double x, double y, std::uint64_t seed) {
  const std::int64_t ix = whole_below(x), iy = whole_below(y);
  const double tx = smooth(x - static_cast<double>(ix)), ty = smooth(y - static_cast<double>(iy));
  const double top = mix(random_at(ix, iy, seed), random_at(ix + 1, iy, seed), tx);
  const double bottom = mix(random_at(ix, iy + 1, seed), random_at(ix + 1, iy + 1, seed), tx);
  return 2 * mix(top, bottom, ty) - 1;
}

/// Sine of an angle in radians, within 1e-9 for the angles of a scene.
inline double sine(double a) {
  constexpr double pi = 3.14159265358979323846;
  a -= 2 * pi * static_cast<double>(whole_below(a / (2 * pi) + 0.5));
  if (a > pi / 2) a = pi - a;
  if (a < -pi / 2) a = -pi - a;
  const double s = a * a;
  return a *
         (1 + s * (-1.0 / 6 + s * (1.0 / 120 +
                                   s * (-1.0 / 5040 + s * (1.0 / 362880 + s * (-1.0 / 39916800 + s / 6227020800.0))))));
}
inline double cosine(double a) {
  return sine(a + 1.57079632679489661923);
}

/// e to the power v, for v from −40 to 0.
inline double exponential(double v) {
  if (v < -40) return 0;
  const double small = v / 1024;
  double e = 1 + small * (1 + small * (0.5 + small * (1.0 / 6 + small / 24)));
  for (int i = 0; i < 10; ++i) e *= e;
  return e;
}

}  // namespace fexel::scene
