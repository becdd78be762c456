#pragma once
/// The distortion of a lens undone, or added.
#include "geometry/lens.h"
#include "steps/step_base.h"

namespace fexel {

/// The distortion of a lens undone, or added.
struct LensStep {
  static constexpr const char* word = "lens";
  static constexpr std::array keys{"k1", "k2", "k3", "p1", "p2", "centre", "focal", "direction"};
  static constexpr const char* size_key = "/k1";
  Lens::Terms terms;
  std::optional<Point> centre;  ///< of the station that the step gets; without it the middle
  std::optional<double> focal;  ///< pixels; without it the picture's width
  bool add = false;
  bool operator==(const LensStep&) const = default;
};

StepGeometry geometry_of(const LensStep& step, const StepInput& input);
void read_step(JsonReader& in, LensStep& step);
void write_step(nlohmann::ordered_json& out, const LensStep& step);

}  // namespace fexel
