#pragma once
/// Which part of a source a part of a result is made of.
#include <optional>

#include "resample/warp.h"

namespace fexel {

/// The pixels of a source of `size` that warp() reads for `region` of the plan's result, generously, for the edges fill
/// and extend; nothing where a part of the region lies at or beyond the horizon, or the map is
/// curved. It begins at multiples of 64, so that
/// the halves of that part are parts of the source's halves, or is all of the source along an axis.
std::optional<Region> source_box(const WarpPlan& plan, Region region, const Resampling& resampling, Size size);

/// The same plan for a source of which only a part is there.
WarpPlan plan_within(const WarpPlan& plan, Region part);

}  // namespace fexel
