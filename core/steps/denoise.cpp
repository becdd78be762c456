#include "steps/denoise.h"

#include "filter/filter.h"
#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const DenoiseStep&, const StepInput& input) {
  return computed_in_place(input);
}

void read_step(JsonReader& in, DenoiseStep& step) {
  if (in.has("method")) step.median = in.choice("method", {"median", "gaussian"}) == "median";
  step.radius = in.number("radius", step.median ? 1 : 0.5, step.median ? 100 : 2000);
  if (step.median && step.radius != std::floor(step.radius))
    JsonReader::refuse(in.at("radius"), in.path("radius"), "a whole number for the median");
}

void write_step(Json& out, const DenoiseStep& step) {
  out["radius"] = step.radius;
  out["method"] = step.median ? "median" : "gaussian";
}

Image pixels_of(const DenoiseStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t&) {
  return step.median ? median(input, static_cast<int>(step.radius), job) : gaussian(input, step.radius, job);
}

}  // namespace fexel
