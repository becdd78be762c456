#include "resample/cover.h"

#include <algorithm>

namespace fexel {
namespace {

constexpr double margin = 1.0 / 256;  // more than a course is off

enum class Side { inside, outside, across };

/// Where a stretch lies, by its control points: a cubic lies within them.
Side side_of(const std::vector<HalfPlane>& planes, const CoursePlace& a, const CoursePlace& b) {
  const Point hull[] = {{a.x, a.y}, {a.x + a.dx / 3, a.y + a.dy / 3}, {b.x - b.dx / 3, b.y - b.dy / 3}, {b.x, b.y}};
  Side side = Side::inside;
  for (const HalfPlane& plane : planes) {
    double low = 1e300, high = -1e300;
    for (const Point p : hull) {
      const double at = plane.a * p.x + plane.b * p.y + plane.c;
      low = std::min(low, at);
      high = std::max(high, at);
    }
    if (high < -margin) return Side::outside;
    if (low < margin) side = Side::across;
  }
  return side;
}

/// Where a place lies that is told by a course: across where that does not tell.
Side side_of(const std::vector<HalfPlane>& planes, Point p) {
  Side side = Side::inside;
  for (const HalfPlane& plane : planes) {
    const double at = plane.a * p.x + plane.b * p.y + plane.c;
    if (at < -margin) return Side::outside;
    if (at < margin) side = Side::across;
  }
  return side;
}

void add(std::vector<Clip::Span>& spans, int begin, int end) {
  if (begin >= end) return;
  if (!spans.empty() && spans.back().end == begin)
    spans.back().end = end;
  else
    spans.push_back({begin, end});
}

}  // namespace

Cover::Cover(const Clip& clip, Region tile, TileCourses& courses) : clip_(clip), tile_(tile), all_(&courses) {
  for (const Clip::Elsewhere& e : clip.elsewhere()) courses_.push_back(courses.of(e.there, 1.0));
}

Cover::Cover(const Clip& clip, Region tile) : clip_(clip), tile_(tile) {
  own_ = std::make_shared<TileCourses>(tile);
  all_ = own_.get();
  for (const Clip::Elsewhere& e : clip.elsewhere()) courses_.push_back(own_->of(e.there, 1.0));
}

std::vector<Clip::Span> Cover::spans(int y) const {
  std::vector<Clip::Span> out;
  const Clip::Span here = clip_.row(y + 0.5, tile_.x, tile_.x + tile_.width);
  if (courses_.empty()) {
    add(out, here.begin, here.end);
    return out;
  }
  std::vector<CourseRow> rows;
  for (const auto& course : courses_) rows.push_back(course->row(y));
  for (int x = here.begin; x < here.end;) {
    const int stretch = (x - tile_.x) / Course::stretch;
    const int end = std::min(tile_.x + (stretch + 1) * Course::stretch, here.end);
    Side side = Side::inside;
    for (std::size_t i = 0; i < rows.size() && side != Side::outside; ++i) {
      const auto k = static_cast<std::size_t>(stretch);
      const Side part = rows[i].sound[k] != 0
                            ? side_of(clip_.elsewhere()[i].planes, rows[i].places[k], rows[i].places[k + 1])
                            : Side::across;
      if (part != Side::inside) side = part;
    }
    if (side == Side::inside) add(out, x, end);
    if (side == Side::across)
      for (int i = x; i < end; ++i) {
        Side here_side = Side::inside;
        for (std::size_t r = 0; r < rows.size() && here_side != Side::outside; ++r) {
          const auto k = static_cast<std::size_t>(stretch);
          const Clip::Elsewhere& e = clip_.elsewhere()[r];
          const std::optional<Point> at =
              rows[r].sound[k] != 0
                  ? between(rows[r].places[k], rows[r].places[k + 1], double(i - tile_.x) / Course::stretch - stretch)
                  : all_->place(*courses_[r], e.there, 1.0, i, y);
          const Side part = at ? side_of(e.planes, *at) : Side::outside;
          if (part != Side::inside) here_side = part;
        }
        if (here_side == Side::inside || (here_side == Side::across && clip_.contains({i + 0.5, y + 0.5})))
          add(out, i, i + 1);
      }
    x = end;
  }
  return out;
}

}  // namespace fexel
