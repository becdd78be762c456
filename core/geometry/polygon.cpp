#include "geometry/polygon.h"

#include <algorithm>

namespace fexel {
namespace {

Point next(std::span<const Point> polygon, std::size_t i) {
  return polygon[(i + 1) % polygon.size()];
}

/// Whether p lies between a and b, which are on one line with it.
bool between(Point a, Point b, Point p) {
  return std::min(a.x, b.x) <= p.x && p.x <= std::max(a.x, b.x) && std::min(a.y, b.y) <= p.y &&
         p.y <= std::max(a.y, b.y);
}

bool meet(Point a, Point b, Point c, Point d) {
  const double abc = cross(a, b, c), abd = cross(a, b, d), cda = cross(c, d, a), cdb = cross(c, d, b);
  if (((abc > 0 && abd < 0) || (abc < 0 && abd > 0)) && ((cda > 0 && cdb < 0) || (cda < 0 && cdb > 0))) return true;
  return (abc == 0 && between(a, b, c)) || (abd == 0 && between(a, b, d)) || (cda == 0 && between(c, d, a)) ||
         (cdb == 0 && between(c, d, b));
}

}  // namespace

double signed_area(std::span<const Point> polygon) {
  double twice = 0;
  for (std::size_t i = 1; i + 1 < polygon.size(); ++i) twice += cross(polygon[0], polygon[i], polygon[i + 1]);
  return twice / 2;
}

double perimeter(std::span<const Point> polygon) {
  double sum = 0;
  for (std::size_t i = 0; i < polygon.size(); ++i) sum += distance(polygon[i], next(polygon, i));
  return sum;
}

Point centroid(std::span<const Point> polygon) {
  Point sum, mean;
  double twice = 0;
  for (std::size_t i = 1; i + 1 < polygon.size(); ++i) {
    const double part = cross(polygon[0], polygon[i], polygon[i + 1]);
    sum = sum + part / 3 * ((polygon[i] - polygon[0]) + (polygon[i + 1] - polygon[0]));
    twice += part;
  }
  if (twice != 0) return polygon[0] + 1 / twice * sum;
  for (const Point p : polygon) mean = mean + 1 / static_cast<double>(polygon.size()) * p;
  return mean;
}

std::optional<std::pair<int, int>> crossing_sides(std::span<const Point> polygon) {
  const std::size_t count = polygon.size();
  for (std::size_t i = 0; i < count; ++i)
    for (std::size_t j = i + 2; j < count; ++j) {
      if (i == 0 && j + 1 == count) continue;
      if (meet(polygon[i], next(polygon, i), polygon[j], next(polygon, j)))
        return std::pair(static_cast<int>(i), static_cast<int>(j));
    }
  return std::nullopt;
}

bool inside_polygon(std::span<const Point> polygon, Point place) {
  bool inside = false;
  for (std::size_t i = 0, before = polygon.size() - 1; i < polygon.size(); before = i++) {
    const Point a = polygon[before], b = polygon[i];
    if ((a.y > place.y) != (b.y > place.y) && place.x < a.x + (place.y - a.y) * (b.x - a.x) / (b.y - a.y))
      inside = !inside;
  }
  return inside;
}

}  // namespace fexel
