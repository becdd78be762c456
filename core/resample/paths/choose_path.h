#pragma once
/// How the pixels of a result are made: the one place where that is decided.
#include <optional>
#include <span>
#include <vector>

#include "resample/paths/separable.h"
#include "resample/paths/tile.h"

namespace fexel {

/// What a warp does: one of the first two for the whole result, else a plan for each tile.
struct PathChoice {
  std::optional<PixelMove> move;     ///< Path::copy
  std::optional<ScalePlan> scaling;  ///< Path::separable
  std::vector<TilePlan> tiles;
};

/// The fastest path that serves a plan, or the one that the plan forces. Decided for whole tiles of the whole result,
/// so that a pixel is made in one way in every region. Pyramid levels and spline coefficients that are needed and
/// missing are made, on all cores. Raises a call error where the forced path cannot serve the plan.
PathChoice choose_path(const Pyramid& source, const WarpPlan& plan, Region region, std::span<const Region> tiles,
                       const Resampling& resampling, Quality quality, const Job& job);

}  // namespace fexel
