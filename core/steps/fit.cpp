#include "steps/fit.h"

#include <fmt/format.h>

#include <algorithm>
#include <functional>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr std::size_t max_pairs = 10000;
constexpr int max_spline = 2000;  // pairs: its equations are as many
constexpr double any_place = 1e9;

/// Refuses a map that folds the picture over: looked at over a grid, which no smooth model slips through for long.
void refuse_folds(const Map& map, const StepInput& input) {
  constexpr int grid = 24;
  for (int j = 0; j <= grid; ++j)
    for (int i = 0; i <= grid; ++i) {
      const Point p{input.size.width * double(i) / grid, input.size.height * double(j) / grid};
      const auto at = map.forward(p);
      const auto back = at ? map.backward(*at) : std::nullopt;
      if (!back || distance(*back, p) > 1e-3)
        throw call_error(fmt::format("This transform folds the picture over near {:.0f}, {:.0f}.", p.x, p.y), "/model",
                         "Choose a simpler model, add pairs there, or crop the picture to where the pairs are.");
    }
}

/// By how much more the targets of some pairs are spread than their places: a map that is hardly determined has no
/// scale of its own.
double enlargement(const std::vector<PointPair>& pairs, const std::function<bool(std::size_t)>& counts) {
  const auto spread = [&](Point PointPair::*place) {
    Point middle;
    double count = 0, sum = 0;
    for (std::size_t i = 0; i < pairs.size(); ++i)
      if (counts(i)) {
        middle = middle + pairs[i].*place;
        ++count;
      }
    middle = 1 / std::max(count, 1.0) * middle;
    for (std::size_t i = 0; i < pairs.size(); ++i)
      if (counts(i)) sum += distance(pairs[i].*place, middle);
    return sum;
  };
  const double from = spread(&PointPair::from), to = spread(&PointPair::to);
  return from > 0 && to > 0 ? to / from : 1;
}

}  // namespace

std::optional<std::pair<int, int>> equal_pairs(const FitStep& step) {
  constexpr double same = 1e-6;
  for (std::size_t i = 0; i < step.pairs.size(); ++i)
    for (std::size_t j = i + 1; j < step.pairs.size(); ++j)
      if (step.pairs[i].counts() && step.pairs[j].counts() && distance(step.pairs[i].from, step.pairs[j].from) < same)
        return std::pair(static_cast<int>(i), static_cast<int>(j));
  return std::nullopt;
}

std::string label_of(const FitStep& step, int pair) {
  const std::string& name = step.pairs[static_cast<std::size_t>(pair)].name;
  return name.empty() ? std::to_string(pair + 1) : name;
}

FitStep laid_on(FitStep step, const std::string& file, Size size, const std::optional<PixelSize>& pixel) {
  const bool begun = step.pairs.size() == 4 && step.model == Model::projective && !step.reference &&
                     std::ranges::all_of(step.pairs, [](const PointPair& p) { return p.from == p.to; });
  if (begun) step.pairs.clear();
  const double before = step.pixel_size.value_or(1);
  step.pixel_size.reset();
  if (pixel && pixel->square()) {
    step.pixel_size = pixel->x;
    step.unit = pixel->unit;
  }
  // Targets stay where they are in pixels of the result, and so do their uncertainties.
  for (PointPair& p : step.pairs) p.to = step.pixel_size.value_or(1) / before * p.to;
  step.width = size.width;
  step.height = size.height;
  step.reference = FitReference{file, {}};
  return step;
}

std::vector<PointPair> pairs_in_pixels(const FitStep& step) {
  std::vector<PointPair> pairs = step.pairs;
  if (step.pixel_size)
    for (PointPair& pair : pairs) pair.to = 1 / *step.pixel_size * pair.to;
  if (std::ranges::any_of(pairs, [](const PointPair& p) { return p.counts() && p.uncertainty; })) {
    const double picked = step.picking * enlargement(pairs, [&](std::size_t i) { return pairs[i].counts(); });
    for (PointPair& pair : pairs)
      if (!pair.uncertainty) pair.uncertainty = picked;
  }
  return pairs;
}

