#include "steps/quarter.h"

#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const QuarterStep& step, const StepInput& input) {
  StepGeometry out{input.size, input.pixel, Map(quarter_turn(input.size, step.turns))};
  if (step.turns % 2 != 0) {
    std::swap(out.size.width, out.size.height);
    if (out.pixel) std::swap(out.pixel->x, out.pixel->y);
  }
  return out;
}

void read_step(JsonReader& in, QuarterStep& step) {
  step.turns = in.whole("turns", -1000000, 1000000);
}

void write_step(Json& out, const QuarterStep& step) {
  out["turns"] = step.turns;
}

}  // namespace fexel
