#include "steps/tilt.h"

#include <Eigen/Geometry>
#include <Eigen/LU>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

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
  out.size = {holding_size(high.x - low.x, "/distance"), holding_size(high.y - low.y, "/distance")};
  const Point middle = out.size.middle();
  out.map = Map(translation(middle.x - (low.x + high.x) / 2, middle.y - (low.y + high.y) / 2) * about);
  return out;
}

void read_step(JsonReader& in, TiltStep& step) {
  const auto angle = [&](const char* key) { return in.has(key) ? in.degrees(key, -max_degrees, max_degrees) : 0.0; };
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

}  // namespace fexel
