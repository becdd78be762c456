#include "resample/paths/separable.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/separable.cpp"
#include <hwy/aligned_allocator.h>
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/kernels/footprint.h"

#ifndef FEXEL_RESAMPLE_SCALE_TILE
#define FEXEL_RESAMPLE_SCALE_TILE
namespace fexel {

constexpr int scale_rows = 16;  // rows that are summed side by side

/// Pixels of the plan's region.
struct ScaleTile {
  int x0, y0, x1, y1;
};

/// Numbers that begin where a vector may.
class AlignedFloats {
 public:
  /// What was there before is lost.
  void resize(std::size_t count) {
    if (count > size_) floats_ = hwy::AllocateAligned<float>(size_ = count);
  }
  float* data() { return floats_.get(); }

 private:
  hwy::AlignedFreeUniquePtr<float[]> floats_;
  std::size_t size_ = 0;
};

/// What a thread works in, kept from tile to tile.
struct ScaleBuffers {
  std::vector<const std::byte*> rows;
  AlignedFloats lines, across, result;  // for bytes, lines and across hold pairs of 16-bit numbers
};

}  // namespace fexel
#endif

#include "resample/paths/separable-inl.h"
#include "resample/paths/separable_bytes-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(ScaleBand);
HWY_EXPORT(ScaleBytes);
HWY_EXPORT(RoundRow);
HWY_EXPORT(HalveRow);

namespace {

/// A kernel's value and half width along an axis, in source pixels, before the weights are made to sum to one.
class AxisKernel {
 public:
  AxisKernel(const Resampling& resampling, bool spline, double scale)
      : kernel_(resampling.kernel), spline_(spline), reach_(std::max(scale, 1.0)) {
    const bool widens = resampling.antialias && !spline;
    area_ = kernel_ == Kernel::area && resampling.antialias;
    mix_ = widens && !area_ ? shrinking_share(scale) : 0;
    if (!widens) reach_ = 1;
  }
  double radius() const {
    if (area_) return 0.5 * reach_ + 0.5;
    const double plain = spline_ ? 2 : reach_ > 1 ? reach_ * kernel_radius(kernel_) : kernel_radius(kernel_);
    return mix_ > 0 ? std::max(plain, reach_ * ShrinkingKernel::of(kernel_).radius()) : plain;
  }
  /// At a distance in source pixels. `plain` and `wide` have sums of their own.
  double plain(double x) const {
    if (area_) return std::clamp(0.5 * reach_ + 0.5 - std::abs(x), 0.0, 1.0);
    if (!spline_ && reach_ > 1) return ShrinkingKernel::not_widened(kernel_)(static_cast<float>(x / reach_));
    if (!spline_) return kernel_value(kernel_, x);
    const double t = std::abs(x);
    return t < 1 ? 2.0 / 3 - t * t + t * t * t / 2 : t < 2 ? (2 - t) * (2 - t) * (2 - t) / 6 : 0;
  }
  double wide(double x) const { return ShrinkingKernel::of(kernel_)(static_cast<float>(x / reach_)); }
  double mix() const { return mix_; }

 private:
  Kernel kernel_;
  bool spline_, area_ = false;
  double reach_, mix_ = 0;
};

/// Where every result pixel is the mean of two by two source pixels: whole sums, rounded to nearest, halves to even.
template <class T>
bool halve(const ScalePlan& plan, int band, int x0, int x1, int row, T* out) {
  if constexpr (sizeof(T) == 4) {
    return false;
  } else {
    const int x = plan.columns.first[static_cast<std::size_t>(x0)], y = plan.rows.first[static_cast<std::size_t>(row)];
    const Image& source = *plan.source;
    if (x < 0 || y < 0 || x + 2 * (x1 - x0) > source.width() || y + 2 > source.height()) return false;
    HWY_DYNAMIC_DISPATCH(HalveRow)
    (source.bytes(band, y), source.bytes(band, y + 1), source.depth(), x, x1 - x0, reinterpret_cast<std::byte*>(out));
    return true;
  }
}

}  // namespace

