#pragma once
/// Interpolation in plain double arithmetic, as its definitions read: slow, and nothing here is taken from the engine.
#include <cmath>
#include <vector>

#include "geometry/point.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"
#include "tests/support.h"

namespace fexel::test {

/// The sample that stands at any place, by counting there one pixel after the other.
inline int walked(int index, int count, BorderMode edge) {
  if (edge == BorderMode::fill || edge == BorderMode::extend || count == 1)
    return edge == BorderMode::tile ? 0 : std::clamp(index, 0, count - 1);
  int at = 0, way = 1;
  for (int i = 0; i != index; i += index > 0 ? 1 : -1) {
    if (edge == BorderMode::tile) {
      at = (at + (index > 0 ? 1 : count - 1)) % count;
      continue;
    }
    // Going up from 0, or down from 0: both begin at the first pixel; a mirror repeats its end, mirror once does not.
    if (i == 0 && index < 0) way = edge == BorderMode::mirror ? 0 : 1;
    at += way;
    if (way == 0) way = 1;
    if (at == count) {
      at = edge == BorderMode::mirror ? count - 1 : count - 2;
      way = -1;
    } else if (at == -1) {
      at = edge == BorderMode::mirror ? 0 : 1;
      way = 1;
    }
  }
  return at;
}

/// The coefficients of the cubic spline through a line of samples and its continuation, solved as a linear system.
inline std::vector<double> solved_spline(const std::vector<double>& samples) {
  const std::size_t n = samples.size();
  std::vector<double> diagonal(n, 4), right(n);
  for (std::size_t i = 0; i < n; ++i) right[i] = 6 * samples[i];
  for (std::size_t i = 1; i < n; ++i) {
    diagonal[i] -= 1 / diagonal[i - 1];
    right[i] -= right[i - 1] / diagonal[i - 1];
  }
  std::vector<double> out(n);
  out[n - 1] = right[n - 1] / diagonal[n - 1];
  for (std::size_t i = n - 1; i-- > 0;) out[i] = (right[i] - out[i + 1]) / diagonal[i];
  return out;
}

inline double plain_weight(Kernel kernel, double x) {
  const double t = std::abs(x);
  const auto sinc = [](double v) { return v == 0 ? 1 : std::sin(M_PI * v) / (M_PI * v); };
  switch (kernel) {
    case Kernel::nearest:
      return x > -0.5 && x <= 0.5 ? 1 : 0;
    case Kernel::cubic:
      return t < 1 ? 1.5 * t * t * t - 2.5 * t * t + 1 : t < 2 ? -0.5 * t * t * t + 2.5 * t * t - 4 * t + 2 : 0;
    case Kernel::lanczos3:
      return t < 3 ? sinc(t) * sinc(t / 3) : 0;
    case Kernel::bspline3:
      return t < 1 ? (4 - 6 * t * t + 3 * t * t * t) / 6 : t < 2 ? std::pow(2 - t, 3) / 6 : 0;
    default:
      return std::max(0.0, 1 - t);
  }
}

/// A picture that can be asked anywhere, in double; for the spline, its coefficients.
class Endless {
 public:
  Endless(const Image& source, int band, Kernel kernel, BorderMode edge)
      : width_(source.width()), height_(source.height()) {
    margin_ = kernel == Kernel::bspline3 ? 40 : 20;
    const int across = width_ + 2 * margin_, down = height_ + 2 * margin_;
    std::vector<std::vector<double>> rows;
    for (int y = 0; y < down; ++y) {
      std::vector<double> row;
      for (int x = 0; x < across; ++x)
        row.push_back(value(source, band, walked(x - margin_, width_, edge), walked(y - margin_, height_, edge)));
      rows.push_back(kernel == Kernel::bspline3 ? solved_spline(row) : row);
    }
    for (int x = 0; kernel == Kernel::bspline3 && x < across; ++x) {
      std::vector<double> column;
      for (const auto& row : rows) column.push_back(row[static_cast<std::size_t>(x)]);
      column = solved_spline(column);
      for (std::size_t y = 0; y < rows.size(); ++y) rows[y][static_cast<std::size_t>(x)] = column[y];
    }
    rows_ = std::move(rows);
    edge_ = edge;
    inner_ = kernel == Kernel::bspline3 ? 18 : 20;
  }
  double at(int x, int y) const { return rows_[place(y, height_)][place(x, width_)]; }

 private:
  std::size_t place(int index, int count) const {
    if (index < -inner_ || index >= count + inner_) {
      const bool ends = edge_ == BorderMode::fill || edge_ == BorderMode::extend;
      index = ends ? std::clamp(index, -inner_, count - 1 + inner_) : walked(index, count, edge_);
    }
    return static_cast<std::size_t>(index + margin_);
  }
  int width_, height_, margin_, inner_ = 0;
  BorderMode edge_ = BorderMode::fill;
  std::vector<std::vector<double>> rows_;
};

/// One result sample in plain double arithmetic: the sum over all kernel taps, divided by their weights' sum.
inline double plain_sample(const Endless& source, Kernel kernel, Point at) {
  const int cx = static_cast<int>(std::floor(at.x)), cy = static_cast<int>(std::floor(at.y));
  double across[9], down[9], all_across = 0, all_down = 0, sum = 0;
  for (int i = 0; i < 9; ++i) {
    all_across += across[i] = plain_weight(kernel, cx - 4 + i + 0.5 - at.x);
    all_down += down[i] = plain_weight(kernel, cy - 4 + i + 0.5 - at.y);
  }
  for (int j = 0; j < 9; ++j)
    for (int i = 0; i < 9; ++i)
      if (across[i] != 0 && down[j] != 0) sum += across[i] * down[j] * source.at(cx - 4 + i, cy - 4 + j);
  return sum / (all_across * all_down);
}

}  // namespace fexel::test
