#include "steps/highpass.h"

#include "filter/filter.h"
#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const HighpassStep&, const StepInput& input) {
  return computed_in_place(input);
}

void read_step(JsonReader& in, HighpassStep& step) {
  step.radius = in.number("radius", 0.5, 2000);
}

void write_step(Json& out, const HighpassStep& step) {
  out["radius"] = step.radius;
}

Image pixels_of(const HighpassStep& step, const Image& input, const Resampling&, const Job& job,
                std::int64_t& clamped) {
  return highpass(input, step.radius, job, &clamped);
}

}  // namespace fexel
