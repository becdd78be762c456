#pragma once
/// Noise taken out by a median or a Gaussian.
#include "steps/step_base.h"

namespace fexel {

struct DenoiseStep {
  static constexpr const char* word = "denoise";
  static constexpr std::array keys{"radius", "method"};
  static constexpr const char* size_key = "/radius";
  double radius = 1;
  bool median = true;  ///< else Gaussian
  bool operator==(const DenoiseStep&) const = default;
};

StepGeometry geometry_of(const DenoiseStep& step, const StepInput& input);
void read_step(JsonReader& in, DenoiseStep& step);
void write_step(nlohmann::ordered_json& out, const DenoiseStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const DenoiseStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
