#pragma once
/// Straight edges of a picture, to a fraction of a pixel, and the corners where they meet.
#include <array>
#include <optional>

#include "geometry/map.h"
#include "geometry/quad.h"
#include "measure/edge_fit.h"

namespace fexel {

/// What was found along one side.
struct EdgeLine {
  enum class Kind { step, stripe };  ///< from dark to light or back; or the middle of a line or joint
  Kind kind = Kind::step;
  Point from, to;  ///< on the fitted line, across from the ends that were given
  /// Two points of the line that goes on at either end: of the straight line, or of the tangent of one that bows.
  std::array<Point, 2> at_from, at_to;
  double sigma_from = 0;     ///< standard uncertainty across the line at either end, in pixels
  double sigma_to = 0;       ///< of the station
  double scatter = 0;        ///< RMS of the places across the line, in pixels
  double bow = 0;            ///< how far the middle stands off the straight line through the ends, in pixels;
                             ///< positive to the right of the way from `from` to `to`
  double bow_sigma = 0;      ///< its standard uncertainty
  int used = 0, places = 0;  ///< places along the side that agree, of those that were looked at
  double width = 0;          ///< standard deviation of the blur across the edge, in pixels; the wider of a stripe's two
  double contrast = 0;       ///< step across it, in sample values summed over the bands
};

/// Fits a line along the side from `from` to `to`, whose edge lies within `reach` pixels of it (station pixels), as
/// edges_along() does. Where two edges of opposite direction run side by side, their middle is a candidate too; the
/// candidate nearest to what was given is taken. Nothing, and in `why` the reason, where no straight edge stands out of
/// the noise, or where it is not known well enough to be of use. Of a side that bows the
/// ends are those of a curve of second order.
std::optional<EdgeLine> find_edge(const EdgeView& view, Point from, Point to, double reach, EdgeRefusal* why = nullptr);

struct EdgeCorners {
  Quad corners;
  std::array<double, 4> sigma;    ///< standard uncertainty of each corner, RMS of x and y, in pixels
  std::array<EdgeLine, 4> sides;  ///< top, right, bottom, left
  std::array<bool, 4> kept{};     ///< corners left where they were: they are known better than their edges say
};

/// The corners of a rectangle where lines along its four sides meet. `known` is the standard uncertainty of the given
/// corners, where there is one: a corner that the edges give with a larger one stays where it is. Raises an input error
/// that names the side without an edge and says why, or that the edges lie elsewhere. Needs a quad that check_quad()
/// accepts.
EdgeCorners corners_from_edges(const EdgeView& view, const Quad& near, double reach,
                               const std::optional<std::array<double, 4>>& known = {});

}  // namespace fexel
