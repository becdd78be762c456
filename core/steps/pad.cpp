#include "steps/pad.h"

#include <fmt/format.h>

#include "base/error.h"
#include "resample/paths/copy.h"
#include "text/reader.h"

namespace fexel {

StepGeometry geometry_of(const PadStep& step, const StepInput& input) {
  const double width = static_cast<double>(input.size.width) + step.left + step.right;
  const double height = static_cast<double>(input.size.height) + step.top + step.bottom;
  StepGeometry out{
      {whole_size(width, "/right"), whole_size(height, "/bottom")}, input.pixel, Map(translation(step.left, step.top))};
  if (!step.edge) return out;
  out.ends_run = true;
  out.own_fill = true;
  if (*step.edge == BorderMode::fill) return out;
  const double w = input.size.width - 1, h = input.size.height - 1;
  const int steps = input.clip.convex() ? 1 : 64;
  for (int i = 0; i <= steps; ++i)
    for (int j = 0; j <= steps; ++j)
      if (!input.clip.contains({0.5 + w * i / steps, 0.5 + h * j / steps}))
        throw call_error("The picture has empty pixels, which the pad would repeat.", "/edge",
                         "Cut them off first (a crop to valid), or pad with the edge \"fill\".");
  out.all_valid = true;
  return out;
}

void begin_step(PadStep& step, const StepInput& input) {
  step.left = step.top = step.right = step.bottom = std::max(1, std::min(input.size.width, input.size.height) / 20);
}

void read_step(JsonReader& in, PadStep& step) {
  const auto side = [&](const char* key) { return in.has(key) ? in.whole(key, 0, static_cast<int>(largest_side)) : 0; };
  step.left = side("left");
  step.top = side("top");
  step.right = side("right");
  step.bottom = side("bottom");
  const auto names = border_mode_names();
  if (in.has("edge")) step.edge = *border_mode_named(in.choice("edge", {names.begin(), names.end()}));
  if (in.has("fill")) {
    if (step.edge != BorderMode::fill)
      JsonReader::refuse(in.at("fill"), in.path("fill"), "a fill only with the edge \"fill\"");
    step.fill = in.numbers("fill");
  }
}

void write_step(Json& out, const PadStep& step) {
  out.update({{"left", step.left}, {"top", step.top}, {"right", step.right}, {"bottom", step.bottom}});
  if (step.edge) out["edge"] = name_of(*step.edge);
  if (step.fill.size() == 1) out["fill"] = step.fill[0];
  if (step.fill.size() > 1) out["fill"] = step.fill;
}

Image pixels_of(const PadStep& step, const Image& input, const Resampling& resampling, const Job& job, std::int64_t&) {
  Resampling how = resampling;
  how.edge = step.edge.value_or(resampling.edge);
  if (!step.fill.empty()) how.fill = step.fill;
  if (how.fill.size() != 1 && how.fill.size() != static_cast<std::size_t>(input.bands()))
    throw call_error(
        fmt::format("The fill has {} values, but the picture has {} bands.", how.fill.size(), input.bands()), "/fill",
        "Give one value, or one for each band.");
  const Size size{input.width() + step.left + step.right, input.height() + step.top + step.bottom};
  Image out(size.width, size.height, input.bands(), input.depth(), Image::Start::unset);
  Clip inside;
  inside.keep_inside({input.width(), input.height()});
  const Clip clip = inside.through(Map(translation(step.left, step.top)));
  constexpr int strip = 64;
  parallel_for((size.height + strip - 1) / strip, job, [&](int index) {
    copy_moved(input, {1, 0, -step.left, 0, 1, -step.top}, clip, {0, 0, size.width, size.height}, index * strip,
               std::min((index + 1) * strip, size.height), how, out);
  });
  if (!input.has_mask()) return out;
  out.make_mask(true);
  parallel_for(size.height, {job.stop, {}}, [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      const int from_x = x - step.left, from_y = y - step.top;
      const bool inside = from_x >= 0 && from_y >= 0 && from_x < input.width() && from_y < input.height();
      if ((inside || how.edge != BorderMode::fill) &&
          !input.valid(folded(from_x, input.width(), how.edge), folded(from_y, input.height(), how.edge)))
        out.set_valid(x, y, false);
    }
  });
  return out;
}

}  // namespace fexel
