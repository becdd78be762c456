#pragma once
/// Straight edges of a picture, to a fraction of a pixel, and the corners where they meet.
#include <array>
#include <optional>

#include "geometry/map.h"
#include "geometry/quad.h"
#include "image/image.h"

namespace fexel {

/// Pixels to look for edges in. Places are said in a station; `to_image` carries them to the picture's own.
struct EdgeView {
  const Image& image;
  Map to_image;
};

/// What was found along one side.
struct EdgeLine {
  enum class Kind { step, stripe };  ///< from dark to light or back; or the middle of a line or joint
  Kind kind = Kind::step;
  Point from, to;            ///< on the fitted line, across from the ends that were given
  double sigma_from = 0;     ///< standard uncertainty across the line at either end, in pixels
  double sigma_to = 0;       ///< of the station
  double scatter = 0;        ///< RMS of the places across the line, in pixels
  double bow = 0;            ///< how far the middle stands off the straight line through the ends, in pixels;
                             ///< positive to the right of the way from `from` to `to`
  double bow_sigma = 0;      ///< its standard uncertainty
  int used = 0, places = 0;  ///< places along the side that agree, of those that were looked at
};

/// Fits a line along the side from `from` to `to`, whose edge lies within `reach` pixels of it (station pixels). Across
/// the side at every few pixels the steepest place of the smoothed picture is found (J. Canny, 1986, "A computational
/// approach to edge detection"), and a line is laid through them with weights that exclude outliers (J. W. Tukey's
/// biweight). Where two edges of opposite direction run side by side, their middle is a candidate too; the candidate
/// nearest to what was given is taken. Nothing where no straight edge stands out.
std::optional<EdgeLine> find_edge(const EdgeView& view, Point from, Point to, double reach);

struct EdgeCorners {
  Quad corners;
  std::array<double, 4> sigma;    ///< standard uncertainty of each corner, RMS of x and y, in pixels
  std::array<EdgeLine, 4> sides;  ///< top, right, bottom, left
};

/// The corners of a rectangle where lines along its four sides meet. Raises an input error that names the side without
/// an edge. Needs a quad that check_quad() accepts.
EdgeCorners corners_from_edges(const EdgeView& view, const Quad& near, double reach);

}  // namespace fexel
