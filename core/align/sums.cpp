#include "align/sums.h"

#include <limits>

#include "resample/kernels/prefilter.h"
#include "resample/paths/row_float.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "align/sums.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "align/sums-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(SumBlock);

namespace {

constexpr float nothing = std::numeric_limits<float>::quiet_NaN();

/// Rows of the moved frame as the reference sees them; NaN where it has nothing to show.
class MovedRows {
 public:
  MovedRows(const MovedSamples& moved, const Matrix3& inverse_map, int width)
      : moved_(moved),
        inverse_map_(inverse_map),
        width_(width),
        kernel_(moved.coefficients ? Kernel::bspline3 : Kernel::linear),
        samples_(moved.coefficients ? samples_of(*moved.coefficients, prefilter_margin) : samples_of(*moved.plane)) {
    if (moved.there) {
      there_ = samples_of(*moved.there);
      share_.resize(static_cast<std::size_t>(width));
    }
  }

  void read(int y, float* out) {
    interpolate(samples_, kernel_, y, out);
    if (!moved_.there) return;
    interpolate(there_, Kernel::linear, y, share_.data());
    for (int x = 0; x < width_; ++x)
      if (!(share_[static_cast<std::size_t>(x)] > 0.999F)) out[x] = nothing;
  }

 private:
  void interpolate(const Samples& samples, Kernel kernel, int y, float* out) {
    rest_.clear();
    std::int64_t clamped = 0;
    interpolate_row(samples, kernel, inverse_map_, 0, y, width_, {reinterpret_cast<std::byte*>(out), 0, Depth::f32},
                    rest_, clamped);
    for (const PixelSpan& stretch : rest_) std::fill_n(out + stretch.x, stretch.count, nothing);
  }

  MovedSamples moved_;
  Matrix3 inverse_map_;
  int width_;
  Kernel kernel_;
  Samples samples_, there_;
  std::vector<float> share_;
  std::vector<PixelSpan> rest_;
};

}  // namespace

std::vector<BlockSums> sum_blocks(const PreparedFrame& reference, int level, const MovedSamples& moved,
                                  const Matrix3& inverse_map, int block, const Expectation& expected, const Job& job,
                                  std::vector<BlockSums>* plain) {
  const Image& still = reference.reference(level);
  const Size size = reference.size(level);
  const int across = (size.width + block - 1) / block, down = (size.height + block - 1) / block;
  std::vector<BlockSums> out(static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  if (plain) plain->assign(out.size(), {});
  const Image& slope = reference.gradient(level);
  const std::ptrdiff_t stride = still.stride<float>(), plane = slope.row<float>(1, 0) - slope.row<float>(0, 0);
  const auto inverse_cut = static_cast<float>(expected.cut > 0 ? 1 / expected.cut : 0);
  parallel_for(down, job, [&](int band) {
    const int y0 = band * block, rows = std::min(block, size.height - y0), wide = across * block;
    std::vector<float> seen(static_cast<std::size_t>(wide) * static_cast<std::size_t>(rows), nothing);
    MovedRows rows_of(moved, inverse_map, size.width);
    for (int y = 0; y < rows; ++y) rows_of.read(y0 + y, seen.data() + static_cast<std::ptrdiff_t>(y) * wide);
    for (int k = 0; k < across; ++k) {
      const float* i = seen.data() + k * block;
      const auto at = static_cast<std::size_t>(band * across + k);
      out[at].middle = {k * block + std::min(block, size.width - k * block) * 0.5, y0 + rows * 0.5};
      if (plain) (*plain)[at].middle = out[at].middle;
      const int x = k * block + PreparedFrame::left, y = y0 + PreparedFrame::above;
      const BlockSamples samples{
          still.row<float>(0, y) + x, slope.row<float>(0, y) + x, plane, stride, i, wide, block, rows};
      HWY_DYNAMIC_DISPATCH(SumBlock)
      (samples, static_cast<float>(expected.gain), static_cast<float>(expected.offset), inverse_cut, out[at].sums,
       plain ? (*plain)[at].sums : nullptr);
    }
  });
  const auto empty = [](const BlockSums& b) { return b.sums[BlockSums::count] < 1; };
  std::erase_if(out, empty);
  if (plain) std::erase_if(*plain, empty);
  return out;
}

}  // namespace fexel
#endif
