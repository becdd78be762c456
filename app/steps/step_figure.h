#pragma once
/// What of a step is drawn on the picture and can be dragged there.
#include <cmath>
#include <string>
#include <vector>

#include "steps/step_base.h"

namespace fexel {

/// A line over the picture, in the coordinates of the station that the step gets.
struct StepLine {
  std::vector<Point> points;
  bool closed = false;
  bool arrow = false;  ///< its last point has a head
};
struct StepHandle {
  Point at;
  std::string name;  ///< short: a number, or a letter
};
struct StepFigure {
  std::vector<StepHandle> handles;
  std::vector<StepLine> lines;
  std::string says = {};  ///< of the lines, for the lower edge of the picture
};

/// The nearest multiple of `step`.
inline double rounded(double v, double step) {
  return std::round(v / step) * step;
}
/// A point at an angle from the centre, counter-clockwise from the right.
inline Point around(Point centre, double radius, double degrees) {
  return {centre.x + radius * std::cos(degrees * degree), centre.y - radius * std::sin(degrees * degree)};
}
inline double angle_of(Point centre, Point p) {
  return std::atan2(centre.y - p.y, p.x - centre.x) / degree;
}
/// An arc of `sweep` degrees.
inline StepLine arc(Point centre, double radius, double from, double sweep) {
  StepLine line;
  constexpr int pieces = 96;
  for (int i = 0; i <= pieces; ++i) line.points.push_back(around(centre, radius, from + sweep * i / pieces));
  return line;
}
/// How far from the centre a handle for an angle stands.
inline double arm_of(const StepInput& input) {
  return 0.35 * std::min(input.size.width, input.size.height);
}

}  // namespace fexel
