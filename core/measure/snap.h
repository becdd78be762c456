#pragma once
/// The edge or corner nearest to a place that was pointed at.
#include <optional>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

struct Snapped {
  Point at;
  double sigma = 0;  ///< standard uncertainty, in pixels: across an edge; of both coordinates of a corner
  bool corner = false;
};

/// On one f32 band: the place on the strongest straight edge within `reach` pixels that is nearest to `near`; or where
/// two edges cross, if that is within reach. Lines are fitted to the gradients by least squares (of a corner without
/// what the blur rounds off), their uncertainty from the scatter along them. Nothing where no edge stands out of the
/// noise.
std::optional<Snapped> snapped_to_edge(const Image& plane, Point near, double reach);

}  // namespace fexel
