#pragma once
/// What the kinds of stack in material.cpp are made with: places, frames as float, noise.
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <random>

#include "tests/material.h"
#include "tests/scene.h"

namespace fexel::test {

class Random {
 public:
  explicit Random(unsigned seed) : engine_(seed) {}
  double even(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine_); }
  double normal(double spread) { return std::normal_distribution<double>(0, 1)(engine_) * spread; }
  double counts(double mean) { return static_cast<double>(std::poisson_distribution<long>(mean)(engine_)); }
  unsigned whole() { return static_cast<unsigned>(engine_()); }

 private:
  std::mt19937 engine_;
};

using Field = std::function<double(double, double)>;

inline Size size_of(unsigned seed) {
  constexpr std::array<Size, 4> sizes{{{320, 300}, {420, 320}, {300, 400}, {512, 384}}};
  if (seed % 20 == 19) return {1600, 1200};
  if (seed % 10 == 9) return {800, 640};
  return sizes[seed % 4];
}
inline Size small_size_of(unsigned seed) {
  return size_of(seed % 9);
}

/// Samples as float, each the mean of `n` x `n` places of its pixel.
inline Image seen(const Field& field, const Matrix3& lies, Size size, int n) {
  Image out(size.width, size.height, 1, Depth::f32);
  const Matrix3 back = lies.inverse();
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < n; ++j)
        for (int i = 0; i < n; ++i) {
          const Point p = *Map::apply(back, {x + (i + 0.5) / n, y + (j + 0.5) / n});
          sum += field(p.x, p.y);
        }
      out.row<float>(0, y)[x] = static_cast<float>(sum / (n * n));
    }
  return out;
}

inline Image waves_seen(const Scene& scene, const Matrix3& lies, Size size) {
  return frame_of(scene, lies, size, Depth::f32, 0, 1);
}

inline void each(Image& frame, const std::function<double(double value, int x, int y)>& change) {
  for (int y = 0; y < frame.height(); ++y) {
    float* row = frame.row<float>(0, y);
    for (int x = 0; x < frame.width(); ++x) row[x] = static_cast<float>(change(static_cast<double>(row[x]), x, y));
  }
}

inline void add_noise(Image& frame, double noise, Random& random) {
  each(frame, [&](double v, int, int) { return v + random.normal(noise); });
}

inline Image bytes(const Image& frame) {
  Image out(frame.width(), frame.height(), 1, Depth::u8);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      out.row<std::uint8_t>(0, y)[x] =
          static_cast<std::uint8_t>(std::clamp(std::lround(static_cast<double>(frame.row<float>(0, y)[x])), 0L, 255L));
  return out;
}

/// How far a hand or a stage moves from frame to frame.
struct Reach {
  double shift = 8, degrees = 0, scale = 0;
};

inline std::vector<Matrix3> places(int frames, Size size, const Reach& reach, Random& random) {
  std::vector<Matrix3> out{Matrix3::Identity()};
  for (int i = 1; i < frames; ++i)
    out.push_back(similarity(size, random.even(-reach.degrees, reach.degrees),
                             1 + random.even(-reach.scale, reach.scale), random.even(-reach.shift, reach.shift),
                             random.even(-reach.shift, reach.shift)));
  return out;
}

inline constexpr Reach turning{8, 1, 0};

/// A stack of one scene; `dress` makes of the plain frame what the sensor gives.
inline Stack stack_of(int frames, Size size, const Reach& reach, Random& random,
                      const std::function<Image(const Matrix3&)>& render,
                      const std::function<void(Image&, int)>& dress) {
  Stack out;
  out.lies = places(frames, size, reach, random);
  for (int i = 0; i < frames; ++i) {
    Image frame = render(out.lies[static_cast<std::size_t>(i)]);
    dress(frame, i);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

inline Stack waves_stack(const Scene& scene, int frames, Size size, const Reach& reach, Random& random,
                         const std::function<void(Image&, int)>& dress) {
  return stack_of(
      frames, size, reach, random, [&](const Matrix3& lies) { return waves_seen(scene, lies, size); }, dress);
}

inline Scene usual(unsigned seed, double contrast = 40) {
  return textured(60, 0.01, 0.22, contrast, seed);
}

inline std::function<void(Image&, int)> noisy(double noise, Random& random) {
  return [noise, &random](Image& frame, int) { add_noise(frame, noise, random); };
}

/// Blocks of 8 x 8 through a discrete cosine transform whose coefficients are rounded to multiples that grow with the
/// frequency, as strong compression does.
inline void compress(Image& frame, double strength) {
  std::array<std::array<double, 8>, 8> cosines;
  for (int k = 0; k < 8; ++k)
    for (int n = 0; n < 8; ++n)
      cosines[static_cast<std::size_t>(k)][static_cast<std::size_t>(n)] =
          std::cos(M_PI * (n + 0.5) * k / 8) * std::sqrt((k == 0 ? 1 : 2) / 8.0);
  const auto at = [&](int k, int n) { return cosines[static_cast<std::size_t>(k)][static_cast<std::size_t>(n)]; };
  for (int top = 0; top + 8 <= frame.height(); top += 8)
    for (int left = 0; left + 8 <= frame.width(); left += 8) {
      double half[8][8], c[8][8];
      for (int y = 0; y < 8; ++y)
        for (int k = 0; k < 8; ++k) {
          half[y][k] = 0;
          for (int x = 0; x < 8; ++x)
            half[y][k] += at(k, x) * static_cast<double>(frame.row<float>(0, top + y)[left + x]);
        }
      for (int l = 0; l < 8; ++l)
        for (int k = 0; k < 8; ++k) {
          double sum = 0;
          for (int y = 0; y < 8; ++y) sum += at(l, y) * half[y][k];
          const double step = strength * (16 + 7.0 * (k + l));
          c[l][k] = step * std::round(sum / step);
        }
      for (int y = 0; y < 8; ++y)
        for (int x = 0; x < 8; ++x) {
          double sum = 0;
          for (int l = 0; l < 8; ++l)
            for (int k = 0; k < 8; ++k) sum += at(l, y) * at(k, x) * c[l][k];
          frame.row<float>(0, top + y)[left + x] = static_cast<float>(sum);
        }
    }
}

}  // namespace fexel::test