double reference_scale(const FitStep& step) {
  return step.reference && step.reference->pixel_size && step.pixel_size
             ? *step.reference->pixel_size / *step.pixel_size
             : 1;
}

std::optional<Map> preliminary_map(const FitStep& step) {
  const std::vector<PointPair> pairs = pairs_in_pixels(step);
  for (const Model model : {step.model, Model::affine, Model::similarity}) {
    // A model that goes through all pairs may bend between them as it likes.
    const auto used = std::ranges::count_if(pairs, &PointPair::counts);
    if (model > Model::projective && used <= pairs_needed(model)) continue;
    try {
      return fit_pairs(model, pairs, step.robust).map;
    } catch (const Error&) {
      continue;
    }
  }
  return std::nullopt;
}

Fit fit_of(const FitStep& step) {
  const std::vector<PointPair> pairs = pairs_in_pixels(step);
  if (step.model == Model::thin_plate && std::ranges::count_if(pairs, &PointPair::counts) > max_spline)
    throw call_error(fmt::format("A thin-plate spline takes at most {} pairs.", max_spline), "/pairs",
                     "Leave some out, or choose another model.");
  try {
    return fit_pairs(step.model, pairs, step.robust);
  } catch (const Error& error) {
    const auto equal = equal_pairs(step);
    if (!equal) throw;
    throw call_error(fmt::format("Pairs {} and {} begin at the same place. {}", label_of(step, equal->first),
                                 label_of(step, equal->second), error.message()),
                     fmt::format("/pairs/{}/from", equal->second), "Move one of the two, or remove it.");
  }
}

double picking_in_result(const FitStep& step, const Fit& fit) {
  const std::vector<PointPair> pairs = pairs_in_pixels(step);
  if (const auto least = least_uncertainty(pairs)) return *least;
  return step.picking * enlargement(pairs, [&](std::size_t i) { return fit.weights[i] > 0; });
}

double uncertainty_of_pairs(const FitStep& step, const Fit& fit) {
  constexpr int enough = 10;  // a scatter of fewer numbers may be small by chance
  return fit.freedom >= enough ? std::max(fit.noise, 1e-9) : std::max(fit.noise, picking_in_result(step, fit));
}

double corner_uncertainty(const FitStep& step, const Fit& fit, Size size) {
  const std::vector<PointPair> pairs = pairs_in_pixels(step);
  return largest_uncertainty(step.model, pairs, fit, Clip().corners(size), picking_in_result(step, fit));
}

StepGeometry geometry_of(const FitStep& step, const StepInput& input) {
  StepGeometry out{{step.width.value_or(input.size.width), step.height.value_or(input.size.height)}, {}, Map()};
  const Fit fit = fit_of(step);
  out.map = fit.map;
  // A transform that a picking error turns into another one is none.
  const double corner = corner_uncertainty(step, fit, input.size);
  constexpr double magnified = 25;  // times the picking error, and a tenth of the picture
  if (corner > std::max(magnified * picking_in_result(step, fit), 0.1 * std::hypot(out.size.width, out.size.height)))
    throw call_error(
        fmt::format("The pairs hardly determine a {} transform: a picking error of {:.2g} px moves a corner of the "
                    "picture by {}.",
                    name_of(step.model), least_uncertainty(pairs_in_pixels(step)).value_or(step.picking),
                    std::isfinite(corner) ? fmt::format("{:.0f} px", corner) : std::string("any distance")),
        "/pairs", "Add pairs away from the others, or choose a simpler model.");
  if (!out.map.planar()) refuse_folds(out.map, input);
  if (step.pixel_size) out.pixel = PixelSize{*step.pixel_size, *step.pixel_size, step.unit};
  out.in_plane = step.pixel_size.has_value();
  return out;
}

