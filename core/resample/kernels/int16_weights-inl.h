// The weights of the kernels in vectors of 16-bit numbers; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_INT16_WEIGHTS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_INT16_WEIGHTS_INL_H
#undef FEXEL_RESAMPLE_INT16_WEIGHTS_INL_H
#else
#define FEXEL_RESAMPLE_INT16_WEIGHTS_INL_H
#endif

#include <hwy/highway.h>

#include "resample/kernels/kernel.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
namespace hn = hwy::HWY_NAMESPACE;
/// Pixels that are interpolated together.
constexpr int int16_block = 32;
using Signed = hn::CappedTag<std::int16_t, int16_block>;
using Counts = hn::RebindToUnsigned<Signed>;
using Word = hn::Vec<Signed>;
using Count = hn::Vec<Counts>;
constexpr Signed int16_tag;
constexpr Counts count_tag;
constexpr std::size_t int16_lanes = hn::MaxLanes(int16_tag), int16_vectors = int16_block / int16_lanes;

/// Weights are in units of -2^-15: of the two signs only the negative one holds a one.
constexpr std::int16_t minus_one = -32768;
HWY_INLINE Word all_of(std::int16_t value) {
  return hn::Set(int16_tag, value);
}

struct CubicInt16Weights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(Word t, Word* w) const {
    const auto behind = hn::Add(t, all_of(minus_one));  // t - 1
    const auto half = hn::MulFixedPoint15(hn::ShiftRight<1>(t), behind);
    w[0] = hn::MulFixedPoint15(half, behind);
    const auto last = hn::MulFixedPoint15(half, t);
    w[3] = hn::Neg(last);
    w[2] = hn::Add(hn::Sub(w[0], t), hn::Add(last, last));
    w[1] = hn::SaturatedSub(hn::SaturatedSub(all_of(minus_one), w[2]), hn::Add(w[0], w[3]));
  }
};

/// Even and odd polynomials in u, twice the distance from the middle between two pixels, as LanczosWeights.
struct LanczosInt16Weights {
  static constexpr int taps = 6, terms = 4;
  struct Polynomials {
    std::int16_t even[3][terms], odd[3][terms];
    Polynomials() {
      const LanczosFit& fit = lanczos_fit(terms);
      for (int k = 0; k < 3; ++k)
        for (int i = 0; i < terms; ++i) {
          const double scale = std::ldexp(-32768.0, -2 * i);
          even[k][i] = static_cast<std::int16_t>(std::lround(scale * fit.even[k][i]));
          odd[k][i] = static_cast<std::int16_t>(std::lround(scale / 2 * fit.odd[k][i]));
        }
    }
  };
  static const Polynomials& polynomials() {
    static const Polynomials made;
    return made;
  }
  const Polynomials& of = polynomials();
  HWY_INLINE void operator()(Word t, Word* w) const {
    const auto u = hn::Max(hn::Add(hn::Add(t, t), all_of(minus_one)), all_of(minus_one + 1));
    const auto u2 = hn::MulFixedPoint15(u, u);
    for (int k = 0; k < 3; ++k) {
      auto even = all_of(of.even[k][terms - 1]), odd = all_of(of.odd[k][terms - 1]);
      for (int i = terms - 2; i >= 0; --i) {
        even = hn::Add(hn::MulFixedPoint15(even, u2), all_of(of.even[k][i]));
        odd = hn::Add(hn::MulFixedPoint15(odd, u2), all_of(of.odd[k][i]));
      }
      odd = hn::MulFixedPoint15(u, odd);
      w[k] = hn::SaturatedAdd(even, odd);
      w[5 - k] = hn::SaturatedSub(even, odd);
    }
    const auto others = hn::Add(hn::Add(hn::Add(w[0], w[1]), hn::Add(w[4], w[5])), w[3]);
    w[2] = hn::SaturatedSub(all_of(minus_one), others);
  }
};

/// Linear interpolation by weights; along rows of words it goes by shares of what taps differ by instead.
struct LinearInt16Weights {
  static constexpr int taps = 2;
  HWY_INLINE void operator()(Word t, Word* w) const {
    w[0] = hn::Add(t, all_of(minus_one));
    w[1] = hn::Neg(t);
  }
};
#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif  // per target
