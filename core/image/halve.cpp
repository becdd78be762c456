#include "image/halve.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "image/halve.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "image/halve-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(HalveRows);

void halve_rows(const Image& in, int band, int y0, int y1, Image& out) {
  HWY_DYNAMIC_DISPATCH(HalveRows)(in, band, y0, y1, out);
}

}  // namespace fexel
#endif
