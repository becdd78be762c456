#pragma once
/// Local histogram equalisation.
#include "steps/step_base.h"

namespace fexel {

/// Local histogram equalisation.
struct LocalContrastStep {
  static constexpr const char* word = "local-contrast";
  static constexpr std::array keys{"tile", "limit"};
  static constexpr const char* size_key = "/tile";
  int tile = 64;     ///< pixels
  double limit = 2;  ///< of the slope
  bool operator==(const LocalContrastStep&) const = default;
};

StepGeometry geometry_of(const LocalContrastStep& step, const StepInput& input);
void read_step(JsonReader& in, LocalContrastStep& step);
void write_step(nlohmann::ordered_json& out, const LocalContrastStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const LocalContrastStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
