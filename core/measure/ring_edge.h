#pragma once
/// The rim of something round, to a fraction of a pixel.
#include <vector>

#include <optional>

#include "measure/edge_fit.h"

namespace fexel {

struct RingEdge {
  Point centre;
  double radius = 0;
  double centre_sigma = 0;   ///< standard uncertainty of the centre, RMS of x and y, in pixels
  double radius_sigma = 0;   ///< of the radius
  double scatter = 0;        ///< RMS of the places across the rim, in pixels
  int used = 0, places = 0;  ///< arcs that agree, of those that were looked at
  double width = 0;          ///< standard deviation of the blur across the rim, in pixels
};

/// A circle through points, by least squares on their distances from it, with weights that exclude outliers (J. W.
/// Tukey's biweight). Nothing for fewer than three points or points on a line. Source: W. Gander, G. H.
/// Golub, R. Strebel, 1994, "Least-squares fitting of circles and ellipses".
std::optional<RingEdge> fit_circle(const std::vector<Point>& points);

/// The circle near the given one on which the picture has an edge, found within `reach` pixels (of the station) of it,
/// as edges_along() does. Nothing, and in `why` the reason, where less than a quarter of it shows an edge, where the
/// edge does not stand out of the noise, or where it is not known well enough to be of use.
std::optional<RingEdge> find_ring_edge(const EdgeView& view, Point centre, double radius, double reach,
                                       EdgeRefusal* why = nullptr);

}  // namespace fexel
