#pragma once
/// Printed grids seen by a camera with a lens, from formulas. Nothing here is taken from the engine.
#include <Eigen/Geometry>
#include <cmath>
#include <functional>
#include <random>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel::test {

struct GridCamera {
  Size size{640, 480};
  double focal = 700, cx = 320, cy = 240, k1 = 0, k2 = 0;
  Eigen::Matrix3d turn = Eigen::Matrix3d::Identity();
  Eigen::Vector3d place{0, 0, 12};  ///< of the plane's origin

  /// Tilted about an axis in the picture, and turned in its plane.
  void pose(double tilt_degrees, double axis_degrees, double roll_degrees, Eigen::Vector3d at) {
    const double axis = axis_degrees * M_PI / 180;
    turn = Eigen::AngleAxisd(tilt_degrees * M_PI / 180, Eigen::Vector3d(std::cos(axis), std::sin(axis), 0))
               .toRotationMatrix() *
           Eigen::AngleAxisd(roll_degrees * M_PI / 180, Eigen::Vector3d::UnitZ()).toRotationMatrix();
    place = at;
  }
  Point bent(double x, double y) const {
    const double s = x * x + y * y, f = 1 + s * (k1 + s * k2);
    return {x * f, y * f};
  }
  /// Where a point of the plane is seen.
  Point seen(double u, double v) const {
    const Eigen::Vector3d p = turn.col(0) * u + turn.col(1) * v + place;
    const Point b = bent(p.x() / p.z(), p.y() / p.z());
    return {cx + focal * b.x, cy + focal * b.y};
  }
  /// The point of the plane that is seen there.
  Point on_plane(double px, double py) const {
    const double tx = (px - cx) / focal, ty = (py - cy) / focal, r = std::hypot(tx, ty);
    // The radius before the lens, by Newton's method.
    double q = r;
    for (int i = 0; i < 30; ++i) {
      const double s = q * q, step = (q * (1 + s * (k1 + s * k2)) - r) / (1 + s * (3 * k1 + s * 5 * k2));
      q -= step;
      if (std::abs(step) < 1e-13) break;
    }
    const double part = r > 0 ? q / r : 1;
    const Eigen::Vector3d ray(tx * part, ty * part, 1), normal = turn.col(2);
    const Eigen::Vector3d at = ray * (normal.dot(place) / normal.dot(ray)) - place;
    return {turn.col(0).dot(at), turn.col(1).dot(at)};
  }
};

enum class Print { checkerboard, dots, lines };
struct GridPrint {
  Print print = Print::checkerboard;
  int columns = 9, rows = 7;  ///< nodes
  double share = 0.5;         ///< diameter of dots, or width of lines, in pitches
  std::function<bool(int, int)> hidden = {};
  /// 1 where it is dark; the first node is at 0, 0.
  double dark(double u, double v) const {
    const double left = -1, top = -1, right = columns, bottom = rows;
    if (print == Print::checkerboard) {
      if (u < left || v < top || u > right || v > bottom) return 0;
      return (static_cast<int>(std::floor(u) + std::floor(v)) & 1) == 0 ? 1 : 0;
    }
    const double i = std::floor(u + 0.5), j = std::floor(v + 0.5);
    if (print == Print::dots) {
      if (i < 0 || j < 0 || i >= columns || j >= rows) return 0;
      if (hidden && hidden(static_cast<int>(i), static_cast<int>(j))) return 0;
      return std::hypot(u - i, v - j) < share / 2 ? 1 : 0;
    }
    const double over = 0.4;
    if (u < -over || v < -over || u > columns - 1 + over || v > rows - 1 + over) return 0;
    return (std::abs(u - i) < share / 2 && i >= 0 && i < columns) || (std::abs(v - j) < share / 2 && j >= 0 && j < rows)
               ? 1
               : 0;
  }
};

struct GridLook {
  double blur = 1, noise = 2, ground = 200, contrast = 140, uneven = 0.2;
};

inline Image grid_picture(const GridCamera& camera, const GridPrint& print, const GridLook& look, unsigned seed) {
  const int w = camera.size.width, h = camera.size.height;
  std::vector<double> value(static_cast<std::size_t>(w) * static_cast<std::size_t>(h));
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) {
      const Point middle = camera.on_plane(x + 0.5, y + 0.5), right = camera.on_plane(x + 1.5, y + 0.5),
                  below = camera.on_plane(x + 0.5, y + 1.5);
      const auto at = [&](double dx, double dy) {
        return print.dark(middle.x + dx * (right.x - middle.x) + dy * (below.x - middle.x),
                          middle.y + dx * (right.y - middle.y) + dy * (below.y - middle.y));
      };
      double dark = at(0, 0);
      bool alike = true;
      for (int j = -1; j <= 1; ++j)
        for (int i = -1; i <= 1; ++i) alike = alike && at(0.6 * i, 0.6 * j) == dark;
      if (!alike) {
        constexpr int steps = 10;
        dark = 0;
        for (int j = 0; j < steps; ++j)
          for (int i = 0; i < steps; ++i)
            dark += at((i + 0.5) / steps - 0.5, (j + 0.5) / steps - 0.5) / (steps * steps);
      }
      const double light = 1 + look.uneven * (x - w / 2.0) / w + 0.5 * look.uneven * (y - h / 2.0) / h;
      value[static_cast<std::size_t>(y * w + x)] = (look.ground - look.contrast * dark) * light;
    }
  // Blurred along rows and columns.
  std::vector<double> kernel;
  const int reach = look.blur > 0 ? static_cast<int>(std::ceil(4 * look.blur)) : 0;
  double sum = 0;
  for (int i = -reach; i <= reach; ++i) {
    kernel.push_back(look.blur > 0 ? std::exp(-i * i / (2 * look.blur * look.blur)) : 1);
    sum += kernel.back();
  }
  std::vector<double> rows(value.size());
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) {
      double v = 0;
      for (int i = -reach; i <= reach; ++i)
        v += kernel[static_cast<std::size_t>(i + reach)] / sum *
             value[static_cast<std::size_t>(y * w + std::clamp(x + i, 0, w - 1))];
      rows[static_cast<std::size_t>(y * w + x)] = v;
    }
  Image image(w, h, 1, Depth::u8);
  std::mt19937 random(seed);
  std::normal_distribution<double> sensor(0, look.noise);
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) {
      double v = 0;
      for (int i = -reach; i <= reach; ++i)
        v += kernel[static_cast<std::size_t>(i + reach)] / sum *
             rows[static_cast<std::size_t>(std::clamp(y + i, 0, h - 1) * w + x)];
      image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(v + sensor(random) + 0.5, 0.0, 255.0));
    }
  return image;
}

}  // namespace fexel::test
