#include "resample/words.h"

#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/words.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/words-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(LayWords);
HWY_EXPORT(InterpolateWords);
HWY_EXPORT(InterpolateWordsAlong);

Words::Words(const Image& source, Region box, Edge edge, int phase)
    : box_(box), phase_(phase), samples_(box.width, box.height, source.bands(), Depth::u16, Image::Start::unset) {
  constexpr int rows_ahead = 8;
  const int first = std::clamp(box.x, 0, source.width()), last = std::clamp(box.x + box.width, first, source.width());
  for (int band = 0; band < source.bands(); ++band)
    for (int y = 0; y < box.height; ++y) {
      const auto* in = source.row<std::uint8_t>(band, folded(box.y + y, source.height(), edge));
      auto* out = samples_.row<std::int16_t>(band, y);
      HWY_DYNAMIC_DISPATCH(LayWords)
      (in + first, last - first, rows_ahead * source.stride<std::uint8_t>(), out + (first - box.x));
      const auto word = [&](int x) {
        return static_cast<std::int16_t>((in[folded(x, source.width(), edge)] - 128) * 128);
      };
      const auto beyond = [&](int from, int to) {
        if (from >= to) return;
        if (edge == Edge::fill || edge == Edge::extend)
          std::fill(out + (from - box.x), out + (to - box.x), word(from));
        else
          for (int x = from; x < to; ++x) out[x - box.x] = word(x);
      };
      beyond(box.x, std::min(first, box.x + box.width));
      beyond(std::max(last, box.x), box.x + box.width);
    }
}

void interpolate_words(const Words& words, Kernel kernel, const Matrix3& pull, int x, int y, int count,
                       const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateWords)(words, kernel, pull, x, y, count, target, rest, clamped);
}

void interpolate_words_along(const Words& words, Kernel kernel, const CourseRow& row, int x, int count,
                             const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateWordsAlong)(words, kernel, row, x, count, target, rest, clamped);
}

}  // namespace fexel
#endif
