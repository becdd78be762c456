#include "resample/paths/choose_path.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "resample/kernels/footprint.h"
#include "resample/kernels/prefilter.h"
#include "resample/paths/row_int16.h"

namespace fexel {
namespace {

/// What of the source a tile reads that is worked on in blocks; nothing where that is not bounded.
std::optional<Region> box_of(const TilePlan& plan, Region tile) {
  constexpr double far = 1e8;
  // Blocks begin at their multiples, or behind curves where the tile does.
  const int early = plan.curved ? 0 : past(tile.x + plan.whole_x, Int16Tile::block);
  const int blocks = (tile.width + early + Int16Tile::block - 1) / Int16Tile::block;
  double left = far, top = far, right = -far, bottom = -far;
  for (const Point corner : points_of({tile.x - early, tile.y, blocks * Int16Tile::block, tile.height})) {
    const auto at = plan.place(corner);
    if (!at) return std::nullopt;
    left = std::min(left, at->x), right = std::max(right, at->x);
    top = std::min(top, at->y), bottom = std::max(bottom, at->y);
  }
  if (!(left > -far && top > -far && right < far && bottom < far)) return std::nullopt;
  const int x = static_cast<int>(std::floor(left)), y = static_cast<int>(std::floor(top));
  const int end_x = static_cast<int>(std::ceil(right)), end_y = static_cast<int>(std::ceil(bottom));
  const int around = Int16Tile::around(plan.plain_kernel) + (plan.curved ? Int16Tile::bent : 0);
  return Region{x - around, y - around, end_x - x + 2 * around, end_y - y + 2 * around};
}

/// Whether it pays to lay out what a tile reads as 16-bit numbers: where the map rotates and scales little.
bool suits_int16(const TilePlan& plan) {
  // The smallest slope at which bytes leave this path for digital lines: some 6 degrees of rotation.
  constexpr double max_slope = 0.1;
  constexpr double max_area = 2.5;  // of what is laid out, in areas of the tile
  const Region& whole = plan.whole;
  const auto box = box_of(plan, whole);
  const int around = Int16Tile::around(plan.plain_kernel);
  const double least = double(whole.width + 2 * around) * (whole.height + 2 * around);
  if (!box || double(box->width) * box->height > max_area * least) return false;
  return std::ranges::any_of(points_of(whole), [&](Point p) {
    const auto slope = plan.slope(p);
    return slope && std::max(std::abs((*slope)(0, 0) - 1), std::abs((*slope)(1, 0))) < max_slope;
  });
}

/// How a pure scaling is done by columns and rows; nothing where another way is better or needed.
std::optional<ScalePlan> plan_scaling(const Pyramid& source, const Matrix3& inverse_map, Region region,
                                      const Resampling& resampling, Quality quality, const Job& job) {
  auto scaling = pure_scaling(inverse_map);
  if (!scaling || quality == Quality::draft || resampling.kernel == Kernel::nearest) return std::nullopt;
  const double largest = std::max(scaling->scale_x, scaling->scale_y);
  const bool shrinks = resampling.antialias && largest > no_shrink;
  // Two kernels that have a share each are not one of columns and rows.
  if (shrinks && shrinking_share(largest) < 1) return std::nullopt;
  Resampling how = resampling;
  how.antialias = shrinks;
  if (!shrinks && how.kernel == Kernel::area) how.kernel = Kernel::linear;
  const bool spline = resampling.kernel == Kernel::bspline3;
  // Samples have a part in it and coefficients have: not one sum.
  if (spline && shrinks && std::min(scaling->scale_x, scaling->scale_y) < 2) return std::nullopt;
  int level = 0;
  if (shrinks && resampling.kernel != Kernel::area) level = source.level_for(largest / max_reach(resampling.kernel));
  if (largest / std::ldexp(1.0, level) > largest_reach) return std::nullopt;
  const double part = std::ldexp(1.0, -level);
  ScalePlan plan;
  plan.edge = resampling.edge;
  plan.region = region;
  plan.source = &source.level(level, job);
  if (spline && !shrinks) {
    plan.source = &spline_source(source, resampling.edge, job);
    plan.margin = prefilter_margin;
  }
  plan.columns = axis_taps(how, plan.margin > 0, scaling->scale_x * part, scaling->offset_x * part, region.x,
                           region.x + region.width);
  plan.rows = axis_taps(how, plan.margin > 0, scaling->scale_y * part, scaling->offset_y * part, region.y,
                        region.y + region.height);
  plan.halves = plan.margin == 0 && halves(plan.columns) && halves(plan.rows);
  plan.pair_up();
  return plan;
}

/// The fastest path for the pixels of a tile.
Path path_of(const TilePlan& plan) {
  if (plan.plain_kernel == Kernel::nearest) return Path::sampler;
  if (plan.plain->depth() != Depth::u8) return Path::row_float;
  return suits_int16(plan) ? Path::int16 : Path::digital_lines;
}

/// Whether a path can make the pixels of a tile, however fast.
bool serves(Path path, const TilePlan& plan) {
  if (path == Path::sampler) return true;
  if (plan.plain_kernel == Kernel::nearest) return false;
  if (path == Path::row_float) return true;
  if (plan.plain->depth() != Depth::u8) return false;
  return path == Path::digital_lines || (path == Path::int16 && box_of(plan, plan.whole));
}

}  // namespace

PathChoice choose_path(const Pyramid& source, const WarpPlan& plan, Region region, std::span<const Region> tiles,
                       const Resampling& resampling, Quality quality, const Job& job) {
  const auto wanted = [&](Path path) { return !plan.forced || plan.forced == path; };
  const auto refused = [&] {
    return call_error(fmt::format("The path {} cannot make this result.", name_of(*plan.forced)), {},
                      "Leave the choice to the program.");
  };
  PathChoice out;
  if (wanted(Path::copy) && is_exact(plan)) {
    out.move = whole_pixel_move(plan.inverse_map, plan.result, plan.stride);
    return out;
  }
  if (wanted(Path::separable) && plan.stride == Stride{} && !plan.curved && plan.clip.convex()) {
    out.scaling = plan_scaling(source, plan.inverse_map, region, resampling, quality, job);
    if (out.scaling) return out;
  }
  if (plan.forced == Path::copy || plan.forced == Path::separable) throw refused();
  for (const Region tile : tiles) {
    TilePlan one = plan_tile(source, plan, tile, resampling, quality, job);
    one.path = plan.forced.value_or(path_of(one));
    if (plan.forced && !serves(one.path, one)) throw refused();
    if (one.path == Path::int16) one.box = box_of(one, tile);
    // A nonlinear map may have no place for a corner of a tile that its whole tile has none of.
    if (one.path == Path::int16 && !one.box) one.path = Path::digital_lines;
    out.tiles.push_back(std::move(one));
  }
  return out;
}

}  // namespace fexel
