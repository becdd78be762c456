#include "steps/unwrap.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {

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

void begin_step(UnwrapStep& step, const StepInput& input) {
  step.centre = input.size.middle();
  // Whole pixels, except in pictures of a few pixels.
  const double side = std::min(input.size.width, input.size.height), unit = side < 20 ? 0.01 : 1;
  step.outer = unit * std::floor(0.4 * side / unit);
  step.inner = unit * std::floor(0.25 * side / unit);
}

void read_step(JsonReader& in, UnwrapStep& step) {
  step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  step.inner = in.number("inner", 0, largest_side);
  step.outer = in.number("outer", 1e-3, largest_side);
  if (in.has("start")) step.start = in.degrees("start", -max_degrees, max_degrees);
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
