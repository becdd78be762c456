#include "steps/rectify.h"

#include <fmt/format.h>
#include <Eigen/LU>

#include <cmath>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

using Shape = RectifyStep::Shape;
using RectifyExtent = RectifyStep::Extent;

const std::vector<std::string> allow_words = {"shift", "scale", "turn", "skew", "perspective"};
constexpr bool RectifyStep::Allow::*allow_members[] = {&RectifyStep::Allow::shift, &RectifyStep::Allow::scale,
                                                       &RectifyStep::Allow::turn, &RectifyStep::Allow::skew,
                                                       &RectifyStep::Allow::perspective};
/// By how much more than in the rectangle's middle the whole view is magnified at the most.
constexpr double max_magnified = 8;

void require_sound(const RectifyStep& step) {
  if (const auto problem = check_quad(step.corners)) throw call_error(problem->message, "/corners", problem->remedy);
}

/// In the source, where the camera was: the station may have been cropped or turned since.
RatioEstimate estimated(const RectifyStep& step, const StepInput& input) {
  Quad seen = step.corners;
  // Behind a curve the camera's picture is not known, but as the station shows it: without its lens, if all is well.
  const bool curved = !input.from_source.planar();
  for (std::size_t i = 0; i < 4 && !curved; ++i) {
    const auto p = input.from_source.backward(step.corners[i]);
    if (!p)
      throw call_error("A corner lies behind the horizon of the source.", "/corners", "Move it into the picture.");
    seen[i] = *p;
  }
  // Mirrored on the way, the corners go round the other way, and the sides change names.
  const bool mirrored = !curved && input.from_source.matrix().determinant() < 0;
  std::array<double, 4> picking = step.picking;
  if (mirrored) {
    std::swap(seen[1], seen[3]);
    std::swap(picking[1], picking[3]);
  }
  const Size size = curved ? input.size : input.source;
  if (auto found = estimate_ratio(seen, size.middle(), picking, usual_centre_offset * size.width)) {
    if (mirrored) {
      found->by_centre /= found->ratio * found->ratio;
      found->uncertainty /= found->ratio * found->ratio;
      found->ratio = 1 / found->ratio;
    }
    return *found;
  }
  throw call_error("This view is too frontal to tell how the sides of the rectangle compare.", "/corners",
                   "Give width, height and unit, or the ratio of the sides.");
}

double length_on(const KnownLength& known, const Matrix3& to_plane, const std::string& place) {
  const auto a = Map::apply(to_plane, known.from), b = Map::apply(to_plane, known.to);
  if (!a || !b)
    throw call_error("The known length reaches beyond the horizon of the plane.", place,
                     "Lay it within what is seen of the plane.");
  if (!(distance(known.from, known.to) > 0.01))
    throw call_error("The two ends of the known length are the same point.", place, "Move one of them.");
  return distance(*a, *b);
}

/// The rectangle, the whole view of its plane, or the rectangle and what is around it.
struct Box {
  double left, top, right, bottom;
};

Box whole_view(const RectifyPlane& plane, const StepInput& input) {
  const Map to_plane = Map(plane.to_input).inverse();
  const auto weight = [&](Point p) {
    const Matrix3& m = to_plane.matrix();
    return m(2, 0) * p.x + m(2, 1) * p.y + m(2, 2);
  };
  // The area's magnification goes with weight^-3, so that its limit is a straight line.
  const double least =
      weight(*Map::apply(plane.to_input, {plane.width / 2, plane.height / 2})) * std::pow(max_magnified, -2.0 / 3);
  const auto outline = input.clip.corners(input.size);
  std::vector<Point> kept;
  for (std::size_t i = 0; i < outline.size(); ++i) {
    const Point p = outline[i], q = outline[(i + 1) % outline.size()];
    const double at_p = weight(p) - least, at_q = weight(q) - least;
    if (at_p >= 0) kept.push_back(p);
    if ((at_p >= 0) != (at_q >= 0)) kept.push_back(p + at_p / (at_p - at_q) * (q - p));
  }
  if (kept.size() < 3)
    throw call_error("Nothing of the picture lies on the near side of the plane.", "/corners",
                     "Move the corners, or take only the rectangle.");
  Box box{1e300, 1e300, -1e300, -1e300};
  for (const Point& p : kept)
    if (const auto on_plane = to_plane.forward(p))
      box = {std::min(box.left, on_plane->x), std::min(box.top, on_plane->y), std::max(box.right, on_plane->x),
             std::max(box.bottom, on_plane->y)};
  return box;
}

Box box_of(const RectifyStep& step, const RectifyPlane& plane, const StepInput& input) {
  switch (step.extent) {
    case RectifyExtent::whole:
      return whole_view(plane, input);
    case RectifyExtent::margin:
      return {-step.margin, -step.margin, plane.width + step.margin, plane.height + step.margin};
    case RectifyExtent::reference:
      break;
  }
  return {0, 0, plane.width, plane.height};
}

/// A map about a point as shift, turn, scale, skew (with the aspect) and perspective, in the order in which they are
/// applied last to first.
struct Factors {
  double turn, scale;
  Matrix2 skew;
  double g, h;
};
Factors factors_of(const Matrix3& map, Point from, Point to) {
  Matrix3 m = translation(-to.x, -to.y) * map * translation(from.x, from.y);
  m /= m(2, 2);
  const Matrix2 linear = m.topLeftCorner<2, 2>();
  Factors f;
  f.g = m(2, 0);
  f.h = m(2, 1);
  f.turn = std::atan2(linear(1, 0), linear(0, 0));
  Matrix2 back;
  back << std::cos(f.turn), std::sin(f.turn), -std::sin(f.turn), std::cos(f.turn);
  const Matrix2 upper = back * linear;
  f.scale = std::sqrt(std::abs(upper.determinant()));
  f.skew = upper / f.scale;
  return f;
}

/// What is left of a correction when some factors of it are not allowed.
Matrix3 limited(const Matrix3& map, Point from, Point to, const RectifyStep::Allow& allow) {
  Factors f = factors_of(map, from, to);
  if (!allow.turn) f.turn = 0;
  if (!allow.scale) f.scale = 1;
  if (!allow.skew) f.skew.setIdentity();
  if (!allow.perspective) f.g = f.h = 0;
  Matrix2 turn;
  turn << std::cos(f.turn), -std::sin(f.turn), std::sin(f.turn), std::cos(f.turn);
  Matrix3 m = Matrix3::Identity();
  m.topLeftCorner<2, 2>() = f.scale * turn * f.skew;
  m(2, 0) = f.g;
  m(2, 1) = f.h;
  const Point end = allow.shift ? to : from;
  return translation(end.x, end.y) * m * translation(-from.x, -from.y);
}

void read_known(const Json& value, const std::string& path, KnownLength& known) {
  const JsonReader in(value, path, {"points", "length", "unit", "use", "picking"});
  const Json& points = in.array("points");
  if (points.size() != 2) JsonReader::refuse(points, in.path("points"), "two points");
  known.from = JsonReader::point(points[0], in.path("points") + "/0");
  known.to = JsonReader::point(points[1], in.path("points") + "/1");
  known.length = in.number("length", 1e-9, 1e9);
  known.unit = in.choice("unit", length_units());
  known.scale = in.has("use") && in.choice("use", {"scale", "check"}) == "scale";
  known.picking = read_ends_picking(in);
}

/// One number for all corners, or one each.
std::array<double, 4> read_picking(const JsonReader& in) {
  if (!in.at("picking").is_array()) return each_corner(in.number("picking", 1e-6, 1e3));
  const Json& list = in.array("picking");
  if (list.size() != 4) JsonReader::refuse(list, in.path("picking"), "four numbers, one for each corner");
  std::array<double, 4> out;
  for (std::size_t i = 0; i < 4; ++i)
    out[i] = JsonReader::number(list[i], fmt::format("{}/{}", in.path("picking"), i), 1e-6, 1e3);
  return out;
}

void read_shape(JsonReader& in, RectifyStep& step) {
  const bool sides = in.has("width") || in.has("height") || in.has("unit");
  if (sides && in.has("ratio"))
    JsonReader::refuse(in.at("ratio"), in.path("ratio"), "either the sides (width, height, unit) or their ratio");
  if (sides) {
    step.width = in.number("width", 1e-9, 1e9);
    step.height = in.number("height", 1e-9, 1e9);
    step.unit = in.choice("unit", length_units());
  } else if (in.has("ratio")) {
    step.shape = Shape::ratio;
    step.ratio = in.number("ratio", 1e-3, 1e3);
  } else {
    step.shape = Shape::estimated;
  }
}

void read_extent(JsonReader& in, RectifyStep& step) {
  const Json& value = in.at("extent");
  if (!value.is_object()) {
    step.extent =
        in.choice("extent", {"reference", "whole"}) == "whole" ? RectifyExtent::whole : RectifyExtent::reference;
    return;
  }
  step.extent = RectifyExtent::margin;
  step.margin = JsonReader(value, in.path("extent"), {"margin"}).number("margin", 0, 1e9);
}

