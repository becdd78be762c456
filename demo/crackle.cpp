#include "demo/crackle.h"

#include "demo/numbers.h"
#include "demo/sensor.h"
#include "demo/surface.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr Size size{1200, 800};
constexpr double left = 90, right = 1110, top = 70, bottom = 730;                       // of the tile, px of frame 1
constexpr double bare_left = 770, bare_top = 170, bare_right = 890, bare_bottom = 270;  // without speckle
constexpr double stretch = 0.004, across = 0.24;  // strain at the end, and what of it the tile gets thinner by
constexpr double cracks_after = 0.5;              // share of the pull
constexpr double widest = 12;                     // px at the lower end
constexpr double drift_x = 1.1, drift_y = 2.3, turns = 0.0035;  // of the machine, px and radians

double load(int number) {
  return static_cast<double>(number - 1) / (crackle_frames - 1);
}

/// How far places move on one side of the crack: -1 left, 1 right.
Point moved_on(Point p, int number, double side) {
  const double t = load(number);
  // What the crack opens by, the tile does not stretch by any more.
  const double strain = stretch * std::min(t, cracks_after) - 0.4 * stretch * std::max(0.0, t - cracks_after);
  const Point d{p.x - 0.5 * size.width, p.y - 0.5 * size.height};
  const double s = sine(turns * t), c = cosine(turns * t);
  const Point stretched{d.x * (1 + strain) + side * crack_opening(p.y, number) / 2, d.y * (1 - across * strain)};
  return {c * stretched.x + s * stretched.y - d.x + drift_x * t, c * stretched.y - s * stretched.x - d.y + drift_y * t};
}

/// The place of frame 1 that is at `p` now, if it is on this side of the crack.
std::optional<Point> came_from(Point p, int number, double side) {
  Point from = p;
  for (int round = 0; round < 8; ++round) from = p - moved_on(from, number, side);
  if ((from.x - crack_at(from.y)) * side < 0) return std::nullopt;
  return from;
}

bool on_tile(Point p) {
  return p.x > left && p.x < right && p.y > top && p.y < bottom;
}

/// Glaze with spots of paint, but for the bare patch.
double tile_light(Point p) {
  double light = 0.8 + 0.03 * noise(p.x * 0.02, p.y * 0.03, 401) + 0.02 * noise(p.x * 0.2, p.y * 0.2, 402);
  const bool bare = p.x > bare_left && p.x < bare_right && p.y > bare_top && p.y < bare_bottom;
  if (bare) return light;
  constexpr double cell = 4.6;
  const auto i = whole_below(p.x / cell), j = whole_below(p.y / cell);
  double cover = 0;
  for (std::int64_t b = j - 1; b <= j + 1; ++b)
    for (std::int64_t a = i - 1; a <= i + 1; ++a) {
      if (random_at(a, b, 403) < 0.2) continue;
      const Point middle{cell * (static_cast<double>(a) + random_at(a, b, 404)),
                         cell * (static_cast<double>(b) + random_at(a, b, 405))};
      const double radius = 1 + 1.5 * random_at(a, b, 406);
      const double d = std::sqrt((p.x - middle.x) * (p.x - middle.x) + (p.y - middle.y) * (p.y - middle.y));
      cover = std::max(cover, 1 - step_between(radius - 0.5, radius + 0.5, d));
    }
  return light - 0.62 * cover;
}

}  // namespace

double crack_at(double y) {
  return 610 + 26 * sine(y / 95) + 9 * sine(y / 31 + 1);
}

double crack_opening(double y, int number) {
  const double t = load(number);
  return t <= cracks_after ? 0 : widest * (t - cracks_after) / (1 - cracks_after) * (0.35 + 0.65 * y / size.height);
}

Point crackle_moved(Point place, int number) {
  return moved_on(place, number, place.x < crack_at(place.y) ? -1 : 1);
}

Crackle::Crackle(const Job& job)
    : tile_(surface_of(size, 1, job, [](Point p, std::array<double, 5>& out) { out[0] = tile_light(p); })) {}

Image Crackle::frame(int number, const Job& job) const {
  const Surface tile(tile_);
  Image light(size.width, size.height, 1, Depth::f32);
  constexpr int samples = 4;
  parallel_for(size.height, job.part(0, 0.9), [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < samples; ++j)
        for (int i = 0; i < samples; ++i) {
          const Point p{x + (i + 0.5) / samples, y + (j + 0.5) / samples};
          const double side = p.x < crack_at(p.y) ? -1 : 1;
          auto from = came_from(p, number, side);
          if (!from) from = came_from(p, number, -side);
          if (from && on_tile(*from))
            sum += tile.at(0, *from);
          else if (from)
            sum += 0.16 + 0.05 * noise(p.x * 0.02, p.y * 0.02, 407);  // the machine behind
          else
            sum += 0.05;  // into the crack
        }
      const double u = (x - 430.0) / size.width, v = (y - 300.0) / size.width;
      light.row<float>(0, y)[x] =
          static_cast<float>(sum * (255.0 / (samples * samples)) * (1.04 - 0.35 * (u * u + v * v)));
    }
  });
  return exposed(light, {Depth::u8, 1, 0.6, 420 + static_cast<std::uint64_t>(number)}, job.part(0.9, 1));
}

Json crackle_truth() {
  Json out{{"folder", "crackle"},
           {"size", {size.width, size.height}},
           {"frames", crackle_frames},
           {"pixel_mm", crackle_pixel}};
  out["displacement"] = {
      {"function",
       "d = place - middle; side = -1 left of the crack, 1 right; s = (dx (1 + strain) + side opening / 2, dy (1 - "
       "across strain)); moved = turned counter-clockwise by turns load (s) - d + load drift; load = (frame - 1) / "
       "(frames - 1); strain = stretch min(load, cracks_after) - 0.4 stretch max(0, load - cracks_after)"},
      {"stretch", stretch},
      {"across", across},
      {"cracks_after", cracks_after},
      {"drift_px", {drift_x, drift_y}},
      {"turns_rad", turns}};
  out["crack"] = {
      {"x", "610 + 26 sin(y / 95) + 9 sin(y / 31 + 1)"},
      {"opening", "widest (load - cracks_after) / (1 - cracks_after) (0.35 + 0.65 y / height), from cracks_after on"},
      {"widest_px", widest}};
  out["tile"] = {left, top, right, bottom};
  out["bare"] = {bare_left, bare_top, bare_right, bare_bottom};
  return out;
}

Chain crackle_chain() {
  Chain chain;
  Calibration calibration;
  calibration.name = "tile in the press";
  calibration.pixel = {crackle_pixel, crackle_pixel, "mm"};
  chain.calibration = calibration;
  chain.time_step = TimeStep{2, "s"};
  MotionProbe probe;
  probe.settings.step_x = probe.settings.step_y = 12;
  probe.settings.subset.size = 27;
  probe.settings.region = {{105, 85}, {1095, 85}, {1095, 715}, {105, 715}};
  probe.settings.clean = {{CleanRule::Kind::neighbours, 2, {}}};
  probe.settings.strain = 5;
  chain.motions = {probe};
  return chain;
}

}  // namespace fexel::scene
