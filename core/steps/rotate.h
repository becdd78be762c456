#pragma once
/// A rotation in the plane of the picture.
#include "steps/step_base.h"

namespace fexel {

/// A rotation by any angle, positive counter-clockwise on the screen. Multiples of 90 degrees move pixels and resample
/// none; with Extent::grow they keep the whole station, with its width and height exchanged by odd ones.
struct RotateStep {
  static constexpr const char* word = "rotate";
  static constexpr std::array keys{"degrees", "centre", "extent"};
  static constexpr const char* size_key = "/extent";
  double degrees = 0;
  std::optional<Point> centre = {};  ///< of the station that the step gets; without it the middle
  Extent extent = Extent::grow;
  bool operator==(const RotateStep&) const = default;
};

StepGeometry geometry_of(const RotateStep& step, const StepInput& input);
void read_step(JsonReader& in, RotateStep& step);
void write_step(nlohmann::ordered_json& out, const RotateStep& step);

}  // namespace fexel
