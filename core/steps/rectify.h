#pragma once
/// A rectangle seen at an angle, laid square.
#include "geometry/quad.h"
#include "geometry/rectangle.h"
#include "steps/step_base.h"

namespace fexel {

/// A length that is known somewhere in the plane of a rectangle, between two points of the station.
struct KnownLength {
  Point from, to;
  double length = 100;
  std::string unit = "mm";
  bool scale = false;  ///< it gives the scale; else it is kept to check the result, and never changes it
  std::array<double, 2> picking{0.5, 0.5};  ///< standard uncertainty to which the ends were placed, in pixels
  bool operator==(const KnownLength&) const = default;
};

/// A rectangle seen at an angle, laid square.
struct RectifyStep {
  static constexpr const char* word = "rectify";
  static constexpr std::array keys{"corners",    "width",  "height", "unit",  "ratio",  "known",
                                   "pixel_size", "pixels", "extent", "allow", "picking"};
  static constexpr const char* size_key = "/pixel_size";
  /// What of the real rectangle is known: both sides, width / height, or nothing.
  enum class Shape { sides, ratio, estimated };
  enum class Extent { reference, whole, margin };
  /// What is corrected, as an order of factors about the rectangle's middle.
  struct Allow {
    bool shift = true, scale = true, turn = true, skew = true, perspective = true;
    bool all() const { return shift && scale && turn && skew && perspective; }
    bool operator==(const Allow&) const = default;
  };
  Quad corners;
  double width = 100, height = 100;  ///< in unit, for sides
  std::string unit = "mm";
  std::optional<double> pixel_size;  ///< in unit; without it no detail of the source is lost
  Shape shape = Shape::sides;
  double ratio = 1;  ///< width / height, for ratio
  std::vector<KnownLength> known;
  std::optional<Size> pixels;  ///< of the result, whatever it stretches
  Extent extent = Extent::reference;
  double margin = 0;  ///< around the rectangle, in unit
  Allow allow;
  std::array<double, 4> picking = each_corner(0.5);  ///< standard uncertainty of each corner's x and y, in pixels
  bool operator==(const RectifyStep&) const = default;
};

/// The plane of the rectangle, as a rectify step knows it.
struct RectifyPlane {
  Matrix3 to_input;              ///< from the plane, in `unit`, to the station that the step gets
  double width = 1, height = 1;  ///< of the rectangle
  std::string unit;              ///< empty when no length is known: then the rectangle is 1 high
  std::optional<RatioEstimate> estimate;
};

/// Where the plane of the rectangle lies and how large it is. Raises a call error at the key at fault: corners that are
/// no view of a rectangle, a ratio that the view does not tell, a known length without extent.
RectifyPlane rectify_plane(const RectifyStep& step, const StepInput& input);
/// What a known length measures on the plane, in its own unit; nothing where the plane has no unit.
std::optional<double> known_reading(const KnownLength& known, const RectifyPlane& plane);
/// The pixel size, in the plane's unit, at which no detail of the source is lost: 1 / the largest singular value of the
/// Jacobian from the plane to the source over the rectangle.
double finest_pixel_size(const RectifyPlane& plane, const StepInput& input);

StepGeometry geometry_of(const RectifyStep& step, const StepInput& input);
void begin_step(RectifyStep& step, const StepInput& input);
void read_step(JsonReader& in, RectifyStep& step);
void write_step(nlohmann::ordered_json& out, const RectifyStep& step);

}  // namespace fexel
