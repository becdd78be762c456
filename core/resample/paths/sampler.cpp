#include "resample/paths/sampler.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "resample/kernels/prefilter.h"

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

/// Weights of the taps around a point that lies `t` behind its tap, 0 <= t < 1.
struct CubicWeights {
  static constexpr int taps = 4;
  void operator()(float t, float (&w)[4]) const {
    const float t2 = t * t;
    const float t3 = t2 * t;
    w[0] = -0.5F * t3 + t2 - 0.5F * t;
    w[1] = 1.5F * t3 - 2.5F * t2 + 1.0F;
    w[2] = -1.5F * t3 + 2.0F * t2 + 0.5F * t;
    w[3] = 0.5F * t3 - 0.5F * t2;
  }
};

struct SplineWeights {
  static constexpr int taps = 4;
  void operator()(float t, float (&w)[4]) const {
    const float s = 1 - t;
    w[0] = s * s * s * (1.0F / 6);
    w[3] = t * t * t * (1.0F / 6);
    w[1] = 2.0F / 3 - t * t * (1 - 0.5F * t);
    w[2] = 2.0F / 3 - s * s * (1 - 0.5F * s);
  }
};

/// From a table with linear interpolation: within 4e-7 of the kernel.
class LanczosWeights {
 public:
  static constexpr int taps = 6;
  void operator()(float t, float (&w)[6]) const {
    const float at = t * steps;
    const int i = std::min(static_cast<int>(at), steps - 1);
    const float part = at - static_cast<float>(i);
    const float* low = table().data() + static_cast<std::ptrdiff_t>(i) * taps;
    for (int k = 0; k < taps; ++k) w[k] = low[k] + part * (low[k + taps] - low[k]);
  }

 private:
  static constexpr int steps = 2048;
  static const std::vector<float>& table() {
    static const std::vector<float> made = [] {
      std::vector<float> out;
      for (int i = 0; i <= steps; ++i)
        for (int k = 0; k < taps; ++k)
          out.push_back(static_cast<float>(kernel_value(Kernel::lanczos3, k - 2 - static_cast<double>(i) / steps)));
      return out;
    }();
    return made;
  }
};

/// One band of a picture, with pixels around it that are read like its own where the rule extends the edge: there
/// coefficients swing out. Under the other rules they repeat with the picture.
template <class T>
struct Reader {
  const T* origin;
  std::ptrdiff_t stride;
  int width, height, margin;
  BorderMode edge;
  Reader(const Image& image, int band, BorderMode rule, int pixels_around = 0)
      : origin(image.row<T>(band, pixels_around) + pixels_around),
        stride(image.stride<T>()),
        width(image.width() - 2 * pixels_around),
        height(image.height() - 2 * pixels_around),
        margin(rule == BorderMode::fill || rule == BorderMode::extend ? pixels_around : 0),
        edge(rule) {}
  bool holds(int x, int y, int columns, int rows) const {
    return x >= -margin && y >= -margin && x + columns <= width + margin && y + rows <= height + margin;
  }
  int place(int index, int count) const {
    if (index >= -margin && index < count + margin) return index;
    if (edge == BorderMode::fill || edge == BorderMode::extend) return index < 0 ? -margin : count - 1 + margin;
    return folded(index, count, edge);
  }
  float at(int x, int y) const { return static_cast<float>(origin[place(y, height) * stride + place(x, width)]); }
};

template <class T>
void nearest_run(const Reader<T>& source, const SourcePoints& run, float* out) {
  for (int i = 0; i < run.count; ++i) {
    const auto n = static_cast<std::size_t>(i);
    const int x = static_cast<int>(std::floor(bounded(run.x[n])));
    const int y = static_cast<int>(std::floor(bounded(run.y[n])));
    out[i] = source.at(x, y);
  }
}

template <class T>
void linear_run(const Reader<T>& source, const SourcePoints& run, float* out) {
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
      p00 = source.at(tx.whole, ty.whole);
      p01 = source.at(tx.whole + 1, ty.whole);
      p10 = source.at(tx.whole, ty.whole + 1);
      p11 = source.at(tx.whole + 1, ty.whole + 1);
    }
    const float upper = p00 + tx.part * (p01 - p00);
    const float lower = p10 + tx.part * (p11 - p10);
    out[i] = upper + ty.part * (lower - upper);
  }
}

template <class T, class Weights>
void taps_run(const Reader<T>& source, const Weights& weights, const SourcePoints& run, float* out) {
  constexpr int taps = Weights::taps;
  constexpr int middle = taps / 2 - 1;
  for (int i = 0; i < run.count; ++i) {
    const Tap tx = tap_at(run.x[static_cast<std::size_t>(i)]);
    const Tap ty = tap_at(run.y[static_cast<std::size_t>(i)]);
    float p[taps][taps];
    const int x0 = tx.whole - middle;
    const int y0 = ty.whole - middle;
    if (source.holds(x0, y0, taps, taps)) {
      const T* at = source.origin + y0 * source.stride + x0;
      for (int r = 0; r < taps; ++r, at += source.stride)
        for (int c = 0; c < taps; ++c) p[r][c] = static_cast<float>(at[c]);
    } else {
      for (int r = 0; r < taps; ++r)
        for (int c = 0; c < taps; ++c) p[r][c] = source.at(x0 + c, y0 + r);
    }
    float wx[taps], wy[taps];
    weights(tx.part, wx);
    weights(ty.part, wy);
    const float base = p[middle][middle];
    float sum = 0;
    for (int r = 0; r < taps; ++r) {
      float row = 0;
      for (int c = 0; c < taps; ++c) row += wx[c] * (p[r][c] - base);
      sum += wy[r] * row;
    }
    out[i] = base + sum;
  }
}

}  // namespace

void sample_plain(const Image& source, int band, Kernel kernel, BorderMode edge, const SourcePoints& run, float* out) {
  if (kernel == Kernel::bspline3)
    return taps_run(Reader<float>(source, band, edge, prefilter_margin), SplineWeights(), run, out);
  visit_depth(source.depth(), [&](auto sample) {
    const Reader<decltype(sample)> reader(source, band, edge);
    switch (kernel) {
      case Kernel::nearest:
        return nearest_run(reader, run, out);
      case Kernel::cubic:
        return taps_run(reader, CubicWeights(), run, out);
      case Kernel::lanczos3:
        return taps_run(reader, LanczosWeights(), run, out);
      default:
        return linear_run(reader, run, out);
    }
  });
}

}  // namespace fexel
