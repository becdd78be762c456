#pragma once
/// Whole quarter turns.
#include "steps/step_base.h"

namespace fexel {

/// Whole quarter turns, counter-clockwise; negative ones go clockwise.
struct QuarterStep {
  static constexpr const char* word = "quarter";
  static constexpr std::array keys{"turns"};
  static constexpr const char* size_key = "/turns";
  int turns = 1;
  bool operator==(const QuarterStep&) const = default;
};

StepGeometry geometry_of(const QuarterStep& step, const StepInput& input);
void read_step(JsonReader& in, QuarterStep& step);
void write_step(nlohmann::ordered_json& out, const QuarterStep& step);

}  // namespace fexel
