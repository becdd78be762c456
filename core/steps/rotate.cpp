#include "steps/rotate.h"

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

/// How many quarter turns an angle is; nothing where it is not a multiple of 90 degrees.
std::optional<int> quarters_of(double degrees) {
  const double quarters = degrees / 90;
  if (quarters != std::floor(quarters)) return std::nullopt;
  return static_cast<int>(std::fmod(quarters, 4));
}

/// What the linear map `turned` (about the origin) makes of a picture, in a frame that just holds its pixels.
StepGeometry grown(const Matrix3& turned, const StepInput& input, const char* where) {
  auto outline = input.clip.corners(input.size);
  if (outline.empty()) outline = Clip().corners(input.size);
  Point low{1e300, 1e300}, high{-1e300, -1e300};
  for (const Point corner : outline) {
    const Point p = *Map::apply(turned, corner);
    low = {std::min(low.x, p.x), std::min(low.y, p.y)};
    high = {std::max(high.x, p.x), std::max(high.y, p.y)};
  }
  const Size size{holding_size(high.x - low.x, where), holding_size(high.y - low.y, where)};
  const Point middle = size.middle();
  return {size, {}, Map(translation(middle.x - (low.x + high.x) / 2, middle.y - (low.y + high.y) / 2) * turned)};
}

/// A rotation keeps the pixel size where pixels are square; multiples of 90 degrees keep it or exchange x and y.
std::optional<PixelSize> rotated_pixel(const std::optional<PixelSize>& pixel, double degrees) {
  if (!pixel || pixel->square()) return pixel;
  const auto quarters = quarters_of(degrees);
  if (!quarters) return std::nullopt;
  return *quarters % 2 == 0 ? *pixel : PixelSize{pixel->y, pixel->x, pixel->unit};
}

}  // namespace

StepGeometry geometry_of(const RotateStep& step, const StepInput& input) {
  const auto pixel = rotated_pixel(input.pixel, step.degrees);
  const auto whole = quarters_of(step.degrees);
  if (whole && step.extent == Extent::grow) {
    // The station as a whole: what a pad or a rotation before left empty stays part of it.
    const Size size = *whole % 2 == 0 ? input.size : Size{input.size.height, input.size.width};
    return {size, pixel, Map(quarter_turn(input.size, *whole))};
  }
  const double angle = std::remainder(step.degrees, 360);
  double c = std::cos(angle * M_PI / 180), s = std::sin(angle * M_PI / 180);
  if (whole) {  // exact, so that four of them are none
    c = std::round(c);
    s = std::round(s);
  }
  Matrix3 turned;
  turned << c, s, 0, -s, c, 0, 0, 0, 1;
  const Point centre = step.centre.value_or(input.size.middle());
  StepGeometry out{input.size, {}, Map()};
  if (step.extent == Extent::grow) {
    out = grown(turned, input, RotateStep::size_key);
  } else {
    Point to = centre;
    if (step.extent == Extent::inside) {
      const double half_width = std::min(centre.x, input.size.width - centre.x);
      const double half_height = std::min(centre.y, input.size.height - centre.y);
      if (!(half_width > 0 && half_height > 0))
        throw call_error("The centre lies outside the picture, so no rectangle about it is free of empty corners.",
                         "/centre", "Choose a centre inside the picture, or another extent.");
      const double w = input.size.width, h = input.size.height;
      const double factor = std::min(2 * half_width / (w * std::abs(c) + h * std::abs(s)),
                                     2 * half_height / (w * std::abs(s) + h * std::abs(c)));
      out.size = {std::max(1, static_cast<int>(std::floor(factor * w + 1e-6))),
                  std::max(1, static_cast<int>(std::floor(factor * h + 1e-6)))};
      to = out.size.middle();
    }
    out.map = Map(translation(to.x, to.y) * turned * translation(-centre.x, -centre.y));
  }
  out.pixel = pixel;
  return out;
}

void read_step(JsonReader& in, RotateStep& step) {
  step.degrees = in.degrees("degrees", -max_degrees, max_degrees);
  if (in.has("centre")) step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  if (in.has("extent"))
    step.extent = static_cast<Extent>(std::ranges::find(extent_words(), in.choice("extent", extent_words())) -
                                      extent_words().begin());
}

void write_step(Json& out, const RotateStep& step) {
  out["degrees"] = step.degrees;
  if (step.centre) out["centre"] = {step.centre->x, step.centre->y};
  out["extent"] = extent_words()[static_cast<std::size_t>(step.extent)];
}

}  // namespace fexel
