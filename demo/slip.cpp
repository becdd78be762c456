#include "demo/slip.h"

#include "demo/numbers.h"
#include "demo/sensor.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr Size size{1024, 1024};
constexpr double far_speed = 5;                        // px a pair, to the right
constexpr int waves = 6;                               // of the fluctuations
constexpr double wave_height = 0.35;                   // px
constexpr double each_grain = 82;                      // px²
constexpr double grain = 0.62;                         // px, standard deviation before the lens
constexpr double lost = 0.08;                          // share of the grains that one frame alone has
constexpr double ruler_top = 300, ruler_bottom = 420;  // px
constexpr double pi = 3.14159265358979323846;

/// The light that falls: less at the sides, and little in the shadow of the post.
double sheet(Point p) {
  const double u = (p.x - 512) / 1024, v = (p.y - 512) / 1024;
  const double from_middle = std::abs(p.x - slip_post.x);
  const double shadow = p.y > slip_post.y ? 1 - step_between(slip_radius - 6, slip_radius + 6, from_middle) : 0;
  return (1.05 - 0.5 * v * v - 0.3 * u * u) * (1 - 0.6 * shadow);
}

/// What does not move: the wall of the tank with its scratches and dried spots.
double ground(Point p) {
  double light = 26 + 6 * noise(p.x * 0.01, p.y * 0.01, 501);
  constexpr double cell = 9;
  const auto i = whole_below(p.x / cell), j = whole_below(p.y / cell);
  for (std::int64_t b = j - 1; b <= j + 1; ++b)
    for (std::int64_t a = i - 1; a <= i + 1; ++a) {
      if (random_at(a, b, 502) < 0.25) continue;
      const Point middle{cell * (static_cast<double>(a) + random_at(a, b, 503)),
                         cell * (static_cast<double>(b) + random_at(a, b, 504))};
      const double d = (p.x - middle.x) * (p.x - middle.x) + (p.y - middle.y) * (p.y - middle.y);
      light += 150 * random_at(a, b, 505) * exponential(-d / 1.6);
    }
  return light;
}

double post(Point p) {
  const double x = (p.x - slip_post.x) / slip_radius, y = (p.y - slip_post.y) / slip_radius;
  const double shine = exponential(-((x + 0.35) * (x + 0.35) + (y + 0.45) * (y + 0.45)) * 9);
  return 34 + 60 * shine + 4 * noise(p.x * 0.3, p.y * 0.05, 506);
}

/// Adds a grain to the light of a frame: a Gaussian, by four places a pixel along each axis.
void draw(Image& light, Point at, double bright) {
  constexpr int reach = 4;
  const auto left = static_cast<int>(whole_below(at.x)) - reach, top = static_cast<int>(whole_below(at.y)) - reach;
  std::array<double, 2 * reach + 1> across{}, down{};
  for (int k = 0; k <= 2 * reach; ++k)
    for (int s = 0; s < 4; ++s) {
      const double x = left + k + (s + 0.5) / 4 - at.x, y = top + k + (s + 0.5) / 4 - at.y;
      across[static_cast<std::size_t>(k)] += 0.25 * exponential(-x * x / (2 * grain * grain));
      down[static_cast<std::size_t>(k)] += 0.25 * exponential(-y * y / (2 * grain * grain));
    }
  for (int j = 0; j <= 2 * reach; ++j) {
    const int y = top + j;
    if (y < 0 || y >= size.height) continue;
    float* row = light.row<float>(0, y);
    for (int i = 0; i <= 2 * reach; ++i) {
      const int x = left + i;
      if (x >= 0 && x < size.width)
        row[x] += static_cast<float>(bright * across[static_cast<std::size_t>(i)] * down[static_cast<std::size_t>(j)]);
    }
  }
}

}  // namespace

Point slip_moved(Point p, int pair) {
  if (pair == 0) return {};
  const Point d = p - slip_post;
  const double r2 = d.x * d.x + d.y * d.y, part = slip_radius * slip_radius / (r2 * r2);
  Point out{far_speed * (1 - part * (d.x * d.x - d.y * d.y)), -2 * far_speed * part * d.x * d.y};
  for (int k = 0; k < waves; ++k) {
    const double turn = 2 * pi * random_at(k, 0, 510), length = 260 + 240 * random_at(k, 1, 510),
                 phase = 2 * pi * random_at(k, pair, 511);
    const double c = cosine(turn), s = sine(turn);
    const double height = wave_height * cosine(2 * pi * (c * p.x + s * p.y) / length + phase);
    out = out + height * Point{-s, c};
  }
  return out;
}

