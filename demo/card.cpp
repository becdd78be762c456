#include "demo/card.h"

#include "demo/letters.h"
#include "demo/sensor.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr Size picture{1700, 1250};
constexpr double per_mm = 10;                                    // pixels
constexpr double card_width = 150, card_height = 100;            // mm
constexpr double askew = 1.7;                                    // degrees, clockwise on the screen
constexpr Point corner{111.3, 93.6};                             // of the card's top left, in pixels
constexpr double ruler_x = 40, ruler_y = 82, ruler_length = 50;  // mm

struct Turn {
  double c = cosine(askew * 3.14159265358979323846 / 180), s = sine(askew * 3.14159265358979323846 / 180);
};
const Turn& turn() {
  static const Turn turn;
  return turn;
}
/// From millimetres on the card to pixels.
Point seen_at(Point mm) {
  return {corner.x + per_mm * (turn().c * mm.x - turn().s * mm.y),
          corner.y + per_mm * (turn().s * mm.x + turn().c * mm.y)};
}
Point on_card(Point pixel) {
  const double x = (pixel.x - corner.x) / per_mm, y = (pixel.y - corner.y) / per_mm;
  return {turn().c * x + turn().s * y, turn().c * y - turn().s * x};
}

const Lettering& print() {
  static const Lettering all = [] {
    Lettering text(1.2);
    text.write("RECORD CARD 27", {12, 17}, 6);
    text.write("WALL 3 - COURSE 4 - TILE 14", {12, 31}, 3.2);
    text.write("GLAZE: HAND PAINTED LEAF", {12, 43}, 3.2);
    text.write("CLEANED 2026-03-02", {12, 55}, 3.2);
    text.write("DRIED 16 H AT 21.5", {12, 67}, 3.2);
    text.write("0", {ruler_x - 0.7, ruler_y + 4}, 2.2);
    text.write("50 MM", {ruler_x + ruler_length - 1.4, ruler_y + 4}, 2.2);
    return text;
  }();
  return all;
}

double ink(double distance, double half) {
  return 1 - step_between(half - 0.05, half + 0.05, distance);
}

/// The light of the card at a place on it, in millimetres.
double printed(Point p) {
  double paper = 0.86 + 0.018 * noise(p.x * 1.6, p.y * 1.6, 201) + 0.02 * noise(p.x * 0.06, p.y * 0.06, 202);
  paper *= 1 - 0.03 * (1 - step_between(0.03, 0.12, std::abs(noise(p.x * 0.9, p.y * 0.25, 203)) + 0.06));
  double dark = ink(print().distance_to(p), 0.22);
  // Lines to write on, and a frame.
  for (const double line : {34.5, 46.5, 58.5, 70.5})
    if (p.x > 12 && p.x < 105) dark = std::max(dark, 0.5 * ink(std::abs(p.y - line), 0.09));
  const double to_frame = std::max(std::abs(p.x - card_width / 2) - (card_width / 2 - 5),
                                   std::abs(p.y - card_height / 2) - (card_height / 2 - 5));
  dark = std::max(dark, ink(std::abs(to_frame), 0.2));
  // A ruler of 50 mm: a bar with a tick each millimetre, longer ones each five.
  if (p.x > ruler_x - 0.2 && p.x < ruler_x + ruler_length + 0.2 && p.y > ruler_y - 4 && p.y < ruler_y + 0.2) {
    dark = std::max(dark, ink(std::abs(p.y - ruler_y), 0.12));
    const double tick = std::floor(p.x - ruler_x + 0.5);
    const double length = static_cast<int>(tick) % 10 == 0 ? 4 : static_cast<int>(tick) % 5 == 0 ? 3 : 1.6;
    if (p.y > ruler_y - length) dark = std::max(dark, ink(std::abs(p.x - ruler_x - tick), 0.1));
  }
  // Steps of grey.
  if (p.x > 116 && p.x < 140 && p.y > 14 && p.y < 70) {
    const double step = std::floor((p.y - 14) / 8);
    return 0.08 + 0.11 * step + 0.004 * noise(p.x * 3, p.y * 3, 204);
  }
  return mix(paper, 0.12 + 0.02 * noise(p.x * 5, p.y * 5, 205), std::min(1.0, dark));
}

