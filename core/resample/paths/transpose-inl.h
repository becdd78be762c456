// Squares of samples whose rows become columns; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_SQUARES_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_SQUARES_INL_H
#undef FEXEL_RESAMPLE_SQUARES_INL_H
#else
#define FEXEL_RESAMPLE_SQUARES_INL_H
#endif

#include <hwy/highway.h>

#ifndef FEXEL_RESAMPLE_SQUARE_SIDE
#define FEXEL_RESAMPLE_SQUARE_SIDE
namespace fexel {

/// Rows and columns that are turned at once.
template <class T>
constexpr int square_side = 16 / sizeof(T);

}  // namespace fexel
#endif

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// Rows become columns: sample (c, r) of `out` is sample (r, c) of `in`, for square_side<T> of each.
template <class T>
HWY_INLINE void turn_one_square(const T* in, std::ptrdiff_t in_stride, T* out, std::ptrdiff_t out_stride) {
  constexpr int side = square_side<T>;
#if HWY_TARGET == HWY_SCALAR
  for (int r = 0; r < side; ++r)
    for (int c = 0; c < side; ++c) out[c * out_stride + r] = in[r * in_stride + c];
#else
  const hn::FixedTag<T, side> row;
  using Row = hn::Vec<decltype(row)>;
  Row a[side], b[side];
  for (int r = 0; r < side; ++r) a[r] = hn::LoadU(row, in + r * in_stride);
  // Each pass interleaves the first half of the rows with the second; as many passes as the side has bits.
  for (int size = 1; size < side; size *= 2) {
    for (int r = 0; r < side / 2; ++r) {
      b[2 * r] = hn::InterleaveLower(row, a[r], a[r + side / 2]);
      b[2 * r + 1] = hn::InterleaveUpper(row, a[r], a[r + side / 2]);
    }
    for (int r = 0; r < side; ++r) a[r] = b[r];
  }
  for (int r = 0; r < side; ++r) hn::StoreU(a[r], row, out + r * out_stride);
#endif
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
