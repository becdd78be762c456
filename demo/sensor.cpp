#include "demo/sensor.h"

namespace fexel::scene {
namespace {

constexpr int taps = 2;
/// A blur of 0.55 px, as a lens and a colour filter leave.
std::array<double, 2 * taps + 1> blur_weights() {
  std::array<double, 2 * taps + 1> w{};
  double sum = 0;
  for (int k = -taps; k <= taps; ++k)
    sum += w[static_cast<std::size_t>(k + taps)] = exponential(-k * k / (2 * 0.55 * 0.55));
  for (double& v : w) v /= sum;
  return w;
}

}  // namespace

Image photograph(Size size, int bands, const std::function<Colour(Point)>& light_at, const Job& job) {
  const int width = size.width, height = size.height;
  Image light(width, height, bands, Depth::f32);
  constexpr int samples = 4;
  parallel_for(height, job.part(0, 0.95), [&](int y) {
    for (int x = 0; x < width; ++x) {
      Colour sum{0, 0, 0};
      for (int j = 0; j < samples; ++j)
        for (int i = 0; i < samples; ++i) {
          const Colour c = light_at({x + (i + 0.5) / samples, y + (j + 0.5) / samples});
          sum = {sum.r + c.r, sum.g + c.g, sum.b + c.b};
        }
      constexpr double share = 255.0 / (samples * samples);
      light.row<float>(0, y)[x] = static_cast<float>(sum.r * share);
      if (bands < 3) continue;
      light.row<float>(1, y)[x] = static_cast<float>(sum.g * share);
      light.row<float>(2, y)[x] = static_cast<float>(sum.b * share);
    }
  });
  Image out(width, height, bands, Depth::u8);
  const auto weights = blur_weights();
  parallel_for(bands * height, job.part(0.95, 1), [&](int index) {
    const int band = index / height, y = index % height;
    std::vector<double> column(static_cast<std::size_t>(width));
    for (int x = 0; x < width; ++x)
      for (int k = -taps; k <= taps; ++k)
        column[static_cast<std::size_t>(x)] +=
            weights[static_cast<std::size_t>(k + taps)] *
            static_cast<double>(light.row<float>(band, std::clamp(y + k, 0, height - 1))[x]);
    for (int x = 0; x < width; ++x) {
      double value = 0;
      for (int k = -taps; k <= taps; ++k)
        value += weights[static_cast<std::size_t>(k + taps)] *
                 column[static_cast<std::size_t>(std::clamp(x + k, 0, width - 1))];
      const double deviation = 0.9 + value * 0.006;
      value += deviation * normal_at(x, y, 101 + static_cast<std::uint64_t>(band));
      out.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(std::clamp(std::floor(value + 0.5), 0.0, 255.0));
    }
  });
  return out;
}

}  // namespace fexel::scene
