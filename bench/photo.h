#pragma once
/// What the engine's benchmarks work on.
#include <cmath>

#include "geometry/map.h"
#include "image/image.h"

namespace fexel {

/// Waves under noise, so that neither caches nor predictors have it easier than with a photo.
inline Image photo(int width, int height, int bands, Depth depth) {
  Image image(width, height, bands, depth);
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    const double top = sizeof(T) == 1 ? 255 : sizeof(T) == 2 ? 65535 : 1;
    for (int band = 0; band < bands; ++band)
      for (int y = 0; y < height; ++y) {
        const double across = std::sin(0.013 * y);
        unsigned noise = static_cast<unsigned>(y * 7919 + band);
        for (int x = 0; x < width; ++x) {
          noise = noise * 1664525U + 1013904223U;
          const double wave = 0.5 + 0.3 * across * ((x / 64 % 2) != 0 ? 1 : -1);
          image.row<T>(band, y)[x] = static_cast<T>(top * (wave + 0.1 * (noise >> 16) / 65536.0));
        }
      }
  });
  return image;
}

/// A turn about the middle, result to source.
inline Matrix3 turned(int width, int height, double degrees) {
  const double a = degrees * M_PI / 180;
  Matrix3 m;
  m << std::cos(a), -std::sin(a), 0, std::sin(a), std::cos(a), 0, 0, 0, 1;
  return translation(width / 2.0, height / 2.0) * m * translation(-width / 2.0, -height / 2.0);
}

}  // namespace fexel
