#include "motion/field.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

#include "base/error.h"
#include "geometry/polygon.h"

namespace fexel {
namespace {

constexpr const char* statuses[] = {"ok", "weak", "masked", "rejected", "filled"};
constexpr const char* reasons[] = {"",
                                   "no texture",
                                   "uncertain",
                                   "does not match",
                                   "differs from the reference",
                                   "left the frame",
                                   "not found",
                                   "masked",
                                   "glare",
                                   "low correlation",
                                   "the way back ends elsewhere",
                                   "outside of the limits",
                                   "far from the mean",
                                   "unlike its neighbours",
                                   "two peaks alike"};

}  // namespace

const char* name_of(MotionStatus status) {
  return statuses[static_cast<std::size_t>(status)];
}
std::optional<MotionStatus> motion_status_named(const std::string& name) {
  const auto at = std::ranges::find(statuses, name);
  if (at == std::end(statuses)) return std::nullopt;
  return static_cast<MotionStatus>(at - std::begin(statuses));
}
const char* name_of(MotionReason reason) {
  return reasons[static_cast<std::size_t>(reason)];
}

int MotionField::count(MotionStatus status) const {
  int out = 0;
  for (std::size_t i = 0; i < points.size(); ++i) out += grid.used[i] != 0 && points[i].status == status;
  return out;
}
int MotionField::used() const {
  return static_cast<int>(std::ranges::count_if(grid.used, [](char u) { return u != 0; }));
}

MotionGrid grid_over(Size size, const std::vector<Point>& region, int step_x, int step_y, int margin) {
  double left = 0, top = 0, right = size.width, bottom = size.height;
  for (const Point p : region) {
    if (&p == &region.front()) {
      left = right = p.x;
      top = bottom = p.y;
    }
    left = std::min(left, p.x);
    right = std::max(right, p.x);
    top = std::min(top, p.y);
    bottom = std::max(bottom, p.y);
  }
  left = std::max(left, static_cast<double>(margin));
  top = std::max(top, static_cast<double>(margin));
  right = std::min(right, static_cast<double>(size.width - margin));
  bottom = std::min(bottom, static_cast<double>(size.height - margin));
  MotionGrid out;
  out.step_x = step_x;
  out.step_y = step_y;
  if (right > left && bottom > top) {
    // What is left over is shared by both sides.
    const int wide = static_cast<int>(right - left), high = static_cast<int>(bottom - top);
    out.columns = std::max(0, (wide - 1) / step_x + 1);
    out.rows = std::max(0, (high - 1) / step_y + 1);
    out.first = {std::floor(left) + (wide - 1 - (out.columns - 1) * step_x) / 2 + 0.5,
                 std::floor(top) + (high - 1 - (out.rows - 1) * step_y) / 2 + 0.5};
  }
  out.used.assign(out.count(), 1);
  if (region.size() > 2)
    for (std::size_t i = 0; i < out.count(); ++i) out.used[i] = inside_polygon(region, out.at(i)) ? 1 : 0;
  if (std::ranges::none_of(out.used, [](char u) { return u != 0; }))
    throw call_error("There is no room for a point in the region.", "/region",
                     fmt::format("Draw a larger region, {} px from the picture's border, or choose a smaller size or "
                                 "spacing.",
                                 margin));
  return out;
}

}  // namespace fexel
