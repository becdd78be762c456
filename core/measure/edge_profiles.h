#pragma once
/// Samples across a path near an edge of a picture, and the curve along which they change most.
#include <Eigen/Core>
#include <array>
#include <functional>
#include <optional>
#include <vector>

#include "geometry/map.h"
#include "image/image.h"

namespace fexel {

/// Pixels to look for edges in. Places are said in a station; `to_image` carries them to the picture's own.
struct EdgeView {
  const Image& image;
  Map to_image;
};

/// Samples at places in lines, summed over the bands and averaged over the lines; nothing where one is not on a pixel.
std::optional<std::vector<float>> samples_across(const EdgeView& view,
                                                 const std::function<Point(int line, int sample)>& at, int lines,
                                                 int samples);

/// A path along which to look, u from 0 to 1 and d pixels across; and the curves that the edge may be, as offsets
/// across the path: sums of the functions `basis`, of which the first is 1.
struct EdgePath {
  std::function<Point(double u, double d)> at;
  double length = 0;         ///< in pixels
  double from = 0, to = 1;   ///< the part of u that is looked at
  double reach = 0;          ///< how far the edge may lie from the path, in pixels
  bool closed = false;       ///< a ring: its curves are a shift of the middle and of the radius
  double least_share = 0.4;  ///< of the places that have to lie on the curve
};

/// Samples across the path at many places along it, averaged over `place_length` pixels along it each.
struct EdgeProfiles {
  static constexpr double pitch = 0.25;  ///< of samples across, in pixels
  int places = 0, samples = 0;
  double half = 0, reach = 0;  ///< offsets run from -half to half
  std::vector<double> along;   ///< u of each place
  std::vector<float> value;    ///< places by samples; NaN where there is no pixel
  std::vector<bool> seen;      ///< places at which there are pixels
  const float* row(int place) const {
    return &value[static_cast<std::size_t>(place) * static_cast<std::size_t>(samples)];
  }
  double offset(double sample) const { return -half + sample * pitch; }
};
EdgeProfiles edge_profiles(const EdgeView& view, const EdgePath& path);

/// The functions of u that a curve is a sum of: 1, u - 1/2, (u - 1/2)^2 ... for a line; 1, cos, sin of the turn for a
/// ring.
Eigen::VectorXd curve_terms(const EdgePath& path, int terms, double u);

/// The slope across the path at one scale: that of the picture smoothed at the scale less that at twice the scale, so
/// that a ramp of light beside an edge, or without any, counts for nothing. Places by samples.
struct EdgeSlopes {
  double scale = 0;  ///< in pixels
  std::vector<float> value;
  double noise = 0;  ///< standard deviation, by the median of sizes
};
EdgeSlopes edge_slopes(const EdgeProfiles& profiles, double scale);

/// The curve along which most slope gathers, and how far that stands out of what noise alone would gather.
struct EdgeGuess {
  Eigen::VectorXd value;
  double support = 0, significance = 0;
  int sections = 8;  ///< of the path, within which the slope does not change its sign
};
/// Searches all of the reach; with `other`, of a line, only lines that run beside it and do not meet it.
EdgeGuess strongest_edge(const EdgePath& path, const EdgeProfiles& profiles, const EdgeSlopes& slopes,
                         const EdgeGuess* other);

}  // namespace fexel
