#include "resample/course.h"

#include <algorithm>

namespace fexel {
namespace {

constexpr int closest = 8;                // rows from node to node
constexpr int few = 6;                    // one in so many cells may be left to be looked at closer
constexpr int closer_apart = 8;           // columns of a closer course
constexpr double tolerance = 0.3 / 1024;  // for the middle of a cell is not quite where the error is largest

/// The cubic from a to b with slopes da and db, at t between 0 and 1.
Point between(Point a, Point da, Point b, Point db, double t) {
  const double s = 1 - t;
  return s * s * (1 + 2 * t) * a + t * t * (3 - 2 * t) * b + t * s * s * da + (-t * t * s) * db;
}

}  // namespace

Course::Course(const Map& pull, double scale, Region tile, int apart)
    : pull_(pull), scale_(scale), tile_(tile), apart_(apart) {
  for (int step = stretch; step >= closest; step /= 2) {
    lay(step);
    const int left = unsound();
    if (left == 0 || (apart == stretch && left * few <= static_cast<int>(sound_.size()))) break;
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
  columns_ = (tile_.width + apart_ - 1) / apart_ + 1;
  rows_ = (tile_.height + step - 1) / step + 1;
  nodes_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), {});
  std::size_t i = 0;
  for (int row = 0; row < rows_; ++row)
    for (int column = 0; column < columns_; ++column, ++i) {
      const auto here = pull_.local({tile_.x + column * apart_ + 0.5, tile_.y + row * step + 0.5});
      if (!here) continue;
      const Matrix2 j = scale_ * here->slope;
      nodes_[i] = {true, scale_ * here->at, {apart_ * j(0, 0), apart_ * j(1, 0)}, {step * j(0, 1), step * j(1, 1)}};
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

int Course::unsound() {
  const int across = columns_ - 1, down = rows_ - 1;
  sound_.assign(static_cast<std::size_t>(across) * static_cast<std::size_t>(down), 0);
  int count = 0;
  std::size_t i = 0;
  for (int row = 0; row < down; ++row)
    for (int column = 0; column < across; ++column, ++i) {
      bool sound = node(column, row).defined && node(column + 1, row).defined && node(column, row + 1).defined &&
                   node(column + 1, row + 1).defined;
      const int y = tile_.y + row * step_ + step_ / 2;
      for (const double part : {0.5, 0.0}) {
        if (!sound) break;
        const auto truth = exact({tile_.x + (column + part) * apart_ + 0.5, y + 0.5});
        const CoursePlace a = place(column, y), b = place(column + 1, y);
        const Point drawn = between({a.x, a.y}, {a.dx, a.dy}, {b.x, b.y}, {b.dx, b.dy}, part);
        sound = truth && distance(*truth, drawn) < tolerance;
      }
      sound_[i] = sound ? 1 : 0;
      count += !sound;
    }
  return count;
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

std::shared_ptr<const Course> TileCourses::of(const Map& pull, double scale) {
  for (const auto& known : known_)
    if (known->scale == scale && known->pull == pull) return known->course;
  known_.push_back(std::make_unique<Known>(Known{pull, scale, nullptr}));
  known_.back()->course = std::make_shared<const Course>(known_.back()->pull, scale, tile_);
  return known_.back()->course;
}

std::optional<Point> TileCourses::place(const Course& course, const Map& pull, double scale, int x, int y) {
  const int across = (tile_.width + Course::stretch - 1) / Course::stretch;
  const int column = (x - tile_.x) / Course::stretch, line = (y - tile_.y) / Course::stretch;
  Closer& closer = closer_[{&course, line * across + column}];
  if (!closer.course)
    closer.course = std::make_unique<Course>(
        pull, scale,
        Region{tile_.x + column * Course::stretch, tile_.y + line * Course::stretch, Course::stretch, Course::stretch},
        closer_apart);
  if (closer.y != y) {
    closer.row = closer.course->row(y);
    closer.y = y;
  }
  const int within = x - closer.row.first;
  const auto k = static_cast<std::size_t>(within / closer_apart);
  if (closer.row.sound[k] == 0) return course.exact({x + 0.5, y + 0.5});
  return between(closer.row.places[k], closer.row.places[k + 1], double(within % closer_apart) / closer_apart);
}

}  // namespace fexel
