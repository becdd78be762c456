#include "motion/subset_sums.h"

#include <cmath>
#include <cstdint>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "motion/subset_sums.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "motion/subset_sums-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(ReadSubset);
HWY_EXPORT(WeighSubset);
HWY_EXPORT(Moments);
HWY_EXPORT(Match);

namespace {

/// Weights of the four coefficients around a place that lies t behind the second one, and of their slope.
void weights_at(double t, float (&weights)[4], float (&slopes)[4]) {
  const double s = 1 - t;
  weights[0] = static_cast<float>(s * s * s / 6);
  weights[1] = static_cast<float>(2.0 / 3 - t * t + t * t * t / 2);
  weights[2] = static_cast<float>(2.0 / 3 - s * s + s * s * s / 2);
  weights[3] = static_cast<float>(t * t * t / 6);
  slopes[0] = static_cast<float>(-s * s / 2);
  slopes[1] = static_cast<float>(-2 * t + 1.5 * t * t);
  slopes[2] = static_cast<float>(2 * s - 1.5 * s * s);
  slopes[3] = static_cast<float>(t * t / 2);
}

}  // namespace

void read_subset(const SplineCoefficients& from, double x, double y, const SubsetRows& to) {
  const double left = x - 0.5 * (to.size - 1), top = y - 0.5 * (to.size - 1);
  const double column = std::floor(left), row = std::floor(top);
  float wx[4], dx[4], wy[4], dy[4];
  weights_at(left - column, wx, dx);
  weights_at(top - row, wy, dy);
  HWY_DYNAMIC_DISPATCH(ReadSubset)
  (from, static_cast<std::ptrdiff_t>(column), static_cast<std::ptrdiff_t>(row), wx, dx, wy, dy, to);
}

double weigh_subset(const SubsetSamples& read, double count, const SubsetRows& to) {
  const auto per_count = static_cast<float>(1 / (count > 1 ? count : 1));
  return static_cast<double>(HWY_DYNAMIC_DISPATCH(WeighSubset)(read, per_count, to));
}

SubsetMoments moments_of(const SubsetRows& rows) {
  SubsetMoments out;
  HWY_DYNAMIC_DISPATCH(Moments)(rows, out.sums);
  return out;
}

MatchSums sums_of(const SubsetRows& rows, const SplineCoefficients& frame, const SubsetPlace& place, float offset) {
  MatchSums out;
  HWY_DYNAMIC_DISPATCH(Match)(rows, frame, place, offset, out.sums);
  return out;
}

}  // namespace fexel
#endif
