#include "demo/wall.h"

#include <fmt/format.h>

#include "demo/camera.h"
#include "demo/numbers.h"
#include "demo/sensor.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr int width = 2400, height = 1600;
constexpr double tile = 150;         // mm, from grout to grout
constexpr int across = 6, down = 4;  // the field
constexpr double field_width = across * tile, field_height = down * tile;
constexpr double grout = 2.5;         // half of the joint's width
constexpr double scale_length = 100;  // mm between the first and the last long tick of a strip

/// A steel strip: its zero tick at (x, y), ticks every millimetre, long ones every five, running right.
struct Strip {
  const char* name;
  double x, y, proud;
};
constexpr Strip strips[] = {{"strip, left", 62, 128, 0},
                            {"strip, middle", 408, 322, 0},
                            {"strip, right", 771, 493, 0},
                            {"strip, 20 mm proud", 470, 112, 20}};
constexpr double strip_before = 8, strip_after = 8, strip_height = 17, strip_above = 3;

const Camera& camera() {
  static const Camera camera({-60, 1010, 1120}, {398, 300, 0}, -0.045, 2850, {width * 0.5, height * 0.5});
  return camera;
}

bool on_strip(const Strip& s, Point p) {
  return p.x > s.x - strip_before && p.x < s.x + scale_length + strip_after && p.y > s.y - strip_above &&
         p.y < s.y - strip_above + strip_height;
}

Colour steel(const Strip& s, Point p) {
  const double along = p.x - s.x;
  const double below = p.y - s.y;
  const double brushed = 0.74 + 0.03 * noise(p.x * 0.15, p.y * 6, 91) + 0.02 * noise(p.x * 2, p.y * 9, 92);
  const double nearest = std::floor(along + 0.5);
  if (nearest >= 0 && nearest <= scale_length) {
    const int n = static_cast<int>(nearest);
    const bool five = n % 5 == 0;
    const double length = n % 10 == 0 ? 12 : five ? 10 : 4;
    const double half = five ? 0.45 : 0.15;
    if (below > 0 && below < length && std::abs(along - nearest) < half) return {0.05, 0.05, 0.06};
  }
  return brushed * Colour{1, 0.995, 0.98};
}

/// Distance to the nearest edge of an irregular cell pattern: the crackle of the glaze.
double crackle(Point p, std::uint64_t seed) {
  const std::int64_t cx = whole_below(p.x), cy = whole_below(p.y);
  double first = 81, second = 81;  // squares
  for (std::int64_t j = cy - 1; j <= cy + 1; ++j)
    for (std::int64_t i = cx - 1; i <= cx + 1; ++i) {
      const double dx = static_cast<double>(i) + random_at(i, j, seed) - p.x;
      const double dy = static_cast<double>(j) + random_at(i, j, seed + 1) - p.y;
      const double d = dx * dx + dy * dy;
      if (d < first) {
        second = first;
        first = d;
      } else if (d < second) {
        second = d;
      }
    }
  return std::sqrt(second) - std::sqrt(first);
}

/// The painted leaf of a tile: two crossing lens shapes round a bud, turned a little by hand.
double motif(double x, double y, double turn) {
  const double c = cosine(turn), s = sine(turn);
  const double u = (c * x - s * y) / 52, v = (s * x + c * y) / 52;
  const double across_leaf = std::abs(v) - 0.42 * (1 - u * u), down_leaf = std::abs(u) - 0.42 * (1 - v * v);
  const double leaf = std::min(std::abs(u) < 1 ? across_leaf : 1, std::abs(v) < 1 ? down_leaf : 1);
  const double bud = std::abs(std::sqrt(u * u + v * v) - 0.2) - 0.05;
  return std::min(std::abs(leaf) - 0.035, bud);
}

