// The vector code of bumps.cpp, compiled once for each instruction set.
#if defined(FEXEL_FIT_BUMPS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_FIT_BUMPS_INL_H
#undef FEXEL_FIT_BUMPS_INL_H
#else
#define FEXEL_FIT_BUMPS_INL_H
#endif

#include <hwy/contrib/math/math-inl.h>

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

void SumBumps(const double* x, const double* y, const double* weight_x, const double* weight_y, std::size_t count,
              double px, double py, Bumps::Sum& out) {
  const hn::CappedTag<double, 8> doubles;
  auto sx = hn::Zero(doubles), sy = sx, xx = sx, xy = sx, yx = sx, yy = sx;
  const auto at_x = hn::Set(doubles, px), at_y = hn::Set(doubles, py);
  const auto half = hn::Set(doubles, 0.5), one = hn::Set(doubles, 1.0), least = hn::Set(doubles, 1e-300);
  for (std::size_t i = 0; i < count; i += hn::Lanes(doubles)) {
    const auto dx = hn::Sub(at_x, hn::LoadU(doubles, x + i)), dy = hn::Sub(at_y, hn::LoadU(doubles, y + i));
    const auto wx = hn::LoadU(doubles, weight_x + i), wy = hn::LoadU(doubles, weight_y + i);
    const auto square = hn::MulAdd(dx, dx, hn::Mul(dy, dy));
    const auto log = hn::Log(doubles, hn::Max(square, least));  // twice ln r
    const auto bump = hn::Mul(hn::Mul(half, square), log), rise = hn::Add(log, one);
    sx = hn::MulAdd(bump, wx, sx);
    sy = hn::MulAdd(bump, wy, sy);
    const auto rise_x = hn::Mul(rise, dx), rise_y = hn::Mul(rise, dy);
    xx = hn::MulAdd(rise_x, wx, xx);
    xy = hn::MulAdd(rise_y, wx, xy);
    yx = hn::MulAdd(rise_x, wy, yx);
    yy = hn::MulAdd(rise_y, wy, yy);
  }
  const auto sum = [&](const auto& v) HWY_ATTR { return hn::GetLane(hn::SumOfLanes(doubles, v)); };
  out = {sum(sx), sum(sy), sum(xx), sum(xy), sum(yx), sum(yy)};
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
