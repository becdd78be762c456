#include "resample/sampler.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace fexel {
namespace {

/// Whole and fractional part of a coordinate, such that pixel centres are whole.
struct Tap {
  int whole;
  float part;
};
/// Any number, even none, becomes one that fits an int.
inline double bounded(double v) {
  return v > -1e9 ? (v < 1e9 ? v : 1e9) : -1e9;
}
inline Tap tap_at(double coordinate) {
  const double u = bounded(coordinate - 0.5);
  const double whole = std::floor(u);
  return {static_cast<int>(whole), static_cast<float>(u - whole)};
}

inline void cubic_weights(float t, float (&w)[4]) {
  const float t2 = t * t;
  const float t3 = t2 * t;
  w[0] = -0.5F * t3 + t2 - 0.5F * t;
  w[1] = 1.5F * t3 - 2.5F * t2 + 1.0F;
  w[2] = -1.5F * t3 + 2.0F * t2 + 0.5F * t;
  w[3] = 0.5F * t3 - 0.5F * t2;
}

template <class T>
struct Reader {
  const T* origin;
  std::ptrdiff_t stride;
  int right, bottom;
  Reader(const Image& image, int band)
      : origin(image.row<T>(band, 0)),
        stride(image.stride<T>()),
        right(image.width() - 1),
        bottom(image.height() - 1) {}
  bool holds(int x, int y, int columns, int rows) const {
    return x >= 0 && y >= 0 && x + columns - 1 <= right && y + rows - 1 <= bottom;
  }
  float clamped(int x, int y) const {
    return static_cast<float>(origin[std::clamp(y, 0, bottom) * stride + std::clamp(x, 0, right)]);
  }
};

template <class T>
void nearest_run(const Reader<T>& source, const Run& run, float* out) {
  for (int i = 0; i < run.count; ++i) {
    const auto n = static_cast<std::size_t>(i);
    const int x = static_cast<int>(std::floor(bounded(run.x[n])));
    const int y = static_cast<int>(std::floor(bounded(run.y[n])));
    out[i] = source.clamped(x, y);
  }
}

template <class T>
void linear_run(const Reader<T>& source, const Run& run, float* out) {
  for (int i = 0; i < run.count; ++i) {
    const Tap tx = tap_at(run.x[static_cast<std::size_t>(i)]);
    const Tap ty = tap_at(run.y[static_cast<std::size_t>(i)]);
    float p00, p01, p10, p11;
    if (source.holds(tx.whole, ty.whole, 2, 2)) {
      const T* p = source.origin + ty.whole * source.stride + tx.whole;
      p00 = static_cast<float>(p[0]);
      p01 = static_cast<float>(p[1]);
      p10 = static_cast<float>(p[source.stride]);
      p11 = static_cast<float>(p[source.stride + 1]);
    } else {
      p00 = source.clamped(tx.whole, ty.whole);
      p01 = source.clamped(tx.whole + 1, ty.whole);
      p10 = source.clamped(tx.whole, ty.whole + 1);
      p11 = source.clamped(tx.whole + 1, ty.whole + 1);
    }
    const float upper = p00 + tx.part * (p01 - p00);
    const float lower = p10 + tx.part * (p11 - p10);
    out[i] = upper + ty.part * (lower - upper);
  }
}

template <class T>
void cubic_run(const Reader<T>& source, const Run& run, float* out) {
  for (int i = 0; i < run.count; ++i) {
    const Tap tx = tap_at(run.x[static_cast<std::size_t>(i)]);
    const Tap ty = tap_at(run.y[static_cast<std::size_t>(i)]);
    float p[4][4];
    const int x0 = tx.whole - 1;
    const int y0 = ty.whole - 1;
    if (source.holds(x0, y0, 4, 4)) {
      const T* at = source.origin + y0 * source.stride + x0;
      for (int r = 0; r < 4; ++r, at += source.stride)
        for (int c = 0; c < 4; ++c) p[r][c] = static_cast<float>(at[c]);
    } else {
      for (int r = 0; r < 4; ++r)
        for (int c = 0; c < 4; ++c) p[r][c] = source.clamped(x0 + c, y0 + r);
    }
    float wx[4], wy[4];
    cubic_weights(tx.part, wx);
    cubic_weights(ty.part, wy);
    const float base = p[1][1];
    float sum = 0;
    for (int r = 0; r < 4; ++r) {
      float row = 0;
      for (int c = 0; c < 4; ++c) row += wx[c] * (p[r][c] - base);
      sum += wy[r] * row;
    }
    out[i] = base + sum;
  }
}

template <class T>
float weighted(const Reader<T>& source, const std::vector<float>& weights, int left, int top, int columns, int rows,
               bool inside) {
  const float base = source.clamped(left + columns / 2, top + rows / 2);
  float sum = 0;
  const float* w = weights.data();
  if (inside) {
    const T* at = source.origin + top * source.stride + left;
    for (int r = 0; r < rows; ++r, at += source.stride, w += columns) {
      float row = 0;
      for (int c = 0; c < columns; ++c) row += w[c] * (static_cast<float>(at[c]) - base);
      sum += row;
    }
  } else {
    for (int r = 0; r < rows; ++r, w += columns)
      for (int c = 0; c < columns; ++c) sum += w[c] * (source.clamped(left + c, top + r) - base);
  }
  return sum;
}

}  // namespace

