#include "resample/course.h"

#include <algorithm>

namespace fexel {
namespace {

constexpr int closest = 8;                // rows from node to node
constexpr double tolerance = 0.5 / 1024;  // half, for the middle of a cell is not quite where the error is largest

/// The cubic from a to b with slopes da and db, at t between 0 and 1.
Point between(Point a, Point da, Point b, Point db, double t) {
  const double s = 1 - t;
  return s * s * (1 + 2 * t) * a + t * t * (3 - 2 * t) * b + t * s * s * da + (-t * t * s) * db;
}

}  // namespace

Course::Course(const Map& pull, double scale, Region tile) : pull_(pull), scale_(scale), tile_(tile) {
  for (int step = stretch; step >= closest; step /= 2) {
    lay(step);
    if (check()) break;
  }
}

std::optional<Point> Course::exact(Point p) const {
  const auto at = pull_.forward(p);
  if (!at) return at;
  return scale_ * *at;
}

std::optional<Matrix2> Course::slope(Point p) const {
  const auto j = pull_.jacobian(p);
  if (!j) return j;
  return Matrix2(scale_ * *j);
}

void Course::lay(int step) {
  step_ = step;
  columns_ = (tile_.width + stretch - 1) / stretch + 1;
  rows_ = (tile_.height + step - 1) / step + 1;
  nodes_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), {});
  std::size_t i = 0;
  for (int row = 0; row < rows_; ++row)
    for (int column = 0; column < columns_; ++column, ++i) {
      const Point p{tile_.x + column * stretch + 0.5, tile_.y + row * step + 0.5};
      const auto at = exact(p);
      const auto j = slope(p);
      if (!at || !j) continue;
      nodes_[i] = {true, *at, {stretch * (*j)(0, 0), stretch * (*j)(1, 0)}, {step * (*j)(0, 1), step * (*j)(1, 1)}};
    }
}

CoursePlace Course::place(int column, int y) const {
  const int row = std::min((y - tile_.y) / step_, rows_ - 2);
  const double t = double(y - tile_.y - row * step_) / step_;
  const Node &a = node(column, row), &b = node(column, row + 1);
  const Point at = between(a.at, a.down, b.at, b.down, t);
  // The slope along the row, whose own change from row to row is taken from its neighbours.
  const auto turn = [&](int k) {
    const int before = std::max(k - 1, 0), after = std::min(k + 1, rows_ - 1);
    const Node &p = node(column, before), &q = node(column, after);
    return p.defined && q.defined ? 1.0 / (after - before) * (q.across - p.across) : b.across - a.across;
  };
  const Point across = between(a.across, turn(row), b.across, turn(row + 1), t);
  return {at.x, at.y, across.x, across.y};
}

bool Course::check() {
  const int across = columns_ - 1, down = rows_ - 1;
  sound_.assign(static_cast<std::size_t>(across) * static_cast<std::size_t>(down), 0);
  bool all = true;
  std::size_t i = 0;
  for (int row = 0; row < down; ++row)
    for (int column = 0; column < across; ++column, ++i) {
      bool sound = node(column, row).defined && node(column + 1, row).defined && node(column, row + 1).defined &&
                   node(column + 1, row + 1).defined;
      const int y = tile_.y + row * step_ + step_ / 2;
      for (const double part : {0.5, 0.0}) {
        if (!sound) break;
        const auto truth = exact({tile_.x + (column + part) * stretch + 0.5, y + 0.5});
        const CoursePlace a = place(column, y), b = place(column + 1, y);
        const Point drawn = between({a.x, a.y}, {a.dx, a.dy}, {b.x, b.y}, {b.dx, b.dy}, part);
        sound = truth && distance(*truth, drawn) < tolerance;
      }
      sound_[i] = sound ? 1 : 0;
      all = all && sound;
    }
  return all;
}

CourseRow Course::row(int y) const {
  CourseRow out;
  out.first = tile_.x;
  const int down = std::min((y - tile_.y) / step_, rows_ - 2);
  const auto cell = static_cast<std::size_t>(down) * static_cast<std::size_t>(columns_ - 1);
  out.sound.assign(sound_.begin() + static_cast<std::ptrdiff_t>(cell),
                   sound_.begin() + static_cast<std::ptrdiff_t>(cell) + columns_ - 1);
  out.places.reserve(static_cast<std::size_t>(columns_));
  for (int column = 0; column < columns_; ++column) out.places.push_back(place(column, y));
  out.down = 1.0 / step_ * node(columns_ / 2, down).down;
  return out;
}

}  // namespace fexel
