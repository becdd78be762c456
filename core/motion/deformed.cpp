#include "motion/deformed.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace fexel {
namespace {

constexpr int reach = 8;      // pixels along an axis that a sample is made of
constexpr int phases = 2048;  // of a pixel, that have weights
constexpr double kaiser = 3;  // of the window that the sinc ends in

/// Weights of a sinc under a Kaiser window, for each phase; their sum is 1.
const std::vector<std::array<float, reach>>& sinc_weights() {
  static const auto made = [] {
    std::vector<std::array<float, reach>> out(phases + 1);
    for (int p = 0; p <= phases; ++p) {
      std::array<double, reach> w{};
      double sum = 0;
      for (int k = 0; k < reach; ++k) {
        const double x = static_cast<double>(p) / phases - (k - reach / 2 + 1), part = x / (reach / 2);
        const double pi = 3.14159265358979323846;
        const double sinc = std::abs(x) < 1e-12 ? 1 : std::sin(pi * x) / (pi * x);
        w[static_cast<std::size_t>(k)] =
            std::abs(part) < 1 ? sinc * std::cyl_bessel_i(0, kaiser * std::sqrt(1 - part * part)) : 0;
        sum += w[static_cast<std::size_t>(k)];
      }
      for (std::size_t k = 0; k < reach; ++k) out[static_cast<std::size_t>(p)][k] = static_cast<float>(w[k] / sum);
    }
    return out;
  }();
  return made;
}

}  // namespace

DenseMotion::DenseMotion(const MotionGrid& grid, std::vector<Point> moved) : grid_(grid), moved_(std::move(moved)) {}

DenseMotion::Between DenseMotion::between(double at, double first, int step, int count) {
  if (count < 2) return {0, 0};
  const double line = (at - first) / step;
  const int before = std::clamp(static_cast<int>(std::floor(line)), 0, count - 2);
  return {before, std::clamp(line - before, -1.0, 2.0)};
}

Point DenseMotion::at(Point place) const {
  const Between x = between(place.x, grid_.first.x, grid_.step_x, grid_.columns),
                y = between(place.y, grid_.first.y, grid_.step_y, grid_.rows);
  const int right = std::min(x.first + 1, grid_.columns - 1), below = std::min(y.first + 1, grid_.rows - 1);
  const auto line = [&](int row) {
    const Point from = of(x.first, row);
    return from + x.part * (of(right, row) - from);
  };
  const Point top = line(y.first);
  return top + y.part * (line(below) - top);
}

void DenseMotion::row(int y, int width, std::vector<Point>& out) const {
  out.resize(static_cast<std::size_t>(width));
  const Between down = between(y + 0.5, grid_.first.y, grid_.step_y, grid_.rows);
  const int below = std::min(down.first + 1, grid_.rows - 1);
  std::vector<Point> line(static_cast<std::size_t>(grid_.columns));
  for (int c = 0; c < grid_.columns; ++c) {
    const Point top = of(c, down.first);
    line[static_cast<std::size_t>(c)] = top + down.part * (of(c, below) - top);
  }
  for (int x = 0; x < width; ++x) {
    const Between across = between(x + 0.5, grid_.first.x, grid_.step_x, grid_.columns);
    const Point from = line[static_cast<std::size_t>(across.first)];
    const Point to = line[static_cast<std::size_t>(std::min(across.first + 1, grid_.columns - 1))];
    out[static_cast<std::size_t>(x)] = from + across.part * (to - from);
  }
}

Image deformed(const MotionFrame& frame, const DenseMotion& motion, double share, const Job& job) {
  const int width = frame.size().width, height = frame.size().height;
  const Image& plane = frame.plane();
  const auto& weights = sinc_weights();
  Image out(width, height, 1, Depth::f32, Image::Start::unset);
  std::vector<char> beyond(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0);
  parallel_for(height, job, [&](int y) {
    thread_local std::vector<Point> moved;
    motion.row(y, width, moved);
    float* to = out.row<float>(0, y);
    char* off = beyond.data() + static_cast<std::ptrdiff_t>(y) * width;
    for (int x = 0; x < width; ++x) {
      const Point d = moved[static_cast<std::size_t>(x)];
      const double sx = x + share * d.x, sy = y + share * d.y;
      if (!(sx >= -0.5 && sy >= -0.5 && sx <= width - 0.5 && sy <= height - 0.5)) {
        to[x] = 0;
        off[x] = 1;
        continue;
      }
      if (frame.masked() && !frame.counts(static_cast<int>(sx + 0.5), static_cast<int>(sy + 0.5))) off[x] = 1;
      // The whole pixel below, of numbers above -1.
      const int column = static_cast<int>(sx + 1) - 1, row = static_cast<int>(sy + 1) - 1;
      const float* wx = weights[static_cast<std::size_t>((sx - column) * phases + 0.5)].data();
      const float* wy = weights[static_cast<std::size_t>((sy - row) * phases + 0.5)].data();
      const int left = column - reach / 2 + 1, top = row - reach / 2 + 1;
      float along[reach] = {};
      if (left >= 0 && top >= 0 && left + reach <= width && top + reach <= height) {
        for (int j = 0; j < reach; ++j) {
          const float* from = plane.row<float>(0, top + j) + left;
          for (int i = 0; i < reach; ++i) along[i] += wy[j] * from[i];
        }
      } else {
        for (int j = 0; j < reach; ++j) {
          const float* from = plane.row<float>(0, std::clamp(top + j, 0, height - 1));
          for (int i = 0; i < reach; ++i) along[i] += wy[j] * from[std::clamp(left + i, 0, width - 1)];
        }
      }
      float sum = 0;
      for (int i = 0; i < reach; ++i) sum += along[i] * wx[i];
      to[x] = sum;
    }
  });
  if (std::ranges::any_of(beyond, [](char b) { return b != 0; })) {
    out.make_mask(true);
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x)
        if (beyond[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)] != 0)
          out.set_valid(x, y, false);
  }
  return out;
}

Image counted_plane(const MotionFrame& frame) {
  Image out = frame.plane().clone();
  if (!frame.masked()) return out;
  out.make_mask(true);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      if (!frame.counts(x, y)) out.set_valid(x, y, false);
  return out;
}

}  // namespace fexel
