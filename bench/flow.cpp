/// Movement of fluids: vectors a second, errors of uniform flows over the cycle of a pixel, of shear and vortices.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <vector>

#include "base/job.h"
#include "motion/windows.h"
#include "tests/grain_scene.h"

using namespace fexel;

namespace {

using Flow = std::function<Point(Point)>;

struct Errors {
  double squares = 0, stated = 0, inside = 0, count = 0, used = 0, bias = 0;
  void add(const MotionField& field, const Flow& flow) {
    Point mean;
    double here = 0;
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      if (field.grid.used[i] == 0) continue;
      ++used;
      const MotionPoint& p = field.points[i];
      if (!p.good()) continue;
      const Point d = p.moved - flow(field.grid.at(i));
      mean = mean + d;
      ++here;
      squares += d.x * d.x + d.y * d.y;
      stated += p.sigma.x * p.sigma.x + p.sigma.y * p.sigma.y;
      inside += (std::abs(d.x) < p.sigma.x) + (std::abs(d.y) < p.sigma.y);
      count += 2;
    }
    if (here > 0) bias = std::max({bias, std::abs(mean.x / here), std::abs(mean.y / here)});
  }
};

MotionField matched(const test::GrainScene& scene, const Flow& flow, const WindowSettings& settings, unsigned seed) {
  const auto [a, b] = test::grain_pair(scene, flow, seed);
  const MotionFrame first(a, {}, nullptr, {}), second(b, {}, nullptr, {});
  return match_windows(first, second,
                       window_grid(first.size(), {}, settings.last() / 2, settings.last() / 2, settings.last()),
                       settings, {});
}

void row(const char* name, test::GrainScene scene, const std::vector<Flow>& flows, const WindowSettings& settings) {
  Errors e;
  unsigned seed = 1;
  for (const Flow& flow : flows) e.add(matched(scene, flow, settings, seed++), flow);
  fmt::print(
      "{:<34} {} passes: RMS {:.4f} px, largest mean {:.4f} px, inside {:.0f} %, error {:.2f} of stated, ok {:.1f} %\n",
      name, settings.passes, std::sqrt(e.squares / e.count), e.bias, 100 * e.inside / e.count,
      std::sqrt(e.squares / e.stated), 100 * e.count / 2 / e.used);
}

void speed(int passes, int threads) {
  test::GrainScene scene;
  scene.width = scene.height = 1024;
  const Flow flow = [](Point p) { return Point{2.3 + 0.003 * p.y, 1.2}; };
  const auto [a, b] = test::grain_pair(scene, flow, 1);
  use_threads(threads);
  const MotionFrame first(a, {}, nullptr, {}), second(b, {}, nullptr, {});
  WindowSettings settings;
  settings.passes = passes;
  const MotionGrid grid = window_grid(first.size(), {}, 16, 16, 32);
  std::vector<double> rates;
  for (int round = 0; round < 7; ++round) {
    const auto begin = std::chrono::steady_clock::now();
    match_windows(first, second, grid, settings, {});
    rates.push_back(static_cast<double>(grid.count()) /
                    std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count());
  }
  use_threads(0);
  std::ranges::sort(rates);
  fmt::print(
      "windows 64, 32, half overlapping, {} passes on deformed frames, {} threads: {:>7.0f} vectors a second ({:.0f} "
      "to {:.0f})\n",
      passes, threads, rates[3], rates.front(), rates.back());
}

}  // namespace

int main() {
  for (const int threads : {2, 1})
    for (const int passes : {0, 1, 2}) speed(passes, threads);
  test::GrainScene scene;
  scene.light = 200;
  std::vector<Flow> cycle;
  for (int k = 0; k < 8; ++k) cycle.push_back([k](Point) { return Point{0.25 * k, 0.25 * k + 2.375}; });
  for (const double grains : {4.0, 8.0, 20.0})
    for (const int passes : {0, 1, 2}) {
      WindowSettings settings;
      settings.passes = passes;
      scene.per_pixel = grains / 1024;
      row(fmt::format("uniform, {} grains", grains).c_str(), scene, cycle, settings);
    }
  scene.per_pixel = 8.0 / 1024;
  WindowSettings settings;
  settings.sizes = {64, 32};
  row("shear of 0.1 px a px", scene, {[](Point p) { return Point{0.1 * (p.y - 256), 0}; }}, settings);
  row("solid turn of 0.05 px a px", scene, {[](Point p) {
        return Point{0.05 * (p.y - 256), -0.05 * (p.x - 256)};
      }},
      settings);
  row("vortex, core of 60 px, 6.4 px", scene, {[](Point p) {
        const Point d = p - Point{256, 256};
        const double r2 = d.x * d.x + d.y * d.y + 1e-9, c = 600 * (1 - std::exp(-r2 / 3600)) / r2;
        return Point{-c * d.y, c * d.x};
      }},
      settings);
  row("stagnation point, 0.04 px a px", scene, {[](Point p) {
        return Point{0.04 * (p.x - 256), -0.04 * (p.y - 256)};
      }},
      settings);
}
