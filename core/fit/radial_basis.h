#pragma once
/// Sums of the bumps r^2 ln r of a thin-plate spline, in vector code.
#include <vector>

#include "geometry/point.h"

namespace fexel {

/// Bumps by their centres and weights, a number of each side by side, filled up with bumps that weigh nothing.
class Bumps {
 public:
  Bumps(const std::vector<Point>& centres, const std::vector<Point>& weights);
  /// The sum of w_i r_i^2 ln r_i, in x and y, and its derivatives; r is the distance from a centre.
  struct Sum {
    double x, y, x_by_x, x_by_y, y_by_x, y_by_y;
  };
  Sum at(Point p) const;

 private:
  std::vector<double> x_, y_, weight_x_, weight_y_;
};

}  // namespace fexel
