#include "fit/radial_basis.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "fit/radial_basis.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "fit/radial_basis-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(SumBumps);

Bumps::Bumps(const std::vector<Point>& centres, const std::vector<Point>& weights) {
  constexpr std::size_t widest = 8;  // doubles in a vector, at most
  const std::size_t count = (centres.size() + widest - 1) / widest * widest;
  for (auto* numbers : {&x_, &y_, &weight_x_, &weight_y_}) numbers->assign(count, 0);
  for (std::size_t i = 0; i < centres.size(); ++i) {
    x_[i] = centres[i].x, y_[i] = centres[i].y;
    weight_x_[i] = weights[i].x, weight_y_[i] = weights[i].y;
  }
}

Bumps::Sum Bumps::at(Point p) const {
  Sum out{};
  HWY_DYNAMIC_DISPATCH(SumBumps)
  (x_.data(), y_.data(), weight_x_.data(), weight_y_.data(), x_.size(), p.x, p.y, out);
  return out;
}

}  // namespace fexel
#endif
