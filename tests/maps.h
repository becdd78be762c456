#pragma once
/// Maps and plans that tests of the engine share.
#include <cmath>

#include "resample/paths/row_float.h"
#include "resample/warp.h"

namespace fexel::test {

inline WarpPlan plan_of(const Matrix3& inverse_map, Size source, Size result) {
  Clip clip;
  clip.keep_inside(source);
  return {inverse_map, clip.through(Map(inverse_map).inverse()), result};
}

inline Pyramid pyramid_of(Image image) {
  return Pyramid(std::make_shared<const Image>(std::move(image)));
}

inline Matrix3 turned(double degrees, double scale = 1) {
  const double a = degrees * M_PI / 180;
  Matrix3 m;
  m << scale * std::cos(a), -scale * std::sin(a), 11.3, scale * std::sin(a), scale * std::cos(a), 7.9, 0, 0, 1;
  return m;
}

inline Matrix3 tilted(double w) {
  Matrix3 m;
  m << 0.96, 0.02, 6.2, -0.015, 0.97, 7.1, -w, 0.7 * w, 1;
  return m;
}

/// Back to the best instruction set, whatever happens.
struct BestTarget {
  ~BestTarget() { use_vector_target(""); }
};

}  // namespace fexel::test
