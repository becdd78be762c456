#pragma once
/// Blocks of pixels to one each.
#include "steps/step_base.h"

namespace fexel {

/// Blocks of pixels to one each: their first sample, or a statistic of them.
struct DownsampleStep {
  static constexpr const char* word = "downsample";
  static constexpr std::array keys{"factor", "take", "remainder"};
  static constexpr const char* size_key = "/factor";
  enum class Take { first, mean, median, min, max };
  int factor_x = 2, factor_y = 2;
  Take take = Take::mean;
  bool partial = false;  ///< blocks that are cut off at the right and lower side count too
  bool operator==(const DownsampleStep&) const = default;
};

StepGeometry geometry_of(const DownsampleStep& step, const StepInput& input);
void read_step(JsonReader& in, DownsampleStep& step);
void write_step(nlohmann::ordered_json& out, const DownsampleStep& step);
/// What the step makes of all pixels of its station. The mask of the input tells its empty pixels; what comes out has
/// none. Raises a call error at the key at fault.
Image pixels_of(const DownsampleStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel
