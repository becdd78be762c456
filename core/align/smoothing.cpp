#include "align/smoothing.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

namespace fexel {
namespace {

constexpr int crop_side = 256;
constexpr int noise_rings = 24;
constexpr double widths[] = {0.6, 0.8, 1, 1.3, 1.7, 2.2, 3, 4};
constexpr double worth = 0.8;  // of the variance without it

}  // namespace

double best_smoothing(const PreparedFrame& frame, const FftPlans& transforms) {
  const Size size = frame.size();
  const int width = std::min(size.width, crop_side), height = std::min(size.height, crop_side);
  const Size whole{FftPlans::quick(width), FftPlans::quick(height)};
  const int x0 = PreparedFrame::left + (size.width - width) / 2, y0 = PreparedFrame::above + (size.height - height) / 2;
  Plane values(static_cast<std::size_t>(whole.width) * static_cast<std::size_t>(whole.height));
  double sum = 0;
  int known = 0;
  const auto sample = [&](int x, int y) { return frame.reference(0).row<float>(0, y0 + y)[x0 + x]; };
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      if (const float v = sample(x, y); !std::isnan(v)) sum += static_cast<double>(v), ++known;
  if (known < width * height / 2) return 0;
  const double mean = sum / known;
  double taper = 0;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const double fall = std::pow(std::sin(std::numbers::pi * (x + 0.5) / width), 2) *
                          std::pow(std::sin(std::numbers::pi * (y + 0.5) / height), 2);
      taper += fall * fall;
      const float v = sample(x, y);
      if (!std::isnan(v))
        values[static_cast<std::size_t>(y) * static_cast<std::size_t>(whole.width) + static_cast<std::size_t>(x)] =
            static_cast<float>((static_cast<double>(v) - mean) * fall);
    }
  const Spectrum spectrum = transforms.forward(whole, values);
  const int wide = whole.width / 2 + 1;
  std::array<double, noise_rings> power{}, count{};
  const auto place = [&](int u, int v) {
    return std::pair{static_cast<double>(u) / whole.width,
                     static_cast<double>(v > whole.height / 2 ? v - whole.height : v) / whole.height};
  };
  const auto power_at = [&](int u, int v) {
    return static_cast<double>(std::norm(
               spectrum[static_cast<std::size_t>(v) * static_cast<std::size_t>(wide) + static_cast<std::size_t>(u)])) /
           taper;
  };
  const auto ring_of = [](double fx, double fy) {
    return static_cast<std::size_t>(std::min(noise_rings - 1.0, std::hypot(fx, fy) / 0.71 * noise_rings));
  };
  for (int v = 0; v < whole.height; ++v)
    for (int u = 1; u < wide; ++u) {
      const auto [fx, fy] = place(u, v);
      const std::size_t ring = ring_of(fx, fy);
      power[ring] += power_at(u, v);
      count[ring] += 1;
    }
  // The finest third is taken for noise, and what the samples cannot carry with it.
  double noise = 0, rings_of_noise = 0;
  for (std::size_t k = 0; k < noise_rings; ++k) {
    if (count[k] > 0) power[k] /= count[k];
    if (k < 2 * noise_rings / 3 || count[k] < 30) continue;
    noise += power[k];
    rings_of_noise += 1;
  }
  if (rings_of_noise == 0) return 0;
  noise /= rings_of_noise;
  // Of least squares on a gradient that has noise itself, with residuals that are smoothed as the frames are.
  std::array<double, std::size(widths) + 1> meat{}, slope{};
  for (int v = 0; v < whole.height; ++v)
    for (int u = 1; u < wide; ++u) {
      const auto [fx, fy] = place(u, v);
      const double wx = 2 * std::numbers::pi * fx, wy = 2 * std::numbers::pi * fy;
      const double gx = std::sin(wx) * (1 + std::cos(wy)) / 2, gy = std::sin(wy) * (1 + std::cos(wx)) / 2;
      const double all = power[ring_of(fx, fy)], square = wx * wx + wy * wy;
      const double signal = all > 1.05 * noise ? all - noise : 0;
      for (std::size_t k = 0; k < meat.size(); ++k) {
        const double h = k == 0 ? 1 : std::exp(-0.5 * widths[k - 1] * widths[k - 1] * square);
        meat[k] += h * h * h * h * (gx * gx + gy * gy) * all;
        slope[k] += h * h * (gx * wx + gy * wy) * signal;
      }
    }
  const auto variance = [&](std::size_t k) { return slope[k] > 0 ? meat[k] / (slope[k] * slope[k]) : 1e300; };
  std::size_t best = 0;
  for (std::size_t k = 1; k < meat.size(); ++k)
    if (variance(k) < (best == 0 ? worth : 1) * variance(best)) best = k;
  return best == 0 ? 0 : widths[best - 1];
}

std::shared_ptr<const PreparedFrame> prepared_best(const Image& frame, int band, SimilarityMetric likeness,
                                                   const Image* use, Role role, const FftPlans& transforms,
                                                   const Job& job) {
  auto plain = std::make_shared<const PreparedFrame>(frame, band, likeness, use, role, job);
  const double smoothing = best_smoothing(*plain, transforms);
  if (!(smoothing > 0)) return plain;
  return std::make_shared<const PreparedFrame>(frame, band, likeness, use, role, job, smoothing);
}

double noise_kept(double smoothing, double fraction, bool spline) {
  constexpr int steps = 16;
  double before = 0, after = 0;
  for (int k = 0; k < steps; ++k) {
    const double w = std::numbers::pi * (k + 0.5) / steps, falls = std::exp(-smoothing * smoothing * w * w);
    std::complex<double> response;
    if (spline) {
      for (int tap = -1; tap <= 2; ++tap) {
        const double x = std::abs(tap - fraction);
        const double weight = x < 1 ? (4 - 6 * x * x + 3 * x * x * x) / 6 : x < 2 ? std::pow(2 - x, 3) / 6 : 0;
        response += weight * std::polar(1.0, w * tap);
      }
      response /= (2 + std::cos(w)) / 3;
    } else {
      response = 1 - fraction + fraction * std::polar(1.0, w);
    }
    before += falls;
    after += falls * std::norm(response);
  }
  return after / before;
}

double gradient_noise_of(double smoothing) {
  // Products of the Gaussian's taps at each distance, along one axis.
  const auto along = [smoothing](int apart) {
    if (smoothing <= 0) return apart == 0 ? 1.0 : 0.0;
    const int reach = static_cast<int>(std::ceil(4 * smoothing)) + 1;
    double total = 0, products = 0;
    for (int i = -reach; i <= reach; ++i) {
      const double tap = std::exp(-0.5 * i * i / (smoothing * smoothing)), other = i + apart;
      total += tap;
      products += tap * std::exp(-0.5 * other * other / (smoothing * smoothing));
    }
    return products / (total * total);
  };
  const double slope = (along(0) - along(2)) / 2, across = (6 * along(0) + 8 * along(1) + 2 * along(2)) / 16;
  return slope * across / (along(0) * along(0));
}

}  // namespace fexel
