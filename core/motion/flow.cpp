#include "motion/flow.h"

#include <algorithm>
#include <cmath>

#include "base/statistics.h"

namespace fexel {

std::optional<Point> moved_at(const MotionField& field, Point place) {
  const MotionGrid& grid = field.grid;
  if (grid.columns < 2 || grid.rows < 2) return std::nullopt;
  const double c = (place.x - grid.first.x) / grid.step_x, r = (place.y - grid.first.y) / grid.step_y;
  if (!(c >= 0 && r >= 0 && c <= grid.columns - 1 && r <= grid.rows - 1)) return std::nullopt;
  const int column = std::min(grid.columns - 2, static_cast<int>(c)),
            row = std::min(grid.rows - 2, static_cast<int>(r));
  const double x = c - column, y = r - row;
  Point out;
  for (int j = 0; j < 2; ++j)
    for (int i = 0; i < 2; ++i) {
      const double weight = (i == 0 ? 1 - x : x) * (j == 0 ? 1 - y : y);
      const auto k = static_cast<std::size_t>((row + j) * grid.columns + column + i);
      if (weight <= 0) continue;
      if (grid.used[k] == 0 || !field.points[k].has_place()) return std::nullopt;
      out = out + weight * field.points[k].moved;
    }
  return out;
}

void FlowAt::spread_uncertainties() {
  mean_uncertainty = 1 / std::sqrt(n) * rms;
  rms_uncertainty = 1 / std::sqrt(2.0 * (n - 1)) * rms;
  shear_uncertainty = std::sqrt((rms.x * rms.x * rms.y * rms.y + shear * shear) / (n - 1));
}

FlowStatistics::FlowStatistics(MotionGrid grid)
    : grid_(std::move(grid)), moved_(grid_.count()), squares_(grid_.count()) {}

void FlowStatistics::add(const MotionField& field) {
  // A step is that from frame to frame: a frame that is left out makes a field of two.
  const double steps = std::max(1, field.frame - field.from);
  for (std::size_t i = 0; i < grid_.count(); ++i) {
    const MotionPoint& p = field.points[i];
    if (grid_.used[i] == 0 || !p.good()) continue;
    const Point moved = 1 / steps * p.moved, sigma = 1 / steps * p.sigma;
    moved_[i].push_back(moved);
    squares_[i] = squares_[i] + Point{sigma.x * sigma.x, sigma.y * sigma.y};
  }
  last_ = field;
  ++fields_;
}

std::vector<FlowAt> FlowStatistics::points() const {
  std::vector<FlowAt> out(grid_.count());
  for (std::size_t i = 0; i < out.size(); ++i) {
    FlowAt& p = out[i];
    const std::vector<Point>& all = moved_[i];
    p.n = static_cast<int>(all.size());
    if (p.n < 2) continue;
    const double n = p.n;
    std::vector<double> x, y;
    for (const Point m : all) {
      p.mean = p.mean + 1 / n * m;
      x.push_back(m.x);
      y.push_back(m.y);
    }
    p.median = {central_median(x), central_median(y)};
    double xx = 0, yy = 0, xy = 0;
    for (const Point m : all) {
      const Point d = m - p.mean;
      xx += d.x * d.x;
      yy += d.y * d.y;
      xy += d.x * d.y;
    }
    p.rms = {std::sqrt(xx / (n - 1)), std::sqrt(yy / (n - 1))};
    p.shear = xy / (n - 1);
    p.spread_uncertainties();
    p.stated = {std::sqrt(squares_[i].x / n), std::sqrt(squares_[i].y / n)};
  }
  return out;
}

MotionField FlowStatistics::mean() const {
  MotionField out;
  out.grid = grid_;
  out.from = out.reference = last_.from;
  out.frame = last_.from + 1;
  out.points.resize(grid_.count());
  const auto all = points();
  for (std::size_t i = 0; i < all.size(); ++i) {
    MotionPoint& p = out.points[i];
    if (all[i].n < 2) {
      // As the last field says: behind a mask, or never found.
      if (i < last_.points.size() && last_.points[i].status == MotionStatus::masked) {
        p.status = MotionStatus::masked;
        p.reason = MotionReason::masked;
      }
      continue;
    }
    p.moved = all[i].mean;
    p.sigma = all[i].mean_uncertainty;
    p.score = 1;
    p.status = 2 * all[i].n >= fields_ ? MotionStatus::ok : MotionStatus::weak;
    p.reason = p.good() ? MotionReason::none : MotionReason::uncertain;
  }
  return out;
}

std::vector<std::vector<Point>> streamlines(const MotionField& field, double apart, const Job& job) {
  constexpr double step = 2;     // px
  constexpr int longest = 4000;  // steps each way
  const MotionGrid& grid = field.grid;
  const double left = grid.first.x, top = grid.first.y;
  const double cell = apart / 2;
  const int columns = static_cast<int>((grid.columns - 1) * grid.step_x / cell) + 1;
  const int rows = static_cast<int>((grid.rows - 1) * grid.step_y / cell) + 1;
  std::vector<std::vector<Point>> near(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
  const auto cell_of = [&](Point p) {
    const int c = std::clamp(static_cast<int>((p.x - left) / cell), 0, columns - 1);
    const int r = std::clamp(static_cast<int>((p.y - top) / cell), 0, rows - 1);
    return std::pair(c, r);
  };
  const auto taken = [&](Point p, double within) {
    const auto [c, r] = cell_of(p);
    const int reach = static_cast<int>(std::ceil(within / cell));
    for (int y = std::max(0, r - reach); y <= std::min(rows - 1, r + reach); ++y)
      for (int x = std::max(0, c - reach); x <= std::min(columns - 1, c + reach); ++x)
        for (const Point q : near[static_cast<std::size_t>(y * columns + x)])
          if (distance(p, q) < within) return true;
    return false;
  };
  double usual = 0, count = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (grid.used[i] != 0 && field.points[i].has_place()) {
      usual += std::hypot(field.points[i].moved.x, field.points[i].moved.y);
      ++count;
    }
  if (count == 0) return {};
  const double still = 1e-3 * usual / count;
  const auto along = [&](Point p) -> std::optional<Point> {
    const auto moved = moved_at(field, p);
    if (!moved) return std::nullopt;
    const double length = std::hypot(moved->x, moved->y);
    if (!(length > still)) return std::nullopt;
    return 1 / length * *moved;
  };
  const auto drawn = [&](Point from, double sign) {
    std::vector<Point> line;
    Point p = from;
    for (int k = 0; k < longest; ++k) {
      const auto a = along(p);
      if (!a) break;
      const auto b = along(p + 0.5 * sign * step * *a);
      if (!b) break;
      const auto c = along(p + 0.5 * sign * step * *b);
      if (!c) break;
      const auto d = along(p + sign * step * *c);
      if (!d) break;
      p = p + sign * step / 6 * (*a + 2 * *b + 2 * *c + *d);
      if (taken(p, apart / 2)) break;
      line.push_back(p);
      // A line that closes is drawn once.
      if (k > 20 && distance(p, from) < 0.75 * step) break;
    }
    return line;
  };
  std::vector<std::vector<Point>> out;
  for (double y = top + apart / 2; y <= top + (grid.rows - 1) * grid.step_y; y += apart) {
    job.check();
    for (double x = left + apart / 2; x <= left + (grid.columns - 1) * grid.step_x; x += apart) {
      const Point seed{x, y};
      if (taken(seed, apart * 0.9) || !along(seed)) continue;
      std::vector<Point> line = drawn(seed, -1);
      const bool closed = line.size() > 20 && distance(line.back(), seed) < 0.75 * step;
      std::ranges::reverse(line);
      line.push_back(seed);
      if (!closed)
        for (const Point p : drawn(seed, 1)) line.push_back(p);
      if (static_cast<double>(line.size()) * step < apart) continue;
      for (const Point p : line) {
        const auto [c, r] = cell_of(p);
        near[static_cast<std::size_t>(r * columns + c)].push_back(p);
      }
      out.push_back(std::move(line));
    }
  }
  return out;
}

namespace {

/// The integral of what `part` makes of a displacement and a piece of the line, both in the pixel's unit.
template <class Part>
LineFlow along_line(const MotionField& field, const std::vector<Point>& line, Point pixel, int size, const Part& part) {
  LineFlow out;
  double whole = 0, there = 0, squares = 0, sigma = 0;
  for (std::size_t k = 1; k < line.size(); ++k) {
    const Point d = line[k] - line[k - 1];
    const int pieces = std::max(1, static_cast<int>(std::ceil(std::hypot(d.x, d.y))));
    const Point piece{d.x / pieces * pixel.x, d.y / pieces * pixel.y};
    const double length = std::hypot(piece.x, piece.y);
    for (int i = 0; i < pieces; ++i) {
      const Point at = line[k - 1] + (i + 0.5) / pieces * d;
      whole += length;
      const auto moved = moved_at(field, at);
      if (!moved) continue;
      there += length;
      out.value += part(Point{moved->x * pixel.x, moved->y * pixel.y}, piece);
      const int c = std::clamp(static_cast<int>(std::lround((at.x - field.grid.first.x) / field.grid.step_x)), 0,
                               field.grid.columns - 1),
                r = std::clamp(static_cast<int>(std::lround((at.y - field.grid.first.y) / field.grid.step_y)), 0,
                               field.grid.rows - 1);
      const Point s = field.points[static_cast<std::size_t>(r * field.grid.columns + c)].sigma;
      // What counts of it, of errors along x and y that are apart.
      const double sx = part(Point{s.x * pixel.x, 0}, piece), sy = part(Point{0, s.y * pixel.y}, piece);
      squares += (sx * sx + sy * sy) / length;
    }
  }
  if (there > 0) {
    sigma = std::sqrt(squares / there);
    const double window = size * 0.5 * (pixel.x + pixel.y);
    out.uncertainty = sigma * std::sqrt(there * std::min(there, window));
  }
  out.known = whole > 0 ? there / whole : 0;
  return out;
}

}  // namespace

LineFlow flow_through(const MotionField& field, const std::vector<Point>& line, Point pixel, int size) {
  // y is down: the right-hand side of (x, y) is (-y, x).
  return along_line(field, line, pixel, size, [](Point u, Point d) { return u.x * -d.y + u.y * d.x; });
}

LineFlow circulation_round(const MotionField& field, std::vector<Point> polygon, Point pixel, int size) {
  if (polygon.size() < 3) return {};
  double area = 0;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    area += a.x * b.y - b.x * a.y;
  }
  // Counter-clockwise on the screen, where y is down, is a negative area.
  if (area > 0) std::ranges::reverse(polygon);
  polygon.push_back(polygon.front());
  return along_line(field, polygon, pixel, size, [](Point u, Point d) { return u.x * d.x + u.y * d.y; });
}

}  // namespace fexel
