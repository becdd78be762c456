#pragma once
/// From the light that falls on a sensor to samples: blur, noise, rounding.
#include <algorithm>
#include <array>
#include <functional>

#include "base/job.h"
#include "demo/numbers.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel::scene {

struct Colour {
  double r, g, b;
};
inline Colour operator*(double s, Colour c) {
  return {s * c.r, s * c.g, s * c.b};
}
inline Colour blend(Colour a, Colour b, double t) {
  return {mix(a.r, b.r, t), mix(a.g, b.g, t), mix(a.b, b.b, t)};
}

/// What turns light into samples.
struct Sensor {
  Depth depth = Depth::u8;
  double unit = 1;     ///< samples of a grey level, of which there are 255
  double blur = 0.55;  ///< standard deviation in px: as a lens and a colour filter leave
  std::uint64_t seed = 101;
};
/// The light of a picture, 0 to 255, planes as bands: blurred, with noise of 0.9 + 0.6 % grey levels, rounded.
Image exposed(const Image& light, const Sensor& sensor, const Job& job);

/// A picture of `bands` bytes a pixel, 1 (red counts) or 3, of a scene whose light, 0 to 1, is asked for at 4 x 4
/// places a pixel.
Image photograph(Size size, int bands, const std::function<Colour(Point)>& light_at, const Job& job);

}  // namespace fexel::scene
