#include "resample/paths/row_float.h"

#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/row_float.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/paths/row_float-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(InterpolateRow);
HWY_EXPORT(InterpolateAlong);
HWY_EXPORT(InterpolatePoints);

Samples samples_of(const Image& image, int margin, bool read_margin) {
  Samples out;
  out.origin = visit_depth(image.depth(), [&](auto sample) {
    return reinterpret_cast<const std::byte*>(image.row<decltype(sample)>(0, margin) + margin);
  });
  out.stride = visit_depth(image.depth(), [&](auto sample) { return image.stride<decltype(sample)>(); });
  out.plane = out.stride * image.height();
  const int around = read_margin ? margin : 0;
  out.left = out.top = -around;
  out.right = image.width() - 2 * margin + around;
  out.bottom = image.height() - 2 * margin + around;
  out.depth = image.depth();
  out.bands = image.bands();
  return out;
}

void interpolate_row(const Samples& samples, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                     const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateRow)(samples, kernel, inverse_map, x, y, count, target, rest, clamped);
}

void interpolate_along(const Samples& samples, Kernel kernel, const MapGridRow& row, int x, int count,
                       const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateAlong)(samples, kernel, row, x, count, target, rest, clamped);
}

bool interpolate_points(const Samples& samples, Kernel kernel, const SourcePoints& run, const RowTarget& target,
                        std::int64_t& clamped) {
  return HWY_DYNAMIC_DISPATCH(InterpolatePoints)(samples, kernel, run, target, clamped);
}

std::vector<std::string> vector_targets() {
  std::vector<std::string> names;
  for (const std::int64_t target : hwy::SupportedAndGeneratedTargets()) names.emplace_back(hwy::TargetName(target));
  return names;
}

void use_vector_target(const std::string& name) {
  hwy::SetSupportedTargetsForTest(0);
  for (const std::int64_t target : hwy::SupportedAndGeneratedTargets())
    if (hwy::TargetName(target) == name) hwy::SetSupportedTargetsForTest(target);
  hwy::GetChosenTarget().Update(hwy::SupportedTargets());
}

}  // namespace fexel
#endif
