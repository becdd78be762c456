#pragma once
/// Movement measured over a sequence, as a chain says it.
#include "motion/settings.h"

namespace fexel {

struct MotionProbe {
  std::string name = "movement";
  int station = 0;  ///< frames are measured as they are there
  MotionSettings settings;
  bool operator==(const MotionProbe&) const = default;
};

/// Its text form, an object among the measurements. Raises a call error that names the path in the text.
MotionProbe read_motion_probe(const nlohmann::ordered_json& value, const std::string& path);
nlohmann::ordered_json write_motion_probe(const MotionProbe& probe);

}  // namespace fexel