bool halves(const Taps& taps) {
  if (taps.taps != 2 || taps.first.empty()) return false;
  for (std::size_t i = 0; i < taps.first.size(); ++i)
    if (taps.first[i] != taps.first[0] + 2 * static_cast<int>(i)) return false;
  return std::ranges::all_of(taps.weights, [](float w) { return w == 0.5F; });
}

std::optional<Scaling> pure_scaling(const Matrix3& inverse_map) {
  if (!(inverse_map(2, 2) > 0) || inverse_map(2, 0) != 0 || inverse_map(2, 1) != 0) return std::nullopt;
  const Matrix3 m = inverse_map / inverse_map(2, 2);
  if (m(0, 1) != 0 || m(1, 0) != 0 || !(m(0, 0) > 0) || !(m(1, 1) > 0)) return std::nullopt;
  return Scaling{m(0, 0), m(0, 2), m(1, 1), m(1, 2)};
}

Taps axis_taps(const Resampling& resampling, bool spline, double scale, double offset, int begin, int end) {
  const AxisKernel kernel(resampling, spline, scale);
  const int most = static_cast<int>(std::ceil(2 * kernel.radius())) + 1;
  std::vector<double> plain(static_cast<std::size_t>(most)), wide(plain.size());
  std::vector<float> weights(plain.size());
  struct Row {
    int from, to;  // taps that weigh something
  };
  std::vector<float> all;
  std::vector<Row> rows;
  Taps out;
  // Weights are largest where a pixel stands on one of the source's; their sum changes little from place to place.
  constexpr int phases = 32;
  out.largest = 0;
  for (int phase = 0; phase < phases; ++phase) {
    double plain_max = 0, wide_max = 0, plain_sum = 0, wide_sum = 0;
    for (int k = -most; k <= most; ++k) {
      const double x = k + static_cast<double>(phase) / phases;
      const double p = kernel.mix() < 1 ? kernel.plain(x) : 0, w = kernel.mix() > 0 ? kernel.wide(x) : 0;
      plain_sum += p, wide_sum += w;
      plain_max = std::max(plain_max, std::abs(p)), wide_max = std::max(wide_max, std::abs(w));
    }
    const double weight = (plain_sum != 0 ? (1 - kernel.mix()) * plain_max / plain_sum : 0) +
                          (wide_sum != 0 ? kernel.mix() * wide_max / wide_sum : 0);
    out.largest = std::max(out.largest, static_cast<float>(weight));
  }
  constexpr float spare = 1.002F;  // between the places that were looked at
  out.largest = std::min(out.largest * spare, std::max(1.0F, out.largest));
  double last_part = -1;
  for (int i = begin; i < end; ++i) {
    const double centre = std::clamp(scale * (i + 0.5) + offset, -1e8, 1e8);
    const int first = static_cast<int>(std::ceil(centre - kernel.radius() - 0.5));
    if (const double part = centre - first; part == last_part) {
      // The pixel before stood the same way between its source pixels.
      out.first.push_back(first + rows.back().from);
      rows.push_back(rows.back());
      all.insert(all.end(), weights.begin(), weights.end());
      continue;
    } else {
      last_part = part;
    }
    double plain_sum = 0, wide_sum = 0;
    for (int k = 0; k < most; ++k) {
      const auto n = static_cast<std::size_t>(k);
      plain_sum += plain[n] = kernel.mix() < 1 ? kernel.plain(first + k + 0.5 - centre) : 0;
      wide_sum += wide[n] = kernel.mix() > 0 ? kernel.wide(first + k + 0.5 - centre) : 0;
    }
    for (std::size_t n = 0; n < weights.size(); ++n)
      weights[n] = static_cast<float>((plain_sum != 0 ? (1 - kernel.mix()) * plain[n] / plain_sum : 0) +
                                      (wide_sum != 0 ? kernel.mix() * wide[n] / wide_sum : 0));
    // Taps that weigh nothing at either end are left out, as far as all pixels can spare them.
    std::size_t from = 0, to = weights.size();
    while (from + 1 < to && std::abs(weights[from]) < 1e-9F) ++from;
    while (to - 1 > from && std::abs(weights[to - 1]) < 1e-9F) --to;
    out.first.push_back(first + static_cast<int>(from));
    rows.push_back({static_cast<int>(from), static_cast<int>(to)});
    all.insert(all.end(), weights.begin(), weights.end());
    out.taps = std::max(out.taps, static_cast<int>(to - from));
  }
  out.weights.assign(rows.size() * static_cast<std::size_t>(out.taps), 0);
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const auto in = all.begin() + static_cast<std::ptrdiff_t>(i * weights.size());
    std::copy(in + rows[i].from, in + rows[i].to, out.weights.begin() + static_cast<std::ptrdiff_t>(i) * out.taps);
  }
  return out;
}

