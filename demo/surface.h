#pragma once
/// A surface that pictures are taken of, kept at every half pixel.
#include <algorithm>
#include <array>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel::scene {

/// Planes that are known at every half pixel of a picture and `around` pixels more on each side; in between, linear:
/// that surface, and not the wall, is what these pictures are of, so that their transforms are exact.
inline constexpr int around = 72;

class Surface {
 public:
  explicit Surface(const Image& halves) : halves_(halves) {}
  double at(int plane, Point p) const {
    const double u = std::clamp((p.x + around) * 2 - 0.5, 0.0, halves_.width() - 1.001);
    const double v = std::clamp((p.y + around) * 2 - 0.5, 0.0, halves_.height() - 1.001);
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const double s = u - i, t = v - j;
    const float *a = halves_.row<float>(plane, j) + i, *b = halves_.row<float>(plane, j + 1) + i;
    const auto value = [](float f) { return static_cast<double>(f); };
    return (value(a[0]) * (1 - s) + value(a[1]) * s) * (1 - t) + (value(b[0]) * (1 - s) + value(b[1]) * s) * t;
  }

 private:
  const Image& halves_;
};

/// Calls fill(place in pixels, values) for every half pixel.
template <class Fill>
Image surface_of(Size size, int planes, const Job& job, const Fill& fill) {
  Image out(2 * (size.width + 2 * around), 2 * (size.height + 2 * around), planes, Depth::f32);
  parallel_for(out.height(), job, [&](int y) {
    std::array<double, 5> values{};
    for (int x = 0; x < out.width(); ++x) {
      fill(Point{(x + 0.5) / 2 - around, (y + 0.5) / 2 - around}, values);
      for (int k = 0; k < planes; ++k)
        out.row<float>(k, y)[x] = static_cast<float>(values[static_cast<std::size_t>(k)]);
    }
  });
  return out;
}

}  // namespace fexel::scene
