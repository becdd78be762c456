#pragma once
/// How far fields of movement are from their truth.
#include <cmath>
#include <functional>

#include "motion/field.h"

namespace fexel::test {

/// RMS along each axis over the points that are ok, px; NaN where there is none.
inline double rms_of(const MotionField& field, const std::function<Point(Point)>& truth) {
  double sum = 0, count = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (field.grid.used[i] != 0 && field.points[i].good()) {
      const Point off = field.points[i].moved - truth(field.grid.at(i));
      sum += off.x * off.x + off.y * off.y;
      count += 2;
    }
  return std::sqrt(sum / count);
}

}  // namespace fexel::test
