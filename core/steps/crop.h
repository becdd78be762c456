#pragma once
/// A rectangle cut out.
#include <variant>

#include "steps/step_base.h"

namespace fexel {

/// Where a crop lies, in pixels of its station. Fractions are allowed for the place.
struct CropRectangle {
  double x = 0, y = 0;
  int width = 1, height = 1;
  bool operator==(const CropRectangle&) const = default;
};
/// The largest crop whose sides are as `across` to `down`.
struct CropRatio {
  double across = 1, down = 1;
  std::string anchor = "centre";
  bool operator==(const CropRatio&) const = default;
};
/// The largest upright rectangle without empty pixels.
struct CropValid {
  bool operator==(const CropValid&) const = default;
};

/// A rectangle cut out: by its place and size in pixels, as the largest of a ratio, or the largest without empty
/// pixels.
struct CropStep {
  static constexpr const char* word = "crop";
  static constexpr std::array keys{"x", "y", "width", "height", "ratio", "anchor", "to"};
  static constexpr const char* size_key = "/width";
  std::variant<CropRectangle, CropRatio, CropValid> what;
  bool operator==(const CropStep&) const = default;
};

/// The words for a crop's anchor, in rows from the top left to the bottom right.
const std::vector<std::string>& crop_anchors();
/// The rectangle that a crop cuts out of its station.
CropRectangle crop_rectangle(const CropStep& step, const StepInput& input);
/// The largest upright rectangle of pixels whose centres are all inside `clip`; nothing when no pixel is.
std::optional<CropRectangle> largest_valid(const Clip& clip, Size size);

StepGeometry geometry_of(const CropStep& step, const StepInput& input);
void begin_step(CropStep& step, const StepInput& input);
/// A rectangle moved and cut so that it lies in the station.
std::optional<CropStep> fitted_step(const CropStep& step, const StepInput& input);
void read_step(JsonReader& in, CropStep& step);
void write_step(nlohmann::ordered_json& out, const CropStep& step);

}  // namespace fexel
