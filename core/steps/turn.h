#pragma once
/// A turn by any angle.
#include "steps/step_base.h"

namespace fexel {

/// A turn by any angle, positive counter-clockwise on the screen.
struct TurnStep {
  static constexpr const char* word = "turn";
  static constexpr std::array keys{"degrees", "centre", "extent"};
  static constexpr const char* size_key = "/extent";
  double degrees = 0;
  std::optional<Point> centre;  ///< of the station that the step gets; without it the middle
  Extent extent = Extent::grow;
  bool operator==(const TurnStep&) const = default;
};

StepGeometry geometry_of(const TurnStep& step, const StepInput& input);
void read_step(JsonReader& in, TurnStep& step);
void write_step(nlohmann::ordered_json& out, const TurnStep& step);

}  // namespace fexel
