#include "resample/widened.h"

#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/widened.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/widened-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(WidenedU8);
HWY_EXPORT(WidenedU16);
HWY_EXPORT(WidenedF32);

namespace {

using Pieces = ShrinkingKernel::Pieces;
constexpr int widest = 16;  // floats in a vector, at most

void widen(const Pieces* pieces, const WidenedTaps& taps, const std::uint8_t* in, std::ptrdiff_t stride,
           std::ptrdiff_t plane, int bands, float* out) {
  HWY_DYNAMIC_DISPATCH(WidenedU8)(pieces, taps, in, stride, plane, bands, out);
}
void widen(const Pieces* pieces, const WidenedTaps& taps, const std::uint16_t* in, std::ptrdiff_t stride,
           std::ptrdiff_t plane, int bands, float* out) {
  HWY_DYNAMIC_DISPATCH(WidenedU16)(pieces, taps, in, stride, plane, bands, out);
}
void widen(const Pieces* pieces, const WidenedTaps& taps, const float* in, std::ptrdiff_t stride, std::ptrdiff_t plane,
           int bands, float* out) {
  HWY_DYNAMIC_DISPATCH(WidenedF32)(pieces, taps, in, stride, plane, bands, out);
}

/// Any number, even none, becomes one that fits an int.
double bounded(double v) {
  return v > -1e9 ? (v < 1e9 ? v : 1e9) : -1e9;
}

}  // namespace

void WidenedSampler::sample(double x, double y, const Matrix2& reach, const Matrix2& to_result, float* out,
                            std::ptrdiff_t apart) {
  x = bounded(x);
  y = bounded(y);
  const double radius = area_ ? 1 : kernel_.radius();
  const double half_width = radius * (std::abs(reach(0, 0)) + std::abs(reach(0, 1)));
  const double half_height = radius * (std::abs(reach(1, 0)) + std::abs(reach(1, 1)));
  const int left = static_cast<int>(std::ceil(x - half_width - 0.5));
  const int top = static_cast<int>(std::ceil(y - half_height - 0.5));
  WidenedTaps taps{};
  taps.columns = static_cast<int>(std::floor(x + half_width - 0.5)) - left + 1;
  taps.rows = static_cast<int>(std::floor(y + half_height - 0.5)) - top + 1;
  taps.x = static_cast<float>(left + 0.5 - x);
  taps.y = static_cast<float>(top + 0.5 - y);
  taps.ux = static_cast<float>(to_result(0, 0));
  taps.uy = static_cast<float>(to_result(0, 1));
  taps.vx = static_cast<float>(to_result(1, 0));
  taps.vy = static_cast<float>(to_result(1, 1));
  const auto end = static_cast<float>(radius);
  taps.end_u = area_ ? 0.5F + 0.5F * (std::abs(taps.ux) + std::abs(taps.uy)) : end;
  taps.end_v = area_ ? 0.5F + 0.5F * (std::abs(taps.vx) + std::abs(taps.vy)) : end;
  const Pieces* pieces = area_ ? nullptr : &kernel_.pieces();
  const int bands = source_.bands();
  // Whole vectors are read, beyond the last column into what comes next in memory.
  const int right = left + taps.columns + widest, bottom = top + taps.rows;
  if (left >= 0 && top >= 0 && left + taps.columns <= source_.width() && bottom <= source_.height() &&
      (right <= source_.width() || bottom < source_.height())) {
    visit_depth(source_.depth(), [&](auto sample) {
      using T = decltype(sample);
      const auto stride = source_.stride<T>();
      widen(pieces, taps, source_.row<T>(0, top) + left, stride, stride * source_.height(), bands, values_.data());
    });
  } else {
    const std::ptrdiff_t stride = taps.columns + widest;
    lay_out(taps, left, top, stride);
    widen(pieces, taps, laid_out_.data(), stride, stride * taps.rows, bands, values_.data());
  }
  for (int band = 0; band < bands; ++band) out[band * apart] = values_[static_cast<std::size_t>(band)];
}

void WidenedSampler::lay_out(const WidenedTaps& taps, int left, int top, std::ptrdiff_t stride) {
  const auto rows = static_cast<std::ptrdiff_t>(taps.rows);
  const auto needed = static_cast<std::size_t>(stride * rows * source_.bands());
  if (laid_out_.size() < needed) laid_out_.resize(needed);
  visit_depth(source_.depth(), [&](auto sample) {
    for (int band = 0; band < source_.bands(); ++band)
      for (int r = 0; r < taps.rows; ++r) {
        const auto* in = source_.row<decltype(sample)>(band, folded(top + r, source_.height(), edge_));
        float* out = laid_out_.data() + (band * rows + r) * stride;
        for (int c = 0; c < taps.columns; ++c)
          out[c] = static_cast<float>(in[folded(left + c, source_.width(), edge_)]);
      }
  });
}

}  // namespace fexel
#endif
