// The vector code of move.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_MOVE_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_MOVE_INL_H
#undef FEXEL_RESAMPLE_MOVE_INL_H
#else
#define FEXEL_RESAMPLE_MOVE_INL_H
#endif

#include <hwy/highway.h>

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

/// `count` squares side by side in the result.
template <class T>
HWY_INLINE void turn_squares(const T* in, std::ptrdiff_t in_stride, T* out, std::ptrdiff_t out_stride, int count) {
  constexpr int side = square_side<T>;
  for (int k = 0; k < count; ++k) turn_one_square(in + k * side * in_stride, in_stride, out + k * side, out_stride);
}

void TurnU8(const std::uint8_t* in, std::ptrdiff_t in_stride, std::uint8_t* out, std::ptrdiff_t out_stride, int count) {
  turn_squares(in, in_stride, out, out_stride, count);
}
void TurnU16(const std::uint16_t* in, std::ptrdiff_t in_stride, std::uint16_t* out, std::ptrdiff_t out_stride,
             int count) {
  turn_squares(in, in_stride, out, out_stride, count);
}
void TurnF32(const float* in, std::ptrdiff_t in_stride, float* out, std::ptrdiff_t out_stride, int count) {
  turn_squares(in, in_stride, out, out_stride, count);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