void read_allow(JsonReader& in, RectifyStep& step) {
  const Json& words = in.array("allow");
  if (words.empty()) JsonReader::refuse(words, in.path("allow"), "at least one of " + either_of(allow_words));
  step.allow = {false, false, false, false, false};
  for (std::size_t i = 0; i < words.size(); ++i) {
    const std::string word = words[i].is_string() ? words[i].get<std::string>() : "";
    const auto at = std::ranges::find(allow_words, word) - allow_words.begin();
    if (at == std::ssize(allow_words))
      JsonReader::refuse(words[i], fmt::format("{}/{}", in.path("allow"), i), either_of(allow_words));
    step.allow.*allow_members[at] = true;
  }
}

}  // namespace

RectifyPlane rectify_plane(const RectifyStep& step, const StepInput& input) {
  require_sound(step);
  RectifyPlane plane;
  if (step.shape == Shape::sides) {
    plane.width = step.width;
    plane.height = step.height;
    plane.unit = step.unit;
  } else if (step.shape == Shape::ratio) {
    plane.width = step.ratio;
  } else {
    plane.estimate = estimated(step, input);
    plane.width = plane.estimate->ratio;
  }
  const Matrix3 square = unit_square_to_quad(step.corners);
  const Matrix3 to_plane = Map(square * scaling(1 / plane.width, 1 / plane.height)).inverse_matrix();
  // Lengths that give the scale count by their length: least squares.
  double given = 0, measured = 0;
  for (std::size_t i = 0; i < step.known.size(); ++i) {
    const KnownLength& known = step.known[i];
    const double length = length_on(known, to_plane, fmt::format("/known/{}/points", i));
    if (!known.scale) continue;
    if (plane.unit.empty()) plane.unit = known.unit;
    given += known.length * metres_per(known.unit) / metres_per(plane.unit) * length;
    measured += length * length;
  }
  if (measured > 0) {
    plane.width *= given / measured;
    plane.height *= given / measured;
  }
  plane.to_input = square * scaling(1 / plane.width, 1 / plane.height);
  return plane;
}

std::optional<double> known_reading(const KnownLength& known, const RectifyPlane& plane) {
  if (plane.unit.empty()) return std::nullopt;
  return length_on(known, Map(plane.to_input).inverse_matrix(), "/known") * metres_per(plane.unit) /
         metres_per(known.unit);
}

double finest_pixel_size(const RectifyPlane& plane, const StepInput& input) {
  const Matrix3 to_source = input.from_source.inverse_matrix() * plane.to_input;
  // The magnification of a planar map has its largest value on the outline; corners and points along the sides.
  constexpr int points = 64;
  double largest = 0;
  for (int i = 0; i <= points; ++i)
    for (const Point p : {Point{plane.width * i / points, 0}, Point{plane.width * i / points, plane.height},
                          Point{0, plane.height * i / points}, Point{plane.width, plane.height * i / points}})
      if (const auto j = Map::derivative(to_source, p)) largest = std::max(largest, singular_values(*j).large);
  if (!(largest > 0) || !std::isfinite(largest))
    throw call_error("The rectangle lies behind the horizon of the source.", "/corners",
                     "Move the corners, or change the steps before.");
  return 1 / largest;
}

StepGeometry geometry_of(const RectifyStep& step, const StepInput& input) {
  const RectifyPlane plane = rectify_plane(step, input);
  if (step.pixel_size && plane.unit.empty())
    throw call_error(
        "A pixel size needs a scale, and no length of this plane is known.", "/pixel_size",
        "Give width, height and unit, or a known length that gives the scale; or give the size in pixels.");
  if (!step.allow.scale && (step.pixel_size || step.pixels))
    throw call_error("A size of pixels cannot be chosen where the scale may not change.", "/allow",
                     "Allow scale, or leave out pixel_size and pixels.");
  const Point middle = *Map::apply(plane.to_input, {plane.width / 2, plane.height / 2});
  const Matrix3 to_plane = Map(plane.to_input).inverse_matrix();
  double pixel = step.pixel_size ? *step.pixel_size : finest_pixel_size(plane, input);
  if (!step.allow.scale) pixel = factors_of(to_plane, middle, {plane.width / 2, plane.height / 2}).scale;
  const Box box = box_of(step, plane, input);
  const double across = box.right - box.left, down = box.bottom - box.top;
  const std::string cause = step.pixel_size                           ? "/pixel_size"
                            : step.extent == RectifyExtent::reference ? "/corners"
                                                                      : "/extent";
  const Size size =
      step.pixels ? *step.pixels : Size{whole_size(across / pixel, cause), whole_size(down / pixel, cause)};
  const PixelSize out{across / size.width, down / size.height, plane.unit};
  const Matrix3 to_input = plane.to_input * translation(box.left, box.top) * scaling(out.x, out.y);
  const bool true_lengths = step.allow.skew && step.allow.perspective && !plane.unit.empty();
  const auto pixels = true_lengths ? std::optional(out) : std::nullopt;
  if (step.allow.all()) return {size, pixels, Map(to_input).inverse()};
  const Point end{(plane.width / 2 - box.left) / out.x, (plane.height / 2 - box.top) / out.y};
  return {step.allow.shift ? size : input.size, pixels,
          Map(limited(Map(to_input).inverse_matrix(), middle, end, step.allow))};
}

