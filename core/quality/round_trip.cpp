#include "quality/round_trip.h"

#include <Eigen/LU>

namespace fexel {
namespace {

/// Result pixels around a spot that a kernel may ask for on the way back.
constexpr double reach_around = 12;
constexpr double max_side = 4096;

WarpPlan pulled_by(const Map& map, Size size) {
  WarpPlan plan;
  if (map.planar())
    plan.inverse_map = map.matrix();
  else
    plan.curved = map;
  plan.result = size;
  return plan;
}

}  // namespace

std::optional<RoundTripError> round_trip_at(const Chain& chain, const Layout& layout, const Pyramid& source,
                                            Point place, int side, const Job& job) {
  const Image& base = source.base();
  const Region spot{static_cast<int>(std::floor(place.x - side * 0.5)),
                    static_cast<int>(std::floor(place.y - side * 0.5)), side, side};
  if (spot.x < 0 || spot.y < 0 || spot.x + side > base.width() || spot.y + side > base.height()) return std::nullopt;
  int station = layout.last();
  while (station > 0 && layout.stations[static_cast<std::size_t>(station)].run_start > 0) --station;
  const Map& there = layout.stations[static_cast<std::size_t>(station)].from_source;

  // Where the spot's outline comes to lie.
  double left = 1e18, top = 1e18, right = -1e18, bottom = -1e18;
  constexpr int steps = 8;
  for (int i = 0; i <= steps; ++i)
    for (int j = 0; j <= steps; ++j) {
      const auto p = there.forward({spot.x + side * double(i) / steps, spot.y + side * double(j) / steps});
      if (!p) return std::nullopt;
      left = std::min(left, p->x);
      top = std::min(top, p->y);
      right = std::max(right, p->x);
      bottom = std::max(bottom, p->y);
    }
  if (!(right - left < max_side && bottom - top < max_side)) return std::nullopt;
  const Point corner{std::floor(left - reach_around), std::floor(top - reach_around)};
  const Size size{static_cast<int>(std::ceil(right + reach_around - corner.x)),
                  static_cast<int>(std::ceil(bottom + reach_around - corner.y))};
  const WarpPlan out = plan_for_view(layout, station, Map(translation(corner.x, corner.y)), size);
  Resampling how = chain.resampling;
  how.edge = BorderMode::extend;
  const Pyramid seen(std::make_shared<const Image>(
      warp(source, out, {0, 0, size.width, size.height}, how, Quality::final, {job.stop, {}})));

  const Map back = Map(translation(-corner.x, -corner.y)).after(there).after(Map(translation(spot.x, spot.y)));
  WarpPlan home = pulled_by(back, {side, side});
  // What the frame of the result cuts away does not come back.
  Clip inside;
  inside.keep_inside(layout.stations[static_cast<std::size_t>(station)].size);
  home.clip = inside.through(there.inverse()).through(Map(translation(-spot.x, -spot.y)));
  RoundTripError loss;
  loss.after = warp(seen, home, {0, 0, side, side}, how, Quality::final, {job.stop, {}});
  loss.before = Image(side, side, base.bands(), base.depth());
  loss.before.set_largest(base.stated_largest());
  for (int band = 0; band < base.bands(); ++band)
    for (int y = 0; y < side; ++y)
      std::copy_n(base.bytes(band, spot.y + y) + static_cast<std::ptrdiff_t>(bytes_of(base.depth())) * spot.x,
                  loss.before.row_bytes(), loss.before.bytes(band, y));

  double off = 0, sum = 0, squares = 0;
  std::int64_t count = 0, held = 0;
  double contrast = 0;
  for (int band = 0; band < base.bands(); ++band) {
    sum = squares = 0;
    held = 0;
    visit_depth(base.depth(), [&](auto sample) {
      using T = decltype(sample);
      for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) {
          if (!loss.after.valid(x, y) || !base.valid(spot.x + x, spot.y + y)) continue;
          const auto a = static_cast<double>(loss.before.row<T>(band, y)[x]);
          const double d = static_cast<double>(loss.after.row<T>(band, y)[x]) - a;
          off += d * d;
          sum += a;
          squares += a * a;
          ++held;
        }
    });
    if (held > 0) contrast += squares - sum * sum / static_cast<double>(held);
    count += held;
  }
  if (count < std::int64_t{side} * side * base.bands() / 2) return std::nullopt;
  loss.rms = std::sqrt(off / static_cast<double>(count));
  loss.kept = contrast > 0 ? std::clamp(1 - off / contrast, 0.0, 1.0) : 1;
  return loss;
}

}  // namespace fexel
