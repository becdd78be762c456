#include "resample/kernels/footprint.h"

namespace fexel {

double shrinking_share(double shrink) {
  constexpr double all_wide = 1.13;
  const double t = std::clamp((shrink - no_shrink) / (all_wide - no_shrink), 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

Footprint footprint(const Matrix2& jacobian) {
  // A turn that scales and a mirror that scales, whose sum is the Jacobian: with the sum and the difference of their
  // scales for singular values, the second of which is negative where the Jacobian mirrors. Other singular values in
  // the same directions are other scales.
  if (jacobian.hasNaN()) return {Matrix2::Identity(), Matrix2::Identity()};
  constexpr double most = 1e100;  // no larger ones, so that squares can be told from each other
  const Matrix2 j = jacobian.cwiseMax(-most).cwiseMin(most);
  Point turn{(j(0, 0) + j(1, 1)) / 2, (j(1, 0) - j(0, 1)) / 2};
  Point mirror{(j(0, 0) - j(1, 1)) / 2, (j(1, 0) + j(0, 1)) / 2};
  const double turned = std::hypot(turn.x, turn.y), mirrored = std::hypot(mirror.x, mirror.y);
  const double large = turned + mirrored, small = turned - mirrored;
  const double raised_large = std::clamp(large, 1.0, largest_reach);
  const double raised_small = std::copysign(std::clamp(std::abs(small), 1.0, largest_reach), small);
  const auto scaled = [](Point p, double from, double to) {
    return from > 0 ? Point{p.x * (to / from), p.y * (to / from)} : Point{to, 0};
  };
  turn = scaled(turn, turned, (raised_large + raised_small) / 2);
  mirror = scaled(mirror, mirrored, (raised_large - raised_small) / 2);
  Footprint out;
  out.reach << turn.x + mirror.x, mirror.y - turn.y, mirror.y + turn.y, turn.x - mirror.x;
  out.to_result = out.reach.inverse();
  out.mix = shrinking_share(large);
  out.wide_u = shrinking_share(out.reach.col(0).norm());
  out.wide_v = shrinking_share(out.reach.col(1).norm());
  return out;
}

}  // namespace fexel
