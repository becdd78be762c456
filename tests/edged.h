#pragma once
/// Pictures of a rectangle and of a disc from formulas, blurred by any width and with noise. Nothing here is taken from
/// the engine.
#include <cmath>
#include <functional>
#include <random>

#include "geometry/quad.h"
#include "image/image.h"

namespace fexel::test {

/// How an edged thing is seen: the step across its edge in grey levels, the standard deviation of the blur in pixels,
/// and of the noise.
struct EdgedLook {
  double contrast = 120, noise = 3, blur = 0;
  double ground = 60;
};

/// `share` is the part of the thing at a point, 0 to 1, averaged over each pixel by `steps` squared points.
inline Image edged_picture(const std::function<double(Point)>& share, Size size, const EdgedLook& look, unsigned seed) {
  Image image(size.width, size.height, 1, Depth::u8);
  std::mt19937 random(seed);
  std::normal_distribution<double> sensor(0, 1);
  const int steps = look.blur < 1 ? 8 : 3;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double middle = share({x + 0.5, y + 0.5}), a = share({x + 0.0, y + 0.0}), b = share({x + 1.0, y + 0.0}),
                   c = share({x + 0.0, y + 1.0}), d = share({x + 1.0, y + 1.0});
      double sum = 0;
      if (middle == a && a == b && b == c && c == d) {
        sum = middle;
      } else {
        for (int j = 0; j < steps; ++j)
          for (int i = 0; i < steps; ++i)
            sum += share({x + (i + 0.5) / steps, y + (j + 0.5) / steps}) / (steps * steps);
      }
      const double value = look.ground + look.contrast * sum + look.noise * sensor(random);
      image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(value + 0.5, 0.0, 255.0));
    }
  return image;
}

/// The share of a straight edge at a distance inside of it, blurred.
inline double blurred(double inside, double blur) {
  if (blur <= 0) return inside > 0 ? 1 : 0;
  if (std::abs(inside) > 6 * blur) return inside > 0 ? 1 : 0;
  return 0.5 * std::erfc(-inside / blur / std::sqrt(2.0));
}

inline Image quad_seen(const Quad& quad, Size size, const EdgedLook& look, unsigned seed) {
  return edged_picture(
      [&](Point p) {
        double share = 1;
        for (std::size_t i = 0; i < 4; ++i) {
          const Point a = quad[i], b = quad[(i + 1) % 4];
          share *= blurred(cross(a, b, p) / distance(a, b), look.blur);
        }
        return share;
      },
      size, look, seed);
}

inline Image disc_seen(Point centre, double radius, Size size, const EdgedLook& look, unsigned seed) {
  return edged_picture([&](Point p) { return blurred(radius - distance(p, centre), look.blur); }, size, look, seed);
}

}  // namespace fexel::test
