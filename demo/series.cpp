#include "demo/series.h"

#include <Eigen/LU>

#include "demo/numbers.h"
#include "demo/sensor.h"
#include "demo/surface.h"
#include "demo/wall.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

/// The light of a picture, 0 to 255: the mean of 4 x 4 places in each pixel, carried by a transform; times what varies
/// too slowly to differ within a pixel.
template <class Light, class Shade>
Image gathered(Size size, const Matrix3& to_surface, const Job& job, const Light& light_at, const Shade& shade_at) {
  Image light(size.width, size.height, 1, Depth::f32);
  constexpr int samples = 4;
  const auto carried = [&](double u, double v) {
    return Point{to_surface(0, 0) * u + to_surface(0, 1) * v + to_surface(0, 2),
                 to_surface(1, 0) * u + to_surface(1, 1) * v + to_surface(1, 2)};
  };
  parallel_for(size.height, job, [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < samples; ++j)
        for (int i = 0; i < samples; ++i) sum += light_at(carried(x + (i + 0.5) / samples, y + (j + 0.5) / samples));
      light.row<float>(0, y)[x] =
          static_cast<float>(sum * shade_at(carried(x + 0.5, y + 0.5)) * (255.0 / (samples * samples)));
    }
  });
  return light;
}

/// A turn (counter-clockwise, its sine) and a scale about a middle, then a shift.
Matrix3 turned(Point middle, double sine_of_turn, double scale, double dx, double dy) {
  const double c = scale * std::sqrt(1 - sine_of_turn * sine_of_turn), s = scale * sine_of_turn;
  Matrix3 m;
  m << c, s, middle.x + dx - c * middle.x - s * middle.y, -s, c, middle.y + dy + s * middle.x - c * middle.y, 0, 0, 1;
  return m;
}

Json rows_of(const Matrix3& m) {
  Json rows = Json::array();
  for (int r = 0; r < 3; ++r) rows.push_back({m(r, 0), m(r, 1), m(r, 2)});
  return rows;
}

constexpr Size drying_size{1600, 1200};
constexpr int blurred_frame = 9, strange_frame = 12;

/// How the hand had moved by then: the frame's places to frame 1's.
Matrix3 held(int number) {
  const double t = number - 1;
  if (number == 1) return Matrix3::Identity();
  const double wander = 0.7 * t;
  return turned(drying_size.middle(), 0.03 * sine(0.55 * t) * (0.4 + t / 30), 1,
                26 * sine(0.31 * t) + 9 * sine(wander) - 0.4 * t, 21 * sine(0.23 * t + 0.4) - 8.2 + 7 * sine(1.3 * t));
}

double wetness(Point p, int number) {
  const double damp = 0.5 + 0.5 * noise(p.x * 0.004, p.y * 0.004, 61) + 0.12 * noise(p.x * 0.02, p.y * 0.02, 62);
  return step_between(-0.12, 0.12, damp - 0.15 - 0.05 * (number - 1));
}

constexpr Size bands_size{1280, 960};
constexpr const char* band_names[] = {"ultraviolet", "blue", "green", "red", "infrared"};

/// What a filter does to where things are seen: the band's places to the green one's.
Matrix3 through_filter(int band) {
  constexpr double dx[] = {3.42, 1.18, 0, -0.87, -4.65}, dy[] = {-2.13, -0.64, 0, 1.36, 3.08};
  constexpr double scale[] = {0.9962, 0.9985, 1, 1.0014, 1.004};
  const auto b = static_cast<std::size_t>(band);
  return turned(bands_size.middle(), 0, scale[b], dx[b], dy[b]);
}

}  // namespace

Drying::Drying(const Job& job)
    : dry_(surface_of(drying_size, 1, job, [](Point p, std::array<double, 5>& out) {
        // 0.28 mm a pixel, on the corner where four tiles of the field meet.
        const Colour c = wall_at({270 + 0.28 * p.x, 130 + 0.28 * p.y});
        out[0] = 0.3 * c.r + 0.55 * c.g + 0.15 * c.b;
      })) {}

