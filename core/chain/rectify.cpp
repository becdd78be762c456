#include <fmt/format.h>

#include "base/error.h"
#include "chain/step.h"
#include "text/reader.h"

namespace fexel {
namespace {

void require_sound(const RectifyStep& step) {
  if (const auto problem = check_quad(step.corners)) throw call_error(problem->message, "/corners", problem->remedy);
}

}  // namespace

double finest_pixel_size(const RectifyStep& step, const StepInput& input) {
  require_sound(step);
  const Matrix3 from_plane = unit_square_to_quad(step.corners) * scaling(1 / step.width, 1 / step.height);
  const Matrix3 to_source = input.from_source.inverse_matrix() * from_plane;
  // The magnification of a planar map has its largest value on the outline; corners and points along the sides.
  constexpr int points = 64;
  double largest = 0;
  for (int i = 0; i <= points; ++i)
    for (const Point p : {Point{step.width * i / points, 0}, Point{step.width * i / points, step.height},
                          Point{0, step.height * i / points}, Point{step.width, step.height * i / points}})
      if (const auto j = Map::derivative(to_source, p)) largest = std::max(largest, singular_values(*j).large);
  if (!(largest > 0) || !std::isfinite(largest))
    throw call_error("The rectangle lies behind the horizon of the source.", "/corners",
                     "Move the corners, or change the steps before.");
  return 1 / largest;
}

StepGeometry geometry_of(const RectifyStep& step, const StepInput& input) {
  require_sound(step);
  const double pixel = step.pixel_size.value_or(0) > 0 ? *step.pixel_size : finest_pixel_size(step, input);
  const std::string cause = step.pixel_size ? "/pixel_size" : "/corners";
  const Size size{whole_size(step.width / pixel, cause), whole_size(step.height / pixel, cause)};
  const Map to_input(unit_square_to_quad(step.corners) * scaling(1.0 / size.width, 1.0 / size.height));
  return {size, PixelSize{step.width / size.width, step.height / size.height, step.unit}, to_input.inverse()};
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
  step.width = in.number("width", 1e-9, 1e9);
  step.height = in.number("height", 1e-9, 1e9);
  step.unit = in.choice("unit", length_units());
  if (in.has("pixel_size")) step.pixel_size = in.number("pixel_size", 1e-12, 1e9);
  if (in.has("extent")) in.choice("extent", {"reference"});
}

void write_step(Json& out, const RectifyStep& step) {
  for (const Point& p : step.corners) out["corners"].push_back({p.x, p.y});
  out["width"] = step.width;
  out["height"] = step.height;
  out["unit"] = step.unit;
  if (step.pixel_size) out["pixel_size"] = *step.pixel_size;
  out["extent"] = "reference";
}

}  // namespace fexel
