#include "resample/kernels/prefilter.h"

#include <algorithm>
#include <vector>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/kernels/prefilter.cpp"
#include <hwy/aligned_allocator.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#ifndef FEXEL_RESAMPLE_PREFILTER_PARTS
#define FEXEL_RESAMPLE_PREFILTER_PARTS
namespace fexel {

constexpr float spline_pole = -0.267949192431122706F;  // sqrt(3) - 2
constexpr int lines_at_once = 16;                      // rows that are filtered side by side
constexpr int max_columns = 256;                       // columns that are filtered side by side
constexpr int column_strip = 128;                      // rows of them that are changed at once
constexpr int column_peek = 24;                        // rows behind, of which less than 1e-13 comes back

/// Where the samples before and behind a line come from.
struct LineEnds {
  std::vector<int> before, behind;
};

/// Numbers that begin where a vector may.
class Aligned {
 public:
  void resize(std::size_t count) {
    if (count > count_) numbers_ = hwy::AllocateAligned<float>(count_ = count);
  }
  float* data() const { return numbers_.get(); }

 private:
  std::size_t count_ = 0;
  hwy::AlignedFreeUniquePtr<float[]> numbers_;
};

/// What a thread works in, kept from task to task.
struct PrefilterBuffers {
  Aligned line, lines, work;
};

}  // namespace fexel
#endif

#include "resample/kernels/prefilter-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(FilterRows);
HWY_EXPORT(FilterColumns);

namespace {

LineEnds ends_of(int count, BorderMode edge) {
  constexpr int more = prefilter_margin + 1;
  LineEnds ends;
  for (int i = 0; i < more; ++i) {
    ends.before.push_back(folded(i - more, count, edge));
    ends.behind.push_back(folded(count + i, count, edge));
  }
  return ends;
}

void filter_columns(Image& out, int band, int x, int columns, const LineEnds& ends) {
  constexpr int more = prefilter_margin + 1;
  const int height = out.height() - 2 * prefilter_margin;
  const auto row = [&](int y) { return out.row<float>(band, y + prefilter_margin) + x; };
  alignas(64) float above[max_columns], below[max_columns];
  for (int i = 0; i < more; ++i) {
    const float* before = row(ends.before[static_cast<std::size_t>(i)]);
    std::copy(before, before + columns, i == 0 ? above : row(i - more));
    const float* behind = row(ends.behind[static_cast<std::size_t>(i)]);
    std::copy(behind, behind + columns, i == more - 1 ? below : row(height + i));
  }
  thread_local Aligned work;
  work.resize(static_cast<std::size_t>(column_strip + column_peek) * max_columns);
  HWY_DYNAMIC_DISPATCH(FilterColumns)
  (row(-prefilter_margin), out.stride<float>(), out.height(), columns, above, below, work.data());
}

}  // namespace

Image spline_coefficients(const Image& samples, BorderMode edge, const Job& job) {
  Image out(samples.width() + 2 * prefilter_margin, samples.height() + 2 * prefilter_margin, samples.bands(),
            Depth::f32, Image::Start::unset);
  const LineEnds across = ends_of(samples.width(), edge), down = ends_of(samples.height(), edge);
  parallel_for((samples.height() + lines_at_once - 1) / lines_at_once, job.part(0, 0.5), [&](int index) {
    thread_local PrefilterBuffers buffers;
    const int y = index * lines_at_once;
    for (int band = 0; band < samples.bands(); ++band) HWY_DYNAMIC_DISPATCH(FilterRows)
    (samples, band, y, std::min(lines_at_once, samples.height() - y), across, buffers, out);
  });
  const int blocks = (out.width() + max_columns - 1) / max_columns;
  parallel_for(blocks * samples.bands(), job.part(0.5, 1), [&](int index) {
    const int x = index % blocks * max_columns;
    filter_columns(out, index / blocks, x, std::min(max_columns, out.width() - x), down);
  });
  return out;
}

}  // namespace fexel
#endif
