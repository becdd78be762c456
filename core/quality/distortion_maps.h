#pragma once
/// What a rectification costs, place by place: maps to look at and to measure on.
#include <optional>

#include "chain/layout.h"

namespace fexel {

/// How many pixels of the source stand behind one pixel of a station at `p`; below 1 it shows more pixels than there
/// is detail. Nothing beyond the horizon.
std::optional<double> source_pixels(const Layout& layout, int station, Point p);

/// How far a place of a station moves when the corners of the last rectify step before it are picked wrong.
class PickingUncertainty {
 public:
  /// Nothing where no rectify step makes the station.
  static std::optional<PickingUncertainty> of(const Chain& chain, const SourceShape& source, const Layout& layout,
                                              int station);
  /// RMS movement of the place `p`, in pixels of the station, for corners whose x and y are each off by one pixel
  /// (standard deviation): to first order, from the corners' covariance.
  double movement(Point p) const;

 private:
  std::vector<Map> moved_;  // from the station to itself, with one coordinate of a corner 0.1 px up and down
};

/// The camera over a rectified plane.
struct PlaneCamera {
  Point foot;         ///< of the perpendicular from the camera to the plane, in the station's pixels
  double height = 0;  ///< over the plane, in the plane's unit (or heights of the rectangle)
  double focal = 0;   ///< px of the source
  /// By how much longer a thing parallel to the plane reads that stands `off` it toward the camera: 0.01 is 1 %. The
  /// same everywhere; by the same share of its distance from the foot it is shown farther from there.
  double reads_longer(double off) const { return off / (height - off); }
};
/// From the last rectify step before the station, for a camera with square pixels whose axis meets the source in its
/// middle (R. Hartley and A. Zisserman, 2003, "Multiple view geometry in computer vision", on calibration from a
/// plane). Nothing where the view is too frontal to tell, or no rectify step makes the station.
std::optional<PlaneCamera> plane_camera(const Chain& chain, const Layout& layout, int station);

}  // namespace fexel
