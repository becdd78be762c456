#include "steps/lens.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const LensStep& step, const StepInput& input) {
  const Point centre = step.centre.value_or(input.size.middle());
  const auto lens =
      std::make_shared<const Lens>(step.terms, centre, step.focal.value_or(static_cast<double>(input.size.width)));
  // Undoing and adding both need the lens over the picture without distortion.
  constexpr int grid = 32;
  double reach = 0, farthest = 0;
  for (int j = 0; j <= grid; ++j)
    for (int i = 0; i <= grid; ++i) {
      const Point p{input.size.width * double(i) / grid, input.size.height * double(j) / grid};
      farthest = std::max(farthest, distance(p, centre));
      if (!lens->jacobian(p)) reach = reach == 0 ? distance(p, centre) : std::min(reach, distance(p, centre));
    }
  if (reach > 0)
    throw call_error(fmt::format("This lens folds the picture over, from {:.0f} % of the way to its corner on.",
                                 100 * reach / farthest),
                     "/k1", "Choose smaller coefficients or a longer focal length.");
  return {input.size, input.pixel, step.add ? Map(lens) : Map(lens).inverse()};
}

void read_step(JsonReader& in, LensStep& step) {
  const auto term = [&](const char* key) { return in.has(key) ? in.number(key, -1e3, 1e3) : 0.0; };
  step.terms = {term("k1"), term("k2"), term("k3"), term("p1"), term("p2")};
  if (in.has("centre")) step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  if (in.has("focal")) step.focal = in.number("focal", 1e-3, 1e9);
  if (in.has("direction")) step.add = in.choice("direction", {"undo", "add"}) == "add";
}

void write_step(Json& out, const LensStep& step) {
  const std::pair<const char*, double> terms[] = {{"k1", step.terms.k1},
                                                  {"k2", step.terms.k2},
                                                  {"k3", step.terms.k3},
                                                  {"p1", step.terms.p1},
                                                  {"p2", step.terms.p2}};
  for (const auto& [key, value] : terms) out[key] = value;
  if (step.centre) out["centre"] = {step.centre->x, step.centre->y};
  if (step.focal) out["focal"] = *step.focal;
  out["direction"] = step.add ? "add" : "undo";
}

}  // namespace fexel
