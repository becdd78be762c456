#pragma once
/// All points of a grid, found in one frame.
#include "motion/subset.h"

namespace fexel {

struct SubsetSettings {
  int size = 21;      ///< px, odd
  double reach = 64;  ///< px that a first match is looked for in, where no frame before says where
  bool back = false;  ///< matches the way back, too
  bool operator==(const SubsetSettings&) const = default;
};

/// Where the points of a grid are in the reference, and where they may be looked for.
struct MotionStarts {
  std::vector<Point> places;                          ///< as many as the grid has
  std::vector<char> alive;                            ///< whether a point is to be found
  std::vector<std::optional<SubsetMotion>> expected;  ///< from the frame before; may be empty
};

/// Matches every point that is alive. Begins with points that are expected somewhere, else with one that is looked for,
/// and goes on from point to point: each begins where the best of its matched neighbours says (B. Pan, 2009,
/// "Reliability-guided digital image correlation for image deformation measurement"), ring by ring, so that the result
/// does not depend on threads. Where nothing leads to points that are left, as behind a crack, others are looked for
/// anew.
///
/// A point is rejected where its texture says too little, its correlation is below 0.5, its uncertainty over 0.3 px, or
/// the match leaves five times as much as is usual in this frame; weak over
/// 0.1 px, or six times the usual uncertainty, and two and a half times.
MotionField match_field(const MotionFrame& reference, const MotionFrame& frame, const MotionGrid& grid,
                        const MotionStarts& starts, const SubsetSettings& settings, const Job& job);

/// The same from the grid's own places.
MotionStarts starts_on(const MotionGrid& grid);

}  // namespace fexel
