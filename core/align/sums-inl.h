// The vector code of sums.cpp, compiled once for each instruction set.
#if defined(FEXEL_ALIGN_SUMS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_ALIGN_SUMS_INL_H
#undef FEXEL_ALIGN_SUMS_INL_H
#else
#define FEXEL_ALIGN_SUMS_INL_H
#endif

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// Adds up the lanes of each of 16 vectors, and stores the sums one after the other.
template <class D, class V = hn::Vec<D>>
HWY_INLINE void StoreSums(D d, V (&v)[16], float* out) {
  std::size_t left = 16;
#if HWY_TARGET != HWY_SCALAR
  // Neighbouring lanes of two vectors make one, until each lane holds a vector's sum.
  for (std::size_t apart = 1; apart < hn::MaxLanes(d); apart *= 2) {
    left /= 2;
    for (std::size_t k = 0; k < left; ++k)
      v[k] = hn::Add(hn::ConcatEven(d, v[2 * k + 1], v[2 * k]), hn::ConcatOdd(d, v[2 * k + 1], v[2 * k]));
  }
#endif
  for (std::size_t k = 0; k < left; ++k) hn::StoreU(v[k], d, out + k * hn::MaxLanes(d));
}

/// The sums, and with `plain` those without weights. A pixel is out where anything in it is NaN; with `whole` there is
/// none such, and false is returned if that is not true.
template <bool whole, bool plain>
HWY_INLINE bool Sum(const BlockSamples& of, float gain, float offset, float inverse_cut, float* sums,
                    float* plain_sums) {
  using S = BlockSums;
  const hn::CappedTag<float, 16> d;
  using V = hn::Vec<decltype(d)>;
  const V one = hn::Set(d, 1.0F), zero = hn::Zero(d);
  const V a = hn::Set(d, gain), b = hn::Set(d, offset), cut = hn::Set(d, inverse_cut);
  V w = zero, gxx = zero, gxy = zero, gyy = zero, gxr = zero, gyr = zero, gxi = zero, gyi = zero, gx = zero, gy = zero;
  V si = zero, st = zero, ii = zero, tt = zero, it = zero, count = zero;
  V plain_i = zero, plain_t = zero, plain_ii = zero, plain_tt = zero, plain_it = zero;
  const float *t = of.t, *g = of.gradient, *i = of.i;
  for (int y = 0; y < of.rows; ++y, t += of.stride, g += of.stride, i += of.i_stride)
    for (int x = 0; x < of.columns; x += static_cast<int>(hn::Lanes(d))) {
      // Rows of blocks are too short for the processor to see what comes: the next block's.
      const int next = x + of.columns;
      hwy::Prefetch(t + next);
      hwy::Prefetch(g + next);
      hwy::Prefetch(g + of.plane + next);
      hwy::Prefetch(i + next);
      V vt = hn::LoadU(d, t + x), vi = hn::LoadU(d, i + x);
      V dx = hn::LoadU(d, g + x), dy = hn::LoadU(d, g + of.plane + x);
      const V all = hn::Add(hn::Add(dx, dy), hn::Add(vt, vi));
      const auto known = hn::Eq(all, all);
      if constexpr (!whole) {
        vt = hn::IfThenElseZero(known, vt);
        vi = hn::IfThenElseZero(known, vi);
        dx = hn::IfThenElseZero(known, dx);
        dy = hn::IfThenElseZero(known, dy);
        count = hn::Add(count, hn::IfThenElseZero(known, one));
      }
      const V r = hn::Sub(hn::MulAdd(a, vi, b), vt), far = hn::Mul(r, cut);
      const V near = hn::Max(zero, hn::NegMulAdd(far, far, one));
      V weight = hn::Mul(near, near);
      if constexpr (!whole) weight = hn::IfThenElseZero(known, weight);
      const V wx = hn::Mul(weight, dx), wy = hn::Mul(weight, dy), wi = hn::Mul(weight, vi), wt = hn::Mul(weight, vt);
      w = hn::Add(w, weight);
      gxx = hn::MulAdd(wx, dx, gxx);
      gxy = hn::MulAdd(wx, dy, gxy);
      gyy = hn::MulAdd(wy, dy, gyy);
      gxr = hn::MulAdd(wx, r, gxr);
      gyr = hn::MulAdd(wy, r, gyr);
      gxi = hn::MulAdd(wx, vi, gxi);
      gyi = hn::MulAdd(wy, vi, gyi);
      gx = hn::Add(gx, wx);
      gy = hn::Add(gy, wy);
      si = hn::Add(si, wi);
      st = hn::Add(st, wt);
      ii = hn::MulAdd(wi, vi, ii);
      tt = hn::MulAdd(wt, vt, tt);
      it = hn::MulAdd(wi, vt, it);
      if constexpr (plain) {
        plain_i = hn::Add(plain_i, vi);
        plain_t = hn::Add(plain_t, vt);
        plain_ii = hn::MulAdd(vi, vi, plain_ii);
        plain_tt = hn::MulAdd(vt, vt, plain_tt);
        plain_it = hn::MulAdd(vi, vt, plain_it);
      }
    }
  // Each of the four that are read is in one of these, whatever the weights.
  if (whole && !(hn::AllTrue(d, hn::Eq(gxr, gxr)) && hn::AllTrue(d, hn::Eq(gyr, gyr)))) return false;
  V all_sums[] = {w, gxx, gxy, gyy, gxr, gyr, gxi, gyi, gx, gy, si, st, ii, tt, it, count};
  StoreSums(d, all_sums, sums);
  if (whole) sums[S::count] = static_cast<float>(of.columns * of.rows);
  if constexpr (plain) {
    const auto sum = [&](V v) HWY_ATTR { return hn::GetLane(hn::SumOfLanes(d, v)); };
    plain_sums[S::w] = plain_sums[S::count] = sums[S::count];
    plain_sums[S::i] = sum(plain_i);
    plain_sums[S::t] = sum(plain_t);
    plain_sums[S::ii] = sum(plain_ii);
    plain_sums[S::tt] = sum(plain_tt);
    plain_sums[S::it] = sum(plain_it);
  }
  return true;
}

/// Most blocks are whole, and looking at each pixel costs.
template <bool plain>
HWY_NOINLINE void SumEither(const BlockSamples& of, float gain, float offset, float inverse_cut, float* sums,
                            float* plain_sums) {
  if (!Sum<true, plain>(of, gain, offset, inverse_cut, sums, plain_sums))
    Sum<false, plain>(of, gain, offset, inverse_cut, sums, plain_sums);
}

void SumBlock(const BlockSamples& of, float gain, float offset, float inverse_cut, float* sums, float* plain_sums) {
  if (plain_sums)
    SumEither<true>(of, gain, offset, inverse_cut, sums, plain_sums);
  else
    SumEither<false>(of, gain, offset, inverse_cut, sums, plain_sums);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
