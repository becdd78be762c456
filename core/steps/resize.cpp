#include "steps/resize.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

const std::vector<std::string> shape_words = {"stretch", "crop", "pad"};

/// The size that is asked for, before the shape is looked at.
Size wanted_size(const ResizeStep& step, const StepInput& input) {
  const double w = input.size.width, h = input.size.height;
  if (step.width && step.height) return {*step.width, *step.height};
  if (step.width) return {*step.width, whole_size(h * *step.width / w, "/width")};
  if (step.height) return {whole_size(w * *step.height / h, "/height"), *step.height};
  if (step.scale) return {whole_size(w * step.scale->first, "/scale"), whole_size(h * step.scale->second, "/scale")};
  if (!input.pixel)
    throw call_error("The picture has no pixel size here, so it cannot be resized to one.", "/pixel_size",
                     "Calibrate it, or resize by width, height or scale.");
  const auto metre = metres_per(step.unit) / metres_per(input.pixel->unit);
  return {whole_size(w * input.pixel->x / (*step.pixel_size * metre), "/pixel_size"),
          whole_size(h * input.pixel->y / (*step.pixel_size * metre), "/pixel_size")};
}

}  // namespace

StepGeometry geometry_of(const ResizeStep& step, const StepInput& input) {
  const Size size = wanted_size(step, input);
  const double w = input.size.width, h = input.size.height;
  double across = size.width / w, down = size.height / h;
  using Shape = ResizeStep::WhenShapeDiffers;
  if (step.width && step.height && step.when_shape_differs != Shape::stretch)
    across = down = step.when_shape_differs == Shape::crop ? std::max(across, down) : std::min(across, down);
  StepGeometry out{size, input.pixel, Map()};
  out.map = Map(translation((size.width - across * w) / 2, (size.height - down * h) / 2) * scaling(across, down));
  if (out.pixel) {
    out.pixel->x /= across;
    out.pixel->y /= down;
    if (step.pixel_size) {
      const double metre = metres_per(out.pixel->unit) / metres_per(step.unit);
      out.pixel = PixelSize{out.pixel->x * metre, out.pixel->y * metre, step.unit};
    }
  }
  return out;
}

void begin_step(ResizeStep& step, const StepInput&) {
  step.scale = {0.5, 0.5};
}

void read_step(JsonReader& in, ResizeStep& step) {
  const int side = static_cast<int>(largest_side);
  const int ways = (in.has("width") || in.has("height")) + in.has("scale") + (in.has("pixel_size") || in.has("unit"));
  if (ways != 1)
    throw call_error("A resize is given in one way.", in.path(),
                     "Give width, height or both; or scale; or pixel_size and unit.");
  if (in.has("width")) step.width = in.whole("width", 1, side);
  if (in.has("height")) step.height = in.whole("height", 1, side);
  if (in.has("scale")) {
    const Json& scale = in.at("scale");
    if (scale.is_array()) {
      if (scale.size() != 2) JsonReader::refuse(scale, in.path("scale"), "a number, or two numbers, for x and y");
      step.scale = {JsonReader::number(scale[0], in.path("scale") + "/0", 1e-6, 1e6),
                    JsonReader::number(scale[1], in.path("scale") + "/1", 1e-6, 1e6)};
    } else {
      const double factor = in.number("scale", 1e-6, 1e6);
      step.scale = {factor, factor};
    }
  }
  if (ways == 1 && (in.has("pixel_size") || in.has("unit"))) {
    step.pixel_size = in.number("pixel_size", 1e-12, 1e9);
    step.unit = in.choice("unit", length_units());
  }
  if (in.has("when_shape_differs")) {
    if (!step.width || !step.height)
      throw call_error("The shape can differ only where both width and height are given.",
                       in.path("when_shape_differs"), "Give both, or leave this key out.");
    step.when_shape_differs = static_cast<ResizeStep::WhenShapeDiffers>(
        std::ranges::find(shape_words, in.choice("when_shape_differs", shape_words)) - shape_words.begin());
  }
}

void write_step(Json& out, const ResizeStep& step) {
  if (step.width) out["width"] = *step.width;
  if (step.height) out["height"] = *step.height;
  if (step.scale) out["scale"] = {step.scale->first, step.scale->second};
  if (step.pixel_size) {
    out["pixel_size"] = *step.pixel_size;
    out["unit"] = step.unit;
  }
  if (step.width && step.height)
    out["when_shape_differs"] = shape_words[static_cast<std::size_t>(step.when_shape_differs)];
}

}  // namespace fexel
