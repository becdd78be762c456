#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"
#include "geometry/polygon.h"
#include "motion/deformed.h"
#include "motion/window_correlation.h"
#include "motion/windows.h"

// Grains: how large and how many they are, how far they go, and the windows that suit them.

namespace fexel {
namespace {

constexpr double each_window = 8;    // grains
constexpr double above = 5;          // standard deviations of noise that a grain rises to
constexpr double times_largest = 4;  // the largest movement, of the first window
constexpr int look = 64;             // px of the windows that are looked at

struct Looked {
  double diameter = 0, for_each = 0;
};

Looked looked_at(const MotionFrame& frame, const std::vector<Point>& region) {
  const Image plane = counted_plane(frame);
  const int width = plane.width(), height = plane.height();
  const auto counts = [&](int x, int y) {
    return plane.valid(x, y) && (region.size() < 3 || inside_polygon(region, {x + 0.5, y + 0.5}));
  };
  Looked out;
  // Diameter: from the width of the windows' own correlation, without its middle, where noise is.
  const FftPlans plans;
  const int size = std::min({look, width & ~1, height & ~1});
  WindowCorrelator correlator(size, plans);
  WindowPlane one;
  double near = 0, far = 0;
  std::vector<float> samples;
  for (int y = 0; y + size <= height; y += size)
    for (int x = 0; x + size <= width; x += size) {
      if (!counts(x + size / 2, y + size / 2)) continue;
      if (!correlator.correlate(plane, x, y, plane, x, y, one)) continue;
      const auto at = [&](int dx, int dy) {
        return static_cast<double>(one.values[static_cast<std::size_t>((size / 2 + dy) * size + size / 2 + dx)]);
      };
      near += at(1, 0) + at(0, 1);
      far += at(2, 0) + at(0, 2);
    }
  // The correlation of Gaussians of radius s falls by exp(-d² / 4 s²).
  if (near > 0 && far > 0 && far < near) out.diameter = 4 * std::sqrt(3 / (4 * std::log(near / far)));
  // Number: peaks that rise above what is mostly there.
  for (int y = 0; y < height; y += 3)
    for (int x = 0; x < width; x += 3)
      if (counts(x, y)) samples.push_back(plane.row<float>(0, y)[x]);
  if (samples.size() < 100) return out;
  const double middle = static_cast<double>(median(samples));
  for (float& v : samples) v = std::abs(v - static_cast<float>(middle));
  const double level = middle + above * std::max(0.3, static_cast<double>(median(samples)) / 0.6745);
  double grains = 0, area = 0;
  for (int y = 1; y + 1 < height; ++y)
    for (int x = 1; x + 1 < width; ++x) {
      if (!counts(x, y)) continue;
      ++area;
      const float v = plane.row<float>(0, y)[x];
      if (static_cast<double>(v) < level) continue;
      bool peak = true;
      for (int j = -1; j <= 1 && peak; ++j)
        for (int i = -1; i <= 1; ++i)
          if ((i != 0 || j != 0) && plane.row<float>(0, y + j)[x + i] >= v) peak = false;
      grains += peak;
    }
  if (grains > 0) out.for_each = area / grains;
  return out;
}

}  // namespace

GrainSigns grain_signs(const MotionFrame& a, const MotionFrame& b, const std::vector<Point>& region, const Job& job) {
  const Looked looked = looked_at(a, region);
  job.check();
  if (!(looked.diameter > 0) || !(looked.for_each > 0))
    throw input_error("No grains are seen in the frame.", {},
                      "Take the background out, or choose another region; for surfaces use the method subset.");
  GrainSigns out;
  out.diameter = looked.diameter;
  out.for_each = looked.for_each;
  const int shorter = std::min(a.size().width, a.size().height);
  const int window = std::clamp(shorter / 4 / 8 * 8, 16, 128);
  WindowSettings first;
  first.sizes = {window};
  first.passes = 0;
  const MotionField field =
      match_windows(a, b, window_grid(a.size(), region, window / 2, window / 2, window), first, job);
  std::vector<double> moved;
  for (const MotionPoint& p : field.points)
    if (p.good()) moved.push_back(std::hypot(p.moved.x, p.moved.y));
  if (moved.size() < 3)
    throw input_error("Nothing of the first frame is found again in the second.", {},
                      "Check that the two belong together, and that little time is between them.");
  out.largest = quantile(moved, 0.99);
  const double wanted = std::sqrt(each_window * out.for_each);
  const int last = std::clamp(static_cast<int>(std::ceil(wanted / 8)) * 8, 16, std::min(64, shorter / 4 / 8 * 8));
  out.proposed.sizes = {last};
  while (out.proposed.sizes.front() < times_largest * out.largest && 2 * out.proposed.sizes.front() <= shorter / 2)
    out.proposed.sizes.insert(out.proposed.sizes.begin(), 2 * out.proposed.sizes.front());
  if (out.proposed.sizes.size() == 1 && 2 * last <= shorter / 2)
    out.proposed.sizes.insert(out.proposed.sizes.begin(), 2 * last);
  return out;
}

}  // namespace fexel
