#pragma once
/// How movement is measured: all that a chain says of it.
#include <nlohmann/json_fwd.hpp>

#include "motion/clean.h"
#include "motion/match_field.h"
#include "motion/motion_frame.h"
#include "motion/strain.h"
#include "motion/windows.h"

namespace fexel {

class JsonReader;

enum class MotionMethod {
  subset,  ///< a surface that deforms: the same texture in every frame
  window   ///< a fluid: grains that go with it
};
const std::vector<std::string>& motion_method_words();

/// What each frame is matched against.
enum class MotionAgainst {
  first,      ///< the first; where too little of it is recognised any more, the frame before, from there on
  neighbour,  ///< the one before, always: of surfaces, displacements are added up along each point; flows stand alone
  pairs       ///< frames by two, a and b
};
const std::vector<std::string>& motion_against_words();

struct MotionSettings {
  MotionMethod method = MotionMethod::subset;
  int step_x = 10, step_y = 10;  ///< px between points
  SubsetSettings subset;
  WindowSettings window;
  MotionAgainst against = MotionAgainst::first;
  std::vector<Point> region;  ///< a polygon in px; everywhere without one
  MotionPrepare prepare;
  bool renew = true;  ///< against the first: whether the reference may be renewed
  std::vector<CleanRule> clean;
  bool fill = false;          ///< holes are filled
  std::optional<int> strain;  ///< points along a side of the window; without it no strain is worked out
  StrainMeasure measure = StrainMeasure::small;
  /// Side of what a point is measured with, px.
  int size() const { return method == MotionMethod::window ? window.last() : subset.size; }
  bool operator==(const MotionSettings&) const = default;
};
/// The grid of the settings over frames of a size.
MotionGrid grid_of(const MotionSettings& settings, Size size);

/// What of it a JSON object holds: keys that are not there stay as they are. Raises a call error that names the key.
void read_motion(JsonReader& in, MotionSettings& settings);
void write_motion(nlohmann::ordered_json& out, const MotionSettings& settings);
/// The keys of that object.
const std::vector<std::string>& motion_keys();
/// Raises a call error for a size that is even, too small or too large, and the like.
void check_motion(const MotionSettings& settings);

}  // namespace fexel
