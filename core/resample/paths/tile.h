#pragma once
/// The tiles that a warp is made of, and what is decided for one as a whole: the level it reads, and how.
#include <array>
#include <cmath>

#include "base/job.h"
#include "image/pyramid.h"
#include "resample/warp.h"

namespace fexel {

inline constexpr int tile_width = 1024;
inline constexpr int tile_height = 128;
/// Pixels of a level that one result pixel may span along its longer axis: less for the kernels that are wider.
double max_reach(Kernel kernel);

/// What one tile reads, and how.
struct TilePlan {
  const Image* source = nullptr;
  const Image* plain = nullptr;  // what the plain kernel reads: the source, or its spline coefficients
  Kernel plain_kernel = Kernel::linear;
  Matrix3 inverse_map;          // result to the pyramid level's coordinates
  const Map* curved = nullptr;  // the same for the picture itself, where no matrix gives it
  double scale = 1;             // from the picture to the level
  Stride stride;
  Path path = Path::sampler;
  std::optional<Region> box;  // Path::int16: what of the source is laid out as 16-bit numbers
  bool shrinking = false;     // some pixel needs the widened kernel
  Region whole{};             // the tile of the whole result that it is a part of
  int whole_x = 0;

  std::optional<Matrix2> slope(Point p) const {
    if (!curved) return Map::derivative(inverse_map, p);
    const auto j = curved->jacobian(p);
    return j ? std::optional(Matrix2(scale * *j)) : std::nullopt;
  }
  std::optional<Point> place(Point p) const {
    if (!curved) return Map::apply(inverse_map, p);
    const auto at = curved->forward(p);
    return at ? std::optional<Point>(scale * *at) : std::nullopt;
  }
  bool affine() const { return !curved && inverse_map(2, 0) == 0 && inverse_map(2, 1) == 0; }
};

/// Corners of a tile, its middle and the middles of its sides.
inline std::array<Point, 9> points_of(Region r) {
  std::array<Point, 9> out;
  for (int i = 0; i < 9; ++i)
    out[static_cast<std::size_t>(i)] = {r.x + r.width * 0.5 * (i % 3), r.y + r.height * 0.5 * (i / 3)};
  return out;
}

/// How far a place is past the last multiple.
inline int past(int place, int multiple) {
  return place - static_cast<int>(std::floor(static_cast<double>(place) / multiple)) * multiple;
}

/// The Jacobian without the shrinking that samples are taken by on purpose.
inline Matrix2 without(Stride stride, const Matrix2& jacobian) {
  return jacobian * Eigen::Vector2d(1.0 / stride.x, 1.0 / stride.y).asDiagonal();
}

/// The spline's coefficients of a source, made when they are first asked for.
const Image& spline_source(const Pyramid& source, BorderMode edge, const Job& job);

/// What a tile reads; choose_path() adds the path. Makes a pyramid level that it needs and that is missing, on all
/// cores.
TilePlan plan_tile(const Pyramid& source, const WarpPlan& whole, Region tile, const Resampling& resampling,
                   Quality quality, const Job& job);

}  // namespace fexel
