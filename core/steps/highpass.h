#pragma once
/// What changes within a radius.
#include "steps/step_base.h"

namespace fexel {

/// What changes within `radius` pixels, about the middle of the range.
struct HighpassStep {
  static constexpr const char* word = "highpass";
  static constexpr std::array keys{"radius"};
  static constexpr const char* size_key = "/radius";
  double radius = 16;
  bool operator==(const HighpassStep&) const = default;
};

StepGeometry geometry_of(const HighpassStep& step, const StepInput& input);
void read_step(JsonReader& in, HighpassStep& step);
void write_step(nlohmann::ordered_json& out, const HighpassStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const HighpassStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
