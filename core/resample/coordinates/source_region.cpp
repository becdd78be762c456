#include "resample/coordinates/source_region.h"

#include "resample/kernels/footprint.h"
#include "resample/kernels/prefilter.h"

namespace fexel {

std::optional<Region> source_box(const WarpPlan& plan, Region region, const Resampling& resampling, Size size) {
  if (plan.curved) return std::nullopt;
  constexpr int multiple = 64;
  double left = 1e18, top = 1e18, right = -1e18, bottom = -1e18, shrink = 1;
  const double x1 = region.x + region.width, y1 = region.y + region.height;
  // The corners of a region this side of the horizon hold what lies between them.
  for (const Point corner : {Point{double(region.x), double(region.y)}, Point{x1, double(region.y)},
                             Point{double(region.x), y1}, Point{x1, y1}}) {
    const auto p = Map::apply(plan.inverse_map, corner);
    const auto j = Map::derivative(plan.inverse_map, corner);
    if (!p || !j) return std::nullopt;
    left = std::min(left, p->x), right = std::max(right, p->x);
    top = std::min(top, p->y), bottom = std::max(bottom, p->y);
    shrink = std::max(shrink, singular_values(*j).large);
  }
  // A kernel that is widened reads its radius times the shrink, from halves that have been filtered on their way.
  const double reach = resampling.kernel == Kernel::bspline3 && shrink < 2
                           ? prefilter_margin + 32
                           : 2 * (kernel_radius(Kernel::lanczos3) + 4) * shrink;
  const auto axis = [&](double from, double to, int count) {
    const double first = std::clamp(from - reach, 0.0, count - 1.0), last = std::clamp(to + reach, 1.0, double(count));
    const int begin = static_cast<int>(first) / multiple * multiple;
    const int end = std::min(count, (static_cast<int>(last) / multiple + 1) * multiple);
    return std::pair{begin, end - begin};
  };
  const auto [x, width] = axis(left, right, size.width);
  const auto [y, height] = axis(top, bottom, size.height);
  return Region{x, y, width, height};
}

WarpPlan plan_within(const WarpPlan& plan, Region part) {
  WarpPlan out = plan;
  out.inverse_map = translation(-part.x, -part.y) * plan.inverse_map;
  return out;
}

}  // namespace fexel
