#pragma once
/// More pixels around the picture.
#include "steps/step_base.h"

namespace fexel {

/// More pixels around, by the chain's border mode, or by a rule of its own: then they are pixels like the others,
/// except under `fill`.
struct PadStep {
  static constexpr const char* word = "pad";
  static constexpr std::array keys{"left", "top", "right", "bottom", "edge", "fill"};
  static constexpr const char* size_key = "/right";
  int left = 0, top = 0, right = 0, bottom = 0;
  std::optional<BorderMode> edge;
  std::vector<double> fill;  ///< with the edge fill: one value, or one a band; empty for the chain's
  bool operator==(const PadStep&) const = default;
};

StepGeometry geometry_of(const PadStep& step, const StepInput& input);
void begin_step(PadStep& step, const StepInput& input);
void read_step(JsonReader& in, PadStep& step);
void write_step(nlohmann::ordered_json& out, const PadStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const PadStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