void begin_step(RectifyStep& step, const StepInput& input) {
  const double w = input.size.width, h = input.size.height;
  step.corners = {Point{0.2 * w, 0.2 * h}, Point{0.8 * w, 0.2 * h}, Point{0.8 * w, 0.8 * h}, Point{0.2 * w, 0.8 * h}};
  // Nobody has said how large it is: no unit is made up.
  step.shape = RectifyStep::Shape::ratio;
  step.ratio = rounded_to(w / h, 4);
}

void read_step(JsonReader& in, RectifyStep& step) {
  const Json& corners = in.array("corners");
  if (corners.size() != 4)
    JsonReader::refuse(corners, in.path("corners"), "four points: top-left, top-right, bottom-right, bottom-left");
  for (std::size_t i = 0; i < 4; ++i)
    step.corners[i] = JsonReader::point(corners[i], fmt::format("{}/{}", in.path("corners"), i));
  if (const auto problem = check_quad(step.corners)) {
    std::string message = problem->message;
    message.pop_back();
    throw call_error(fmt::format("{} in {}.", message, to_text(corners)), in.path("corners"), problem->remedy);
  }
  read_shape(in, step);
  if (in.has("known")) {
    const Json& list = in.array("known");
    step.known.resize(list.size());
    for (std::size_t i = 0; i < list.size(); ++i)
      read_known(list[i], fmt::format("{}/{}", in.path("known"), i), step.known[i]);
  }
  if (in.has("pixel_size")) step.pixel_size = in.number("pixel_size", 1e-12, 1e9);
  if (in.has("pixels")) {
    const Json& pixels = in.array("pixels");
    if (step.pixel_size || pixels.size() != 2)
      JsonReader::refuse(pixels, in.path("pixels"), "two whole numbers, across and down, without pixel_size");
    const auto side = [&](std::size_t i) {
      const std::string path = fmt::format("{}/{}", in.path("pixels"), i);
      const double v = JsonReader::number(pixels[i], path, 1, largest_side);
      if (v != std::floor(v)) JsonReader::refuse(pixels[i], path, "a whole number");
      return static_cast<int>(v);
    };
    step.pixels = Size{side(0), side(1)};
  }
  if (in.has("extent")) read_extent(in, step);
  if (in.has("allow")) read_allow(in, step);
  if (in.has("picking")) step.picking = read_picking(in);
}

void write_step(Json& out, const RectifyStep& step) {
  for (const Point& p : step.corners) out["corners"].push_back({p.x, p.y});
  if (step.shape == Shape::sides) {
    out["width"] = step.width;
    out["height"] = step.height;
    out["unit"] = step.unit;
  } else if (step.shape == Shape::ratio) {
    out["ratio"] = step.ratio;
  }
  for (const KnownLength& known : step.known) {
    Json entry;
    entry["points"] = {{known.from.x, known.from.y}, {known.to.x, known.to.y}};
    entry["length"] = known.length;
    entry["unit"] = known.unit;
    entry["use"] = known.scale ? "scale" : "check";
    write_ends_picking(entry, known.picking);
    out["known"].push_back(entry);
  }
  if (step.pixels)
    out["pixels"] = {step.pixels->width, step.pixels->height};
  else if (step.pixel_size)
    out["pixel_size"] = *step.pixel_size;
  if (step.extent == RectifyExtent::margin)
    out["extent"] = {{"margin", step.margin}};
  else
    out["extent"] = step.extent == RectifyExtent::whole ? "whole" : "reference";
  if (!step.allow.all())
    for (std::size_t i = 0; i < allow_words.size(); ++i)
      if (step.allow.*allow_members[i]) out["allow"].push_back(allow_words[i]);
  if (step.picking == each_corner(step.picking[0])) {
    if (step.picking[0] != 0.5) out["picking"] = step.picking[0];
  } else {
    out["picking"] = step.picking;
  }
}

}  // namespace fexel
