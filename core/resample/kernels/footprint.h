#pragma once
/// How far one result pixel reaches into the source.
#include "geometry/map.h"

namespace fexel {

/// The footprint of a result pixel: the Jacobian d(source)/d(result), its singular values raised to at least 1 px, so
/// that no kernel is narrower than its own support in any direction. Of a Jacobian that is no number, one pixel's.
struct Footprint {
  Matrix2 reach;      ///< source offset of one result pixel in u and v
  Matrix2 to_result;  ///< its inverse: source offset to result pixels
  double mix = 0;     ///< share of the kernel that is laid along the footprint: shrinking_share() of the larger reach
  double wide_u = 0, wide_v = 0;  ///< of that one, along u and v: the share that is widened, by the reach along each
};
Footprint footprint(const Matrix2& jacobian);

/// Source pixels beyond which a reach is not followed; only next to a horizon is there more to gather.
inline constexpr double largest_reach = 64;

/// The largest shrink for which the kernel's own width does.
inline constexpr double no_shrink = 1.09;
/// The share of the widened kernel at a shrink (largest singular value): a smooth step from no_shrink to 1.13. Below
/// 0.8 √2 = 1.131 a sampled picture holds no wave of 0.8 cycles per result pixel, in any direction.
double shrinking_share(double shrink);

}  // namespace fexel
