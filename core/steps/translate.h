#pragma once
/// A move by pixels.
#include "steps/step_base.h"

namespace fexel {

/// A move by dx to the right and dy down, in pixels. `keep` keeps the window; `grow` holds the window and the moved
/// picture.
struct TranslateStep {
  static constexpr const char* word = "translate";
  static constexpr std::array keys{"dx", "dy", "extent"};
  static constexpr const char* size_key = "/dx";
  double dx = 0, dy = 0;
  Extent extent = Extent::keep;  ///< not inside
  bool operator==(const TranslateStep&) const = default;
};

StepGeometry geometry_of(const TranslateStep& step, const StepInput& input);
void read_step(JsonReader& in, TranslateStep& step);
void write_step(nlohmann::ordered_json& out, const TranslateStep& step);

}  // namespace fexel
