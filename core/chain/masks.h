#pragma once
/// Parts of the source that matching and measuring leave out, or keep to. They change no pixel.
#include <optional>
#include <string>
#include <vector>

#include "base/job.h"
#include "chain/layout.h"
#include "image/image.h"

namespace fexel {

/// The used pixels of a source frame: 255 where a pixel's centre lies in none of the masks that leave out and, where
/// there are masks that are kept to, in one of those; 0 elsewhere. Nothing where all are used. `frame` counts from 0.
std::optional<Image> used_pixels(const std::vector<Mask>& masks, int frame, Size source);
/// The share of a source frame that is not used, to a thousandth.
double share_left_out(const std::vector<Mask>& masks, int frame, Size source);

/// Makes the pixels of a picture empty that are not used: the picture is that of `station`, `used` is of its source.
void leave_unused_out(Image& picture, const Layout& layout, int station, const Image& used, const Job& job);

/// The outline as points, closed; rings have two, the outer one first. Circles are drawn by 96 points.
std::vector<std::vector<Point>> outlines_of(const Mask& mask);
/// Whether a point lies inside the shape, whatever its use.
bool covers(const Mask& mask, Point p);

/// Why parts of a picture are of no use for matching.
enum class Useless { saturated, flat };
/// Polygons around the parts of a picture, at least 32 px large, that are saturated (a band at the end of an integer
/// depth's range, glare or pitch black), or flat (what varies within 16 px is noise alone: less than twice the
/// picture's own noise, which is estimated by a second difference, J. Immerkaer, 1996, "Fast noise variance
/// estimation"). At most 32, the largest first.
std::vector<Mask> suggested_masks(const Image& picture, Useless what, const Job& job);

/// The masks in a chain's text, and back: a chain with nothing but masks, so that each can read the other's file.
std::string write_masks(const std::vector<Mask>& masks);

}  // namespace fexel
