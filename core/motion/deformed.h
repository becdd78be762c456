#pragma once
/// Frames drawn as they would be if what is known of their movement were undone.
#include "motion/field.h"
#include "motion/motion_frame.h"

namespace fexel {

/// A displacement at every place of a picture, from those at the points of a lattice: linear between them, and on by
/// its slope for one step beyond.
class DenseMotion {
 public:
  DenseMotion(const MotionGrid& grid, std::vector<Point> moved);
  Point at(Point place) const;
  /// Of the middles of a row's pixels.
  void row(int y, int width, std::vector<Point>& out) const;

 private:
  /// The two lattice lines about a coordinate, and how far it is from the first.
  struct Between {
    int first;
    double part;
  };
  static Between between(double at, double first, int step, int count);
  const Point& of(int column, int row) const { return moved_[static_cast<std::size_t>(row * grid_.columns + column)]; }
  MotionGrid grid_;
  std::vector<Point> moved_;
};

/// The frame's samples at each pixel's middle plus `share` of the displacement there, by its cubic spline. Masked where
/// the frame does not count there.
Image deformed(const MotionFrame& frame, const DenseMotion& motion, double share, const Job& job);

/// The frame's samples, masked where it does not count.
Image counted_plane(const MotionFrame& frame);

}  // namespace fexel
