#pragma once
/// Clay slip with grains in it, poured round a post: pairs of frames.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

inline constexpr int slip_pairs = 8;
inline constexpr double slip_pixel = 0.08;   ///< mm
inline constexpr double slip_time = 4;       ///< ms from a to b
inline constexpr Point slip_post{430, 512};  ///< px
inline constexpr double slip_radius = 80;    ///< px

/// Pair 1 to 8, its first frame and its second: 1024 x 1024, 8-bit grey. Pair 0 is the same twice, with other noise.
Image render_slip(int pair, bool second, const Job& job);
/// A ruler with a line each millimetre, in the same set-up.
Image render_slip_ruler(const Job& job);
/// By how much the fluid moves in a pair whose half-way place this is, px: the function that truth.json names.
Point slip_moved(Point place, int pair);
nlohmann::ordered_json slip_truth();
/// Mask, calibration, axes, time step and the movement's settings, without sources.
Chain slip_chain();

}  // namespace fexel::scene
