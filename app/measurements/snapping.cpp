#include "app/measurements/snapping.h"

#include <numbers>

#include "measure/ring_edge.h"
#include "measure/snap.h"

namespace fexel {
namespace {

/// A part of a station, one f32 band.
Image patch_of(const StationPixels& pixels, int station, Region part, const Job& job) {
  const WarpPlan plan =
      plan_for_view(pixels.layout, station, Map(translation(part.x, part.y)), {part.width, part.height});
  const Image seen = warp(*pixels.start_of(station, job), plan, {0, 0, part.width, part.height}, pixels.resampling,
                          Quality::final, job);
  Image out(part.width, part.height, 1, Depth::f32);
  out.make_mask(true);
  const auto bands = static_cast<float>(seen.bands());
  visit_depth(seen.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int y = 0; y < part.height; ++y)
      for (int x = 0; x < part.width; ++x) {
        float sum = 0;
        for (int band = 0; band < seen.bands(); ++band) sum += static_cast<float>(seen.row<T>(band, y)[x]);
        out.row<float>(0, y)[x] = sum / bands;
        out.set_valid(x, y, seen.valid(x, y));
      }
  });
  return out;
}

/// Pixels of a station as pixels of the source there.
double in_source(const Layout& layout, int station, Point at, double pixels) {
  return pixels * map_between(layout, station, 0).scale_at(at).value_or(1);
}

}  // namespace

StationPixels::StationPixels(const Document& document)
    : layout(document.layout()),
      resampling(document.chain().resampling),
      source(document.source()->pixels),
      pictures(document.pictures()) {}

std::shared_ptr<const Pyramid> StationPixels::start_of(int station, const Job& job) const {
  const int start = layout.stations[static_cast<std::size_t>(station)].run_start;
  return pictures && start > 0 ? pictures->at(start, job) : source;
}

Image station_plane(const StationPixels& pixels, int station, const Job& job) {
  const Size size = pixels.layout.stations[static_cast<std::size_t>(station)].size;
  return patch_of(pixels, station, {0, 0, size.width, size.height}, job);
}

std::optional<std::pair<Point, double>> snapped_place(const StationPixels& pixels, int station, Point near,
                                                      double reach, const Job& job) {
  const int half = static_cast<int>(std::ceil(reach)) + 12;
  const Region part{static_cast<int>(std::floor(near.x)) - half, static_cast<int>(std::floor(near.y)) - half, 2 * half,
                    2 * half};
  const Point corner{double(part.x), double(part.y)};
  const auto found = snapped_to_edge(patch_of(pixels, station, part, job), near - corner, reach);
  if (!found) return std::nullopt;
  const Point at = found->at + corner;
  return std::pair(at, std::max(1e-3, in_source(pixels.layout, station, at, found->sigma)));
}

Snapping with_points_snapped(const StationPixels& pixels, const Measurement& measurement, double reach,
                             const Job& job) {
  Snapping out{measurement, 0, {}, {}};
  if (std::holds_alternative<CircleMeasurement>(measurement.kind)) {
    const auto circle = fit_circle(measurement.points);
    EdgeRefusal why;
    const int run = pixels.layout.stations[static_cast<std::size_t>(measurement.station)].run_start;
    const auto picture = pixels.start_of(measurement.station, job);
    const auto rim = circle
                         ? find_ring_edge({picture->base(), map_between(pixels.layout, measurement.station, run)},
                                          circle->centre, circle->radius, std::max(reach, 0.05 * circle->radius), &why)
                         : std::nullopt;
    if (!rim) {
      out.ring = why.why == EdgeRefusal::Why::none ? "No round edge is near." : reason_of(why) + ".";
      return out;
    }
    // As many points as make the circle's uncertainty what the edge says.
    constexpr int points = 12;
    out.measurement.points.clear();
    out.measurement.picking.clear();
    for (int i = 0; i < points; ++i) {
      const double turn = 2 * std::numbers::pi * i / points;
      const Point at = rim->centre + rim->radius * Point{std::cos(turn), std::sin(turn)};
      out.measurement.points.push_back(at);
      out.measurement.picking.push_back(std::max(
          1e-3, in_source(pixels.layout, measurement.station, at, rim->radius_sigma * std::sqrt(double(points)))));
    }
    out.moved = points;
    return out;
  }
  for (std::size_t i = 0; i < measurement.points.size(); ++i) {
    job.check();
    const auto found = snapped_place(pixels, measurement.station, measurement.points[i], reach, job);
    if (!found) {
      out.stayed.push_back(static_cast<int>(i) + 1);
      continue;
    }
    out.measurement.points[i] = found->first;
    out.measurement.picking[i] = found->second;
    ++out.moved;
  }
  return out;
}

}  // namespace fexel