Image Drying::frame(int number, const Job& job) const {
  const Surface dry(dry_);
  const double exposure = 1 + 0.12 * sine(0.8 * number) - 0.01 * number;
  const bool strange = number == strange_frame;
  const auto wall = [&](Point p) { return dry.at(0, p); };
  const auto damp = [&](Point p) { return 1 - 0.3 * wetness(p, number); };
  const auto floor = [](Point p) {  // planks
    const double plank = noise(p.x * 0.004, p.y * 0.2, 71) * 0.2 + noise(p.x * 0.03, p.y * 0.03, 72) * 0.05;
    const double gap = std::abs(p.y / 190 - std::floor(p.y / 190 + 0.5));
    return 0.45 + plank - 0.3 * (1 - step_between(0.004, 0.012, gap));
  };
  const Job gathering = job.part(0, 0.8);
  Image light = strange ? gathered(drying_size, held(number), gathering, floor, [](Point) { return 1.0; })
                        : gathered(drying_size, held(number), gathering, wall, damp);
  for (int y = 0; y < light.height(); ++y)
    for (int x = 0; x < light.width(); ++x) {
      const double u = (x - 800) / 1600.0, v = (y - 600) / 1600.0;
      light.row<float>(0, y)[x] *= static_cast<float>(0.85 * exposure * (1 - 0.25 * (u * u + v * v)));
    }
  return exposed(light,
                 {Depth::u16, 220, number == blurred_frame ? 2.4 : 0.55, 500 + 10 * static_cast<std::uint64_t>(number)},
                 job.part(0.8, 1));
}

Json drying_truth() {
  Json out{{"folder", "drying"}, {"size", {drying_size.width, drying_size.height}}};
  for (int n = 1; n <= drying_frames; ++n)
    out["frames"].push_back({{"file", "frame-" + std::to_string(n) + ".tif"},
                             {"to_first", n == strange_frame ? Json() : rows_of(held(n))},
                             {"shows", n == strange_frame   ? "something else"
                                       : n == blurred_frame ? "the wall, blurred"
                                                            : "the wall"}});
  return out;
}

Image render_bands(const Job& job) {
  const Image halves = surface_of(bands_size, 5, job.part(0, 0.5), [](Point p, std::array<double, 5>& out) {
    const Colour c = wall_at({40 + 0.3 * p.x, 310 + 0.3 * p.y});
    const double varnish = 0.5 + 0.5 * noise(p.x * 0.01, p.y * 0.01, 81);
    // In the ultraviolet the joints glow and glaze is dark; in the infrared paint is clear and cracks are dark.
    out = {std::clamp(0.68 - 0.75 * c.g + 0.12 * varnish, 0.02, 1.0), c.b, c.g, c.r,
           std::clamp(0.35 + 0.45 * (c.r - 0.75 * c.b) + 0.25 * c.r * c.g, 0.02, 1.0)};
  });
  const Surface surface(halves);
  Image out(bands_size.width, bands_size.height, 5, Depth::u16);
  for (int band = 0; band < 5; ++band) {
    const double from = 0.5 + 0.1 * band;
    const Image light = gathered(
        bands_size, through_filter(band), job.part(from, from + 0.08), [&](Point p) { return surface.at(band, p); },
        [](Point) { return 0.9; });
    const Image plane = exposed(
        light, {Depth::u16, 200, band == 0 || band == 4 ? 0.9 : 0.55, 900 + static_cast<std::uint64_t>(10 * band)},
        job.part(from + 0.08, from + 0.1));
    for (int y = 0; y < bands_size.height; ++y) std::copy_n(plane.bytes(0, y), plane.row_bytes(), out.bytes(band, y));
  }
  return out;
}

Json bands_truth() {
  Json out{{"file", "bands.ome.tif"}, {"size", {bands_size.width, bands_size.height}}};
  for (int band = 0; band < 5; ++band)
    out["bands"].push_back({{"name", band_names[band]}, {"to_green", rows_of(through_filter(band))}});
  return out;
}

const char* band_name(int band) {
  return band_names[band];
}

}  // namespace fexel::scene