Colour glazed(Point p, std::int64_t i, std::int64_t j, double x, double y) {
  const bool in_field = i >= 0 && i < across && j >= 0 && j < down;
  const double hue = random_at(i, j, 11), tone = random_at(i, j, 12);
  Colour base = in_field ? blend({0.30, 0.50, 0.50}, {0.62, 0.74, 0.70}, hue)
                         : blend({0.50, 0.46, 0.39}, {0.58, 0.53, 0.45}, hue);
  base = (0.9 + 0.2 * tone) * base;
  const double angle = 6.2831853 * random_at(i, j, 13);
  const double c = cosine(angle), s = sine(angle);
  const double brush = noise((c * p.x + s * p.y) * 0.05, (c * p.y - s * p.x) * 0.55, 14) * 0.055 +
                       noise(p.x * 0.03, p.y * 0.03, 15) * 0.06 + noise(p.x * 1.3, p.y * 1.3, 16) * 0.02;
  base = (1 + brush) * base;
  if (in_field) {
    const double line =
        motif(x - tile / 2 + 6 * (random_at(i, j, 17) - 0.5), y - tile / 2 + 6 * (random_at(i, j, 18) - 0.5),
              0.25 * (random_at(i, j, 19) - 0.5) + (((i + j) & 1) != 0 ? 0.785 : 0)) +
        0.012 * noise(p.x * 0.2, p.y * 0.2, 20);
    base = blend({0.10, 0.22, 0.28}, base, step_between(-0.012, 0.012, line));
  }
  const double crack = crackle({p.x / 17, p.y / 17}, 21);
  base = (1 - 0.22 * (1 - step_between(0.0, 0.035, crack))) * base;
  // The glaze thins toward the rim, where the light body shows.
  const double rim = std::min(std::min(x, tile - x), std::min(y, tile - y)) - grout;
  return blend(1.12 * base, base, step_between(0, 3, rim));
}

}  // namespace

Colour wall_at(Point p) {
  const auto i = static_cast<double>(whole_below(p.x / tile)), j = static_cast<double>(whole_below(p.y / tile));
  const double x = p.x - i * tile, y = p.y - j * tile;
  const double to_joint =
      std::min(std::min(x, tile - x), std::min(y, tile - y)) + 0.25 * noise(p.x * 0.35, p.y * 0.35, 31);
  const Colour joint =
      (1 + 0.10 * noise(p.x * 1.1, p.y * 1.1, 32) + 0.05 * noise(p.x * 0.2, p.y * 0.2, 33)) * Colour{0.69, 0.64, 0.55};
  if (to_joint < grout - 0.3) return joint;
  return blend(joint, glazed(p, static_cast<std::int64_t>(i), static_cast<std::int64_t>(j), x, y),
               step_between(grout - 0.3, grout + 0.3, to_joint));
}

Colour plan_at(Point p) {
  const Colour paper = (1 + 0.02 * noise(p.x * 0.05, p.y * 0.05, 211)) * Colour{0.90, 0.88, 0.82};
  const Colour ink{0.10, 0.11, 0.14};
  const auto i = static_cast<std::int64_t>(whole_below(p.x / tile)),
             j = static_cast<std::int64_t>(whole_below(p.y / tile));
  const double x = p.x - static_cast<double>(i) * tile, y = p.y - static_cast<double>(j) * tile;
  const double to_joint = std::min(std::min(x, tile - x), std::min(y, tile - y));
  const bool in_field = i >= 0 && i < across && j >= 0 && j < down;
  if (!in_field) {
    // Around the field the joints alone, in pencil.
    return blend({0.62, 0.61, 0.58}, paper, step_between(0.4, 0.8, to_joint));
  }
  Colour wash = blend({0.66, 0.76, 0.76}, {0.80, 0.86, 0.83}, random_at(i, j, 11));
  const double line =
      motif(x - tile / 2 + 6 * (random_at(i, j, 17) - 0.5), y - tile / 2 + 6 * (random_at(i, j, 18) - 0.5),
            0.25 * (random_at(i, j, 19) - 0.5) + (((i + j) & 1) != 0 ? 0.785 : 0));
  wash = blend({0.30, 0.38, 0.42}, wash, step_between(-0.012, 0.012, line));
  if (to_joint < grout) wash = paper;
  return blend(ink, wash, step_between(0.35, 0.7, std::abs(to_joint - grout)));
}

