#pragma once
/// Steps that look at a picture from aside, take its lens away, or roll a ring out.
#include "chain/step_base.h"
#include "fit/fit.h"
#include "geometry/lens.h"
#include "geometry/ring.h"

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

/// The distortion of a lens undone, or added.
struct LensStep {
  static constexpr const char* word = "lens";
  static constexpr std::array keys{"k1", "k2", "k3", "p1", "p2", "centre", "focal", "direction"};
  static constexpr const char* size_key = "/k1";
  Lens::Terms terms;
  std::optional<Point> centre;  ///< of the station that the step gets; without it the middle
  std::optional<double> focal;  ///< pixels; without it the picture's width
  bool add = false;
  bool operator==(const LensStep&) const = default;
};

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

/// A transform from pairs of control points, `from` in this station to `to` in the one that is made.
struct FitStep {
  static constexpr const char* word = "fit";
  static constexpr std::array keys{"model", "pairs", "width", "height", "unit", "pixel_size", "robust", "picking"};
  static constexpr const char* size_key = "/width";
  Model model = Model::affine;
  std::vector<PointPair> pairs;
  std::optional<int> width, height;  ///< without them the station's
  std::optional<double> pixel_size;  ///< in unit: `to` is given in that unit, and not in pixels
  std::string unit = "mm";
  bool robust = false;
  double picking = 0.5;  ///< standard uncertainty of a placed point in pixels
  bool operator==(const FitStep&) const = default;
};
/// What a fit's pair is called: its name, or its number from 1.
std::string label_of(const FitStep& step, int pair);
/// Two pairs in use that begin at the same place, counted from 0; nothing where there are none.
std::optional<std::pair<int, int>> equal_pairs(const FitStep& step);
/// The fit that the step makes, with `to` in pixels. Raises a call error at the key at fault.
Fit fit_of(const FitStep& step);

StepGeometry geometry_of(const FitStep& step, const StepInput& input);
void read_step(JsonReader& in, FitStep& step);
void write_step(nlohmann::ordered_json& out, const FitStep& step);
StepGeometry geometry_of(const TiltStep& step, const StepInput& input);
StepGeometry geometry_of(const LensStep& step, const StepInput& input);
StepGeometry geometry_of(const UnwrapStep& step, const StepInput& input);
void read_step(JsonReader& in, TiltStep& step);
void read_step(JsonReader& in, LensStep& step);
void read_step(JsonReader& in, UnwrapStep& step);
void write_step(nlohmann::ordered_json& out, const TiltStep& step);
void write_step(nlohmann::ordered_json& out, const LensStep& step);
void write_step(nlohmann::ordered_json& out, const UnwrapStep& step);

}  // namespace fexel
