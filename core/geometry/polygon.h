#pragma once
/// Closed polygons: area, perimeter, middle, and whether their sides cross. The last point joins the first.
#include <optional>
#include <span>
#include <utility>

#include "geometry/point.h"

namespace fexel {

/// Positive when it goes clockwise on the screen (y is down).
double signed_area(std::span<const Point> polygon);
double perimeter(std::span<const Point> polygon);
/// The middle of its area; the mean of its points where it has none.
Point centroid(std::span<const Point> polygon);
/// Two sides that cross or touch, counted from 0 by the points that they begin with; neighbours meet at their common
/// point, and do not count.
std::optional<std::pair<int, int>> crossing_sides(std::span<const Point> polygon);

/// Whether a place is inside, by how often a line from it to the right crosses the sides.
bool inside_polygon(std::span<const Point> polygon, Point place);

}  // namespace fexel
