#include "resample/paths/tile.h"

#include <array>

#include "resample/kernels/footprint.h"
#include "resample/kernels/prefilter.h"

namespace fexel {
namespace {

/// The tile of the whole result that a tile at the end of a region is a part of.
Region whole_tile(const WarpPlan& plan, Region tile) {
  const Size whole = plan.whole == Size{} ? plan.result : plan.whole;
  const int x = tile.x - past(tile.x + plan.whole_x, tile_width), y = tile.y - past(tile.y + plan.whole_y, tile_height);
  const int right = std::max(std::min(x + tile_width, whole.width - plan.whole_x), tile.x + tile.width);
  const int bottom = std::max(std::min(y + tile_height, whole.height - plan.whole_y), tile.y + tile.height);
  return {x, y, right - x, bottom - y};
}

struct ShrinkRange {
  double largest = 0, smallest = 1e9;
};

/// The range of shrinks in a tile. Points beyond the horizon do not count.
ShrinkRange shrink_in(const WarpPlan& plan, Region r) {
  ShrinkRange range;
  for (const Point p : points_of(r)) {
    const auto j = plan.curved ? plan.curved->jacobian(p) : Map::derivative(plan.inverse_map, p);
    if (!j) continue;
    const auto s = singular_values(without(plan.stride, *j));
    range.largest = std::max(range.largest, s.large);
    range.smallest = std::min(range.smallest, s.small);
  }
  return range;
}

/// Whether a tile reads beyond the source, give or take what a kernel spans.
bool leaves_source(const WarpPlan& plan, Region tile, Size source, double span) {
  for (const Point corner : points_of(tile)) {
    const auto p = plan.curved ? plan.curved->forward(corner) : Map::apply(plan.inverse_map, corner);
    if (!p || p->x < span || p->y < span || p->x > source.width - span || p->y > source.height - span) return true;
  }
  return false;
}

int level_of(const Pyramid& source, const WarpPlan& plan, Region tile, const Resampling& resampling, Quality quality,
             const ShrinkRange& range) {
  if (!resampling.antialias || range.largest <= 0 || resampling.kernel == Kernel::nearest) return 0;
  if (quality == Quality::draft)
    return source.level_for(1.4 * std::sqrt(range.largest * std::min(range.smallest, range.largest)));
  const int least = source.level_for(range.largest / max_reach(resampling.kernel));
  if (resampling.kernel == Kernel::area) return least;
  // A picture's halves do not repeat quite where the picture does; only far out, next to a horizon, that is not seen.
  const Size size{source.base().width(), source.base().height()};
  const bool repeats = resampling.edge != BorderMode::fill && resampling.edge != BorderMode::extend;
  if (repeats && leaves_source(plan, tile, size, 8 * range.largest)) return least;
  return std::max(source.level_for(range.smallest / 2), least);
}

}  // namespace

double max_reach(Kernel kernel) {
  if (kernel == Kernel::area) return largest_reach;
  return kernel == Kernel::lanczos3 || kernel == Kernel::bspline3 ? 8 : 16;
}

const Image& spline_source(const Pyramid& source, BorderMode edge, const Job& job) {
  return source.derived(static_cast<int>(edge), [&] { return spline_coefficients(source.base(), edge, job); });
}

TilePlan plan_tile(const Pyramid& source, const WarpPlan& whole, Region tile, const Resampling& resampling,
                   Quality quality, const Job& job) {
  tile = whole_tile(whole, tile);
  const ShrinkRange range = shrink_in(whole, tile);
  const int level = level_of(source, whole, tile, resampling, quality, range);
  const double scale = std::ldexp(1.0, -level);
  TilePlan plan;
  plan.source = plan.plain = &source.level(level, job);
  plan.inverse_map = scaling(scale, scale) * whole.inverse_map;
  plan.curved = whole.curved ? &*whole.curved : nullptr;
  plan.scale = scale;
  plan.stride = whole.stride;
  plan.whole = tile;
  plan.whole_x = whole.whole_x;
  plan.shrinking = quality == Quality::final && resampling.antialias && resampling.kernel != Kernel::nearest &&
                   range.largest * scale > no_shrink;
  const bool draft = quality == Quality::draft && resampling.kernel != Kernel::nearest;
  // Where nothing shrinks, area is linear.
  plan.plain_kernel = draft || resampling.kernel == Kernel::area ? Kernel::linear : resampling.kernel;
  if (plan.plain_kernel != Kernel::bspline3) return plan;
  // Far from level 0 only the widened kernel is used, but for a pixel at a tile's edge.
  if (level > 0)
    plan.plain_kernel = Kernel::cubic;
  else
    plan.plain = &spline_source(source, resampling.edge, job);
  return plan;
}

}  // namespace fexel