void sample_plain(const Image& source, int band, Kernel kernel, const Run& run, float* out) {
  visit_depth(source.depth(), [&](auto sample) {
    const Reader<decltype(sample)> reader(source, band);
    switch (kernel) {
      case Kernel::nearest:
        return nearest_run(reader, run, out);
      case Kernel::linear:
        return linear_run(reader, run, out);
      case Kernel::cubic:
        return cubic_run(reader, run, out);
    }
  });
}

void ShrinkingSampler::place(const Image& source, double x, double y, const Matrix2& reach, const Matrix2& to_result) {
  x = bounded(x);
  y = bounded(y);
  const double radius = kernel_.radius();
  const double half_width = radius * (std::abs(reach(0, 0)) + std::abs(reach(0, 1)));
  const double half_height = radius * (std::abs(reach(1, 0)) + std::abs(reach(1, 1)));
  left_ = static_cast<int>(std::ceil(x - half_width - 0.5));
  top_ = static_cast<int>(std::ceil(y - half_height - 0.5));
  columns_ = static_cast<int>(std::floor(x + half_width - 0.5)) - left_ + 1;
  rows_ = static_cast<int>(std::floor(y + half_height - 0.5)) - top_ + 1;
  inside_ = left_ >= 0 && top_ >= 0 && left_ + columns_ <= source.width() && top_ + rows_ <= source.height();
  weights_.resize(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_));
  const auto ux = static_cast<float>(to_result(0, 0));
  const auto uy = static_cast<float>(to_result(0, 1));
  const auto vx = static_cast<float>(to_result(1, 0));
  const auto vy = static_cast<float>(to_result(1, 1));
  const auto dx0 = static_cast<float>(left_ + 0.5 - x);
  const auto dy0 = static_cast<float>(top_ + 0.5 - y);
  float total = 0;
  float* w = weights_.data();
  if (std::abs(uy) + std::abs(vx) < 1e-6F) {  // footprint along the source's axes: the weights are a product
    std::array<float, 256> across;
    const int stored = std::min(columns_, 256);
    for (int c = 0; c < stored; ++c) across[static_cast<std::size_t>(c)] = kernel_(ux * (dx0 + static_cast<float>(c)));
    for (int r = 0; r < rows_; ++r) {
      const float down = kernel_(vy * (dy0 + static_cast<float>(r)));
      for (int c = 0; c < columns_; ++c, ++w) {
        *w = down * (c < stored ? across[static_cast<std::size_t>(c)] : kernel_(ux * (dx0 + static_cast<float>(c))));
        total += *w;
      }
    }
  } else {
    for (int r = 0; r < rows_; ++r) {
      const float dy = dy0 + static_cast<float>(r);
      for (int c = 0; c < columns_; ++c, ++w) {
        const float dx = dx0 + static_cast<float>(c);
        *w = kernel_(ux * dx + uy * dy) * kernel_(vx * dx + vy * dy);
        total += *w;
      }
    }
  }
  inverse_sum_ = 1.0F / total;
}

float ShrinkingSampler::value(const Image& source, int band) const {
  return visit_depth(source.depth(), [&](auto sample) {
    const Reader<decltype(sample)> reader(source, band);
    return reader.clamped(left_ + columns_ / 2, top_ + rows_ / 2) +
           inverse_sum_ * weighted(reader, weights_, left_, top_, columns_, rows_, inside_);
  });
}

}  // namespace fexel
