// Sums of rows and columns under a symmetric kernel, compiled once for each instruction set.
#if defined(FEXEL_FILTER_GAUSSIAN_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_FILTER_GAUSSIAN_INL_H
#undef FEXEL_FILTER_GAUSSIAN_INL_H
#else
#define FEXEL_FILTER_GAUSSIAN_INL_H
#endif

#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
/// Vectors that are summed side by side, so that no sum waits for itself.
constexpr int sums_at_once = 4;
constexpr int float_lanes = static_cast<int>(hn::MaxLanes(floats));

/// A row as floats.
template <class T>
HWY_INLINE void read_row(const T* in, int count, float* out) {
  int x = 0;
  for (; x + float_lanes <= count; x += float_lanes) hn::StoreU(load(in + x), floats, out + x);
  for (; x < count; ++x) out[x] = static_cast<float>(in[x]);
}

/// The sum of taps 1 to `reach` on both sides and of the middle, farthest first, for pixels [0, count) and up to
/// smooth_block more. `pair(k, x)` is the sum of taps k on either side.
template <class Pair, class Middle>
HWY_INLINE void sum_symmetric(const float* weights, int reach, int count, float* out, const Pair& pair,
                              const Middle& middle) {
  for (int x = 0; x < count; x += sums_at_once * float_lanes) {
    F sums[sums_at_once];
    for (F& sum : sums) sum = hn::Zero(floats);
    for (int k = reach; k > 0; --k) {
      const auto weight = hn::Set(floats, weights[k]);
      for (int v = 0; v < sums_at_once; ++v) sums[v] = hn::MulAdd(pair(k, x + v * float_lanes), weight, sums[v]);
    }
    const auto weight = hn::Set(floats, weights[0]);
    for (int v = 0; v < sums_at_once; ++v)
      hn::StoreU(hn::MulAdd(middle(x + v * float_lanes), weight, sums[v]), floats, out + x + v * float_lanes);
  }
}

/// Along a row that can be read for `reach` pixels on either side, and smooth_block more.
void SmoothAlong(const float* in, const float* weights, int reach, int count, float* out) {
  sum_symmetric(
      weights, reach, count, out,
      [&](int k, int x) HWY_ATTR { return hn::Add(hn::LoadU(floats, in + x - k), hn::LoadU(floats, in + x + k)); },
      [&](int x) HWY_ATTR { return hn::LoadU(floats, in + x); });
}
/// Across rows: row r becomes the sum of rows r to r + 2 reach. A few columns are worked on from top to bottom, so that
/// what they need stays at hand.
void SmoothAcross(float* first, std::ptrdiff_t stride, const float* weights, int reach, int count, int rows) {
  constexpr int columns = sums_at_once * float_lanes;
  const std::ptrdiff_t to_middle = reach * stride;
  for (int begin = 0; begin < count; begin += columns) {
    float* row = first + begin;
    for (int r = 0; r < rows; ++r, row += stride) {
      const float* middle = row + to_middle;
      sum_symmetric(
          weights, reach, columns, row,
          [&](int k, int x) HWY_ATTR {
            const float* at = middle + x;
            return hn::Add(hn::LoadU(floats, at - k * stride), hn::LoadU(floats, at + k * stride));
          },
          [&](int x) HWY_ATTR { return hn::LoadU(floats, middle + x); });
    }
  }
}

/// Rounds and clamps; with `in`, what that differs from the sums, about a middle.
template <class T>
HWY_INLINE void write_row(const float* sums, const T* in, float middle, int count, T* out) {
  std::int64_t none = 0;
  const auto value = [&](const float* sum, const T* sample) HWY_ATTR {
    const auto smooth = hn::LoadU(floats, sum);
    return in ? hn::Add(hn::Sub(load(sample), smooth), hn::Set(floats, middle)) : smooth;
  };
  int x = 0;
  for (; x + float_lanes <= count; x += float_lanes) put(value(sums + x, in + x), out + x, false, 0, none);
  if (x == count) return;
  T samples[float_lanes] = {}, last[float_lanes];
  if (in) std::copy(in + x, in + count, samples);
  put(value(sums + x, samples), last, false, 0, none);
  std::copy_n(last, count - x, out + x);
}

void ReadRowU8(const std::uint8_t* in, int count, float* out) {
  read_row(in, count, out);
}
void ReadRowU16(const std::uint16_t* in, int count, float* out) {
  read_row(in, count, out);
}
void WriteRowU8(const float* sums, const std::uint8_t* in, float middle, int count, std::uint8_t* out) {
  write_row(sums, in, middle, count, out);
}
void WriteRowU16(const float* sums, const std::uint16_t* in, float middle, int count, std::uint16_t* out) {
  write_row(sums, in, middle, count, out);
}
void WriteRowF32(const float* sums, const float* in, float middle, int count, float* out) {
  write_row(sums, in, middle, count, out);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
