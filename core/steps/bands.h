#pragma once
/// Bands chosen, put in order, or weighed together.
#include "steps/step_base.h"

namespace fexel {

/// Bands chosen and put in order, or weighed together to one.
struct BandsStep {
  static constexpr const char* word = "bands";
  static constexpr std::array keys{"take", "weights"};
  static constexpr const char* size_key = "/take";
  std::vector<int> take;        ///< counted from 1; empty for grey
  std::vector<double> weights;  ///< of grey, one for each band; empty for those of the eye (three bands) or equal ones
  bool operator==(const BandsStep&) const = default;
};

StepGeometry geometry_of(const BandsStep& step, const StepInput& input);
void read_step(JsonReader& in, BandsStep& step);
void write_step(nlohmann::ordered_json& out, const BandsStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const BandsStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
