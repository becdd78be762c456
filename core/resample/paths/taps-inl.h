// Sums of taps under the weights of a kernel; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_TAPS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_TAPS_INL_H
#undef FEXEL_RESAMPLE_TAPS_INL_H
#else
#define FEXEL_RESAMPLE_TAPS_INL_H
#endif

#include "resample/kernels/weights-inl.h"
#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
/// Samples at byte offsets from p, and their right neighbours.
template <int taps>
HWY_INLINE void gather(const std::uint8_t* p, I offsets, F* out) {
  // Four bytes at a time; only bytes of the taps are used.
  for (int first = 0; first < taps; first += 4) {
    const int from = taps - first < 4 && taps > 4 ? taps - 4 : first;
    const auto four =
        hn::BitCast(unsigneds, hn::GatherOffset(ints, reinterpret_cast<const std::int32_t*>(p + from), offsets));
    for (int k = first; k < taps && k < first + 4; ++k) {
      const auto one = hn::And(hn::ShiftRightSame(four, 8 * (k - from)), hn::Set(unsigneds, 255U));
      out[k] = hn::ConvertTo(floats, hn::BitCast(ints, one));
    }
  }
}
template <int taps>
HWY_INLINE void gather(const std::uint16_t* p, I offsets, F* out) {
  for (int k = 0; k < taps; k += 2) {
    const auto two =
        hn::BitCast(unsigneds, hn::GatherOffset(ints, reinterpret_cast<const std::int32_t*>(p + k), offsets));
    out[k] = hn::ConvertTo(floats, hn::BitCast(ints, hn::And(two, hn::Set(unsigneds, 65535U))));
    out[k + 1] = hn::ConvertTo(floats, hn::BitCast(ints, hn::ShiftRight<16>(two)));
  }
}
template <int taps>
HWY_INLINE void gather(const float* p, I offsets, F* out) {
  for (int k = 0; k < taps; ++k) out[k] = hn::GatherOffset(floats, p + k, offsets);
}

/// The weighted sum of n numbers whose weights sum to one: from the differences to the middle one, so that equal
/// numbers come out as they are. Where rounding hides that anyway, from the numbers themselves.
template <bool differences>
HWY_INLINE F weighted(const F* p, const F* w, int n, int middle) {
  if constexpr (differences) {
    auto sum = p[middle];
    for (int k = 0; k < n; ++k)
      if (k != middle) sum = hn::MulAdd(w[k], hn::Sub(p[k], p[middle]), sum);
    return sum;
  } else {
    auto sum = hn::Mul(p[0], w[0]);
    for (int k = 1; k < n; ++k) sum = hn::MulAdd(w[k], p[k], sum);
    return sum;
  }
}

/// Weights for taps that begin at the row's first place, for lanes that stand 0 to `span` places further.
template <int taps, int span>
HWY_INLINE void spread(const F* w, I place, F* out) {
  if constexpr (span == 0) {
    for (int k = 0; k < taps; ++k) out[k] = w[k];
  } else {
    for (int k = 0; k < taps + span; ++k) out[k] = hn::Zero(floats);
    for (int shift = 0; shift <= span; ++shift) {
      const auto here = hn::RebindMask(floats, hn::Eq(place, hn::Set(ints, shift)));
      for (int k = 0; k < taps; ++k) out[k + shift] = hn::IfThenElse(here, w[k], out[k + shift]);
    }
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
