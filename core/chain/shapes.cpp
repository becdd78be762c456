#include <fmt/format.h>

#include <Eigen/Geometry>
#include <Eigen/LU>
#include <numbers>

#include "base/error.h"
#include "chain/step_shapes.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr double most_degrees = 1e6;
constexpr double degree = std::numbers::pi / 180;

/// Sine and cosine, exact at quarter turns.
std::pair<double, double> sine_and_cosine(double degrees) {
  const double angle = std::remainder(degrees, 360), quarters = angle / 90;
  const double s = std::sin(angle * degree), c = std::cos(angle * degree);
  return quarters == std::floor(quarters) ? std::pair(std::round(s), std::round(c)) : std::pair(s, c);
}

}  // namespace

Eigen::Matrix3d rotation_of(const TiltStep& step) {
  const auto [sx, cx] = sine_and_cosine(step.about_x);
  const auto [sy, cy] = sine_and_cosine(step.about_y);
  const auto [sz, cz] = sine_and_cosine(step.about_z);
  Eigen::Matrix3d x, y, z;
  x << 1, 0, 0, 0, cx, -sx, 0, sx, cx;
  y << cy, 0, sy, 0, 1, 0, -sy, 0, cy;
  z << cz, -sz, 0, sz, cz, 0, 0, 0, 1;
  return z * y * x;
}

StepGeometry geometry_of(const TiltStep& step, const StepInput& input) {
  const Eigen::Matrix3d turn = rotation_of(step);
  const Point centre = step.centre.value_or(input.size.middle());
  // The plane's points are (x, -y, 0) about the centre, seen from `away` in front of it.
  const double away = step.distance * input.size.width;
  Matrix3 seen;
  seen << turn(0, 0), -turn(0, 1), 0, -turn(1, 0), turn(1, 1), 0, -turn(2, 0) / away, turn(2, 1) / away, 1;
  if (step.parallel) seen.row(2) << 0, 0, 1;
  if (std::abs(seen.determinant()) < 1e-6)
    throw call_error("Seen like this the picture is a line: it is looked at along its own plane.", "/about_x",
                     "Choose an angle that is not a quarter turn.");
  const Matrix3 about = seen * translation(-centre.x, -centre.y);
  StepGeometry out{input.size, {}, Map()};
  if (step.about_x == 0 && step.about_y == 0 && (!input.pixel || input.pixel->square())) out.pixel = input.pixel;
  if (step.extent == Extent::keep) {
    out.map = Map(translation(centre.x, centre.y) * about);
    return out;
  }
  auto outline = input.clip.corners(input.size);
  if (outline.empty()) outline = Clip().corners(input.size);
  Point low{1e300, 1e300}, high{-1e300, -1e300};
  for (const Point corner : outline) {
    const auto p = Map::apply(about, corner);
    if (!p)
      throw call_error("The tilt brings a part of the picture behind the viewer.", "/distance",
                       "Choose a larger distance, smaller angles, or the parallel view.");
    low = {std::min(low.x, p->x), std::min(low.y, p->y)};
    high = {std::max(high.x, p->x), std::max(high.y, p->y)};
  }
  out.size = {whole_size(std::ceil(high.x - low.x - 1e-6), "/distance"),
              whole_size(std::ceil(high.y - low.y - 1e-6), "/distance")};
  const Point middle = out.size.middle();
  out.map = Map(translation(middle.x - (low.x + high.x) / 2, middle.y - (low.y + high.y) / 2) * about);
  return out;
}

void read_step(JsonReader& in, TiltStep& step) {
  const auto angle = [&](const char* key) { return in.has(key) ? in.degrees(key, -most_degrees, most_degrees) : 0.0; };
  step.about_x = angle("about_x");
  step.about_y = angle("about_y");
  step.about_z = angle("about_z");
  if (in.has("centre")) step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  if (in.has("view")) step.parallel = in.choice("view", {"parallel", "perspective"}) == "parallel";
  if (in.has("distance")) step.distance = in.number("distance", 0.05, 1e6);
  if (in.has("extent")) step.extent = in.choice("extent", {"grow", "keep"}) == "keep" ? Extent::keep : Extent::grow;
}

void write_step(Json& out, const TiltStep& step) {
  out["about_x"] = step.about_x;
  out["about_y"] = step.about_y;
  out["about_z"] = step.about_z;
  if (step.centre) out["centre"] = {step.centre->x, step.centre->y};
  out["view"] = step.parallel ? "parallel" : "perspective";
  out["distance"] = step.distance;
  out["extent"] = step.extent == Extent::keep ? "keep" : "grow";
}

StepGeometry geometry_of(const LensStep& step, const StepInput& input) {
  const Point centre = step.centre.value_or(input.size.middle());
  const auto lens =
      std::make_shared<const Lens>(step.terms, centre, step.focal.value_or(static_cast<double>(input.size.width)));
  // Undoing and adding both need the lens over the picture without distortion.
  constexpr int grid = 32;
  double reach = 0, farthest = 0;
  for (int j = 0; j <= grid; ++j)
    for (int i = 0; i <= grid; ++i) {
      const Point p{input.size.width * double(i) / grid, input.size.height * double(j) / grid};
      farthest = std::max(farthest, distance(p, centre));
      if (!lens->jacobian(p)) reach = reach == 0 ? distance(p, centre) : std::min(reach, distance(p, centre));
    }
  if (reach > 0)
    throw call_error(fmt::format("This lens folds the picture over, from {:.0f} % of the way to its corner on.",
                                 100 * reach / farthest),
                     "/k1", "Choose smaller coefficients or a longer focal length.");
  return {input.size, input.pixel, step.add ? Map(lens) : Map(lens).inverse()};
}

void read_step(JsonReader& in, LensStep& step) {
  const auto term = [&](const char* key) { return in.has(key) ? in.number(key, -1e3, 1e3) : 0.0; };
  step.terms = {term("k1"), term("k2"), term("k3"), term("p1"), term("p2")};
  if (in.has("centre")) step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  if (in.has("focal")) step.focal = in.number("focal", 1e-3, 1e9);
  if (in.has("direction")) step.add = in.choice("direction", {"undo", "add"}) == "add";
}

void write_step(Json& out, const LensStep& step) {
  const std::pair<const char*, double> terms[] = {{"k1", step.terms.k1},
                                                  {"k2", step.terms.k2},
                                                  {"k3", step.terms.k3},
                                                  {"p1", step.terms.p1},
                                                  {"p2", step.terms.p2}};
  for (const auto& [key, value] : terms) out[key] = value;
  if (step.centre) out["centre"] = {step.centre->x, step.centre->y};
  if (step.focal) out["focal"] = *step.focal;
  out["direction"] = step.add ? "add" : "undo";
}

RingShape ring_of(const UnwrapStep& step) {
  if (!(step.outer > step.inner))
    throw call_error(fmt::format("The outer radius, {} px, is not larger than the inner one, {} px.",
                                 short_number(step.outer, 6), short_number(step.inner, 6)),
                     "/outer", "Make the outer radius larger.");
  const double sweep = step.sweep * degree, truth = step.true_radius.value_or((step.inner + step.outer) / 2);
  const Size strip{step.width.value_or(whole_size(sweep * truth, step.true_radius ? "/true_radius" : "/outer")),
                   step.height.value_or(whole_size(step.outer - step.inner, "/outer"))};
  return {step.centre, step.inner, step.outer, step.start * degree, sweep, step.clockwise, strip};
}

StepGeometry geometry_of(const UnwrapStep& step, const StepInput& input) {
  const RingShape shape = ring_of(step);
  const auto ring = std::make_shared<const Ring>(shape);
  constexpr int around = 360, across = 8;
  bool seen = false;
  for (int i = 0; i <= around && !seen; ++i)
    for (int j = 0; j <= across && !seen; ++j) {
      const auto p = ring->forward({shape.strip.width * double(i) / around, shape.strip.height * (j + 1e-3) / across});
      seen = p && p->x >= 0 && p->y >= 0 && p->x <= input.size.width && p->y <= input.size.height;
    }
  if (!seen) throw call_error("The ring lies outside the picture.", "/centre", "Move its centre, or change its radii.");
  StepGeometry out{shape.strip, {}, Map(ring).inverse()};
  if (input.pixel && input.pixel->square()) {
    const double truth = step.true_radius.value_or((step.inner + step.outer) / 2);
    out.pixel = PixelSize{input.pixel->x * shape.sweep * truth / shape.strip.width,
                          input.pixel->y * (step.outer - step.inner) / shape.strip.height, input.pixel->unit};
  }
  return out;
}

void read_step(JsonReader& in, UnwrapStep& step) {
  step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  step.inner = in.number("inner", 0, largest_side);
  step.outer = in.number("outer", 1e-3, largest_side);
  if (in.has("start")) step.start = in.degrees("start", -most_degrees, most_degrees);
  if (in.has("sweep")) step.sweep = in.degrees("sweep", 1e-3, 360);
  if (in.has("direction")) step.clockwise = in.choice("direction", {"clockwise", "counter-clockwise"}) == "clockwise";
  if (in.has("true_radius")) step.true_radius = in.number("true_radius", 1e-3, largest_side);
  const int side = static_cast<int>(largest_side);
  if (in.has("width")) step.width = in.whole("width", 1, side);
  if (in.has("height")) step.height = in.whole("height", 1, side);
}

void write_step(Json& out, const UnwrapStep& step) {
  out["centre"] = {step.centre.x, step.centre.y};
  out["inner"] = step.inner;
  out["outer"] = step.outer;
  out["start"] = step.start;
  out["sweep"] = step.sweep;
  out["direction"] = step.clockwise ? "clockwise" : "counter-clockwise";
  if (step.true_radius) out["true_radius"] = *step.true_radius;
  if (step.width) out["width"] = *step.width;
  if (step.height) out["height"] = *step.height;
}

}  // namespace fexel
