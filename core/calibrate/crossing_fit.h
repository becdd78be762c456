#pragma once
/// A crossing of edges or of lines, fitted by the picture that it gives. A part of find_grid_target().
#include "calibrate/grid_nodes.h"

namespace fexel {

/// What a crossing looks like beside its place: start values, and what was found.
struct CrossingLook {
  double blur = 1;  ///< standard deviation, in pixels
  /// Of lines along u and along v, in pixels: seen at an angle they differ.
  double width_u = 4, width_v = 4;
};

struct FittedCrossing {
  Point at;
  CrossingLook look;
  double noise = 0;  ///< standard deviation of the residuals, in samples
};

/// Fits edges (of a checkerboard) or lines along `u` and `v` that cross near a place, blurred, on a ground that may
/// slope: the samples within `radius` by least squares over place, two directions, blur, width, contrast and ground.
/// `plane` is one f32 band. Nothing where the window is cut off by the picture's sides, or the fit leaves it.
std::optional<FittedCrossing> fitted_crossing(const Image& plane, bool lines, Point near, Point u, Point v,
                                              double radius, const CrossingLook& start);

}  // namespace fexel
