#pragma once
/// A transform from pairs of control points.
#include "fit/fit.h"
#include "steps/step_base.h"

namespace fexel {

/// What `to` was placed on: a picture of its own.
struct FitReference {
  std::string file;
  std::optional<double> pixel_size;  ///< of its pixels, in the step's unit; without it those of the result
  bool operator==(const FitReference&) const = default;
};

/// A transform from pairs of control points, `from` in this station to `to` in the one that is made. Only the window
/// opens the reference: what is made depends on the pairs alone.
struct FitStep {
  static constexpr const char* word = "fit";
  static constexpr std::array keys{"model",      "pairs",  "width",   "height",   "unit",
                                   "pixel_size", "robust", "picking", "reference"};
  static constexpr const char* size_key = "/width";
  Model model = Model::affine;
  std::vector<PointPair> pairs;
  std::optional<int> width, height;  ///< without them the station's
  std::optional<double> pixel_size;  ///< in unit: `to` is given in that unit, and not in pixels
  std::string unit = "mm";
  bool robust = false;
  double picking = 0.5;  ///< standard uncertainty of a placed point in pixels; of pairs that state none of their own
  std::optional<FitReference> reference = {};
  bool operator==(const FitStep&) const = default;
};
/// What a fit's pair is called: its name, or its number from 1.
std::string label_of(const FitStep& step, int pair);
/// Two pairs in use that begin at the same place, counted from 0; nothing where there are none.
std::optional<std::pair<int, int>> equal_pairs(const FitStep& step);
/// The fit that the step makes, with `to` in pixels. Raises a call error at the key at fault.
Fit fit_of(const FitStep& step);

/// The step laid on a reference: targets in its pixels, or its unit where it has a pixel size, and the result of its
/// size. Pairs stay where they are on the result; those that a new step begins with are dropped.
FitStep laid_on(FitStep step, const std::string& file, Size size, const std::optional<PixelSize>& pixel);
/// The pairs with `to` in pixels of the result. Where some state an uncertainty, those that do not have `picking`.
std::vector<PointPair> pairs_in_pixels(const FitStep& step);
/// What carries pixels of the reference to pixels of the result: a scale.
double reference_scale(const FitStep& step);
/// A rough map from the station to the result, before the step's own model is determined: the best of the models that
/// the pairs determine. Nothing below two pairs.
std::optional<Map> preliminary_map(const FitStep& step);

/// The standard uncertainty of a coordinate of a pair of weight 1, in pixels of the result: the least that a pair
/// states, or `picking` by the scale between the two sides of the pairs.
double picking_in_result(const FitStep& step, const Fit& fit);
/// The same as far as the pairs tell: by how they scatter, or, where that is of few numbers, no less than they state.
double uncertainty_of_pairs(const FitStep& step, const Fit& fit);
/// How far the corners of a picture of this size are uncertain, in pixels of the result, when each pair is placed as
/// picking_in_result() says; the worst of those that the map gives a place. For a thin-plate spline it is a lower
/// bound.
double corner_uncertainty(const FitStep& step, const Fit& fit, Size size);
StepGeometry geometry_of(const FitStep& step, const StepInput& input);
void begin_step(FitStep& step, const StepInput& input);
void read_step(JsonReader& in, FitStep& step);
void write_step(nlohmann::ordered_json& out, const FitStep& step);

}  // namespace fexel
