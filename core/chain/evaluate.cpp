#include "chain/evaluate.h"

#include <fmt/format.h>

namespace fexel {

WarpPlan plan_for(const Layout& layout, int station) {
  const Station& at = layout.stations[static_cast<std::size_t>(station)];
  return {at.from_source.inverse_matrix(), at.clip, at.size};
}

WarpPlan plan_for_view(const Layout& layout, int station, const Matrix3& station_from_view, Size size) {
  const Station& at = layout.stations[static_cast<std::size_t>(station)];
  const Map view_from_station = Map(station_from_view).inverse();
  return {at.from_source.inverse_matrix() * station_from_view, at.clip.through(view_from_station), size};
}

void check_fill(const Chain& chain, int bands) {
  const auto count = static_cast<int>(chain.resampling.fill.size());
  if (count != 1 && count != bands)
    throw call_error(fmt::format("The fill has {} values, but the picture has {} bands.", count, bands),
                     "/resample/fill", "Give one value, or one for each band.");
}

Image evaluate(const Chain& chain, const Layout& layout, const Pyramid& source, const Job& job, WarpReport* report) {
  layout.require_sound();
  check_fill(chain, source.base().bands());
  const Size size = layout.result().size;
  return warp(source, plan_for(layout, layout.last()), {0, 0, size.width, size.height}, chain.resampling,
              Quality::final, job, report);
}

}  // namespace fexel
