#pragma once
/// The picture mirrored.
#include "steps/step_base.h"

namespace fexel {

/// Left and right, or upper and lower side, change places.
struct MirrorStep {
  static constexpr const char* word = "mirror";
  static constexpr std::array keys{"reverse"};
  static constexpr const char* size_key = "/reverse";
  char reverse = 'x';  ///< the axis whose direction is reversed, x or y
  bool operator==(const MirrorStep&) const = default;
};

StepGeometry geometry_of(const MirrorStep& step, const StepInput& input);
void read_step(JsonReader& in, MirrorStep& step);
void write_step(nlohmann::ordered_json& out, const MirrorStep& step);

}  // namespace fexel
