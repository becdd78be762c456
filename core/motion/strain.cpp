#include "motion/strain.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <map>

#include "base/job.h"
#include "geometry/map.h"

namespace fexel {
namespace {

constexpr double most_off_plane = 0.1;  // px RMS: less may be a strain that changes over the window
constexpr double many_times_off = 10;   // the points' uncertainty

/// How displacements add up to the plane's slopes: a row for x and y, a column for each point; and of what share the
/// points' variance is in a slope's.
struct Slopes {
  Eigen::MatrixXd rows;
  Eigen::Vector2d variance;
};

std::optional<Slopes> slopes_of(const std::vector<Point>& around, Point pixel, int size) {
  const auto n = static_cast<Eigen::Index>(around.size());
  Eigen::MatrixXd design(n, 3);
  for (Eigen::Index i = 0; i < n; ++i) {
    const Point p = around[static_cast<std::size_t>(i)];
    design.row(i) << 1, p.x * pixel.x, p.y * pixel.y;
  }
  const Eigen::Matrix3d normal = design.transpose() * design;
  const double extent = normal(1, 1) + normal(2, 2);
  Eigen::Matrix2d spread =
      normal.bottomRightCorner<2, 2>() - normal.block<2, 1>(1, 0) * normal.block<1, 2>(0, 1) / normal(0, 0);
  if (!(spread.determinant() > 1e-6 * extent * extent)) return std::nullopt;
  Slopes out;
  out.rows = (normal.inverse() * design.transpose()).bottomRows(2);
  // Two subsets share as much noise as they overlap.
  out.variance.setZero();
  for (Eigen::Index i = 0; i < n; ++i)
    for (Eigen::Index k = 0; k < n; ++k) {
      const Point d = around[static_cast<std::size_t>(i)] - around[static_cast<std::size_t>(k)];
      const double shared = std::max(0.0, 1 - std::abs(d.x) / size) * std::max(0.0, 1 - std::abs(d.y) / size);
      for (int axis = 0; axis < 2; ++axis) out.variance(axis) += shared * out.rows(axis, i) * out.rows(axis, k);
    }
  return out;
}

}  // namespace

Strain strain_from(const Eigen::Matrix2d& g, StrainMeasure measure) {
  Strain out;
  out.gradient = g;
  Eigen::Matrix2d e = 0.5 * (g + g.transpose());
  if (measure == StrainMeasure::green_lagrange) e += 0.5 * g.transpose() * g;
  out.xx = e(0, 0);
  out.yy = e(1, 1);
  out.xy = e(0, 1);
  const double middle = (out.xx + out.yy) / 2, radius = std::hypot((out.xx - out.yy) / 2, out.xy);
  out.first = middle + radius;
  out.second = middle - radius;
  out.shear = radius;
  // y is down: a positive angle in these axes is clockwise on the screen.
  out.direction = radius > 0 ? -0.5 * std::atan2(2 * out.xy, out.xx - out.yy) / degree : 0;
  const Eigen::Matrix2d f = Eigen::Matrix2d::Identity() + g;
  out.rotation = std::atan2(f(0, 1) - f(1, 0), f(0, 0) + f(1, 1)) / degree;
  return out;
}

Point gauge_length(const MotionGrid& grid, const StrainSettings& settings, int size) {
  return {static_cast<double>((settings.window - 1) * grid.step_x + size),
          static_cast<double>((settings.window - 1) * grid.step_y + size)};
}

std::vector<std::optional<Strain>> strain_of(const MotionField& field, const StrainSettings& settings, int size,
                                             const Job& job) {
  const MotionGrid& grid = field.grid;
  const int half = settings.window / 2, all = settings.window * settings.window;
  std::vector<Point> full;
  for (int r = -half; r <= half; ++r)
    for (int c = -half; c <= half; ++c)
      full.push_back({static_cast<double>(c * grid.step_x), static_cast<double>(r * grid.step_y)});
  const auto whole = slopes_of(full, settings.pixel, size);
  std::vector<std::optional<Strain>> out(grid.count());
  parallel_for(grid.rows, job, [&](int r) {
    std::vector<Point> around;
    std::vector<const MotionPoint*> points;
    for (int c = 0; c < grid.columns; ++c) {
      const auto i = static_cast<std::size_t>(r * grid.columns + c);
      if (grid.used[i] == 0 || !field.points[i].has_place()) continue;
      around.clear();
      points.clear();
      for (int y = std::max(0, r - half); y <= std::min(grid.rows - 1, r + half); ++y)
        for (int x = std::max(0, c - half); x <= std::min(grid.columns - 1, c + half); ++x) {
          const auto k = static_cast<std::size_t>(y * grid.columns + x);
          if (grid.used[k] == 0 || !field.points[k].good()) continue;
          around.push_back({static_cast<double>((x - c) * grid.step_x), static_cast<double>((y - r) * grid.step_y)});
          points.push_back(&field.points[k]);
        }
      const auto count = static_cast<int>(points.size());
      if (count < 4 || 2 * count < all) continue;
      const auto own = count == all ? whole : slopes_of(around, settings.pixel, size);
      if (!own) continue;
      Eigen::Matrix2d g = Eigen::Matrix2d::Zero();
      Point variance;
      for (int k = 0; k < count; ++k) {
        const MotionPoint& p = *points[static_cast<std::size_t>(k)];
        g.row(0) += settings.pixel.x * p.moved.x * own->rows.col(k).transpose();
        g.row(1) += settings.pixel.y * p.moved.y * own->rows.col(k).transpose();
        variance = variance + 1.0 / count * Point{p.sigma.x * p.sigma.x, p.sigma.y * p.sigma.y};
      }
      // What does not lie on a plane is no strain: a crack, or parts that slide, run through the window.
      double left = 0;
      Point mean;
      for (const MotionPoint* p : points) mean = mean + 1.0 / count * p->moved;
      Point middle;
      for (const Point p : around) middle = middle + 1.0 / count * p;
      for (int k = 0; k < count; ++k) {
        const auto n = static_cast<std::size_t>(k);
        const Eigen::Vector2d d((around[n].x - middle.x) * settings.pixel.x,
                                (around[n].y - middle.y) * settings.pixel.y);
        const Eigen::Vector2d fitted = g * d;
        left += std::pow(points[n]->moved.x - mean.x - fitted.x() / settings.pixel.x, 2) +
                std::pow(points[n]->moved.y - mean.y - fitted.y() / settings.pixel.y, 2);
      }
      left = std::sqrt(left / (2.0 * count));
      if (settings.breaks &&
          left > std::max(most_off_plane, many_times_off * std::sqrt(std::max(variance.x, variance.y))))
        continue;
      Strain strain = strain_from(g, settings.measure);
      strain.sigma = std::sqrt(std::max(settings.pixel.x * settings.pixel.x * variance.x * own->variance(0),
                                        settings.pixel.y * settings.pixel.y * variance.y * own->variance(1)));
      out[i] = strain;
    }
  });
  return out;
}

}  // namespace fexel
