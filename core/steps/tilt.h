#pragma once
/// The picture's plane turned in space.
#include "steps/step_base.h"

namespace fexel {

/// The picture's plane turned in space about three axes: x right, y up, z to the viewer. R = Rz Ry Rx; positive angles
/// follow the right-hand rule, so that a positive `about_x` brings the top nearer.
struct TiltStep {
  static constexpr const char* word = "tilt";
  static constexpr std::array keys{"about_x", "about_y", "about_z", "centre", "view", "distance", "extent"};
  static constexpr const char* size_key = "/extent";
  double about_x = 0, about_y = 0, about_z = 0;  ///< degrees
  std::optional<Point> centre;                   ///< of the station that the step gets; without it the middle
  bool parallel = false;                         ///< seen from very far; else in perspective
  double distance = 2;                           ///< of the viewer, in widths of the picture
  Extent extent = Extent::grow;                  ///< not inside
  bool operator==(const TiltStep&) const = default;
};
/// R = Rz Ry Rx.
Eigen::Matrix3d rotation_of(const TiltStep& step);

StepGeometry geometry_of(const TiltStep& step, const StepInput& input);
void read_step(JsonReader& in, TiltStep& step);
void write_step(nlohmann::ordered_json& out, const TiltStep& step);

}  // namespace fexel
