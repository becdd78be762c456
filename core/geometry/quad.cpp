#include "geometry/quad.h"

#include <fmt/format.h>

namespace fexel {
namespace {

constexpr double same_distance = 0.01;

bool collinear(Point a, Point b, Point c) {
  const double longest = std::max({distance(a, b), distance(b, c), distance(c, a)});
  return std::abs(cross(a, b, c)) / longest < std::max(0.1, 1e-3 * longest);
}

}  // namespace

std::optional<QuadProblem> check_quad(const Quad& q) {
  using Kind = QuadProblem::Kind;
  for (std::size_t i = 0; i < 4; ++i)
    if (!std::isfinite(q[i].x) || !std::isfinite(q[i].y))
      return QuadProblem{Kind::not_finite, fmt::format("Corner {} is not a finite point.", i + 1),
                         "Give every corner an x and a y in pixels."};
  for (std::size_t i = 0; i < 4; ++i)
    for (std::size_t j = i + 1; j < 4; ++j)
      if (distance(q[i], q[j]) < same_distance)
        return QuadProblem{
            Kind::same_point,
            fmt::format("Corners {} and {} are the same point ({:.1f}, {:.1f}).", i + 1, j + 1, q[i].x, q[i].y),
            "Move one of them to its own corner of the rectangle."};
  for (std::size_t skip = 0; skip < 4; ++skip) {
    const std::size_t a = (skip + 1) % 4, b = (skip + 2) % 4, c = (skip + 3) % 4;
    if (collinear(q[a], q[b], q[c]))
      return QuadProblem{
          Kind::collinear,
          fmt::format("Corners {}, {} and {} lie on one line.", std::min({a, b, c}) + 1,
                      a + b + c - std::min({a, b, c}) - std::max({a, b, c}) + 1, std::max({a, b, c}) + 1),
          "Move one of them off the line: a rectangle has no three corners on a line."};
  }
  int positive = 0;
  std::size_t odd_one = 0;
  double turns[4];
  for (std::size_t i = 0; i < 4; ++i) {
    turns[i] = cross(q[i], q[(i + 1) % 4], q[(i + 2) % 4]);
    if (turns[i] > 0) ++positive;
  }
  if (positive == 4) return std::nullopt;
  if (positive == 0)
    return QuadProblem{Kind::mirrored, "The corners go round the wrong way: the result would be a mirror image.",
                       "Give them as top-left, top-right, bottom-right, bottom-left."};
  if (positive == 2)
    return QuadProblem{Kind::crossed, "The sides of the rectangle cross: two corners have changed places.",
                       "Give them as top-left, top-right, bottom-right, bottom-left."};
  for (std::size_t i = 0; i < 4; ++i)
    if ((turns[i] > 0) == (positive == 1)) odd_one = (i + 1) % 4;
  return QuadProblem{Kind::concave, fmt::format("Corner {} lies inside the triangle of the other three.", odd_one + 1),
                     "No view of a rectangle looks like this; move the corner outward."};
}

Quad in_order(const Quad& quad) {
  Point middle;
  for (const Point& p : quad) middle = middle + 0.25 * p;
  Quad sorted = quad;
  std::ranges::stable_sort(sorted, {}, [&](Point p) { return std::atan2(p.y - middle.y, p.x - middle.x); });
  const auto top_left = std::ranges::min_element(sorted, {}, [](Point p) { return p.x + p.y; });
  std::ranges::rotate(sorted, top_left);
  return sorted;
}

}  // namespace fexel
