#include "steps/bands.h"

#include <fmt/format.h>

#include "base/error.h"
#include "filter/filter.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int max_bands = 1000;

/// The weights of a grey: those given, the eye's for red, green and blue (ITU-R BT.709), or equal ones.
std::vector<double> weights_for(const BandsStep& step, int bands) {
  if (!step.weights.empty()) return step.weights;
  if (bands == 3) return {0.2126, 0.7152, 0.0722};
  return std::vector<double>(static_cast<std::size_t>(bands), 1.0 / bands);
}

}  // namespace

StepGeometry geometry_of(const BandsStep& step, const StepInput& input) {
  StepGeometry out = computed_in_place(input);
  for (std::size_t i = 0; i < step.take.size(); ++i)
    if (step.take[i] > input.bands)
      throw call_error(fmt::format("There is no band {}: the picture has {}.", step.take[i], input.bands),
                       fmt::format("/take/{}", i), fmt::format("Take bands from 1 to {}.", input.bands));
  if (step.take.empty() && !step.weights.empty() && static_cast<int>(step.weights.size()) != input.bands)
    throw call_error(fmt::format("There are {} weights for {} bands.", step.weights.size(), input.bands), "/weights",
                     "Give one for each band.");
  out.bands = step.take.empty() ? 1 : static_cast<int>(step.take.size());
  return out;
}

void read_step(JsonReader& in, BandsStep& step) {
  const Json& take = in.at("take");
  const std::string accepted = "\"grey\", or a list of band numbers from 1";
  if (take.is_string()) {
    if (take.get<std::string>() != "grey") JsonReader::refuse(take, in.path("take"), accepted);
    if (in.has("weights")) step.weights = in.numbers("weights");
    return;
  }
  if (!take.is_array() || take.empty() || take.size() > max_bands) JsonReader::refuse(take, in.path("take"), accepted);
  for (std::size_t i = 0; i < take.size(); ++i) {
    const std::string path = fmt::format("{}/{}", in.path("take"), i);
    const double number = JsonReader::number(take[i], path, 1, max_bands);
    if (number != std::floor(number)) JsonReader::refuse(take[i], path, "the number of a band, from 1");
    step.take.push_back(static_cast<int>(number));
  }
  if (in.has("weights")) JsonReader::refuse(in.at("weights"), in.path("weights"), "no weights where bands are chosen");
}

void write_step(Json& out, const BandsStep& step) {
  if (step.take.empty())
    out["take"] = "grey";
  else
    out["take"] = step.take;
  if (!step.weights.empty()) out["weights"] = step.weights;
}

Image pixels_of(const BandsStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t& clamped) {
  if (step.take.empty()) return weighed_bands(input, weights_for(step, input.bands()), job, &clamped);
  std::vector<int> bands;
  for (const int number : step.take) bands.push_back(number - 1);
  return chosen_bands(input, bands);
}

}  // namespace fexel
