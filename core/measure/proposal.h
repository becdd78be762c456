#pragma once
/// A rectangle that stands out in a picture, as a first guess for a person to judge.
#include <vector>

#include "geometry/quad.h"
#include "image/pyramid.h"

namespace fexel {

struct Proposal {
  Quad corners;        ///< top-left, top-right, bottom-right, bottom-left, in the picture's pixels
  double sigma = 1;    ///< standard uncertainty of a corner's x and y, in the picture's pixels
  double support = 0;  ///< share of its weakest side along which there is an edge, 0 to 1
};

/// Quads that straight lines of the picture form, to a pixel or two of a picture reduced to some 500 pixels: those with
/// the best supported sides and the largest area first, at most 8, none of them twice. Lines are found by voting with
/// the direction of the gradient (R. O. Duda and P. E. Hart, 1972, "Use of the Hough transformation to detect lines and
/// curves in pictures"; F. O'Gorman and M. B. Clowes, 1973, "Finding picture edges through collinearity of feature
/// points"). Empty where no four lines form a quad with an edge along nearly all of each side. Raises a cancelled error
/// when told to stop.
std::vector<Proposal> propose_rectangles(const Pyramid& picture, const Job& job = {});

}  // namespace fexel
