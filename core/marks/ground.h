#pragma once
/// How light the picture is beneath a mark.
#include "marks/drawing.h"

namespace fexel {

/// The relative luminances of a reduced picture's pixels in a box of the whole one, sorted.
std::vector<double> luminances(const RgbPicture& under, const Rect& box, Size whole);
/// How much a luminance stands out at the worst from all but the outermost 2 %, 1 to 21.
double worst_contrast(double ink, const std::vector<double>& sorted);

}  // namespace fexel
