#pragma once
/// Axes of one's own on a picture: an origin, directions, a turn, and what is written at the origin.
#include "geometry/map.h"

namespace fexel {

struct Axes {
  Point origin;       ///< in pixels of its station
  int station = 0;    ///< that they were laid on; carried to every other
  Point value;        ///< at the origin, in the unit of its station
  bool right = true;  ///< x counts to the right; else to the left
  bool up = false;    ///< y counts up; else down
  double turn = 0;    ///< of the x axis, in degrees counter-clockwise on the screen
  bool operator==(const Axes&) const = default;
};

/// Axes at one station, whose pixels measure `pixel` in x and y.
struct AxesHere {
  Point origin;       ///< in pixels
  Point pixel{1, 1};  ///< width and height of a pixel, in the unit of coordinates
  Point value;
  Point along{1, 0},
      across{0, 1};  ///< directions in which x and y grow, of length 1, in that unit; y down on the screen
  /// Coordinates of a place in pixels, and back.
  Point coordinates(Point p) const {
    const Point d{(p.x - origin.x) * pixel.x, (p.y - origin.y) * pixel.y};
    return {value.x + d.x * along.x + d.y * along.y, value.y + d.x * across.x + d.y * across.y};
  }
  Point place(Point at) const;
  /// Whether x runs along rows, and y along columns.
  bool level() const;
};

/// The axes where `map` leads from their station. A mirrored picture mirrors them. Nothing where the origin has no
/// image.
std::optional<AxesHere> axes_through(const Axes& axes, const Map& map, Point pixel_there, Point pixel_here);

}  // namespace fexel
