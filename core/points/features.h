#pragma once
/// Distinctive places of a picture, and what tells them from others.
#include <array>
#include <vector>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

inline constexpr int descriptor_bins = 136;

struct Feature {
  Point at;
  double scale = 1;  ///< pixels of the picture for one of the level that it was found in
  double angle = 0;  ///< of the strongest gradient around, in radians
  double strength = 0;
  std::array<float, descriptor_bins> descriptor{};  ///< of length 1
};

/// Corners (C. Harris, M. Stephens, 1988, "A combined corner and edge detector") in
/// `octaves` octaves and their halves, at most `most` for each half octave, spread over the picture. Each is described
/// by how gradients are directed in 17 sectors around it, turned by its own angle (K. Mikolajczyk, C. Schmid, 2005, "A
/// performance evaluation of local descriptors"; D. G. Lowe, 2004, "Distinctive image features from scale-invariant
/// keypoints"), which does not change with turn, scale, gain and offset. With `unsigned_directions` light and dark may
/// change places, and a feature is there twice, turned by half a turn. One f32 band.
std::vector<Feature> features_of(const Image& plane, int most, int octaves, bool unsigned_directions, const Job& job);

/// Corners alone, the strongest of each cell of a grid over the picture, strongest first.
std::vector<Point> spread_corners(const Image& plane, int cells, int in_each, double border);

}  // namespace fexel
