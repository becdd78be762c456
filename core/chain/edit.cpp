#include "chain/edit.h"

#include "base/error.h"

namespace fexel {

Chain with_step_inserted(const Chain& chain, int index, const Step& step) {
  Chain out = chain;
  out.steps.insert(out.steps.begin() + index, step);
  for (Gauge& gauge : out.gauges)
    if (gauge.station > index) ++gauge.station;
  return out;
}

Chain with_step_removed(const Chain& chain, const Layout& layout, int index) {
  Chain out = chain;
  out.steps.erase(out.steps.begin() + index);
  for (Gauge& gauge : out.gauges) {
    if (gauge.station <= index) continue;
    if (gauge.station == index + 1)
      for (Point Gauge::*end : {&Gauge::from, &Gauge::to}) {
        const Carried carried = carry(layout, gauge.*end, index + 1, index);
        if (carried.status != CarryStatus::beyond_horizon) gauge.*end = carried.point;
      }
    --gauge.station;
  }
  return out;
}

Step sensible_step(const std::string& word, const StepInput& input) {
  const double w = input.size.width, h = input.size.height;
  if (word == QuarterStep::word) return {QuarterStep{1}, true, {}};
  if (word == CropStep::word) {
    const int cut_x = input.size.width / 10, cut_y = input.size.height / 10;
    return {CropStep{CropRectangle{double(cut_x), double(cut_y), input.size.width - 2 * cut_x,
                                   input.size.height - 2 * cut_y}},
            true,
            {}};
  }
  if (word == RectifyStep::word) {
    RectifyStep step;
    step.corners = {Point{0.2 * w, 0.2 * h}, Point{0.8 * w, 0.2 * h}, Point{0.8 * w, 0.8 * h}, Point{0.2 * w, 0.8 * h}};
    // Nobody has said how large it is: no unit is made up.
    step.shape = RectifyStep::Shape::ratio;
    step.ratio = rounded_to(w / h, 4);
    return {step, true, {}};
  }
  const auto plain = [](const StepKind& kind) { return Step{kind, true, {}}; };
  if (word == MirrorStep::word) return plain(MirrorStep{});
  if (word == TurnStep::word) return plain(TurnStep{});
  if (word == ShiftStep::word) return plain(ShiftStep{});
  if (word == ResizeStep::word) {
    ResizeStep step;
    step.scale = {0.5, 0.5};
    return plain(step);
  }
  if (word == ReduceStep::word) return plain(ReduceStep{});
  if (word == PadStep::word) {
    const int around = std::max(1, std::min(input.size.width, input.size.height) / 20);
    return plain(PadStep{around, around, around, around, {}, {}});
  }
  if (word == TiltStep::word) return plain(TiltStep{});
  if (word == MatrixStep::word) return plain(MatrixStep{});
  if (word == LensStep::word) return plain(LensStep{});
  if (word == UnwrapStep::word) {
    UnwrapStep step;
    step.centre = input.size.middle();
    // Whole pixels, but of pictures of a few pixels.
    const double side = std::min(w, h), unit = side < 20 ? 0.01 : 1;
    step.outer = unit * std::floor(0.4 * side / unit);
    step.inner = unit * std::floor(0.25 * side / unit);
    return plain(step);
  }
  if (word == FitStep::word) {
    FitStep step;
    // Four places that stay: a hand moves them.
    for (const auto& [x, y] : {std::pair(0.2, 0.2), std::pair(0.8, 0.2), std::pair(0.8, 0.8), std::pair(0.2, 0.8)}) {
      const Point p{std::round(x * w), std::round(y * h)};
      step.pairs.push_back({p, p, std::to_string(step.pairs.size() + 1), true});
    }
    step.model = Model::projective;
    return plain(step);
  }
  if (word == BandsStep::word) return plain(BandsStep{});
  if (word == ContrastStep::word) return plain(ContrastStep{});
  if (word == HighpassStep::word) return plain(HighpassStep{});
  if (word == DenoiseStep::word) return plain(DenoiseStep{});
  if (word == ConvolveStep::word) return plain(ConvolveStep{});
  if (word == AlignStep::word) return plain(AlignStep{});
  throw call_error("There is no step \"" + word + "\".", "step", "Choose another step.");
}

std::optional<Remedy> remedied(const Step& step, const StepInput& input) {
  const auto works = [&](const StepKind& kind) {
    try {
      std::visit([&](const auto& k) { (void)geometry_of(k, input); }, kind);
      return true;
    } catch (const Error&) {
      return false;
    }
  };
  if (const auto* crop = std::get_if<CropStep>(&step.kind))
    if (const auto* r = std::get_if<CropRectangle>(&crop->what)) {
      CropRectangle fitted = *r;
      fitted.width = std::min(r->width, input.size.width);
      fitted.height = std::min(r->height, input.size.height);
      fitted.x = std::clamp(r->x, 0.0, static_cast<double>(input.size.width - fitted.width));
      fitted.y = std::clamp(r->y, 0.0, static_cast<double>(input.size.height - fitted.height));
      const CropStep moved{fitted};
      if (works(moved)) return Remedy{{moved, step.on, step.name}, false};
    }
  Step fresh = sensible_step(word_of(step.kind), input);
  if (!works(fresh.kind)) return std::nullopt;
  fresh.name = step.name;
  return Remedy{fresh, true};
}

}  // namespace fexel
