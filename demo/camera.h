#pragma once
/// A pinhole camera before the wall. Wall coordinates are millimetres: X right, Y down, Z out of the wall to the
/// viewer.
#include <cmath>

#include "geometry/point.h"

namespace fexel::scene {

struct Vector {
  double x = 0, y = 0, z = 0;
};
inline double dot(Vector a, Vector b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
inline Vector cross(Vector a, Vector b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline Vector minus(Vector a, Vector b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
inline Vector unit(Vector a) {
  const double n = std::sqrt(dot(a, a));
  return {a.x / n, a.y / n, a.z / n};
}

class Camera {
 public:
  /// Stands at `eye`, looks at `target`, upright but for `roll` (its sine); focal length and middle in pixels.
  Camera(Vector eye, Vector target, double roll, double focal, Point middle)
      : eye_(eye), focal_(focal), middle_(middle) {
    forward_ = unit(minus(target, eye));
    const Vector down{0, 1, 0};
    const Vector right = unit(scene::cross(forward_, down));
    const Vector below = scene::cross(right, forward_);
    const double c = std::sqrt(1 - roll * roll);
    right_ = {c * right.x + roll * below.x, c * right.y + roll * below.y, c * right.z + roll * below.z};
    down_ = {c * below.x - roll * right.x, c * below.y - roll * right.y, c * below.z - roll * right.z};
  }
  /// Where a point of the room is seen, in picture coordinates.
  Point see(Vector p) const {
    const Vector d = minus(p, eye_);
    const double depth = dot(d, forward_);
    return {middle_.x + focal_ * dot(d, right_) / depth, middle_.y + focal_ * dot(d, down_) / depth};
  }
  /// Where the ray of a picture point meets the plane Z = height.
  Point meet(Point p, double height) const {
    const double u = (p.x - middle_.x) / focal_, v = (p.y - middle_.y) / focal_;
    const Vector d{forward_.x + u * right_.x + v * down_.x, forward_.y + u * right_.y + v * down_.y,
                   forward_.z + u * right_.z + v * down_.z};
    const double t = (height - eye_.z) / d.z;
    return {eye_.x + t * d.x, eye_.y + t * d.y};
  }
  Vector eye() const { return eye_; }
  double focal() const { return focal_; }
  Point middle() const { return middle_; }
  Vector right() const { return right_; }
  Vector down() const { return down_; }
  Vector forward() const { return forward_; }

 private:
  Vector eye_, forward_, right_, down_;
  double focal_;
  Point middle_;
};

}  // namespace fexel::scene
