#include "resample/paths/tile.h"

#include <array>

#include "resample/kernels/footprint.h"
#include "resample/kernels/prefilter.h"
#include "resample/paths/row_int16.h"

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

/// Corners of a tile, its middle and the middles of its sides.
std::array<Point, 9> points_of(Region r) {
  std::array<Point, 9> out;
  for (int i = 0; i < 9; ++i)
    out[static_cast<std::size_t>(i)] = {r.x + r.width * 0.5 * (i % 3), r.y + r.height * 0.5 * (i / 3)};
  return out;
}

/// The range of shrinks in a tile. Points beyond the horizon do not count.
ShrinkRange shrink_in(const WarpPlan& plan, Region r) {
  ShrinkRange range;
  for (const Point p : points_of(r)) {
    const auto j = plan.curved ? plan.curved->jacobian(p) : Map::derivative(plan.pull, p);
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
    const auto p = plan.curved ? plan.curved->forward(corner) : Map::apply(plan.pull, corner);
    if (!p || p->x < span || p->y < span || p->x > source.width - span || p->y > source.height - span) return true;
  }
  return false;
}

int level_of(const Pyramid& source, const WarpPlan& plan, Region tile, const Resampling& resampling, Quality quality,
             const ShrinkRange& range) {
  if (!resampling.antialias || range.largest <= 0 || resampling.kernel == Kernel::nearest) return 0;
  if (quality == Quality::draft)
    return source.level_for(1.4 * std::sqrt(range.largest * std::min(range.smallest, range.largest)));
  const int least = source.level_for(range.largest / most_reach(resampling.kernel));
  if (resampling.kernel == Kernel::area) return least;
  // A picture's halves do not repeat quite where the picture does; only far out, next to a horizon, that is not seen.
  const Size size{source.base().width(), source.base().height()};
  const bool repeats = resampling.edge != Edge::fill && resampling.edge != Edge::extend;
  if (repeats && leaves_source(plan, tile, size, 8 * range.largest)) return least;
  return std::max(source.level_for(range.smallest / 2), least);
}

/// What of the source a tile reads that is worked on in blocks; nothing where that is not bounded.
std::optional<Region> box_of(const TilePlan& plan, Region tile) {
  constexpr double far = 1e8;
  // Blocks begin at their multiples, or behind curves where the tile does.
  const int early = plan.curved ? 0 : past(tile.x + plan.whole_x, Words::block);
  const int blocks = (tile.width + early + Words::block - 1) / Words::block;
  double left = far, top = far, right = -far, bottom = -far;
  for (const Point corner : points_of({tile.x - early, tile.y, blocks * Words::block, tile.height})) {
    const auto at = plan.place(corner);
    if (!at) return std::nullopt;
    left = std::min(left, at->x), right = std::max(right, at->x);
    top = std::min(top, at->y), bottom = std::max(bottom, at->y);
  }
  if (!(left > -far && top > -far && right < far && bottom < far)) return std::nullopt;
  const int x = static_cast<int>(std::floor(left)), y = static_cast<int>(std::floor(top));
  const int end_x = static_cast<int>(std::ceil(right)), end_y = static_cast<int>(std::ceil(bottom));
  const int around = Words::around(plan.plain_kernel) + (plan.curved ? Words::bent : 0);
  return Region{x - around, y - around, end_x - x + 2 * around, end_y - y + 2 * around};
}

/// Whether it pays to lay out what a tile reads as words: where the map turns and scales little. Decided for whole
/// tiles, so that a pixel is not interpolated one way in one region and another way in another.
bool suits_words(const TilePlan& plan) {
  constexpr double most = 2.5, most_slope = 0.1;
  if (!interpolates_bytes(plan)) return false;
  const Region& whole = plan.whole;
  const auto box = box_of(plan, whole);
  const int around = Words::around(plan.plain_kernel);
  const double least = double(whole.width + 2 * around) * (whole.height + 2 * around);
  if (!box || double(box->width) * box->height > most * least) return false;
  return std::ranges::any_of(points_of(whole), [&](Point p) {
    const auto slope = plan.slope(p);
    return slope && std::max(std::abs((*slope)(0, 0) - 1), std::abs((*slope)(1, 0))) < most_slope;
  });
}

}  // namespace

double most_reach(Kernel kernel) {
  if (kernel == Kernel::area) return largest_reach;
  return kernel == Kernel::lanczos3 || kernel == Kernel::bspline3 ? 8 : 16;
}

const Image& spline_source(const Pyramid& source, Edge edge, const Job& job) {
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
  plan.pull = scaling(scale, scale) * whole.pull;
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

bool interpolates_bytes(const TilePlan& plan) {
  return plan.plain->depth() == Depth::u8 && plan.plain_kernel != Kernel::nearest;
}

std::optional<Region> words_box(const TilePlan& plan, Region tile) {
  return suits_words(plan) ? box_of(plan, tile) : std::nullopt;
}

}  // namespace fexel
