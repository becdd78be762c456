#include <fmt/format.h>

#include "base/error.h"
#include "chain/step_pixels.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int most_bands = 1000, largest_kernel = 101;

StepGeometry computed(const StepInput& input) {
  StepGeometry out{input.size, input.pixel, Map()};
  out.ends_run = out.computed = true;
  return out;
}

/// The weights of a grey: those given, the eye's for red, green and blue (ITU-R BT.709), or equal ones.
std::vector<double> weights_for(const BandsStep& step, int bands) {
  if (!step.weights.empty()) return step.weights;
  if (bands == 3) return {0.2126, 0.7152, 0.0722};
  return std::vector<double>(static_cast<std::size_t>(bands), 1.0 / bands);
}

Depth depth_named(const std::string& word) {
  return word == "u8" ? Depth::u8 : word == "u16" ? Depth::u16 : Depth::f32;
}

}  // namespace

StepGeometry geometry_of(const BandsStep& step, const StepInput& input) {
  StepGeometry out = computed(input);
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
  if (!take.is_array() || take.empty() || take.size() > most_bands) JsonReader::refuse(take, in.path("take"), accepted);
  for (std::size_t i = 0; i < take.size(); ++i) {
    const std::string path = fmt::format("{}/{}", in.path("take"), i);
    const double number = JsonReader::number(take[i], path, 1, most_bands);
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

StepGeometry geometry_of(const ContrastStep&, const StepInput& input) {
  return computed(input);
}
void read_step(JsonReader& in, ContrastStep& step) {
  if (in.has("tile")) step.tile = in.whole("tile", 8, static_cast<int>(largest_side));
  if (in.has("limit")) step.limit = in.number("limit", 1, 1000);
}
void write_step(Json& out, const ContrastStep& step) {
  out["tile"] = step.tile;
  out["limit"] = step.limit;
}
Image pixels_of(const ContrastStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t&) {
  return equalised(input, step.tile, step.limit, job);
}

StepGeometry geometry_of(const HighpassStep&, const StepInput& input) {
  return computed(input);
}
void read_step(JsonReader& in, HighpassStep& step) {
  step.radius = in.number("radius", 0.5, 2000);
}
void write_step(Json& out, const HighpassStep& step) {
  out["radius"] = step.radius;
}
Image pixels_of(const HighpassStep& step, const Image& input, const Resampling&, const Job& job,
                std::int64_t& clamped) {
  return highpass(input, step.radius, job, &clamped);
}

StepGeometry geometry_of(const DenoiseStep&, const StepInput& input) {
  return computed(input);
}
void read_step(JsonReader& in, DenoiseStep& step) {
  if (in.has("method")) step.median = in.choice("method", {"median", "gaussian"}) == "median";
  step.radius = in.number("radius", step.median ? 1 : 0.5, step.median ? 100 : 2000);
  if (step.median && step.radius != std::floor(step.radius))
    JsonReader::refuse(in.at("radius"), in.path("radius"), "a whole number for the median");
}
void write_step(Json& out, const DenoiseStep& step) {
  out["radius"] = step.radius;
  out["method"] = step.median ? "median" : "gaussian";
}
Image pixels_of(const DenoiseStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t&) {
  return step.median ? median(input, static_cast<int>(step.radius), job) : gaussian(input, step.radius, job);
}

StepGeometry geometry_of(const ConvolveStep& step, const StepInput& input) {
  StepGeometry out = computed(input);
  // The middle of an even kernel lies between two pixels; what it says of that place stands half a pixel before it.
  out.map = Map(translation(step.kernel.width % 2 == 0 ? -0.5 : 0, step.kernel.height % 2 == 0 ? -0.5 : 0));
  out.all_valid = false;
  out.depth = step.depth;
  return out;
}

void read_step(JsonReader& in, ConvolveStep& step) {
  const Json& rows = in.array("kernel");
  const std::string path = in.path("kernel"), accepted = "rows of numbers, all of one length";
  if (rows.empty() || rows.size() > largest_kernel) JsonReader::refuse(rows, path, accepted);
  step.kernel = {0, static_cast<int>(rows.size()), {}};
  for (std::size_t j = 0; j < rows.size(); ++j) {
    const std::string place = fmt::format("{}/{}", path, j);
    if (!rows[j].is_array() || rows[j].empty() || rows[j].size() > largest_kernel ||
        (j > 0 && rows[j].size() != rows[0].size()))
      JsonReader::refuse(rows[j], place, accepted);
    step.kernel.width = static_cast<int>(rows[j].size());
    for (std::size_t i = 0; i < rows[j].size(); ++i)
      step.kernel.numbers.push_back(JsonReader::number(rows[j][i], fmt::format("{}/{}", place, i), -1e9, 1e9));
  }
  if (std::ranges::all_of(step.kernel.numbers, [](double v) { return v == 0; }))
    JsonReader::refuse(rows, path, "a kernel with at least one number that is not 0");
  if (in.has("scale")) step.scale = in.number("scale", -1e9, 1e9);
  if (in.has("offset")) step.offset = in.number("offset", -1e9, 1e9);
  if (in.has("depth")) step.depth = depth_named(in.choice("depth", {"u8", "u16", "f32"}));
}

void write_step(Json& out, const ConvolveStep& step) {
  for (int j = 0; j < step.kernel.height; ++j) {
    Json row = Json::array();
    for (int i = 0; i < step.kernel.width; ++i)
      row.push_back(step.kernel.numbers[static_cast<std::size_t>(j * step.kernel.width + i)]);
    out["kernel"].push_back(row);
  }
  out["scale"] = step.scale;
  out["offset"] = step.offset;
  if (step.depth) out["depth"] = name_of(*step.depth);
}

Image pixels_of(const ConvolveStep& step, const Image& input, const Resampling&, const Job& job,
                std::int64_t& clamped) {
  return convolved(input, step.kernel, step.scale, step.offset, step.depth.value_or(input.depth()), job, &clamped);
}

}  // namespace fexel
