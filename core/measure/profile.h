#pragma once
/// Samples along a line of a picture, and the edges on it.
#include <optional>
#include <utility>
#include <vector>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// Samples along a line, `pitch` pixels apart from its beginning on, each the mean over the bands and across the line.
struct Profile {
  double length = 0, pitch = 0;  ///< in pixels
  int lines = 1;                 ///< that were averaged, a pixel apart
  std::vector<float> value;
};
/// Over `width` pixels across the line. Nothing where the line is shorter than a pixel, or leaves the picture or its
/// pixels.
std::optional<Profile> profile_along(const Image& image, Point from, Point to, double width);

/// An edge on a profile.
struct ProfileEdge {
  double place = 0;     ///< pixels from the beginning
  double sigma = 0;     ///< standard uncertainty of it, from the noise about the edge
  double blur = 0;      ///< standard deviation of its blur, in pixels
  double contrast = 0;  ///< step across it, negative where samples fall
};
/// The edges that stand out of the noise, in their order along the profile: where the slope is steepest at first (J.
/// Canny, 1986, "A computational approach to edge detection"), then a blurred step fitted with a ramp of light.
std::vector<ProfileEdge> edges_on(const Profile& profile);
/// The two with most contrast of at least two, in their order.
std::pair<ProfileEdge, ProfileEdge> strongest_two(const std::vector<ProfileEdge>& edges);

}  // namespace fexel
