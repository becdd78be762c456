#include "steps/translate.h"

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr double max_shift = 1e6;

}  // namespace

StepGeometry geometry_of(const TranslateStep& step, const StepInput& input) {
  if (step.extent == Extent::keep) return {input.size, input.pixel, Map(translation(step.dx, step.dy))};
  const Size size{holding_size(input.size.width + std::abs(step.dx), "/dx"),
                  holding_size(input.size.height + std::abs(step.dy), "/dy")};
  return {size, input.pixel, Map(translation(std::max(step.dx, 0.0), std::max(step.dy, 0.0)))};
}

void read_step(JsonReader& in, TranslateStep& step) {
  step.dx = in.number("dx", -max_shift, max_shift);
  step.dy = in.number("dy", -max_shift, max_shift);
  if (in.has("extent")) step.extent = in.choice("extent", {"keep", "grow"}) == "grow" ? Extent::grow : Extent::keep;
}

void write_step(Json& out, const TranslateStep& step) {
  out["dx"] = step.dx;
  out["dy"] = step.dy;
  out["extent"] = extent_words()[static_cast<std::size_t>(step.extent)];
}

}  // namespace fexel
