#pragma once
/// How well places can be found, before anything is matched.
#include "motion/field.h"
#include "motion/motion_frame.h"

namespace fexel {

/// The standard deviation of a displacement, along the worse axis, that noise lets expect at every point of a grid, in
/// px; infinite where there is nothing to hold on to, and where a point does not count. `noise` is that of one frame,
/// in grey levels. Source: B. Pan, H. Xie, Z. Wang, K. Qian, Z. Wang, 2008, "Study on subset size selection in digital
/// image correlation for speckle patterns".
std::vector<double> predicted_uncertainty(const MotionFrame& frame, const MotionGrid& grid, int size, double noise,
                                          const Job& job);

/// The share of the points that count whose number is at most `wanted`.
double share_within(const MotionGrid& grid, const std::vector<double>& predicted, double wanted);

/// The smallest size, odd, from 9 to 101 px, at which 95 % of those points that it or a
/// smaller one finds are predicted to
/// `wanted` px and better; nothing where none does.
std::optional<int> proposed_size(const MotionFrame& frame, const MotionGrid& grid, double noise, double wanted,
                                 const Job& job);

/// The standard deviation of one frame's noise, in grey levels, from two frames in which the same is seen: half of the
/// variance of their difference, by medians, so that what moved counts little.
double noise_between(const MotionFrame& a, const MotionFrame& b);

/// The noise of a frame, at most: the smaller of noise_in(), which counts fine texture, and noise_between() it and the
/// frame beside it, which counts what moved. `beside` may be null.
double noise_at_most(const MotionFrame& frame, const MotionFrame* beside);

}  // namespace fexel
