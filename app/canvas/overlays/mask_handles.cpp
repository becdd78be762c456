#include "app/canvas/overlays/mask_handles.h"

#include <algorithm>

namespace fexel {
namespace {

constexpr double least_extent = 1;  // px

Point middle_of(const std::vector<Point>& points) {
  Point sum;
  for (const Point p : points) sum = sum + p;
  return 1.0 / static_cast<double>(points.size()) * sum;
}

}  // namespace

std::vector<MaskHandle> handles_of(const Mask& mask) {
  const Point first = mask.points[0];
  std::vector<MaskHandle> out;
  switch (mask.shape) {
    case Mask::Shape::rectangle: {
      const Point last = mask.points[1];
      return {
          {first, "1"}, {{last.x, first.y}, "2"}, {last, "3"}, {{first.x, last.y}, "4"}, {0.5 * (first + last), ""}};
    }
    case Mask::Shape::circle:
      return {{first, "c"}, {first + Point{mask.radius, 0}, "r"}};
    case Mask::Shape::ring:
      return {{first, "c"}, {first + Point{mask.radius, 0}, "o"}, {first + Point{0, mask.inner}, "i"}};
    case Mask::Shape::polygon:
      for (const Point p : mask.points) out.push_back({p, ""});
      out.push_back({middle_of(mask.points), ""});
      break;
  }
  return out;
}

Mask with_handle_at(Mask mask, int index, Point to) {
  const double away = distance(mask.points[0], to);
  switch (mask.shape) {
    case Mask::Shape::rectangle: {
      Point &a = mask.points[0], &c = mask.points[1];
      if (index == 4) {
        const Point by = to - 0.5 * (a + c);
        a = a + by;
        c = c + by;
        break;
      }
      // The opposite corner stays.
      if (index == 0 || index == 3)
        a.x = std::min(to.x, c.x - least_extent);
      else
        c.x = std::max(to.x, a.x + least_extent);
      if (index < 2)
        a.y = std::min(to.y, c.y - least_extent);
      else
        c.y = std::max(to.y, a.y + least_extent);
      break;
    }
    case Mask::Shape::circle:
    case Mask::Shape::ring:
      if (index == 0)
        mask.points[0] = to;
      else if (index == 1)
        mask.radius = std::max(away, mask.inner + least_extent);
      else
        mask.inner = std::min(away, mask.radius - least_extent);
      break;
    case Mask::Shape::polygon:
      if (index < static_cast<int>(mask.points.size())) {
        mask.points[static_cast<std::size_t>(index)] = to;
      } else {
        const Point by = to - middle_of(mask.points);
        for (Point& p : mask.points) p = p + by;
      }
      break;
  }
  return mask;
}

Mask drawn_mask(Mask::Shape shape, Point from, Point to) {
  Mask mask;
  mask.shape = shape;
  const double radius = std::max(2 * least_extent, distance(from, to));
  if (shape == Mask::Shape::rectangle) {
    mask.points = {{std::min(from.x, to.x), std::min(from.y, to.y)},
                   {std::max({from.x, to.x, std::min(from.x, to.x) + least_extent}),
                    std::max({from.y, to.y, std::min(from.y, to.y) + least_extent})}};
  } else {
    mask.points = {from};
    mask.radius = radius;
    if (shape == Mask::Shape::ring) mask.inner = radius / 2;
  }
  return mask;
}

}  // namespace fexel
