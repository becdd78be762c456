#pragma once
/// Evenly spaced parallel lines: a ruler's ticks, a stage micrometer.
#include <vector>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// One line of a ruled target, where it crosses the middle of the region.
struct RuledLine {
  int number = 0;       ///< in spacings from the first one that was found; lines that are hidden leave gaps
  double place = 0;     ///< pixels across the lines, from the region's middle
  double residual = 0;  ///< place less what even spacing says, in pixels
  int seen = 0;         ///< strips in which it was found
};

struct RuledTarget {
  double pitch = 0;          ///< pixels from line to line
  double uncertainty = 0;    ///< standard uncertainty of the pitch
  double angle = 0;          ///< of the direction across the lines, in degrees counter-clockwise from x to the right,
                             ///< above -90 to 90
  double angle_sigma = 0;    ///< its standard uncertainty
  double rms = 0;            ///< of the lines' residuals, in pixels
  double stretch = 0;        ///< by how much the pitch changes from the first line to the last, as a share of it
  double stretch_sigma = 0;  ///< its standard uncertainty
  bool dark = true;          ///< lines on a lighter ground
  Point middle;              ///< of the region
  std::vector<RuledLine> lines;
  int missing = 0;  ///< numbers between the first and the last that were not found
};

/// The width of a pixel by which the lines lie `spacing` apart, where a pixel is `tall` times as high as it is wide.
double pixel_width(const RuledTarget& target, double spacing, double tall);

/// Finds the lines in a region of the picture, at any angle, dark or light, under uneven light. Their direction comes
/// from the gradients, their spacing from the autocorrelation of strips across them, and each line's place in each
/// strip from the centre of what stands out of the strip (weights: J. W. Tukey's biweight); spacing, direction and
/// stretch from least squares over line numbers, with the uncertainty from leaving out blocks of lines. Raises an input
/// error with the reason where there are no such lines: nothing stands out, directions differ, the spacing is not even,
/// or most of what is seen is something else.
RuledTarget find_ruled_target(const Image& image, Region region, const Job& job);

}  // namespace fexel
