// The vector code of copy.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_MOVE_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_MOVE_INL_H
#undef FEXEL_RESAMPLE_MOVE_INL_H
#else
#define FEXEL_RESAMPLE_MOVE_INL_H
#endif

#include "resample/paths/transpose-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {

/// `count` squares side by side in the result.
template <class T>
HWY_INLINE void transpose_tiles(const T* in, std::ptrdiff_t in_stride, T* out, std::ptrdiff_t out_stride, int count) {
  constexpr int side = square_side<T>;
  for (int k = 0; k < count; ++k) turn_one_square(in + k * side * in_stride, in_stride, out + k * side, out_stride);
}

void TurnU8(const std::uint8_t* in, std::ptrdiff_t in_stride, std::uint8_t* out, std::ptrdiff_t out_stride, int count) {
  transpose_tiles(in, in_stride, out, out_stride, count);
}
void TurnU16(const std::uint16_t* in, std::ptrdiff_t in_stride, std::uint16_t* out, std::ptrdiff_t out_stride,
             int count) {
  transpose_tiles(in, in_stride, out, out_stride, count);
}
void TurnF32(const float* in, std::ptrdiff_t in_stride, float* out, std::ptrdiff_t out_stride, int count) {
  transpose_tiles(in, in_stride, out, out_stride, count);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
