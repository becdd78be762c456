#include "geometry/clip.h"

namespace fexel {
namespace {

constexpr double slack = 1e-9;

}  // namespace

void Clip::add(double a, double b, double c) {
  const double length = std::hypot(a, b);
  if (length > 0)
    planes_.push_back({a / length, b / length, c / length});
  else
    planes_.push_back({0, 0, c});
}

void Clip::keep_inside(Size size) {
  add(1, 0, 0);
  add(-1, 0, size.width);
  add(0, 1, 0);
  add(0, -1, size.height);
}

Clip Clip::through(const Map& map) const {
  const Matrix3& back = map.inverse_matrix();
  Clip out;
  for (const auto& plane : planes_) {
    const Eigen::RowVector3d carried = Eigen::RowVector3d(plane.a, plane.b, plane.c) * back;
    out.add(carried(0), carried(1), carried(2));
  }
  if (back(2, 0) != 0 || back(2, 1) != 0 || back(2, 2) <= 0) out.add(back(2, 0), back(2, 1), back(2, 2));
  return out;
}

bool Clip::contains(Point p) const {
  return std::ranges::all_of(planes_, [&](const HalfPlane& h) { return h.a * p.x + h.b * p.y + h.c >= -slack; });
}

Clip::Span Clip::row(double y, int first, int last) const {
  double low = first + 0.5;
  double high = last - 0.5;
  for (const auto& h : planes_) {
    const double rest = h.b * y + h.c + slack;
    if (std::abs(h.a) < 1e-15) {
      if (rest < 0) return {first, first};
    } else if (h.a > 0) {
      low = std::max(low, -rest / h.a);
    } else {
      high = std::min(high, -rest / h.a);
    }
  }
  const double begin = std::ceil(low - 0.5);
  const double end = std::floor(high - 0.5) + 1;
  if (!(begin < end)) return {first, first};
  return {static_cast<int>(begin), static_cast<int>(end)};
}

std::vector<Point> Clip::corners(Size frame) const {
  const double w = frame.width, h = frame.height;
  std::vector<Point> polygon = {{0, 0}, {w, 0}, {w, h}, {0, h}};
  // One half plane after the other cuts a piece off (I. Sutherland, G. Hodgman, 1974, "Reentrant polygon clipping").
  for (const HalfPlane& plane : planes_) {
    const auto side = [&](Point p) { return plane.a * p.x + plane.b * p.y + plane.c; };
    std::vector<Point> kept;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
      const Point p = polygon[i], q = polygon[(i + 1) % polygon.size()];
      const double at_p = side(p), at_q = side(q);
      if (at_p >= 0) kept.push_back(p);
      if ((at_p > 0 && at_q < 0) || (at_p < 0 && at_q > 0)) {
        const double t = at_p / (at_p - at_q);
        kept.push_back({p.x + t * (q.x - p.x), p.y + t * (q.y - p.y)});
      }
    }
    polygon = std::move(kept);
  }
  return polygon;
}

}  // namespace fexel
