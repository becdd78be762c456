#include "app/steps/step_handles.h"

#include <algorithm>
#include <numbers>

namespace fexel {
namespace {

constexpr double degree = std::numbers::pi / 180;

double rounded(double v, double step) {
  return std::round(v / step) * step;
}
/// A point at an angle from the centre, counter-clockwise from the right.
Point around(Point centre, double radius, double degrees) {
  return {centre.x + radius * std::cos(degrees * degree), centre.y - radius * std::sin(degrees * degree)};
}
double angle_of(Point centre, Point p) {
  return std::atan2(centre.y - p.y, p.x - centre.x) / degree;
}
StepLine arc(Point centre, double radius, double from, double sweep) {
  StepLine line;
  constexpr int pieces = 96;
  for (int i = 0; i <= pieces; ++i) line.points.push_back(around(centre, radius, from + sweep * i / pieces));
  return line;
}
double arm_of(const StepInput& input) {
  return 0.35 * std::min(input.size.width, input.size.height);
}

StepFigure figure(const RectifyStep& step, const StepInput&) {
  StepFigure out;
  for (std::size_t i = 0; i < 4; ++i) out.handles.push_back({step.corners[i], std::to_string(i + 1)});
  out.lines.push_back({{step.corners.begin(), step.corners.end()}, true});
  return out;
}
RectifyStep moved(RectifyStep step, const StepInput&, int index, Point to) {
  step.corners[static_cast<std::size_t>(index)] = to;
  step.picking[static_cast<std::size_t>(index)] = picking;
  return step;
}

StepFigure figure(const CropStep& step, const StepInput& input) {
  CropRectangle r;
  try {
    r = crop_rectangle(step, input);
  } catch (const Error&) {
    return {};
  }
  const Point a{r.x, r.y}, c{r.x + r.width, r.y + r.height};
  StepFigure out;
  out.lines.push_back({{a, {c.x, a.y}, c, {a.x, c.y}}, true});
  if (!std::holds_alternative<CropValid>(step.what))
    out.handles = {{a, "1"}, {{c.x, a.y}, "2"}, {c, "3"}, {{a.x, c.y}, "4"}, {0.5 * (a + c), ""}};
  return out;
}
/// A crop of a ratio keeps it, and its opposite corner, and is a rectangle from then on.
CropStep moved_in_ratio(const CropStep& step, const StepInput& input, int index, Point to) {
  const CropRatio ratio = std::get<CropRatio>(step.what);
  CropRectangle r = crop_rectangle(step, input);
  if (index == 4) {
    r.x = std::round(to.x - r.width / 2.0);
    r.y = std::round(to.y - r.height / 2.0);
    return {r};
  }
  const bool left = index == 0 || index == 3, top = index < 2;
  const Point still{left ? r.x + r.width : r.x, top ? r.y + r.height : r.y};
  const double across = left ? still.x - to.x : to.x - still.x, down = top ? still.y - to.y : to.y - still.y;
  const double units = std::max({across / ratio.across, down / ratio.down, 1 / std::min(ratio.across, ratio.down)});
  r.width = std::max(1, static_cast<int>(std::lround(units * ratio.across)));
  r.height = std::max(1, static_cast<int>(std::lround(units * ratio.down)));
  r.x = left ? still.x - r.width : still.x;
  r.y = top ? still.y - r.height : still.y;
  return {r};
}

CropStep moved(CropStep step, const StepInput& input, int index, Point to) {
  if (std::holds_alternative<CropRatio>(step.what)) return moved_in_ratio(step, input, index, to);
  auto* r = std::get_if<CropRectangle>(&step.what);
  if (!r) return step;
  if (index == 4) {
    r->x = std::round(to.x - r->width / 2.0);
    r->y = std::round(to.y - r->height / 2.0);
    return step;
  }
  // The opposite corner stays.
  const bool left = index == 0 || index == 3, top = index < 2;
  const double right = r->x + r->width, bottom = r->y + r->height;
  if (left) {
    r->x = std::min(std::round(to.x), right - 1);
    r->width = std::max(1, static_cast<int>(std::lround(right - r->x)));
  } else {
    r->width = std::max(1, static_cast<int>(std::lround(to.x - r->x)));
  }
  if (top) {
    r->y = std::min(std::round(to.y), bottom - 1);
    r->height = std::max(1, static_cast<int>(std::lround(bottom - r->y)));
  } else {
    r->height = std::max(1, static_cast<int>(std::lround(to.y - r->y)));
  }
  return step;
}

StepFigure figure(const AlignStep& step, const StepInput&) {
  StepFigure out;
  if (!step.region) return out;
  const Point a{double(step.region->x), double(step.region->y)};
  const Point c{a.x + step.region->width, a.y + step.region->height};
  out.lines.push_back({{a, {c.x, a.y}, c, {a.x, c.y}}, true});
  out.handles = {{a, "1"}, {c, "2"}};
  return out;
}
AlignStep moved(AlignStep step, const StepInput& input, int index, Point to) {
  Region& r = *step.region;
  const auto x = std::clamp(static_cast<int>(std::lround(to.x)), 0, input.size.width);
  const auto y = std::clamp(static_cast<int>(std::lround(to.y)), 0, input.size.height);
  constexpr int least = 16;
  const int right = r.x + r.width, bottom = r.y + r.height;
  if (index == 0) {
    r.x = std::min(x, right - least);
    r.y = std::min(y, bottom - least);
    r.width = right - r.x;
    r.height = bottom - r.y;
  } else {
    r.width = std::max(least, x - r.x);
    r.height = std::max(least, y - r.y);
  }
  return step;
}

StepFigure figure(const TurnStep& step, const StepInput& input) {
  const Point centre = step.centre.value_or(input.size.middle());
  const double arm = arm_of(input), turn = std::remainder(step.degrees, 360);
  StepFigure out;
  const Point end = around(centre, arm, turn);
  out.handles = {{end, ""}, {centre, "c"}};
  out.lines.push_back({{centre, around(centre, arm, 0)}});
  out.lines.push_back({{centre, end}});
  if (std::abs(turn) > 4) {
    StepLine way = arc(centre, 0.7 * arm, 0, turn);
    way.arrow = true;
    out.lines.push_back(way);
  }
  return out;
}
TurnStep moved(TurnStep step, const StepInput& input, int index, Point to) {
  const Point centre = step.centre.value_or(input.size.middle());
  if (index == 1)
    step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
  else if (distance(centre, to) > 1)
    step.degrees = rounded(angle_of(centre, to), 0.01);
  return step;
}

StepFigure figure(const ShiftStep& step, const StepInput& input) {
  const Point from = input.size.middle(), to = from + Point{step.dx, step.dy};
  StepFigure out;
  out.handles = {{to, ""}};
  if (step.dx != 0 || step.dy != 0) out.lines.push_back({{from, to}, false, true});
  return out;
}
ShiftStep moved(ShiftStep step, const StepInput& input, int, Point to) {
  step.dx = std::round(to.x - input.size.middle().x);
  step.dy = std::round(to.y - input.size.middle().y);
  return step;
}

/// The handle stands where the plane's nod puts it: right for about y, down for about x, 90 degrees at the arm's end.
StepFigure figure(const TiltStep& step, const StepInput& input) {
  const Point centre = step.centre.value_or(input.size.middle());
  const double arm = arm_of(input);
  const Point nod = centre + Point{arm * step.about_y / 90, arm * step.about_x / 90};
  const Point side = around(centre, arm, step.about_z);
  StepFigure out;
  out.handles = {{nod, ""}, {side, "z"}, {centre, "c"}};
  out.lines.push_back({{centre, nod}, false, step.about_x != 0 || step.about_y != 0});
  out.lines.push_back({{centre, side}});
  return out;
}
TiltStep moved(TiltStep step, const StepInput& input, int index, Point to) {
  const Point centre = step.centre.value_or(input.size.middle());
  const double arm = arm_of(input);
  const auto nod = [&](double v) { return std::clamp(rounded(v / arm * 90, 0.1), -80.0, 80.0); };
  if (index == 2) {
    step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
  } else if (index == 1) {
    step.about_z = rounded(angle_of(centre, to), 0.1);
  } else {
    step.about_y = nod(to.x - centre.x);
    step.about_x = nod(to.y - centre.y);
  }
  return step;
}

StepFigure figure(const LensStep& step, const StepInput& input) {
  const Point centre = step.centre.value_or(input.size.middle());
  return {{{centre, "c"}}, {}};
}
LensStep moved(LensStep step, const StepInput&, int, Point to) {
  step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
  return step;
}

StepFigure figure(const UnwrapStep& step, const StepInput&) {
  const double sweep = step.clockwise ? -step.sweep : step.sweep;
  StepFigure out;
  out.lines.push_back(arc(step.centre, step.outer, step.start, sweep));
  if (step.inner > 0) out.lines.push_back(arc(step.centre, step.inner, step.start, sweep));
  // The seam, and the way that columns run.
  out.lines.push_back({{around(step.centre, step.inner, step.start), around(step.centre, step.outer, step.start)}});
  StepLine way = arc(step.centre, (step.inner + step.outer) / 2, step.start, sweep / 8);
  way.arrow = true;
  out.lines.push_back(way);
  out.handles = {{step.centre, "c"},
                 {around(step.centre, step.outer, step.start), "s"},
                 {around(step.centre, step.outer, step.start + 90), "o"},
                 {around(step.centre, step.inner, step.start + 90), "i"}};
  return out;
}
UnwrapStep moved(UnwrapStep step, const StepInput&, int index, Point to) {
  const double radius = rounded(distance(step.centre, to), 0.1);
  if (index == 0) step.centre = {rounded(to.x, 0.1), rounded(to.y, 0.1)};
  if (index == 1) step.start = rounded(angle_of(step.centre, to), 0.1);
  if (index == 2) step.outer = std::max(radius, step.inner + 1);
  if (index == 3) step.inner = std::clamp(radius, 0.0, step.outer - 1);
  return step;
}

constexpr std::size_t longest_name = 3;  // beside a handle
/// A handle where each pair comes from.
StepFigure figure(const FitStep& step, const StepInput&) {
  StepFigure out;
  for (int i = 0; i < static_cast<int>(step.pairs.size()); ++i)
    out.handles.push_back({step.pairs[static_cast<std::size_t>(i)].from, label_of(step, i).substr(0, longest_name)});
  return out;
}
FitStep moved(FitStep step, const StepInput&, int index, Point to) {
  step.pairs[static_cast<std::size_t>(index)].from = to;
  return step;
}

double unit_of(const FitStep& step) {
  return step.pixel_size.value_or(1);
}

template <class Kind>
concept HasFigure = requires(const Kind& k, const StepInput& in) {
  figure(k, in);
};

}  // namespace

StepFigure figure_of(const StepKind& step, const StepInput& input) {
  return std::visit(
      [&]<class Kind>(const Kind& kind) -> StepFigure {
        if constexpr (HasFigure<Kind>)
          return figure(kind, input);
        else
          return {};
      },
      step);
}

StepKind with_handle_at(const StepKind& step, const StepInput& input, int index, Point to) {
  return std::visit(
      [&]<class Kind>(const Kind& kind) -> StepKind {
        if constexpr (HasFigure<Kind>)
          return moved(kind, input, index, to);
        else
          return kind;
      },
      step);
}

StepFigure result_figure_of(const StepKind& step, const Map& made) {
  StepFigure out;
  const auto* fit = std::get_if<FitStep>(&step);
  for (int i = 0; fit && i < static_cast<int>(fit->pairs.size()); ++i) {
    const PointPair& pair = fit->pairs[static_cast<std::size_t>(i)];
    const Point to = 1 / unit_of(*fit) * pair.to;
    out.handles.push_back({to, label_of(*fit, i).substr(0, longest_name)});
    if (const auto put = made.forward(pair.from)) out.lines.push_back({{*put, to}});
  }
  return out;
}

StepKind with_result_handle_at(const StepKind& step, int index, Point to) {
  StepKind out = step;
  if (auto* fit = std::get_if<FitStep>(&out)) fit->pairs[static_cast<std::size_t>(index)].to = unit_of(*fit) * to;
  return out;
}

StepKind with_picking(StepKind step, int index, double picking) {
  if (auto* rectify = std::get_if<RectifyStep>(&step)) rectify->picking[static_cast<std::size_t>(index)] = picking;
  return step;
}

std::string handle_purpose(const StepKind& step, int index) {
  if (std::holds_alternative<RectifyStep>(step)) return "move corner " + std::to_string(index + 1);
  return word_of(step);
}

}  // namespace fexel
