#include "demo/targets.h"

#include "demo/camera.h"
#include "demo/letters.h"
#include "demo/sensor.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr double degree = 3.14159265358979323846 / 180;

// Lines.
constexpr Size lines_size{1400, 1000};
constexpr double line_pitch = 0.5, line_width = 0.09, lines_per_mm = 40, lines_turn = 0.7;  // mm; degrees clockwise
constexpr int line_count = 61;
constexpr Point lines_corner{96.4, 412.7};  // of the first line's foot, in pixels

Point on_scale(Point pixel) {
  static const double c = cosine(lines_turn * degree), s = sine(lines_turn * degree);
  const double x = (pixel.x - lines_corner.x) / lines_per_mm, y = (pixel.y - lines_corner.y) / lines_per_mm;
  return {c * x + s * y, c * y - s * x};
}

const Lettering& figures() {
  static const Lettering all = [] {
    Lettering text(0.6);
    for (int mm = 0; mm <= 30; mm += 5) text.write(std::to_string(mm), {mm - (mm > 9 ? 0.9 : 0.4), 1.4}, 1.1);
    text.write("0.5 MM", {12.6, 5.2}, 1.3);
    return text;
  }();
  return all;
}

Colour engraved(Point pixel) {
  const Point p = on_scale(pixel);
  // Brushed steel under a lamp from the left.
  double metal = 0.74 + 0.02 * noise(p.x * 2, p.y * 40, 301) + 0.03 * noise(p.x * 0.2, p.y * 0.3, 302);
  metal *= 1 - 0.00012 * pixel.x;
  double dark = 0;
  const double number = std::floor(p.x / line_pitch + 0.5);
  if (number >= 0 && number < line_count) {
    const int n = static_cast<int>(number);
    const double length = n % 10 == 0  ? 5.2
                          : n % 5 == 0 ? 4.2
                                       : 3,
                 half = n % 10 == 0 ? line_width * 0.75 : line_width / 2;
    if (p.y < 0 && p.y > -length)
      dark = 1 - step_between(half - 0.012, half + 0.012, std::abs(p.x - number * line_pitch));
  }
  dark = std::max(dark, 1 - step_between(0.06, 0.09, figures().distance_to(p)));
  return {mix(metal, 0.13 + 0.02 * noise(p.x * 30, p.y * 30, 303), dark), 0, 0};
}

// The board.
constexpr Size board_size{1200, 900};
constexpr double square = 10, board_focal = 1310, k1 = -0.17, k2 = 0.04;  // mm, pixels
constexpr Point board_middle{613.4, 441.2};
constexpr int board_columns = 11, board_rows = 8;  // nodes

Camera board_camera(int view) {
  // All about the board's middle, from five sides.
  constexpr double eyes[][3] = {{-66, -24, 168}, {70, -46, 160}, {58, 62, 165}, {-52, 70, 158}, {6, -88, 152}};
  const double* eye = eyes[view - 1];
  constexpr double rolls[] = {0.02, -0.05, 0.08, -0.03, 0.11};
  const Point middle{square * (board_columns - 1) / 2.0, square * (board_rows - 1) / 2.0};
  return {{middle.x + eye[0], middle.y + eye[1], eye[2]},
          {middle.x + 3 * view - 8, middle.y - 2 * view + 6, 0},
          rolls[view - 1],
          board_focal,
          board_middle};
}

/// What the lens makes of a place, and back by Newton's method.
double through(double r) {
  const double s = r * r;
  return r * (1 + s * (k1 + s * k2));
}
Point distorted(Point ideal) {
  const double x = (ideal.x - board_middle.x) / board_focal, y = (ideal.y - board_middle.y) / board_focal;
  const double r = std::sqrt(x * x + y * y), part = r > 0 ? through(r) / r : 1;
  return {board_middle.x + board_focal * part * x, board_middle.y + board_focal * part * y};
}
Point undistorted(Point seen) {
  const double x = (seen.x - board_middle.x) / board_focal, y = (seen.y - board_middle.y) / board_focal;
  const double wanted = std::sqrt(x * x + y * y);
  double r = wanted;
  for (int i = 0; i < 8; ++i) {
    const double s = r * r;
    r -= (through(r) - wanted) / (1 + s * (3 * k1 + s * 5 * k2));
  }
  const double part = wanted > 0 ? r / wanted : 1;
  return {board_middle.x + board_focal * part * x, board_middle.y + board_focal * part * y};
}

/// The light of the board, in mm from its first node.
double chequered(Point p) {
  const double left = -2 * square, top = -2 * square, right = square * (board_columns + 1),
               bottom = square * (board_rows + 1);
  if (p.x < left || p.y < top || p.x > right || p.y > bottom)
    return 0.2 + 0.03 * noise(p.x * 0.08, p.y * 1.1, 311) + 0.02 * noise(p.x * 0.5, p.y * 0.5, 312);  // the bench
  const double paper = 0.84 + 0.015 * noise(p.x * 1.5, p.y * 1.5, 313);
  const bool inside = p.x > -square && p.y > -square && p.x < square * board_columns && p.y < square * board_rows;
  const auto cell = whole_below(p.x / square) + whole_below(p.y / square);
  return inside && (cell & 1) == 0 ? 0.13 + 0.015 * noise(p.x * 2, p.y * 2, 314) : paper;
}

}  // namespace

Image render_lines(const Job& job) {
  return photograph(lines_size, 1, engraved, job);
}

Json lines_truth() {
  return {{"file", "line-target.png"},      {"unit", "mm"},
          {"spacing", line_pitch},          {"lines", line_count},
          {"pixel_size", 1 / lines_per_mm}, {"pitch_px", line_pitch * lines_per_mm},
          {"clockwise_degrees", lines_turn}};
}

Chain lines_chain() {
  Chain chain;
  chain.sources = {{"line-target.png", {}}};
  return chain;
}

Image render_board(int view, const Job& job) {
  const Camera camera = board_camera(view);
  const double lamp = 0.00018 * (view - 3);
  return photograph(
      board_size, 1,
      [&](Point pixel) {
        const double light = 0.94 + lamp * (pixel.x - 600) - 0.00008 * pixel.y;
        return Colour{light * chequered(camera.meet(undistorted(pixel), 0)), 0, 0};
      },
      job);
}

Json board_truth() {
  Json out{{"folder", "board"},
           {"size", {board_size.width, board_size.height}},
           {"spacing", square},
           {"unit", "mm"},
           {"columns", board_columns},
           {"rows", board_rows},
           {"focal_px", board_focal},
           {"centre_px", {board_middle.x, board_middle.y}},
           {"k1", k1},
           {"k2", k2}};
  for (int view = 1; view <= board_views; ++view) {
    const Camera camera = board_camera(view);
    Json nodes = Json::array();
    for (const Point p : {Point{0, 0}, Point{board_columns - 1, 0}, Point{board_columns - 1, board_rows - 1},
                          Point{0, board_rows - 1}}) {
      const Point at = distorted(camera.see({square * p.x, square * p.y, 0}));
      nodes.push_back({at.x, at.y});
    }
    out["views"].push_back({{"file", "view-" + std::to_string(view) + ".png"}, {"corner_nodes_px", nodes}});
  }
  return out;
}

}  // namespace fexel::scene