TapPairs tap_pairs(const Taps& taps, int max_bits, bool even) {
  const float most = std::max(1e-3F, taps.largest);
  TapPairs out;
  while (out.bits < max_bits && std::ldexp(most, out.bits + 1) < 32767) ++out.bits;
  out.pairs = taps.taps / 2 + 1;
  out.first.reserve(taps.first.size());
  out.weights.assign(taps.first.size() * static_cast<std::size_t>(out.pairs), 0);
  const double unit = std::ldexp(1.0, out.bits);
  constexpr double above = 1 << 22;  // sums are never so far below nothing
  const float* in = taps.weights.data();
  std::int32_t* pairs = out.weights.data();
  for (const int first : taps.first) {
    const int aside = even ? first & 1 : 0;
    out.first.push_back(first - aside);
    // Rounded sums have differences that sum to the last one.
    double sum = above + 0.5;
    std::int32_t before = 1 << 22;
    for (int k = aside; k < taps.taps + aside; ++k) {
      sum += unit * static_cast<double>(*in++);
      const auto now = k + 1 == taps.taps + aside ? (1 << 22) + (1 << out.bits) : static_cast<std::int32_t>(sum);
      const auto weight = static_cast<std::uint32_t>(now - before);
      pairs[k / 2] |= static_cast<std::int32_t>(k % 2 == 0 ? weight & 0xffff : weight << 16);
      before = now;
    }
    pairs += out.pairs;
  }
  return out;
}

void ScalePlan::pair_up() {
  if (source->depth() != Depth::u8) return;
  // Sums over columns are of numbers of up to 15 bits, over rows of 8.
  column_pairs = tap_pairs(columns, 16, true);
  row_pairs = tap_pairs(rows, 21, false);
}

std::int64_t scale_tile(const ScalePlan& plan, int x0, int y0, int x1, int y1, const Clip& painted, Image& out) {
  thread_local ScaleBuffers buffers;
  std::int64_t clamped = 0;
  const bool halving = plan.halves;
  const std::ptrdiff_t stride = (x1 - x0 + 3) / 4 * 4;
  const auto sample_bytes = static_cast<std::ptrdiff_t>(bytes_of(out.depth()));
  for (int y = y0; y < y1; y += scale_rows) {
    const ScaleTile tile{x0, y, x1, std::min(y + scale_rows, y1)};
    for (int band = 0; band < out.bands(); ++band) {
      bool summed = false;
      for (int row = tile.y0; row < tile.y1; ++row) {
        const auto span = painted.row(plan.region.y + row + 0.5, plan.region.x + x0, plan.region.x + x1);
        if (span.begin >= span.end) continue;
        const int begin = span.begin - plan.region.x, end = span.end - plan.region.x;
        std::byte* to = out.bytes(band, row) + begin * sample_bytes;
        if (halving && visit_depth(out.depth(), [&](auto sample) {
              return halve(plan, band, begin, end, row, reinterpret_cast<decltype(sample)*>(to));
            }))
          continue;
        if (!summed && plan.row_pairs.pairs > 0)
          HWY_DYNAMIC_DISPATCH(ScaleBytes)(plan, band, tile, buffers);
        else if (!summed)
          HWY_DYNAMIC_DISPATCH(ScaleBand)(plan, band, tile, buffers);
        summed = true;
        const float* values =
            buffers.result.data() + static_cast<std::ptrdiff_t>(row - tile.y0) * stride + (begin - x0);
        HWY_DYNAMIC_DISPATCH(RoundRow)(values, to, out.depth(), end - begin, clamped);
      }
    }
  }
  return clamped;
}

}  // namespace fexel
#endif
