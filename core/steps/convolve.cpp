#include "steps/convolve.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int largest_kernel = 101;

Depth depth_named(const std::string& word) {
  return word == "u8" ? Depth::u8 : word == "u16" ? Depth::u16 : Depth::f32;
}

}  // namespace

StepGeometry geometry_of(const ConvolveStep& step, const StepInput& input) {
  StepGeometry out = computed_in_place(input);
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
