#pragma once
/// The sides of a rectangle, from one view of it.
#include <optional>

#include "geometry/point.h"

namespace fexel {

/// How the sides of a rectangle compare.
struct RatioEstimate {
  double ratio = 1;        ///< width / height
  double uncertainty = 0;  ///< standard uncertainty of the ratio
  double by_centre = 0;    ///< what of it comes from where the camera's axis meets the picture
  double focal = 0;        ///< of the camera, in pixels
};

/// The ratio of the sides of a rectangle whose corners are seen at `seen` by a camera with square pixels whose axis
/// meets the picture at `middle` (Z. Zhang and L.-W. He, 2007, "Whiteboard scanning and image enhancement": the plane's
/// two directions are at right angles, which gives the focal length). The uncertainty is propagated from corners that
/// are placed to `picking` pixels in x and y, each to its own. Nothing where the view does not tell: seen from the
/// front, or turned about one side only, both pairs of sides do not close in, and the uncertainty would pass a
/// twentieth of the ratio. Needs a quad that check_quad() accepts.
/// `centre_sigma` is the standard uncertainty of `middle` in x and y, in pixels.
std::optional<RatioEstimate> estimate_ratio(const Quad& seen, Point middle, const std::array<double, 4>& picking,
                                            double centre_sigma);

/// How far the axis of a camera usually lies off the middle of its whole pictures, as a share of their width.
inline constexpr double usual_centre_offset = 0.01;

}  // namespace fexel
