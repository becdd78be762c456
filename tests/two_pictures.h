#pragma once
/// Two pictures of one plane surface, from formulas: surfaces of several kinds, seen by a tilted, turned camera.
/// Nothing here is taken from the engine.
#include <Eigen/Geometry>
#include <cmath>
#include <random>
#include <vector>

#include "geometry/map.h"
#include "image/image.h"
#include "tests/scene.h"

namespace fexel::test {

/// A surface of about 1000 x 1000, brightness 0 to 255 at each place.
class Surface {
 public:
  enum class Kind { waves, discs, bricks };
  Surface(Kind kind, unsigned seed)
      : kind_(kind),
        waves_(textured(kind == Kind::waves ? 30 : 10, 0.006, kind == Kind::waves ? 0.12 : 0.05, 1, seed)) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> any(0, 1);
    if (kind != Kind::waves)
      for (int k = 0; k < 6000; ++k)
        spots_.push_back({2200 * any(random) - 600, 2200 * any(random) - 600, 5 + 22 * any(random),
                          5 + 22 * any(random), M_PI * any(random), 40 + 170 * any(random)});
    for (auto& cell : cells_) cell.clear();
    for (std::size_t k = 0; k < spots_.size(); ++k) {
      const auto& s = spots_[k];
      const double r = std::max(s.a, s.b) + 4;
      for (int j = cell_of(s.y - r); j <= cell_of(s.y + r); ++j)
        for (int i = cell_of(s.x - r); i <= cell_of(s.x + r); ++i)
          cells_[static_cast<std::size_t>(j * side + i)].push_back(k);
    }
  }
  double at(double x, double y) const {
    const double texture = waves_.at(x, y) - waves_.mean;
    if (kind_ == Kind::waves) return 128 + 40 * texture;
    double value = 120 + 12 * texture;
    if (kind_ == Kind::bricks) {
      // Courses of irregular bricks, which repeat nearly, with spots of dirt that do not.
      const double row = std::floor(y / 40), u = x + 37 * std::fmod(row * 7, 11);
      const double inside = std::min(y - 40 * row, std::fmod(u + 70000, 90));
      value = inside < 5 ? 70 : value + 30;
    }
    for (const std::size_t k : cells_[static_cast<std::size_t>(cell_of(y) * side + cell_of(x))]) {
      const Spot& s = spots_[k];
      if (kind_ == Kind::bricks && k % 2 == 0) continue;
      const double u = std::cos(s.turn) * (x - s.x) + std::sin(s.turn) * (y - s.y),
                   v = -std::sin(s.turn) * (x - s.x) + std::cos(s.turn) * (y - s.y);
      // About the distance from its rim.
      const double h = std::hypot(u / s.a, v / s.b);
      const double off = h > 0.1 ? (h - 1) * h / std::hypot(u / (s.a * s.a), v / (s.b * s.b)) : -5;
      const double share = 0.5 * std::erfc(off / 1.2);
      value += share * (s.level + 12 * texture - value);
    }
    return value;
  }

 private:
  struct Spot {
    double x, y, a, b, turn, level;
  };
  static constexpr int side = 64;
  static int cell_of(double v) { return std::clamp(static_cast<int>((v + 700) / 40), 0, side - 1); }
  Kind kind_;
  Scene waves_;
  std::vector<Spot> spots_;
  std::vector<std::size_t> cells_[side * side];
};

/// What a camera makes of a surface: `lies` puts its places into pixels.
inline Image seen(const Surface& surface, const Matrix3& lies, Size size, double noise, unsigned seed, double gain = 1,
                  double offset = 0, bool negative = false) {
  Image out(size.width, size.height, 1, Depth::f32);
  const Matrix3 back = lies.inverse();
  std::mt19937 random(seed);
  std::normal_distribution<double> error(0, noise);
  constexpr int fine = 2;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < fine; ++j)
        for (int i = 0; i < fine; ++i) {
          const Eigen::Vector3d p = back * Eigen::Vector3d(x + (i + 0.5) / fine, y + (j + 0.5) / fine, 1);
          const double v = surface.at(p.x() / p.z(), p.y() / p.z());
          sum += negative ? 255 - v : v;
        }
      out.row<float>(0, y)[x] =
          static_cast<float>(std::clamp(std::round(gain * sum / (fine * fine) + offset + error(random)), 0.0, 255.0));
    }
  return out;
}

/// A camera over the place (cx, cy) of the surface: turned, at a scale, tilted by an angle about an axis in the
/// picture.
inline Matrix3 camera(Size size, double cx, double cy, double turn_degrees, double scale, double tilt_degrees,
                      double axis_degrees) {
  const double d = 1.6 * size.width, axis = axis_degrees * M_PI / 180;
  const Eigen::Matrix3d turn =
      Eigen::AngleAxisd(tilt_degrees * M_PI / 180, Eigen::Vector3d(std::cos(axis), std::sin(axis), 0))
          .toRotationMatrix() *
      Eigen::AngleAxisd(turn_degrees * M_PI / 180, Eigen::Vector3d::UnitZ()).toRotationMatrix();
  Matrix3 pose;
  pose << turn.col(0), turn.col(1), Eigen::Vector3d(0, 0, d / scale);
  Matrix3 project;
  project << d, 0, size.width / 2.0, 0, d, size.height / 2.0, 0, 0, 1;
  return project * pose * translation(-cx, -cy);
}

}  // namespace fexel::test