Image render_slip(int pair, bool second, const Job& job) {
  Image grains(size.width, size.height, 1, Depth::f32);
  constexpr double room = 24;
  const auto number = static_cast<std::int64_t>((size.width + 2 * room) * (size.height + 2 * room) / each_grain);
  const std::uint64_t seed = 520 + static_cast<std::uint64_t>(pair);
  for (std::int64_t k = 0; k < number; ++k) {
    if (k % 1024 == 0) job.check();
    const Point at{random_at(k, 0, seed) * (size.width + 2 * room) - room,
                   random_at(k, 1, seed) * (size.height + 2 * room) - room};
    const double fate = random_at(k, 2, seed), bright = 90 + 90 * random_at(k, 3, seed);
    if (second ? fate < lost / 2 : fate > 1 - lost / 2) continue;
    if (distance(at, slip_post) < slip_radius + 3) continue;
    const Point seen = at + (second ? 0.5 : -0.5) * slip_moved(at, pair);
    draw(grains, seen, bright * sheet(seen));
  }
  Image light(size.width, size.height, 1, Depth::f32);
  constexpr int samples = 4;
  parallel_for(size.height, job.part(0.2, 0.9), [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < samples; ++j)
        for (int i = 0; i < samples; ++i) {
          const Point p{x + (i + 0.5) / samples, y + (j + 0.5) / samples};
          const bool behind = distance(p, slip_post) < slip_radius;
          sum +=
              behind ? post(p) : static_cast<double>(grains.row<float>(0, y)[x]) + ground(p) * (0.4 + 0.6 * sheet(p));
        }
      light.row<float>(0, y)[x] = static_cast<float>(sum / (samples * samples));
    }
  });
  const std::uint64_t frame = 2 * static_cast<std::uint64_t>(pair) + (second ? 1 : 0);
  return exposed(light, {Depth::u8, 1, 0.4, 540 + frame}, job.part(0.9, 1));
}

Image render_slip_ruler(const Job& job) {
  return photograph(
      size, 1,
      [](Point p) {
        double light = (ground(p) - 20) / 255;
        if (p.y > ruler_top && p.y < ruler_bottom && p.x > 60 && p.x < 964) {
          light = 0.78 + 0.02 * noise(p.x * 0.02, p.y * 0.3, 507);
          const double mm = (p.x - 87) * slip_pixel;
          const auto line = whole_below(mm + 0.5);
          const double off = std::abs(mm - static_cast<double>(line)) / slip_pixel;
          const double length = line % 10 == 0 ? 78 : line % 5 == 0 ? 62 : 44;
          if (line >= 0 && line <= 68 && p.y < ruler_top + length) light -= 0.6 * (1 - step_between(0.9, 1.9, off));
        }
        return Colour{light, 0, 0};
      },
      job);
}

Json slip_truth() {
  Json out{{"folder", "slip"},     {"size", {size.width, size.height}},
           {"pairs", slip_pairs},  {"pixel_mm", slip_pixel},
           {"time_ms", slip_time}, {"post", {{"middle_px", {slip_post.x, slip_post.y}}, {"radius_px", slip_radius}}}};
  out["displacement"] = {
      {"function",
       "d = place - post; q = radius^2 / |d|^4; u = speed (1 - q (dx^2 - dy^2)), v = -2 speed q dx dy; and of each "
       "wave "
       "height cos(2 pi (cos(turn) x + sin(turn) y) / length + phase) (-sin(turn), cos(turn)); the place is where what "
       "moves is half of the way from a to b"},
      {"speed_px", far_speed},
      {"height_px", wave_height}};
  for (int k = 0; k < waves; ++k) {
    Json wave{{"turn_rad", 2 * pi * random_at(k, 0, 510)}, {"length_px", 260 + 240 * random_at(k, 1, 510)}};
    for (int pair = 1; pair <= slip_pairs; ++pair) wave["phases_rad"].push_back(2 * pi * random_at(k, pair, 511));
    out["displacement"]["waves"].push_back(wave);
  }
  out["ruler"] = {{"file", "ruler.png"}, {"first_line_px", 87}, {"mm_between_lines", 1}};
  out["still"] = {"still-a.png", "still-b.png"};
  return out;
}

Chain slip_chain() {
  Chain chain;
  Calibration calibration;
  calibration.name = "slip tank";
  calibration.pixel = {slip_pixel, slip_pixel, "mm"};
  chain.calibration = calibration;
  chain.time_step = TimeStep{slip_time, "ms"};
  Axes axes;
  axes.origin = slip_post;
  axes.up = true;
  chain.axes = axes;
  Mask mask;
  mask.name = "post";
  mask.shape = Mask::Shape::circle;
  mask.points = {slip_post};
  mask.radius = slip_radius + 2;
  chain.masks = {mask};
  MotionProbe probe;
  probe.name = "slip";
  probe.settings.method = MotionMethod::window;
  probe.settings.against = MotionAgainst::pairs;
  probe.settings.step_x = probe.settings.step_y = 16;
  probe.settings.prepare.background = MotionBackground::median;
  probe.settings.clean = {{CleanRule::Kind::neighbours, 2, {}}};
  probe.settings.strain = 3;
  chain.motions = {probe};
  return chain;
}

}  // namespace fexel::scene
