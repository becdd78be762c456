#include "steps/mirror.h"

#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const MirrorStep& step, const StepInput& input) {
  const bool across = step.reverse == 'x';
  const Matrix3 mirror =
      across ? translation(input.size.width, 0) * scaling(-1, 1) : translation(0, input.size.height) * scaling(1, -1);
  return {input.size, input.pixel, Map(mirror)};
}

void read_step(JsonReader& in, MirrorStep& step) {
  step.reverse = in.choice("reverse", {"x", "y"})[0];
}

void write_step(Json& out, const MirrorStep& step) {
  out["reverse"] = std::string(1, step.reverse);
}

}  // namespace fexel
