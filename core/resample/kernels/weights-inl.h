// The weights of the kernels in vectors of floats; compiled once for each instruction set. kernel.h has their plain
// values.
#if defined(FEXEL_RESAMPLE_WEIGHTS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WEIGHTS_INL_H
#undef FEXEL_RESAMPLE_WEIGHTS_INL_H
#else
#define FEXEL_RESAMPLE_WEIGHTS_INL_H
#endif

#include "resample/kernels/kernel.h"
#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
struct LinearWeights {
  static constexpr int taps = 2;
  HWY_INLINE void operator()(F t, F* w) const {
    w[0] = hn::Sub(hn::Set(floats, 1.0F), t);
    w[1] = t;
  }
};

struct CubicWeights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(F t, F* w) const {
    const auto half = hn::Set(floats, 0.5F), one = hn::Set(floats, 1.0F);
    const auto t2 = hn::Mul(t, t);
    w[0] = hn::Mul(t, hn::Sub(hn::NegMulAdd(half, t2, t), half));
    w[1] = hn::MulAdd(hn::MulSub(hn::Set(floats, 1.5F), t, hn::Set(floats, 2.5F)), t2, one);
    w[3] = hn::Mul(t2, hn::MulSub(half, t, half));
    w[2] = hn::Sub(hn::Sub(one, hn::Add(w[0], w[3])), w[1]);
  }
};

struct SplineWeights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(F t, F* w) const {
    const auto half = hn::Set(floats, 0.5F), one = hn::Set(floats, 1.0F), sixth = hn::Set(floats, 1.0F / 6);
    const auto s = hn::Sub(one, t);
    const auto t2 = hn::Mul(t, t), s2 = hn::Mul(s, s);
    const auto most = hn::Set(floats, 2.0F / 3);
    w[0] = hn::Mul(hn::Mul(s2, s), sixth);
    w[1] = hn::NegMulAdd(t2, hn::NegMulAdd(half, t, one), most);
    w[2] = hn::NegMulAdd(s2, hn::NegMulAdd(half, s, one), most);
    w[3] = hn::Mul(hn::Mul(t2, t), sixth);
  }
};

/// Even and odd polynomials in the distance from the middle between two pixels.
template <int terms>
struct LanczosWeights {
  static constexpr int taps = 6;
  const LanczosFit& fit = lanczos_fit(terms);
  HWY_INLINE void operator()(F t, F* w) const {
    const auto s = hn::Sub(t, hn::Set(floats, 0.5F));
    const auto s2 = hn::Mul(s, s);
    for (int k = 0; k < 3; ++k) {
      auto even = hn::Set(floats, fit.even[k][terms - 1]);
      auto odd = hn::Set(floats, fit.odd[k][terms - 1]);
      for (int i = terms - 2; i >= 0; --i) {
        even = hn::MulAdd(even, s2, hn::Set(floats, fit.even[k][i]));
        odd = hn::MulAdd(odd, s2, hn::Set(floats, fit.odd[k][i]));
      }
      w[k] = hn::MulAdd(s, odd, even);
      w[5 - k] = hn::NegMulAdd(s, odd, even);
    }
  }
};
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif  // per target
