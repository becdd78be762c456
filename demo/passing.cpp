#include "demo/passing.h"

#include <Eigen/LU>

#include "demo/numbers.h"
#include "demo/sensor.h"
#include "demo/surface.h"
#include "demo/wall.h"
#include "geometry/map.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr Size frame_size{640, 480}, surface_size{900, 620};
constexpr double surface_pixel = 0.5;  // mm
constexpr Point surface_origin{250, 120};
constexpr double tile_side = 150;

/// A frame's places to the surface's: seen a little from aside, moved on and turned by the hand.
Matrix3 to_surface(int number) {
  const double t = number - 1;
  const double sine_of_turn = 0.02 * sine(0.5 * t), c = std::sqrt(1 - sine_of_turn * sine_of_turn), s = sine_of_turn;
  Matrix3 slant, turn, move;
  slant << 1, 0.03, 0, -0.02, 1.02, 0, 6e-5 + 4e-6 * sine(0.4 * t), -3e-5, 1;
  turn << c, s, 320 - c * 320 - s * 240, -s, c, 240 + s * 320 - c * 240, 0, 0, 1;
  move << 1, 0, 60 + 5 * t + 6 * sine(0.7 * t), 0, 1, 40 + 8 * sine(0.45 * t), 0, 0, 1;
  return move * slant * turn;
}

}  // namespace

Matrix3 passing_to_first(int number) {
  const Matrix3 m = to_surface(1).inverse() * to_surface(number);
  return m / m(2, 2);
}

std::array<Point, 4> passing_tile() {
  // The tile from 300 to 450 mm across, and from 150 to 300 mm down.
  std::array<Point, 4> out;
  const Map back(Matrix3(to_surface(1).inverse()));
  const double left = (2 * tile_side - surface_origin.x) / surface_pixel,
               top = (tile_side - surface_origin.y) / surface_pixel;
  const double side = tile_side / surface_pixel;
  const Point corners[] = {{left, top}, {left + side, top}, {left + side, top + side}, {left, top + side}};
  for (std::size_t i = 0; i < 4; ++i) out[i] = *back.forward(corners[i]);
  return out;
}

Passing::Passing(const Job& job)
    : wall_(surface_of(surface_size, 1, job, [](Point p, std::array<double, 5>& out) {
        const Colour c = wall_at({surface_origin.x + surface_pixel * p.x, surface_origin.y + surface_pixel * p.y});
        out[0] = 0.3 * c.r + 0.55 * c.g + 0.15 * c.b;
      })) {}

Image Passing::frame(int number, const Job& job) const {
  const Surface wall(wall_);
  const Map map(to_surface(number));
  Image light(frame_size.width, frame_size.height, 1, Depth::f32);
  constexpr int samples = 4;
  parallel_for(frame_size.height, job.part(0, 0.8), [&](int y) {
    for (int x = 0; x < frame_size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < samples; ++j)
        for (int i = 0; i < samples; ++i)
          sum += wall.at(0, *map.forward({x + (i + 0.5) / samples, y + (j + 0.5) / samples}));
      light.row<float>(0, y)[x] =
          static_cast<float>(sum * 255 * (0.9 + 0.05 * sine(0.6 * number)) / (samples * samples));
    }
  });
  return exposed(light, {Depth::u8, 1, 0.5, 7000 + 10 * static_cast<std::uint64_t>(number)}, job.part(0.8, 1));
}

Json passing_truth() {
  Json out{{"file", "passing.mkv"}, {"size", {frame_size.width, frame_size.height}}, {"rate", passing_rate}};
  for (int n = 1; n <= passing_frames; ++n) {
    const Matrix3 m = passing_to_first(n);
    Json rows = Json::array();
    for (int r = 0; r < 3; ++r) rows.push_back({m(r, 0), m(r, 1), m(r, 2)});
    out["frames"].push_back({{"time", (n - 1) / passing_rate}, {"to_first", rows}});
  }
  for (const Point& corner : passing_tile()) out["tile"]["corners"].push_back({corner.x, corner.y});
  out["tile"]["side"] = tile_side;
  out["tile"]["unit"] = "mm";
  return out;
}

Chain passing_chain() {
  Chain chain;
  AlignStep align;
  align.model = Model::projective;
  chain.steps.push_back({align, true, {}});
  RectifyStep tile;
  const auto corners = passing_tile();
  for (std::size_t i = 0; i < 4; ++i)
    tile.corners[i] = {std::round(100 * corners[i].x) / 100, std::round(100 * corners[i].y) / 100};
  tile.width = tile_side;
  tile.height = tile_side;
  tile.unit = "mm";
  tile.pixel_size = 0.5;
  chain.steps.push_back({tile, true, {}});
  chain.time_step = TimeStep{1 / passing_rate, "s"};
  return chain;
}

}  // namespace fexel::scene
