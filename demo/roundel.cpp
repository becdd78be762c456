#include "demo/roundel.h"

#include <numbers>

#include "demo/letters.h"
#include "demo/sensor.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr int side = 1600;
constexpr Point centre{806.37, 792.81};
constexpr double rim = 702.4, lip = 676, well = 470;  // radii in pixels
constexpr int marks = 72;
constexpr double mark_from = 640, mark_to = 664, mark_half = 1.6;  // a mark's radii, and half of its width
constexpr double letters_at = 560, letter_height = 46;             // baseline radius
constexpr double turn = 2 * std::numbers::pi;

/// The arc tangent of y / x, 0 to 2 pi, within 1e-10: by halving the angle until a short series serves.
double angle_of(double y, double x) {
  double a = std::abs(y), b = std::abs(x);
  const bool steep = a > b;
  if (steep) std::swap(a, b);
  double t = b > 0 ? a / b : 0;
  for (int i = 0; i < 3; ++i) t = t / (1 + std::sqrt(1 + t * t));
  const double s = t * t;
  double angle = 8 * t * (1 - s * (1.0 / 3 - s * (1.0 / 5 - s * (1.0 / 7 - s * (1.0 / 9 - s / 11)))));
  if (steep) angle = turn / 4 - angle;
  if (x < 0) angle = turn / 2 - angle;
  return y < 0 ? turn - angle : angle;
}

/// Clockwise from the top, in radians, and the radius.
struct Polar {
  double angle, radius;
};
Polar polar(Point p) {
  const double x = p.x - centre.x, y = p.y - centre.y;
  return {angle_of(x, -y), std::sqrt(x * x + y * y)};
}

/// The writing, along the circle of the letters' feet: x in pixels of arc from the top, y outward negative.
const Lettering& writing() {
  static const Lettering all = [] {
    Lettering text(14);
    const std::string words = "HAND GLAZED - KILN 4 - FIRED 2025 - WALL 3 - ";
    const double around = turn * letters_at, width = Lettering::width_of(words + words, letter_height);
    text.write(words + words, {24, 0}, letter_height * around / (width + 0.27 * letter_height) * (1 - 24 / around));
    return text;
  }();
  return all;
}

Colour seen(Point pixel) {
  const auto [angle, radius] = polar(pixel);
  const Point p{pixel.x - centre.x, pixel.y - centre.y};
  if (radius > rim + 1) {
    // A slate table, with the dish's shadow to the lower right.
    const double slate =
        0.30 + 0.03 * noise(pixel.x * 0.5, pixel.y * 0.05, 301) + 0.03 * noise(pixel.x * 0.02, pixel.y * 0.02, 302);
    const double away = polar({pixel.x - 14, pixel.y - 18}).radius - rim;
    const double shade = away > 0 ? 1 - 0.4 * exponential(-away / 16) : 0.6;
    return slate * shade * Colour{0.95, 1.0, 1.06};
  }
  Colour glaze = blend({0.56, 0.68, 0.64}, {0.66, 0.76, 0.71}, 0.5 + 0.5 * noise(p.x * 0.01, p.y * 0.01, 303));
  glaze =
      (1 + 0.05 * noise(radius * 0.4, std::abs(angle - turn / 2) * 9, 304) + 0.02 * noise(p.x * 0.8, p.y * 0.8, 305)) *
      glaze;
  const Colour line{0.09, 0.19, 0.27};
  const auto paint = [&](double distance, double half) {
    glaze = blend(line, glaze, step_between(half - 0.7, half + 0.7, distance));
  };
  // Rings, marks and letters.
  for (const double at : {lip - 6, 628.0, 546.0, well}) paint(std::abs(radius - at), 1.8);
  if (radius > mark_from - 3 && radius < mark_to + 3) {
    const double pitch = turn / marks, nearest = std::floor(angle / pitch + 0.5);
    const double aside = radius * sine(angle - nearest * pitch);
    const double beyond = std::max(mark_from - radius, radius - mark_to);
    paint(std::max(std::abs(aside) - mark_half, beyond) + 1, 1);
  }
  if (radius > letters_at - 14 && radius < letters_at + letter_height + 26)
    paint(writing().distance_to({angle * letters_at, letters_at + 2 - radius}), 3.1);
  // The leaf in the well, eightfold.
  if (radius < well - 4) {
    const double petal = std::abs(sine(4 * angle)), leaf = radius / well;
    paint(well * std::abs(leaf - 0.25 - 0.55 * petal) / (1 + 3 * (1 - petal)), 2.4);
    if (radius < 60) paint(std::abs(radius - 40), 3);
  }
  // The lip catches the light from the upper left, the well lies in its shade.
  const double facing = radius > 0 ? (-p.x - p.y) / (radius * 1.41421356) : 0;
  double light = 0.97 + 0.02 * facing;
  if (radius > lip) light *= 1 + 0.16 * facing;
  if (radius < well && radius > well - 30) light *= 1 - 0.12 * facing * (radius - well + 30) / 30;
  const Colour body{0.78, 0.72, 0.62};
  glaze = blend(glaze, body, step_between(rim - 5, rim - 2, radius));
  const Colour dark{0.2, 0.2, 0.2};
  return blend(light * glaze, dark, step_between(rim - 0.6, rim + 0.6, radius));
}

}  // namespace

Image render_roundel(const Job& job) {
  return photograph({side, side}, 3, seen, job);
}

Json roundel_truth() {
  Json out{{"file", "roundel.png"}, {"marks", marks}, {"rim_px", rim}, {"marks_between_px", {mark_from, mark_to}}};
  out["size"] = {side, side};
  out["centre_px"] = {centre.x, centre.y};
  out["first_mark"] = "at the top; the others clockwise, evenly";
  out["mark_width_px"] = 2 * mark_half;
  return out;
}

Chain roundel_chain() {
  Chain chain;
  chain.sources = {{"roundel.png", {}}};
  UnwrapStep strip;
  strip.centre = {std::floor(centre.x * 100 + 0.5) / 100, std::floor(centre.y * 100 + 0.5) / 100};
  strip.inner = 530;
  strip.outer = 720;
  strip.start = 92.5;  // half a mark before the top, so that no mark is cut
  strip.true_radius = 652;
  chain.steps.push_back({strip, true, {}});
  return chain;
}

}  // namespace fexel::scene
