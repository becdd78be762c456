#include "steps/local_contrast.h"

#include "filter/filter.h"
#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const LocalContrastStep&, const StepInput& input) {
  return computed_in_place(input);
}

void read_step(JsonReader& in, LocalContrastStep& step) {
  if (in.has("tile")) step.tile = in.whole("tile", 8, static_cast<int>(largest_side));
  if (in.has("limit")) step.limit = in.number("limit", 1, 1000);
}

void write_step(Json& out, const LocalContrastStep& step) {
  out["tile"] = step.tile;
  out["limit"] = step.limit;
}

Image pixels_of(const LocalContrastStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t&) {
  return equalised(input, step.tile, step.limit, job);
}

}  // namespace fexel
