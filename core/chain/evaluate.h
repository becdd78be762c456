#pragma once
/// Pixels of a station, or of a view of it.
#include "chain/layout.h"
#include "resample/warp.h"

namespace fexel {

/// How the pixels of a station come from the source, in one resampling.
WarpPlan plan_for(const Layout& layout, int station);
/// The same for a view: `station_from_view` carries view pixels to the station; the view has `size` pixels.
WarpPlan plan_for_view(const Layout& layout, int station, const Matrix3& station_from_view, Size size);

/// Raises a call error when the chain's fill has neither one value nor one for each band.
void check_fill(const Chain& chain, int bands);

/// All pixels of the chain's result.
Image evaluate(const Chain& chain, const Layout& layout, const Pyramid& source, const Job& job, WarpReport* report);

}  // namespace fexel