Colour scanned(Point pixel) {
  const Point p = on_card(pixel);
  const double outside = std::max(std::max(-p.x, p.x - card_width), std::max(-p.y, p.y - card_height));
  // The lid: dark, ribbed foam, with the card's soft shadow.
  double lid =
      0.23 + 0.02 * noise(pixel.x * 0.02, pixel.y * 0.3, 206) + 0.02 * noise(pixel.x * 0.4, pixel.y * 0.4, 207);
  if (outside > 0) lid *= 1 - 0.45 * exponential(-outside / 0.8);
  const double grey = mix(printed(p), lid, step_between(-0.03, 0.03, outside));
  const double light = 0.97 + 0.03 * sine(pixel.x * 0.0021);
  return {light * grey, 0, 0};
}

}  // namespace

Image render_card(const Job& job) {
  return photograph(picture, 1, scanned, job);
}

Json card_truth() {
  const auto pair = [](Point p) { return Json::array({p.x, p.y}); };
  Json out{{"file", "record-card.png"}, {"unit", "mm"}, {"pixel_size", 1 / per_mm}, {"clockwise_degrees", askew}};
  out["size"] = {picture.width, picture.height};
  out["card"] = {{"width", card_width}, {"height", card_height}};
  for (const Point p : {Point{0, 0}, Point{card_width, 0}, Point{card_width, card_height}, Point{0, card_height}})
    out["card"]["corners_px"].push_back(pair(seen_at(p)));
  out["ruler"] = {
      {"length", ruler_length},
      {"ends_px", {pair(seen_at({ruler_x, ruler_y - 2})), pair(seen_at({ruler_x + ruler_length, ruler_y - 2}))}},
      {"ticks_every", 1}};
  out["grey_step_mm2"] = 120;
  out["frame_angle_degrees"] = 90;
  return out;
}

Chain card_chain() {
  Chain chain;
  chain.sources = {{"record-card.png", {}}};
  RotateStep level;
  level.degrees = askew;  // counter-clockwise, against the way it lies
  chain.steps.push_back({level, true, "Level"});
  // The card's place in the turned picture, by the geometry of the step itself.
  StepInput input;
  input.size = picture;
  input.source = picture;
  const StepGeometry turned = geometry_of(level, input);
  const Point a = *turned.map.forward(seen_at({0, 0})), c = *turned.map.forward(seen_at({card_width, card_height}));
  CropRectangle cut;
  cut.x = std::floor(a.x + 0.5);
  cut.y = std::floor(a.y + 0.5);
  cut.width = static_cast<int>(std::floor(c.x + 0.5) - cut.x);
  cut.height = static_cast<int>(std::floor(c.y + 0.5) - cut.y);
  chain.steps.push_back({CropStep{cut}, true, "Card"});
  ResizeStep smaller;
  smaller.width = 800;
  chain.steps.push_back({smaller, true, {}});
  const auto rounded = [](Point p) {
    return Point{std::floor(p.x * 100 + 0.5) / 100, std::floor(p.y * 100 + 0.5) / 100};
  };
  chain.measurements.push_back(length_measurement("printed ruler", 0, rounded(seen_at({ruler_x, ruler_y - 2})),
                                                  rounded(seen_at({ruler_x + ruler_length, ruler_y - 2})), ruler_length,
                                                  "mm"));
  // Inside of the fourth step of grey: 20 x 6 mm.
  Measurement step{PolygonMeasurement{}, "grey step", 0, {}, {}};
  for (const Point p : {Point{118, 39}, Point{138, 39}, Point{138, 45}, Point{118, 45}}) {
    step.points.push_back(rounded(seen_at(p)));
    step.picking.push_back(picking_by_hand);
  }
  chain.measurements.push_back(step);
  Measurement angle{AngleMeasurement{}, "frame, top left", 0, {}, {}};
  for (const Point p : {Point{60, 5}, Point{5, 5}, Point{5, 60}}) {
    angle.points.push_back(rounded(seen_at(p)));
    angle.picking.push_back(picking_by_hand);
  }
  chain.measurements.push_back(angle);
  chain.marks.emplace_back();  // a scale bar
  return chain;
}

}  // namespace fexel::scene
