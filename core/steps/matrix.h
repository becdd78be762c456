#pragma once
/// Any planar map by its nine numbers.
#include "steps/step_base.h"

namespace fexel {

/// Any planar map, forward, three rows of three. The side of the horizon that shows is the one with the picture's
/// middle.
struct MatrixStep {
  static constexpr const char* word = "matrix";
  static constexpr std::array keys{"matrix", "width", "height"};
  static constexpr const char* size_key = "/width";
  Matrix3 matrix = Matrix3::Identity();
  std::optional<int> width, height;  ///< without them the station's
  bool operator==(const MatrixStep&) const = default;
};

StepGeometry geometry_of(const MatrixStep& step, const StepInput& input);
void read_step(JsonReader& in, MatrixStep& step);
void write_step(nlohmann::ordered_json& out, const MatrixStep& step);

}  // namespace fexel
