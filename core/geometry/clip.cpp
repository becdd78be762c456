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
  // What all of the frame satisfies says nothing more: chains of many steps do not carry it along.
  const double w = size.width, h = size.height;
  std::erase_if(planes_, [&](const HalfPlane& p) {
    return p.c >= 0 && p.a * w + p.c >= 0 && p.b * h + p.c >= 0 && p.a * w + p.b * h + p.c >= 0;
  });
  add(1, 0, 0);
  add(-1, 0, size.width);
  add(0, 1, 0);
  add(0, -1, size.height);
}

void Clip::keep(const Clip& other) {
  planes_.insert(planes_.end(), other.planes_.begin(), other.planes_.end());
  elsewhere_.insert(elsewhere_.end(), other.elsewhere_.begin(), other.elsewhere_.end());
}

Clip Clip::through(const Map& map) const {
  Clip out;
  const Map back = map.inverse();
  for (const Elsewhere& e : elsewhere_) out.elsewhere_.push_back({e.there.after(back), e.planes});
  if (!map.planar()) {
    out.elsewhere_.push_back({back, planes_});
    return out;
  }
  const Matrix3& m = map.inverse_matrix();
  for (const auto& plane : planes_) {
    const Eigen::RowVector3d carried = Eigen::RowVector3d(plane.a, plane.b, plane.c) * m;
    out.add(carried(0), carried(1), carried(2));
  }
  if (m(2, 0) != 0 || m(2, 1) != 0 || m(2, 2) <= 0) out.add(m(2, 0), m(2, 1), m(2, 2));
  return out;
}

bool inside_all(const std::vector<HalfPlane>& planes, Point p) {
  return std::ranges::all_of(planes, [&](const HalfPlane& h) { return h.a * p.x + h.b * p.y + h.c >= -slack; });
}

bool Clip::contains(Point p) const {
  return inside_all(planes_, p) && std::ranges::all_of(elsewhere_, [&](const Elsewhere& e) {
           const auto there = e.there.forward(p);
           return there && inside_all(e.planes, *there);
         });
}

bool Clip::holds(Region part) const {
  if (!convex()) return false;
  for (const double x : {part.x + 0.5, part.x + part.width - 0.5})
    for (const double y : {part.y + 0.5, part.y + part.height - 0.5})
      if (!contains({x, y})) return false;
  return true;
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

namespace {

/// What the half planes leave of a convex polygon: one after the other cuts a piece off (I. Sutherland, G. Hodgman,
/// 1974, "Reentrant polygon clipping").
std::vector<Point> cut(std::vector<Point> polygon, const std::vector<HalfPlane>& planes) {
  for (const HalfPlane& plane : planes) {
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

std::vector<Point> in_small_steps(const std::vector<Point>& polygon) {
  constexpr int steps = 128;
  std::vector<Point> out;
  for (std::size_t i = 0; i < polygon.size(); ++i)
    for (int k = 0; k < steps; ++k)
      out.push_back(polygon[i] + double(k) / steps * (polygon[(i + 1) % polygon.size()] - polygon[i]));
  return out;
}

}  // namespace

std::vector<Point> Clip::corners(Size frame) const {
  const double w = frame.width, h = frame.height;
  const std::vector<Point> here = cut({{0, 0}, {w, 0}, {w, h}, {0, h}}, planes_);
  if (convex()) return here;
  // The outline is made of pieces of the outlines of all its parts: those that lie in all the others.
  constexpr double room = 1e-6, far = 4e6;
  const auto near = [&](const std::vector<HalfPlane>& planes, Point p) {
    return std::ranges::all_of(
        planes, [&](const HalfPlane& plane) { return plane.a * p.x + plane.b * p.y + plane.c >= -room; });
  };
  const auto on_outline = [&](Point p) {
    return p.x >= -room && p.y >= -room && p.x <= w + room && p.y <= h + room && near(planes_, p) &&
           std::ranges::all_of(elsewhere_, [&](const Elsewhere& e) {
             const auto there = e.there.forward(p);
             return there && near(e.planes, *there);
           });
  };
  std::vector<Point> out;
  for (const Point p : in_small_steps(here))
    if (on_outline(p)) out.push_back(p);
  for (const Elsewhere& e : elsewhere_)
    for (const Point p : in_small_steps(cut({{-far, -far}, {far, -far}, {far, far}, {-far, far}}, e.planes)))
      if (const auto at = e.there.backward(p); at && on_outline(*at)) out.push_back(*at);
  return out;
}

}  // namespace fexel
