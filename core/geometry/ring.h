#pragma once
/// A ring laid out as a strip.
#include "geometry/map.h"

namespace fexel {

/// From the strip to the picture: columns run around the centre from `start`, row 0 lies on the outer circle.
struct RingShape {
  Point centre;
  double inner = 0, outer = 1;                ///< radii in pixels, 0 <= inner < outer
  double start = 0;                           ///< radians, 0 to the right, positive counter-clockwise on the screen
  double sweep = 2 * 3.14159265358979323846;  ///< radians, more than 0
  bool clockwise = false;                     ///< the way that columns run
  Size strip;
  bool operator==(const RingShape&) const = default;
};

/// Going back, an angle outside of the sweep is put on the side of the strip that is nearer. The centre has no image.
class Ring : public Curve {
 public:
  explicit Ring(const RingShape& shape) : shape_(shape) {}
  std::optional<Point> forward(Point p) const override;
  std::optional<Point> backward(Point p) const override;
  std::optional<Matrix2> jacobian(Point p) const override;

 private:
  struct Polar {
    double radius, angle;
  };
  Polar polar(Point p) const;
  RingShape shape_;
};

}  // namespace fexel
