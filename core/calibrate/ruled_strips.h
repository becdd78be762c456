#pragma once
/// Strips across the lines of a ruled target: their direction, and how they repeat. Parts of find_ruled_target().
#include <string>
#include <vector>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

inline constexpr double pitch_of_samples = 0.25;  ///< across the lines, in pixels
inline constexpr double least_pitch = 3;          ///< from line to line, in pixels
inline constexpr int least_lines = 5;

/// Raises an input error that says why there is no ruled target.
[[noreturn]] void refuse_ruled_target(const std::string& why);

/// The mean of the bands in a region.
Image grey_of(const Image& image, Region region);

/// The direction across the lines, clockwise from x on the screen (y is down), in radians: where most squared gradient
/// gathers. Raises an input error where none stands out.
double direction_across(const Image& plane, double noise);

/// Samples across the lines, averaged along them over a strip.
struct RuledStrip {
  double along = 0;  // of its middle, in pixels from the region's middle
  double start = 0;  // of the first sample, across
  int wide = 1;      // along, in pixels
  std::vector<float> value;
  double at(std::size_t i) const { return start + static_cast<double>(i) * pitch_of_samples; }
};

/// As many as there is room for, each at most so many pixels wide along the lines.
std::vector<RuledStrip> strips_across(const Image& plane, double direction, int most_wide);

/// The spacing, in pixels: the first high peak of the autocorrelation of the strips' slopes, refined at its multiples.
/// Raises an input error where nothing repeats.
double spacing_across(const std::vector<RuledStrip>& strips);

}  // namespace fexel
