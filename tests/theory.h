#pragma once
/// What theory says about interpolation, from the kernels' Fourier transforms; nothing here is taken from the engine.
#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

#include "image/image.h"
#include "resample/kernels/kernel.h"

namespace fexel::test {

inline double sinc(double f) {
  return std::abs(f) < 1e-9 ? 1 : std::sin(M_PI * f) / (M_PI * f);
}

/// The transform of the tent is sinc²; that of cubic convolution with a = −0.5 is given by R. G. Keys, 1981; that of
/// the interpolating cubic spline is sinc⁴ over the transform of its samples, by M. Unser, 1999.
inline double response(Kernel kernel, double f) {
  if (kernel == Kernel::nearest) return sinc(f);
  if (kernel == Kernel::linear) return sinc(f) * sinc(f);
  if (kernel == Kernel::bspline3) return std::pow(sinc(f), 4) * 3 / (2 + std::cos(2 * M_PI * f));
  if (kernel == Kernel::lanczos3) {
    // By Simpson's rule over the six pieces of the normalised kernel.
    const auto window = [](double x) { return std::abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0.0; };
    constexpr int pieces = 200;
    double sum = 0;
    for (int i = 0; i <= pieces; ++i) {
      const double t = double(i) / pieces, weight = i == 0 || i == pieces ? 1 : i % 2 == 1 ? 4 : 2;
      double total = 0, wave = 0;
      for (int tap = -3; tap <= 2; ++tap) {
        total += window(t + tap);
        wave += window(t + tap) * std::cos(2 * M_PI * f * (t + tap));
      }
      sum += weight * wave / total;
    }
    return sum / (3 * pieces);
  }
  if (std::abs(f) < 1e-4) return 1;
  const double p2 = M_PI * f * M_PI * f;
  return 3 / p2 * (sinc(f) * sinc(f) - sinc(2 * f)) -
         1 / p2 * (3 * sinc(2 * f) * sinc(2 * f) - 2 * sinc(2 * f) - sinc(4 * f));
}

struct Wave {
  double fx, fy, phase, amplitude;
};

/// `count` waves of equal amplitude, evenly spread over directions and over frequencies up to `highest` cycles per
/// pixel.
inline std::vector<Wave> waves(int count, double highest, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(0, 1);
  std::vector<Wave> out;
  for (int i = 0; i < count; ++i) {
    const double f = highest * std::sqrt(unit(random)), direction = 2 * M_PI * unit(random);
    out.push_back({f * std::cos(direction), f * std::sin(direction), 2 * M_PI * unit(random), 1});
  }
  return out;
}

/// 80 waves as a measured picture has them: evenly spread over frequencies from 0.005 to 0.18 cycles per pixel, with
/// amplitudes that fall as the frequency rises. Their RMS is 8000 grey levels, for pictures of 16 bits.
inline std::vector<Wave> scene_waves() {
  std::mt19937 random(23);
  std::uniform_real_distribution<double> unit(0, 1);
  std::vector<Wave> out;
  double square = 0;
  for (int i = 0; i < 80; ++i) {
    const double f = 0.005 + 0.175 * (i + unit(random)) / 80, direction = 2 * M_PI * unit(random);
    out.push_back({f * std::cos(direction), f * std::sin(direction), 2 * M_PI * unit(random), 1 / f});
    square += 0.5 / (f * f);
  }
  for (Wave& wave : out) wave.amplitude *= 8000 / std::sqrt(square);
  return out;
}

inline double scene(const std::vector<Wave>& all, double x, double y) {
  double sum = 0;
  for (const Wave& w : all) sum += w.amplitude * std::cos(2 * M_PI * (w.fx * x + w.fy * y) + w.phase);
  return sum;
}

/// The RMS error of interpolating the waves at points spread evenly over the pixel: what the kernel takes from each
/// wave, and the copies at other whole frequencies that it lets through.
inline double expected_error(Kernel kernel, const std::vector<Wave>& all) {
  double square = 0;
  constexpr int reach = 12;
  for (const Wave& w : all) {
    std::vector<double> across, down;
    for (int k = -reach; k <= reach; ++k) {
      across.push_back(response(kernel, w.fx + k));
      down.push_back(response(kernel, w.fy + k));
    }
    for (int k = 0; k <= 2 * reach; ++k)
      for (int l = 0; l <= 2 * reach; ++l) {
        const double h = across[static_cast<std::size_t>(k)] * down[static_cast<std::size_t>(l)];
        const double lost = k == reach && l == reach ? 1 - h : h;
        square += w.amplitude * w.amplitude / 2 * lost * lost;
      }
  }
  return std::sqrt(square);
}

inline double scene_rms(const std::vector<Wave>& all) {
  double square = 0;
  for (const Wave& w : all) square += w.amplitude * w.amplitude / 2;
  return std::sqrt(square);
}

/// A picture of the waves at pixel centres, as float.
inline Image picture_of(const std::vector<Wave>& all, int width, int height) {
  Image image(width, height, 1, Depth::f32);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) image.row<float>(0, y)[x] = static_cast<float>(scene(all, x + 0.5, y + 0.5));
  return image;
}

/// Waves around the middle of 16 bits, rounded to whole grey levels.
constexpr double half_of_u16 = 32767.5;
inline Image counted(const Image& waves) {
  Image image(waves.width(), waves.height(), 1, Depth::u16);
  for (int y = 0; y < waves.height(); ++y)
    for (int x = 0; x < waves.width(); ++x)
      image.row<std::uint16_t>(0, y)[x] =
          static_cast<std::uint16_t>(std::clamp(std::lround(waves.row<float>(0, y)[x] + half_of_u16), 0L, 65535L));
  return image;
}

}  // namespace fexel::test
