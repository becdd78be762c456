#pragma once
/// All points of a grid, by the correlation of windows: how a fluid moved between two frames.
#include <functional>

#include "motion/field.h"
#include "motion/motion_frame.h"

namespace fexel {

struct WindowSettings {
  std::vector<int> sizes{64, 32};  ///< px, even, from large to small: a pass each
  int passes = 2;                  ///< at the last size, with frames that are deformed by what is known; 0: none are
  bool robust = false;             ///< products of correlations of windows that are shifted by a quarter
  bool ensemble = false;           ///< correlations of all pairs added up before the peak is sought: one field for all
  int last() const { return sizes.back(); }
  bool operator==(const WindowSettings&) const = default;
};
/// Raises a call error for sizes that are odd, grow, or are too small or too large, and the like.
void check_windows(const WindowSettings& settings);

/// A grid whose places are windows' middles, which lie between pixels; see grid_over().
MotionGrid window_grid(Size size, const std::vector<Point>& region, int step_x, int step_y, int window);

/// The displacement of each window from a to b. A place is where what moved is half of the way from a to b: both frames
/// are shifted, and deformed, by half (F. Scarano, 2002, "Iterative image deformation methods in PIV").
///
/// From pass to pass points that are unlike their neighbours are replaced by the plane through them. At the end a point
/// is masked where less than half of its window counts, or its middle does not; rejected where the peak is no higher
/// than four times what is beside it, as high as another one, or four times as far from the neighbours as they are from
/// each other; weak over half of that way.
MotionField match_windows(const MotionFrame& a, const MotionFrame& b, const MotionGrid& grid,
                          const WindowSettings& settings, const Job& job);

/// The same for many pairs at once: correlations are added up over all of them (C. D. Meinhart, S. T. Wereley, J. G.
/// Santiago, 2000, "A PIV algorithm for estimating time-averaged velocity fields"). `frame` gives a frame of a pair,
/// from 0, first a and then b; each is asked for once a pass.
using WindowPair = std::pair<std::shared_ptr<const MotionFrame>, std::shared_ptr<const MotionFrame>>;
MotionField match_ensemble(int pairs, const std::function<WindowPair(int)>& pair, const MotionGrid& grid,
                           const WindowSettings& settings, const Job& job);

/// What two frames show of grains, and the sizes that suit them.
struct GrainSigns {
  double diameter = 0;      ///< px, to 1/e² of the middle
  double for_each = 0;      ///< px² that there are for each grain
  double largest = 0;       ///< px, the movement of all but the fastest of a hundred points
  WindowSettings proposed;  ///< eight grains in the last window; the first four times the largest movement
};
/// Raises an input error where no grains are seen, or none are found again.
GrainSigns grain_signs(const MotionFrame& a, const MotionFrame& b, const std::vector<Point>& region, const Job& job);

}  // namespace fexel
