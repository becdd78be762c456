/// A frame moved by a known field, and measured.
#include <algorithm>
#include <array>
#include <cmath>
#include <random>

#include "base/error.h"
#include "filter/filter.h"
#include "motion/sequence.h"

namespace fexel {
namespace {

constexpr int largest_side = 600;  // px of the part of a frame that is moved
constexpr int taps = 8;            // to each side of a place
constexpr int cycles = 8;          // parts of a pixel, of which each has a mean

/// A sinc under a Kaiser window: nearly all that a band-limited frame says between its samples, and no kernel that the
/// match itself uses.
double sinc_weight(double x) {
  if (std::abs(x) >= taps) return 0;
  if (std::abs(x) < 1e-9) return 1;
  const auto bessel = [](double v) {
    double sum = 1, term = 1;
    for (int k = 1; k < 30; ++k) {
      term *= (v / (2 * k)) * (v / (2 * k));
      sum += term;
    }
    return sum;
  };
  constexpr double beta = 8;
  static const double whole = bessel(beta);
  const double pi = 3.14159265358979323846, part = x / taps;
  return std::sin(pi * x) / (pi * x) * bessel(beta * std::sqrt(1 - part * part)) / whole;
}

double value_at(const Image& plane, double x, double y) {
  const int column = static_cast<int>(std::floor(x)), row = static_cast<int>(std::floor(y));
  std::array<double, 2 * taps> wx{}, wy{};
  double sx = 0, sy = 0;
  for (int k = 0; k < 2 * taps; ++k) {
    sx += wx[static_cast<std::size_t>(k)] = sinc_weight(x - (column - taps + 1 + k));
    sy += wy[static_cast<std::size_t>(k)] = sinc_weight(y - (row - taps + 1 + k));
  }
  double sum = 0;
  for (int j = 0; j < 2 * taps; ++j) {
    const float* line = plane.row<float>(0, std::clamp(row - taps + 1 + j, 0, plane.height() - 1));
    double along = 0;
    for (int k = 0; k < 2 * taps; ++k)
      along += wx[static_cast<std::size_t>(k)] *
               static_cast<double>(line[std::clamp(column - taps + 1 + k, 0, plane.width() - 1)]);
    sum += wy[static_cast<std::size_t>(j)] * along;
  }
  return sum / (sx * sy);
}

Image with_noise(const Image& plane, double noise, unsigned seed) {
  Image out = plane.clone();
  if (!(noise > 0)) return out;
  std::mt19937_64 random(seed);
  std::normal_distribution<double> normal(0, noise);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out.row<float>(0, y)[x] += static_cast<float>(normal(random));
  return out;
}

}  // namespace

MotionTrial motion_trial(const Image& frame, const MotionSettings& settings, double noise, const Job& job) {
  Image plane = plane_of(frame, 0, job);
  paint_empty(plane);
  // The middle of the region, as much as is needed.
  Point middle{plane.width() / 2.0, plane.height() / 2.0};
  if (!settings.region.empty()) {
    middle = {};
    for (const Point p : settings.region) middle = middle + 1.0 / static_cast<double>(settings.region.size()) * p;
  }
  const int width = std::min(plane.width(), largest_side), height = std::min(plane.height(), largest_side);
  const int left = std::clamp(static_cast<int>(middle.x) - width / 2, 0, plane.width() - width),
            top = std::clamp(static_cast<int>(middle.y) - height / 2, 0, plane.height() - height);
  constexpr double stretch = 0.002;
  const auto moved = [&](Point p) {
    return Point{p.x / width + stretch * (p.x - width / 2.0), 0.37 + stretch * (p.y - height / 2.0)};
  };
  Image plain(width, height, 1, Depth::f32), shifted(width, height, 1, Depth::f32);
  parallel_for(height, job.part(0, 0.3), [&](int y) {
    for (int x = 0; x < width; ++x) {
      const Point to{x + 0.5, y + 0.5};
      Point from = to;
      for (int round = 0; round < 20; ++round) from = to - moved(from);
      plain.row<float>(0, y)[x] = plane.row<float>(0, top + y)[left + x];
      shifted.row<float>(0, y)[x] = static_cast<float>(value_at(plane, left + from.x - 0.5, top + from.y - 0.5));
    }
  });
  MotionSettings same = settings;
  same.against = MotionAgainst::first;
  same.region.clear();
  same.window.ensemble = false;
  same.prepare.background = MotionBackground::none;
  const auto measured = [&](double more, const Job& part) {
    MotionSequence sequence(same, {width, height}, nullptr);
    sequence.next(with_noise(plain, more, 1), part.part(0, 0.2));
    return finished(*sequence.next(with_noise(shifted, more, 2), part.part(0.2, 1)), same);
  };
  // What comes in from beyond the part has no truth.
  const double border = taps + settings.size() / 2 + 2;
  const auto each = [&](const MotionField& field, const auto& body) {
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      const Point at = field.grid.at(i);
      if (at.x < border || at.y < border || at.x > width - border || at.y > height - border) continue;
      // Windows say where things are half of the way.
      const Point from = settings.method == MotionMethod::window ? at - 0.5 * moved(at) : at;
      if (field.points[i].good()) body(field.points[i], field.points[i].moved - moved(from), moved(from));
    }
  };
  MotionTrial out;
  double squares = 0, stated = 0, good = 0;
  const MotionField noisy = measured(noise, job.part(0.3, 0.65));
  each(noisy, [&](const MotionPoint& p, Point off, Point) {
    squares += off.x * off.x + off.y * off.y;
    stated += p.sigma.x * p.sigma.x + p.sigma.y * p.sigma.y;
    out.largest = std::max(out.largest, std::hypot(off.x, off.y));
    ++good;
  });
  if (good == 0)
    throw input_error("No point of the frame was found again.", {},
                      "Choose a larger size, or a part with more texture.");
  out.found = static_cast<double>(noisy.count(MotionStatus::ok)) / std::max(1, noisy.used());
  out.rms = std::sqrt(squares / (2 * good));
  out.ratio = stated > 0 ? std::sqrt(squares / stated) : 0;
  // Means of noisy points would be of noise: what interpolation pulls is seen without it.
  std::array<double, cycles> sum{}, count{};
  each(measured(0, job.part(0.65, 1)), [&](const MotionPoint&, Point off, Point truth) {
    const double fraction = truth.x - std::floor(truth.x);
    const auto part = std::min<std::size_t>(cycles - 1, static_cast<std::size_t>(fraction * cycles));
    sum[part] += off.x;
    ++count[part];
  });
  for (std::size_t k = 0; k < cycles; ++k)
    if (count[k] > 0) out.bias = std::max(out.bias, std::abs(sum[k] / count[k]));
  return out;
}

}  // namespace fexel
