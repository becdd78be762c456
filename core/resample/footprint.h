#pragma once
/// How far one result pixel reaches into the source.
#include "geometry/map.h"

namespace fexel {

/// The footprint of a result pixel: the Jacobian d(source)/d(result), its singular values raised to at least 1 px, so
/// that no kernel is narrower than its own support in any direction. Of a Jacobian that is no number, one pixel's.
struct Footprint {
  Matrix2 reach;      ///< source offset of one result pixel in u and v
  Matrix2 to_result;  ///< its inverse: source offset to result pixels
  double mix = 0;     ///< share of the widened kernel: 0 up to a shrink of 1.2, 1 from 2 on
};
Footprint footprint(const Matrix2& jacobian);

/// Source pixels beyond which a reach is not followed; only next to a horizon is there more to gather.
inline constexpr double largest_reach = 64;

/// The share of the widened kernel at a shrink (largest singular value): a smooth step from 1.2, below which aliasing
/// does not show, to 2.
double shrinking_share(double shrink);

}  // namespace fexel
