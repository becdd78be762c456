#include "resample/coordinates/clip_spans.h"

#include <algorithm>
#include <array>

namespace fexel {
namespace {

constexpr double margin = 1.0 / 256;  // more than a sound grid is off

void add(std::vector<Clip::Span>& spans, int begin, int end) {
  if (begin >= end) return;
  if (!spans.empty() && spans.back().end == begin)
    spans.back().end = end;
  else
    spans.push_back({begin, end});
}

}  // namespace

ClipSpans::ClipSpans(const Clip& clip, Region tile, TileMapGrids& grids)
    : clip_(clip), tile_(tile), whole_(clip.holds(tile)) {
  look_elsewhere(clip, grids);
}

ClipSpans::ClipSpans(const Clip& clip, Region tile)
    : clip_(clip), tile_(tile), own_(std::make_shared<TileMapGrids>(tile)), whole_(clip.holds(tile)) {
  look_elsewhere(clip, *own_);
}

void ClipSpans::look_elsewhere(const Clip& clip, TileMapGrids& grids) {
  for (const Clip::Elsewhere& e : clip.elsewhere()) parts_.push_back({&e.planes, grids.of(e.there, 1.0)});
  if (!parts_.empty()) known_.resize(static_cast<std::size_t>(tile_.height));
}

/// On which side places are that lie within a hull, or this far outside.
ClipSpans::Side ClipSpans::side_of(const std::vector<HalfPlane>& planes, std::span<const Point> hull, double off) {
  Side side = Side::inside;
  for (const HalfPlane& plane : planes) {
    double low = 1e300, high = -1e300;
    for (const Point p : hull) {
      const double at = plane.a * p.x + plane.b * p.y + plane.c;
      low = std::min(low, at);
      high = std::max(high, at);
    }
    if (high < -off) return Side::outside;
    if (low < off) side = Side::across;
  }
  return side;
}

void ClipSpans::turn_to(Part& part, int y) const {
  if (part.cells == part.grid->row_of(y)) return;
  part.cells = part.grid->row_of(y);
  part.sides.clear();
  for (int column = 0; column * MapGrid::stretch < tile_.width; ++column) {
    const auto hull = part.grid->hull(column, y);
    part.sides.push_back(hull ? side_of(*part.planes, hull->points, std::max(margin, hull->off)) : Side::across);
  }
}

ClipSpans::Side ClipSpans::side(int stretch) const {
  Side side = Side::inside;
  for (const Part& part : parts_) {
    const Side here = part.sides[static_cast<std::size_t>(stretch)];
    if (here == Side::outside) return here;
    if (here == Side::across) side = here;
  }
  return side;
}

ClipSpans::Side ClipSpans::side(int stretch, int y) {
  const auto k = static_cast<std::size_t>(stretch);
  Side side = Side::inside;
  for (Part& part : parts_) {
    if (part.y != y) part.grid->row(y, part.row);
    part.y = y;
    Side here = Side::across;
    if (part.row.sound[k] != 0) {
      const GridPlace &a = part.row.places[k], &b = part.row.places[k + 1];
      const Point hull[] = {{a.x, a.y}, {a.x + a.dx / 3, a.y + a.dy / 3}, {b.x - b.dx / 3, b.y - b.dy / 3}, {b.x, b.y}};
      here = side_of(*part.planes, hull, margin);
    }
    if (here == Side::outside) return here;
    if (here == Side::across) side = here;
  }
  return side;
}

void ClipSpans::look(int begin, int end, int y, std::vector<Clip::Span>& out) {
  const auto count = static_cast<std::size_t>(end - begin);
  std::array<Side, MapGrid::stretch> where;
  where.fill(Side::inside);
  std::array<double, MapGrid::stretch> xs, ys;
  for (Part& part : parts_) {
    nowhere_.clear();
    part.grid->fill(part.row, y, begin, end - begin, xs.data(), ys.data(), nowhere_);
    const auto [left, right] = std::minmax_element(xs.begin(), xs.begin() + end - begin);
    const auto [top, bottom] = std::minmax_element(ys.begin(), ys.begin() + end - begin);
    const Point around[] = {{*left, *top}, {*right, *top}, {*right, *bottom}, {*left, *bottom}};
    if (nowhere_.empty() && side_of(*part.planes, around, margin) == Side::inside) continue;
    for (std::size_t i = 0; i < count; ++i) {
      const Point at{xs[i], ys[i]};
      const Side here = side_of(*part.planes, std::span(&at, 1), margin);
      if (here == Side::outside || where[i] == Side::inside) where[i] = here;
    }
    for (const int x : nowhere_) where[static_cast<std::size_t>(x - begin)] = Side::outside;
  }
  for (int x = begin; x < end; ++x) {
    const Side side = where[static_cast<std::size_t>(x - begin)];
    if (side == Side::inside || (side == Side::across && clip_.contains({x + 0.5, y + 0.5}))) add(out, x, x + 1);
  }
}

void ClipSpans::find(int y, std::vector<Clip::Span>& out) {
  const Clip::Span here = clip_.row(y + 0.5, tile_.x, tile_.x + tile_.width);
  for (Part& part : parts_) turn_to(part, y);
  for (int x = here.begin; x < here.end;) {
    const int stretch = (x - tile_.x) / MapGrid::stretch;
    const int end = std::min(tile_.x + (stretch + 1) * MapGrid::stretch, here.end);
    Side where = side(stretch);
    if (where == Side::across) where = side(stretch, y);
    if (where == Side::inside) add(out, x, end);
    if (where == Side::across) look(x, end, y, out);
    x = end;
  }
}

std::span<const Clip::Span> ClipSpans::spans(int y) {
  if (parts_.empty()) {
    const Clip::Span whole{tile_.x, tile_.x + tile_.width};
    row_.clear();
    const Clip::Span here = whole_ ? whole : clip_.row(y + 0.5, whole.begin, whole.end);
    add(row_, here.begin, here.end);
    return row_;
  }
  auto& known = known_[static_cast<std::size_t>(y - tile_.y)];
  if (!known) find(y, known.emplace());
  return *known;
}

}  // namespace fexel
