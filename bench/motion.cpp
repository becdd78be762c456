/// Movement of surfaces: points a second, errors against the noise floor and the cycle of a pixel, what is stated.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <vector>

#include "base/job.h"
#include "motion/sequence.h"
#include "tests/motion_scene.h"

using namespace fexel;
using test::moved_frame;
using test::Speckle;

namespace {

double seconds_of(const std::function<void()>& body) {
  const auto begin = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// Points a second of matching frame after frame, as a sequence does; the frames are made ready before.
void speed(int size, int threads, double strain) {
  const Speckle surface(3);
  constexpr int width = 1200, height = 800;
  const test::Displacement still = [](Point) { return Point{}; };
  const test::Displacement moved = [=](Point p) { return Point{1.37 + strain * p.x, -0.62 - 0.3 * strain * p.y}; };
  use_threads(threads);
  const MotionFrame reference(moved_frame(width, height, surface, still, 4, 1), {}, nullptr, {});
  const MotionFrame frame(moved_frame(width, height, surface, moved, 4, 2), {}, nullptr, {});
  const MotionGrid grid = grid_over({width, height}, {}, 5, 5, size / 2 + 2);
  SubsetSettings settings;
  settings.size = size;
  MotionStarts starts = starts_on(grid);
  std::vector<double> rates, fresh;
  for (int round = 0; round < 7; ++round) {
    MotionField field;
    starts.expected.clear();
    fresh.push_back(static_cast<double>(grid.count()) /
                    seconds_of([&] { field = match_field(reference, frame, grid, starts, settings, {}); }));
    // As from the frame before: a little beside.
    starts.expected.resize(grid.count());
    for (std::size_t i = 0; i < grid.count(); ++i)
      if (field.points[i].has_place())
        starts.expected[i] = SubsetMotion{field.points[i].moved + Point{0.2, -0.15}, field.points[i].gradient};
    rates.push_back(static_cast<double>(grid.count()) /
                    seconds_of([&] { match_field(reference, frame, grid, starts, settings, {}); }));
  }
  use_threads(0);
  std::ranges::sort(rates);
  std::ranges::sort(fresh);
  fmt::print(
      "{:>4} px, {} threads, strain {:.3f}: {:>8.0f} points a second from the frame before ({:.0f} to {:.0f}), "
      "{:>8.0f} "
      "from nothing\n",
      size, threads, strain, rates[3], rates.front(), rates.back(), fresh[3]);
}

/// Errors over eleven shifts through a pixel.
void accuracy(int size, double noise, double strain, double radius) {
  const Speckle surface(7, 2.5 * radius, radius);
  const test::Displacement still = [](Point) { return Point{}; };
  double squares = 0, floor = 0, stated = 0, inside = 0, count = 0, bias = 0, good = 0, used = 0;
  for (int k = 0; k < 11; ++k) {
    const test::Displacement moved = [=](Point p) { return Point{0.1 * k + strain * (p.x - 200), 0.37 * k}; };
    const Image first = moved_frame(400, 400, surface, still, noise, static_cast<unsigned>(2 * k + 1)),
                second = moved_frame(400, 400, surface, moved, noise, static_cast<unsigned>(2 * k + 2));
    MotionSettings settings;
    settings.subset.size = size;
    settings.step_x = settings.step_y = size;
    MotionSequence sequence(settings, {400, 400}, nullptr);
    sequence.next(first, {});
    const MotionField field = *sequence.next(second, {});
    const MotionFrame clean(moved_frame(400, 400, surface, still, 0, 1), {}, nullptr, {});
    SubsetMatcher matcher(size);
    double mean = 0, here = 0;
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      ++used;
      const MotionPoint& p = field.points[i];
      const Point at = field.grid.at(i), truth = moved(at);
      if (!p.good() || at.x > 370 - truth.x || at.y > 380 - truth.y) {
        used -= !p.good() && (at.x > 370 - truth.x || at.y > 380 - truth.y);
        good += p.good();
        continue;
      }
      ++good;
      const Point off = p.moved - truth;
      mean += off.x;
      ++here;
      squares += off.x * off.x + off.y * off.y;
      stated += p.sigma.x * p.sigma.x + p.sigma.y * p.sigma.y;
      inside += (std::abs(off.x) < p.sigma.x) + (std::abs(off.y) < p.sigma.y);
      if (matcher.take(clean, at)) {
        const SubsetTexture t = matcher.texture(0);
        floor +=
            noise * noise * (t.sigma_per_noise.x * t.sigma_per_noise.x + t.sigma_per_noise.y * t.sigma_per_noise.y);
      }
      count += 2;
    }
    if (here > 0) bias = std::max(bias, std::abs(mean / here));
  }
  fmt::print(
      "{:>4} px, speckles of {:.1f} px, noise {:>2.0f}, strain {:.2f}: RMS {:.5f} px, floor {:.5f} (x {:.3f}), inside "
      "{:.0f} %, "
      "largest mean {:.5f} px, found {:.1f} %\n",
      size, radius, noise, strain, std::sqrt(squares / count), std::sqrt(floor / count),
      noise > 0 ? std::sqrt(squares / floor) : 0, 100 * inside / count, bias, 100 * good / used);
}

}  // namespace

int main() {
  for (const int threads : {2, 1})
    for (const int size : {21, 31}) speed(size, threads, 0.002);
  speed(21, 2, 0.05);
  for (const double noise : {0.0, 2.0, 4.0, 8.0})
    for (const double strain : {0.0, 0.02}) accuracy(21, noise, strain, 1.6);
  for (const double radius : {1.2, 2.0, 3.0}) accuracy(21, 4, 0, radius);
  for (const int size : {15, 31, 41}) accuracy(size, 4, 0, 1.6);
}
