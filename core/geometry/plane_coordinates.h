#pragma once
/// Real coordinates of a picture's pixels, by a map of six numbers.
#include <string>

#include "geometry/map.h"

namespace fexel {

struct PlaneCoordinates {
  Matrix3 to_plane = Matrix3::Identity();  ///< affine: from pixels, whose corner (0, 0) is the first one's outer corner
  std::string unit = "mm";                 ///< of length
};

/// The coordinates where `made` leads. Nothing where it is not affine.
inline std::optional<PlaneCoordinates> carried(const PlaneCoordinates& coordinates, const Map& made) {
  if (!made.planar()) return std::nullopt;
  Matrix3 m = coordinates.to_plane * made.inverse_matrix();
  if (std::abs(m(2, 0)) > 1e-15 * std::abs(m(2, 2)) || std::abs(m(2, 1)) > 1e-15 * std::abs(m(2, 2)))
    return std::nullopt;
  m /= m(2, 2);
  return PlaneCoordinates{m, coordinates.unit};
}

}  // namespace fexel
