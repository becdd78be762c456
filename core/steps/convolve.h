#pragma once
/// A convolution with any kernel.
#include "filter/filter.h"
#include "steps/step_base.h"

namespace fexel {

struct ConvolveStep {
  static constexpr const char* word = "convolve";
  static constexpr std::array keys{"kernel", "scale", "offset", "depth"};
  static constexpr const char* size_key = "/kernel";
  Grid kernel{3, 3, {0, 0, 0, 0, 1, 0, 0, 0, 0}};
  double scale = 1, offset = 0;
  std::optional<Depth> depth;  ///< that comes out; the station's without it
  bool operator==(const ConvolveStep&) const = default;
};

StepGeometry geometry_of(const ConvolveStep& step, const StepInput& input);
void read_step(JsonReader& in, ConvolveStep& step);
void write_step(nlohmann::ordered_json& out, const ConvolveStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const ConvolveStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