namespace {

/// What the ray of a picture point meets: strips on the wall, the strip before it with its shadow, the wall.
Colour seen(Point pixel) {
  const Strip& proud = strips[3];
  const Point before = camera().meet(pixel, proud.proud);
  if (on_strip(proud, before)) return steel(proud, before);
  const Point p = camera().meet(pixel, 0);
  Colour colour = wall_at(p);
  for (const Strip& s : strips) {
    if (s.proud != 0) continue;
    if (on_strip(s, p)) {
      colour = steel(s, p);
    } else {
      const bool tape = (std::abs(p.x - (s.x - 5)) < 7 || std::abs(p.x - (s.x + scale_length + 5)) < 7) &&
                        p.y > s.y - 9 && p.y < s.y + 20;
      if (tape) colour = blend(colour, {0.82, 0.78, 0.66}, 0.8);
    }
  }
  const Point shadow{p.x - 14, p.y - 22};  // the light comes from above and the left
  if (on_strip(proud, shadow)) colour = 0.62 * colour;
  const double light = 0.92 + 0.16 * (0.5 - pixel.y / height) + 0.10 * (0.45 - pixel.x / width);
  const double u = (pixel.x - width * 0.5) / width, v = (pixel.y - height * 0.5) / width;
  const double r2 = u * u + v * v;
  return light * (1 - 0.35 * r2) * colour;
}

}  // namespace

Image render_wall(const Job& job) {
  return photograph({width, height}, 3, seen, job);
}

Json wall_truth() {
  const Camera& c = camera();
  const auto list = [](Vector v) { return Json::array({v.x, v.y, v.z}); };
  const auto pair = [](Point p) { return Json::array({p.x, p.y}); };
  Json out;
  out["file"] = "wall-oblique.png";
  out["size"] = {width, height};
  out["unit"] = "mm";
  out["camera"] = {{"eye", list(c.eye())},         {"right", list(c.right())}, {"down", list(c.down())},
                   {"forward", list(c.forward())}, {"focal_px", c.focal()},    {"middle_px", pair(c.middle())}};
  // Rows of the projection of (X, Y, 0): focal * axis + middle * forward.
  const double eye_right = dot(c.eye(), c.right()), eye_down = dot(c.eye(), c.down()),
               eye_forward = dot(c.eye(), c.forward());
  const auto row = [&](double focal, Vector axis, double eye_axis, double middle) {
    return Json::array({focal * axis.x + middle * c.forward().x, focal * axis.y + middle * c.forward().y,
                        -focal * eye_axis - middle * eye_forward});
  };
  out["wall_to_pixels"] = {row(c.focal(), c.right(), eye_right, c.middle().x),
                           row(c.focal(), c.down(), eye_down, c.middle().y),
                           Json::array({c.forward().x, c.forward().y, -eye_forward})};
  out["field"] = {{"width", field_width}, {"height", field_height}, {"tile", tile}};
  for (const Point p : {Point{0, 0}, Point{field_width, 0}, Point{field_width, field_height}, Point{0, field_height}})
    out["field"]["corners_px"].push_back(pair(c.see({p.x, p.y, 0})));
  for (const Strip& s : strips) {
    Json entry{{"name", s.name}, {"proud", s.proud}, {"length", scale_length}};
    entry["zero"] = {s.x, s.y};
    entry["ticks"] = {{"every", 1}, {"long_every", 5}, {"long_width", 0.9}, {"long_only_between", {4.0, 10.0}}};
    entry["ends_px"] = {pair(c.see({s.x, s.y + 7, s.proud})), pair(c.see({s.x + scale_length, s.y + 7, s.proud}))};
    out["strips"].push_back(entry);
  }
  return out;
}

Chain wall_chain() {
  const auto rounded = [](Point p) {
    return Point{std::floor(p.x * 100 + 0.5) / 100, std::floor(p.y * 100 + 0.5) / 100};
  };
  Chain chain;
  chain.sources = {{"wall-oblique.png", {}}};
  RectifyStep rectify;
  const Point corners[] = {{0, 0}, {field_width, 0}, {field_width, field_height}, {0, field_height}};
  for (std::size_t i = 0; i < 4; ++i) rectify.corners[i] = rounded(camera().see({corners[i].x, corners[i].y, 0}));
  rectify.width = field_width;
  rectify.height = field_height;
  rectify.unit = "mm";
  rectify.pixel_size = 0.3;
  chain.steps.push_back({rectify, true, {}});
  for (const Strip& s : strips)
    chain.measurements.push_back(length_measurement(s.name, 0, rounded(camera().see({s.x, s.y + 7, s.proud})),
                                                    rounded(camera().see({s.x + scale_length, s.y + 7, s.proud})),
                                                    scale_length, "mm"));
  return chain;
}

}  // namespace fexel::scene
