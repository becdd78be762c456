#include "chain/edit.h"

#include "base/error.h"

namespace fexel {

Chain with_step_inserted(const Chain& chain, int index, const Step& step) {
  Chain out = chain;
  out.steps.insert(out.steps.begin() + index, step);
  for (Measurement& measurement : out.measurements)
    if (measurement.station > index) ++measurement.station;
  for (MotionProbe& motion : out.motions)
    if (motion.station > index) ++motion.station;
  if (out.axes && out.axes->station > index) ++out.axes->station;
  for (Mark& mark : out.marks)
    if (int* station = station_of(mark.kind); station && *station > index) ++*station;
  return out;
}

Chain with_step_removed(const Chain& chain, const Layout& layout, int index) {
  Chain out = chain;
  out.steps.erase(out.steps.begin() + index);
  const auto back = [&](Point& p) {
    const Carried carried = carry(layout, p, index + 1, index);
    if (carried.status != CarryStatus::beyond_horizon) p = carried.point;
  };
  for (Measurement& measurement : out.measurements) {
    if (measurement.station <= index) continue;
    if (measurement.station == index + 1) std::ranges::for_each(measurement.points, back);
    --measurement.station;
  }
  for (MotionProbe& motion : out.motions) {
    if (motion.station <= index) continue;
    if (motion.station == index + 1) std::ranges::for_each(motion.settings.region, back);
    --motion.station;
  }
  if (out.axes && out.axes->station > index) {
    if (out.axes->station == index + 1) back(out.axes->origin);
    --out.axes->station;
  }
  for (Mark& mark : out.marks) {
    int* station = station_of(mark.kind);
    if (!station || *station <= index) continue;
    if (*station == index + 1)
      for (Point* p : points_of(mark.kind)) back(*p);
    --*station;
  }
  return out;
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
  if (const auto fitted = fitted_kind(step.kind, input); fitted && works(*fitted))
    return Remedy{{*fitted, step.on, step.name}, false};
  const StepKind fresh = step_begun(word_of(step.kind), input);
  if (!works(fresh)) return std::nullopt;
  return Remedy{{fresh, true, step.name}, true};
}

}  // namespace fexel
