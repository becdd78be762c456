#pragma once
/// Another size.
#include "steps/step_base.h"

namespace fexel {

/// Another size: by width and height, by one of them, by factors, or by the pixel size that is wanted.
struct ResizeStep {
  static constexpr const char* word = "resize";
  static constexpr std::array keys{"width", "height", "scale", "pixel_size", "unit", "when_shape_differs"};
  static constexpr const char* size_key = "/width";
  enum class WhenShapeDiffers { stretch, crop, pad };
  std::optional<int> width, height;
  std::optional<std::pair<double, double>> scale;  ///< in x and y
  std::optional<double> pixel_size;                ///< in unit
  std::string unit = "mm";
  WhenShapeDiffers when_shape_differs = WhenShapeDiffers::stretch;  ///< with width and height
  bool operator==(const ResizeStep&) const = default;
};

StepGeometry geometry_of(const ResizeStep& step, const StepInput& input);
void begin_step(ResizeStep& step, const StepInput& input);
void read_step(JsonReader& in, ResizeStep& step);
void write_step(nlohmann::ordered_json& out, const ResizeStep& step);

}  // namespace fexel
