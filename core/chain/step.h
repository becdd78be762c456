#pragma once
/// The steps of a chain: plain values, each with its text form and its geometry.
#include <array>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <utility>
#include <variant>

#include "chain/step_align.h"
#include "chain/step_base.h"
#include "chain/step_pixels.h"
#include "chain/step_shapes.h"
#include "geometry/quad.h"
#include "geometry/rectangle.h"

namespace fexel {

/// Whole quarter turns, counter-clockwise; negative ones go clockwise.
struct QuarterStep {
  static constexpr const char* word = "quarter";
  static constexpr std::array keys{"turns"};
  static constexpr const char* size_key = "/turns";
  int turns = 1;
  bool operator==(const QuarterStep&) const = default;
};

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
/// Left and right, or upper and lower side, change places.
struct MirrorStep {
  static constexpr const char* word = "mirror";
  static constexpr std::array keys{"reverse"};
  static constexpr const char* size_key = "/reverse";
  char reverse = 'x';  ///< the axis whose direction is reversed, x or y
  bool operator==(const MirrorStep&) const = default;
};

/// A turn by any angle, positive counter-clockwise on the screen.
struct TurnStep {
  static constexpr const char* word = "turn";
  static constexpr std::array keys{"degrees", "centre", "extent"};
  static constexpr const char* size_key = "/extent";
  double degrees = 0;
  std::optional<Point> centre;  ///< of the station that the step gets; without it the middle
  Extent extent = Extent::grow;
  bool operator==(const TurnStep&) const = default;
};

/// A move by dx to the right and dy down, in pixels. `keep` keeps the window; `grow` holds the window and the moved
/// picture.
struct ShiftStep {
  static constexpr const char* word = "shift";
  static constexpr std::array keys{"dx", "dy", "extent"};
  static constexpr const char* size_key = "/dx";
  double dx = 0, dy = 0;
  Extent extent = Extent::keep;  ///< not inside
  bool operator==(const ShiftStep&) const = default;
};

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

/// More pixels around, by the chain's edge rule, or by a rule of its own: then they are pixels like the others, except
/// under `fill`.
struct PadStep {
  static constexpr const char* word = "pad";
  static constexpr std::array keys{"left", "top", "right", "bottom", "edge", "fill"};
  static constexpr const char* size_key = "/right";
  int left = 0, top = 0, right = 0, bottom = 0;
  std::optional<Edge> edge;
  std::vector<double> fill;  ///< with the edge fill: one value, or one a band; empty for the chain's
  bool operator==(const PadStep&) const = default;
};

/// Blocks of pixels to one each: their first sample, or a statistic of them.
struct ReduceStep {
  static constexpr const char* word = "reduce";
  static constexpr std::array keys{"factor", "take", "remainder"};
  static constexpr const char* size_key = "/factor";
  enum class Take { first, mean, median, min, max };
  int factor_x = 2, factor_y = 2;
  Take take = Take::mean;
  bool partial = false;  ///< blocks that are cut off at the right and lower side count too
  bool operator==(const ReduceStep&) const = default;
};

using StepKind = std::variant<QuarterStep, MirrorStep, TurnStep, ShiftStep, CropStep, ResizeStep, ReduceStep, PadStep,
                              TiltStep, MatrixStep, LensStep, RectifyStep, FitStep, UnwrapStep, BandsStep, ContrastStep,
                              HighpassStep, DenoiseStep, ConvolveStep, AlignStep>;

struct Step {
  StepKind kind;
  bool on = true;
  std::string name;  ///< the person's own name for it, may be empty
  bool operator==(const Step&) const = default;
};

const char* word_of(const StepKind& kind);
/// The words of all steps, in the order of StepKind.
std::vector<std::string> step_words();

/// Where a step takes its input. Raises a call error whose place is the key at fault ("/corners").
StepGeometry geometry_of(const QuarterStep& step, const StepInput& input);
StepGeometry geometry_of(const CropStep& step, const StepInput& input);
StepGeometry geometry_of(const RectifyStep& step, const StepInput& input);
StepGeometry geometry_of(const MirrorStep& step, const StepInput& input);
StepGeometry geometry_of(const TurnStep& step, const StepInput& input);
StepGeometry geometry_of(const ShiftStep& step, const StepInput& input);
StepGeometry geometry_of(const ResizeStep& step, const StepInput& input);
StepGeometry geometry_of(const MatrixStep& step, const StepInput& input);
StepGeometry geometry_of(const PadStep& step, const StepInput& input);
StepGeometry geometry_of(const ReduceStep& step, const StepInput& input);

void read_step(JsonReader& in, QuarterStep& step);
void read_step(JsonReader& in, CropStep& step);
void read_step(JsonReader& in, RectifyStep& step);
void read_step(JsonReader& in, MirrorStep& step);
void read_step(JsonReader& in, TurnStep& step);
void read_step(JsonReader& in, ShiftStep& step);
void read_step(JsonReader& in, ResizeStep& step);
void read_step(JsonReader& in, MatrixStep& step);
void read_step(JsonReader& in, PadStep& step);
void read_step(JsonReader& in, ReduceStep& step);
void write_step(nlohmann::ordered_json& out, const QuarterStep& step);
void write_step(nlohmann::ordered_json& out, const CropStep& step);
void write_step(nlohmann::ordered_json& out, const RectifyStep& step);
void write_step(nlohmann::ordered_json& out, const MirrorStep& step);
void write_step(nlohmann::ordered_json& out, const TurnStep& step);
void write_step(nlohmann::ordered_json& out, const ShiftStep& step);
void write_step(nlohmann::ordered_json& out, const ResizeStep& step);
void write_step(nlohmann::ordered_json& out, const MatrixStep& step);
void write_step(nlohmann::ordered_json& out, const PadStep& step);
void write_step(nlohmann::ordered_json& out, const ReduceStep& step);

/// What a step that ends a run makes of all pixels of its station. The mask of the input tells its empty pixels; what
/// comes out has none. Raises a call error at the key at fault.
Image pixels_of(const PadStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);
Image pixels_of(const ReduceStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

/// The words for a crop's anchor, in rows from the top left to the bottom right.
const std::vector<std::string>& crop_anchors();
/// The rectangle that a crop cuts out of its station.
CropRectangle crop_rectangle(const CropStep& step, const StepInput& input);
/// The largest upright rectangle of pixels whose centres are all inside `clip`; nothing when no pixel is.
std::optional<CropRectangle> largest_valid(const Clip& clip, Size size);
/// The standard uncertainty, in pixels, with which a person places a point by hand.
inline constexpr double picking = 0.5;
/// Where the plane of the rectangle lies and how large it is. Raises a call error at the key at fault: corners that are
/// no view of a rectangle, a ratio that the view does not tell, a known length without extent.
RectifyPlane rectify_plane(const RectifyStep& step, const StepInput& input);
/// What a known length measures on the plane, in its own unit; nothing where the plane has no unit.
std::optional<double> known_reading(const KnownLength& known, const RectifyPlane& plane);
/// The pixel size, in the plane's unit, at which no detail of the source is lost: 1 / the largest singular value of the
/// Jacobian from the plane to the source over the rectangle.
double finest_pixel_size(const RectifyPlane& plane, const StepInput& input);

}  // namespace fexel
