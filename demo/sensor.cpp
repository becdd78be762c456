#include "demo/sensor.h"

namespace fexel::scene {
namespace {

std::vector<double> blur_weights(double blur) {
  const int taps = static_cast<int>(std::ceil(3 * blur));
  std::vector<double> w;
  double sum = 0;
  for (int k = -taps; k <= taps; ++k) {
    w.push_back(exponential(-k * k / (2 * blur * blur)));
    sum += w.back();
  }
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
  return exposed(light, {}, job.part(0.95, 1));
}

Image exposed(const Image& light, const Sensor& sensor, const Job& job) {
  const int width = light.width(), height = light.height();
  Image out(width, height, light.bands(), sensor.depth);
  const auto weights = blur_weights(sensor.blur);
  const auto taps = static_cast<int>(weights.size() / 2);
  parallel_for(light.bands() * height, job, [&](int index) {
    const int band = index / height, y = index % height;
    std::vector<double> column(static_cast<std::size_t>(width));
    for (int k = -taps; k <= taps; ++k) {
      const float* row = light.row<float>(band, std::clamp(y + k, 0, height - 1));
      const double weight = weights[static_cast<std::size_t>(k + taps)];
      for (int x = 0; x < width; ++x) column[static_cast<std::size_t>(x)] += weight * static_cast<double>(row[x]);
    }
    for (int x = 0; x < width; ++x) {
      double value = 0;
      for (int k = -taps; k <= taps; ++k)
        value += weights[static_cast<std::size_t>(k + taps)] *
                 column[static_cast<std::size_t>(std::clamp(x + k, 0, width - 1))];
      const double deviation = 0.9 + value * 0.006;
      value += deviation * normal_at(x, y, sensor.seed + static_cast<std::uint64_t>(band));
      value = std::floor(value * sensor.unit + 0.5);
      if (sensor.depth == Depth::u8)
        out.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(std::clamp(value, 0.0, 255.0));
      else
        out.row<std::uint16_t>(band, y)[x] = static_cast<std::uint16_t>(std::clamp(value, 0.0, 65535.0));
    }
  });
  return out;
}

}  // namespace fexel::scene