void begin_step(FitStep& step, const StepInput& input) {
  const double w = input.size.width, h = input.size.height;
  // Four points that stay where they are until a person moves them.
  for (const auto& [x, y] : {std::pair(0.2, 0.2), std::pair(0.8, 0.2), std::pair(0.8, 0.8), std::pair(0.2, 0.8)}) {
    const Point p{std::round(x * w), std::round(y * h)};
    step.pairs.push_back({p, p, std::to_string(step.pairs.size() + 1), true});
  }
  step.model = Model::projective;
}

void read_step(JsonReader& in, FitStep& step) {
  step.model = *model_named(in.choice("model", model_names()));
  const Json& pairs = in.array("pairs");
  if (pairs.size() > max_pairs)
    throw call_error(fmt::format("There are {} pairs.", pairs.size()), in.path("pairs"),
                     fmt::format("At most {} are taken.", max_pairs));
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    const std::string path = fmt::format("{}/{}", in.path("pairs"), i);
    JsonReader pair(pairs[i], path, {"from", "to", "name", "use", "check", "uncertainty"});
    PointPair made;
    made.from = JsonReader::point(pair.at("from"), pair.path("from"));
    made.to = JsonReader::point(pair.at("to"), pair.path("to"));
    if (std::max({std::abs(made.from.x), std::abs(made.from.y), std::abs(made.to.x), std::abs(made.to.y)}) > any_place)
      JsonReader::refuse(pairs[i], path, "coordinates of at most a thousand million");
    if (pair.has("name")) made.name = pair.text("name");
    if (pair.has("use")) made.use = pair.truth("use");
    if (pair.has("check")) made.check = pair.truth("check");
    if (pair.has("uncertainty")) made.uncertainty = pair.number("uncertainty", least_stated, most_stated);
    step.pairs.push_back(made);
  }
  const int side = static_cast<int>(largest_side);
  if (in.has("width")) step.width = in.whole("width", 1, side);
  if (in.has("height")) step.height = in.whole("height", 1, side);
  if (in.has("pixel_size") != in.has("unit"))
    throw call_error("Targets in real units need both a unit and a pixel size.",
                     in.path(in.has("unit") ? "pixel_size" : "unit"), "Give both, or neither.");
  if (in.has("pixel_size")) {
    step.pixel_size = in.number("pixel_size", 1e-12, 1e9);
    step.unit = in.choice("unit", length_units());
  }
  if (in.has("robust")) step.robust = in.truth("robust");
  if (in.has("picking")) step.picking = in.number("picking", 1e-6, 1e6);
  if (in.has("reference")) {
    JsonReader reference(in.at("reference"), in.path("reference"), {"file", "pixel_size"});
    step.reference = FitReference{reference.text("file"), {}};
    if (reference.has("pixel_size")) {
      if (!step.pixel_size)
        throw call_error("The reference has a pixel size, and the step has no unit.", reference.path("pixel_size"),
                         "Give the step a unit and a pixel size, too.");
      step.reference->pixel_size = reference.number("pixel_size", 1e-12, 1e9);
    }
  }
}

void write_step(Json& out, const FitStep& step) {
  out["model"] = name_of(step.model);
  out["pairs"] = Json::array();
  for (const PointPair& pair : step.pairs) {
    Json one{{"from", {pair.from.x, pair.from.y}}, {"to", {pair.to.x, pair.to.y}}};
    if (!pair.name.empty()) one["name"] = pair.name;
    if (!pair.use) one["use"] = false;
    if (pair.check) one["check"] = true;
    if (pair.uncertainty) one["uncertainty"] = *pair.uncertainty;
    out["pairs"].push_back(one);
  }
  if (step.width) out["width"] = *step.width;
  if (step.height) out["height"] = *step.height;
  if (step.pixel_size) {
    out["unit"] = step.unit;
    out["pixel_size"] = *step.pixel_size;
  }
  if (step.robust) out["robust"] = true;
  if (step.picking != 0.5) out["picking"] = step.picking;
  if (step.reference) {
    out["reference"]["file"] = step.reference->file;
    if (step.reference->pixel_size) out["reference"]["pixel_size"] = *step.reference->pixel_size;
  }
}

}  // namespace fexel
