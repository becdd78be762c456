#pragma once
/// A ring rolled out to a strip.
#include "geometry/ring.h"
#include "steps/step_base.h"

namespace fexel {

/// A ring rolled out to a strip: columns run along the direction from `start`, row 0 is the outer circle.
struct UnwrapStep {
  static constexpr const char* word = "unwrap";
  static constexpr std::array keys{"centre",    "inner",       "outer", "start", "sweep",
                                   "direction", "true_radius", "width", "height"};
  static constexpr const char* size_key = "/width";
  Point centre;
  double inner = 0, outer = 1;    ///< radii in pixels
  double start = 0, sweep = 360;  ///< degrees, 0 to the right, counter-clockwise
  bool clockwise = true;
  std::optional<double> true_radius;  ///< where lengths along the strip are true; without it half-way
  std::optional<int> width, height;   ///< of the strip; without them a pixel is one pixel at the true radius
  bool operator==(const UnwrapStep&) const = default;
};
/// The ring that the step rolls out. Raises a call error at the key at fault.
RingShape ring_of(const UnwrapStep& step);

StepGeometry geometry_of(const UnwrapStep& step, const StepInput& input);
void begin_step(UnwrapStep& step, const StepInput& input);
void read_step(JsonReader& in, UnwrapStep& step);
void write_step(nlohmann::ordered_json& out, const UnwrapStep& step);

}  // namespace fexel
