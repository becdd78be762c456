#include "chain/layout.h"

#include <fmt/format.h>

#include "resample/paths/copy.h"

namespace fexel {
namespace {

Station source_station(const Chain& chain, const SourceShape& source) {
  Station station;
  station.size = source.size;
  station.bands = source.bands;
  station.depth = source.depth;
  station.pixel = chain.calibration ? std::optional(chain.calibration->pixel) : source.pixel;
  if (source.clip)
    station.clip = *source.clip;
  else
    station.clip.keep_inside(source.size);
  return station;
}

void check_pixels(Size size, const std::string& where) {
  if (static_cast<double>(size.width) * size.height > max_pixels)
    throw call_error(
        fmt::format("The picture would have {} x {} pixels.", size.width, size.height), where,
        fmt::format("Choose values that give at most {} million pixels.", static_cast<int>(max_pixels / 1e6)));
}

Station after_step(const Step& step, const StepInput& input, const Station& before, int index) {
  StepGeometry made = std::visit([&](const auto& kind) { return geometry_of(kind, input); }, step.kind);
  check_pixels(made.size, std::visit([](const auto& kind) { return kind.size_key; }, step.kind));
  Station station;
  station.size = made.size;
  station.pixel = made.pixel;
  station.from_previous = made.map;
  station.from_source = made.map.after(input.from_source);
  if (!made.all_valid) station.clip = input.clip.through(made.map);
  station.clip.keep_inside(made.size);
  const bool moves =
      made.map.planar() && whole_pixel_move(made.map.inverse_matrix(), made.size, made.stride).has_value();
  station.exact = moves && !made.computed;
  station.bands = made.bands.value_or(before.bands);
  station.depth = made.depth.value_or(before.depth);
  station.own_fill = made.own_fill;
  if (made.in_plane && made.pixel)
    station.plane = PlaneCoordinates{scaling(made.pixel->x, made.pixel->y), made.pixel->unit};
  else if (before.plane)
    station.plane = carried(*before.plane, made.map);
  station.run_start = made.ends_run ? index + 1 : before.run_start;
  // Samples stay taken as long as pixels are only moved; a quarter turn changes the axes.
  const bool lying = made.map.planar() && std::abs(made.map.matrix()(0, 1)) > std::abs(made.map.matrix()(0, 0));
  const Stride kept = lying ? Stride{before.stride.y, before.stride.x} : before.stride;
  if (!made.ends_run && moves) station.stride = {kept.x * made.stride.x, kept.y * made.stride.y};
  return station;
}

/// The chain's axes at every station.
void lay_axes(const Chain& chain, Layout& layout) {
  if (!chain.axes || chain.axes->station > layout.last()) return;
  const auto pixel_of = [&](int station) {
    const auto& pixel = layout.stations[static_cast<std::size_t>(station)].pixel;
    return pixel ? Point{pixel->x, pixel->y} : Point{1, 1};
  };
  const Point there = pixel_of(chain.axes->station);
  const auto& own = layout.stations[static_cast<std::size_t>(chain.axes->station)].pixel;
  for (int i = 0; i <= layout.last(); ++i) {
    Station& station = layout.stations[static_cast<std::size_t>(i)];
    Axes axes = *chain.axes;
    // What is written at the origin is a length: in another unit it is another number, and in pixels none.
    if (own.has_value() != station.pixel.has_value())
      axes.value = {};
    else if (own)
      axes.value = metres_per(own->unit) / metres_per(station.pixel->unit) * axes.value;
    station.axes = axes_through(axes, map_between(layout, chain.axes->station, i), there, pixel_of(i));
  }
}

}  // namespace

StepInput input_of_step(const Layout& layout, int index) {
  const Station& before = layout.stations[static_cast<std::size_t>(index)];
  return {before.size,  before.pixel, before.from_source, before.clip, layout.stations[0].size,
          before.bands, before.depth, layout.frame};
}

Layout lay_out(const Chain& chain, const SourceShape& source) {
  Layout layout;
  layout.frame = source.frame;
  layout.stations.push_back(source_station(chain, source));
  for (std::size_t i = 0; i < chain.steps.size(); ++i) {
    Station same = layout.stations.back();
    same.from_previous = Map();
    same.exact = true;
    same.problem.reset();
    if (chain.steps[i].on) {
      try {
        same = after_step(chain.steps[i], input_of_step(layout, static_cast<int>(i)), layout.stations[i],
                          static_cast<int>(i));
      } catch (const Error& error) {
        same.problem = error.at(
            fmt::format("/steps/{}{}", i, error.where().starts_with('/') ? error.where() : "/" + error.where()));
      }
    }
    layout.stations.push_back(std::move(same));
  }
  lay_axes(chain, layout);
  return layout;
}

void Layout::require_sound() const {
  for (const Station& station : stations)
    if (station.problem) throw *station.problem;
}

Carried carry(const Layout& layout, Point p, int from, int to) {
  std::optional<Point> at = p;
  for (int i = from; at && i > to; --i) at = layout.stations[static_cast<std::size_t>(i)].from_previous.backward(*at);
  for (int i = from; at && i < to; ++i)
    at = layout.stations[static_cast<std::size_t>(i) + 1].from_previous.forward(*at);
  if (!at) return {{}, CarryStatus::beyond_horizon};
  const bool inside = from >= to ? layout.stations[static_cast<std::size_t>(from)].clip.contains(p)
                                 : layout.stations[static_cast<std::size_t>(to)].clip.contains(*at);
  return {*at, inside ? CarryStatus::ok : CarryStatus::empty};
}

Map map_between(const Layout& layout, int from, int to) {
  Map map;
  for (int i = from; i > to; --i) map = layout.stations[static_cast<std::size_t>(i)].from_previous.inverse().after(map);
  for (int i = from; i < to; ++i) map = layout.stations[static_cast<std::size_t>(i) + 1].from_previous.after(map);
  return map;
}

}  // namespace fexel
