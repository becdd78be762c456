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

/// Sums over columns x rows pixels; columns are a multiple of 16. t and its gradient, `plane` samples from one band to
/// the next, have the same stride. A pixel is out where anything in it is NaN.
void SumBlock(const float* t, const float* g, std::ptrdiff_t plane, std::ptrdiff_t stride, const float* i,
              std::ptrdiff_t i_stride, int columns, int rows, float gain, float offset, float inverse_cut,
              float* sums) {
  using S = BlockSums;
  const hn::CappedTag<float, 16> d;
  using V = hn::Vec<decltype(d)>;
  const V one = hn::Set(d, 1.0F), zero = hn::Zero(d);
  const V a = hn::Set(d, gain), b = hn::Set(d, offset), cut = hn::Set(d, inverse_cut);
  V w = zero, gxx = zero, gxy = zero, gyy = zero, gxr = zero, gyr = zero, gxi = zero, gyi = zero, gx = zero, gy = zero;
  V si = zero, st = zero, ii = zero, tt = zero, it = zero, count = zero;
  for (int y = 0; y < rows; ++y, t += stride, g += stride, i += i_stride)
    for (int x = 0; x < columns; x += static_cast<int>(hn::Lanes(d))) {
      V vt = hn::LoadU(d, t + x), vi = hn::LoadU(d, i + x);
      V dx = hn::LoadU(d, g + x), dy = hn::LoadU(d, g + plane + x);
      const V all = hn::Add(hn::Add(dx, dy), hn::Add(vt, vi));
      const auto known = hn::Eq(all, all);
      vt = hn::IfThenElseZero(known, vt);
      vi = hn::IfThenElseZero(known, vi);
      dx = hn::IfThenElseZero(known, dx);
      dy = hn::IfThenElseZero(known, dy);
      const V r = hn::Sub(hn::MulAdd(a, vi, b), vt), far = hn::Mul(r, cut);
      const V near = hn::Max(zero, hn::NegMulAdd(far, far, one));
      const V weight = hn::IfThenElseZero(known, hn::Mul(near, near));
      const V wx = hn::Mul(weight, dx), wy = hn::Mul(weight, dy), wi = hn::Mul(weight, vi), wt = hn::Mul(weight, vt);
      count = hn::Add(count, hn::IfThenElseZero(known, one));
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
    }
  const auto put = [&](S::Sum which, V v) { sums[which] = hn::GetLane(hn::SumOfLanes(d, v)); };
  put(S::w, w);
  put(S::gxx, gxx);
  put(S::gxy, gxy);
  put(S::gyy, gyy);
  put(S::gxr, gxr);
  put(S::gyr, gyr);
  put(S::gxi, gxi);
  put(S::gyi, gyi);
  put(S::gx, gx);
  put(S::gy, gy);
  put(S::i, si);
  put(S::t, st);
  put(S::ii, ii);
  put(S::tt, tt);
  put(S::it, it);
  put(S::count, count);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
