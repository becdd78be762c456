#include "resample/paths/row_int16.h"

#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/row_int16.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/paths/border_copy.h"
#include "resample/paths/row_int16-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(LayInt16);
HWY_EXPORT(InterpolateInt16);
HWY_EXPORT(InterpolateInt16Along);

Int16Tile::Int16Tile(const Image& source, Kernel kernel, Region box, BorderMode edge, int phase)
    : box_(box), phase_(phase), bands_(source.bands()) {
  const auto begin_with = [&](const Image& image, int x, int y, int sample) {
    first_ = image.bytes(0, y) + x * sample;
    stride_ = image.stride<std::byte>() / sample;
    plane_ = stride_ * image.height();
  };
  if (kernel != Kernel::linear) {
    samples_ = Image(box.width, box.height, bands_, Depth::u16, Image::Start::unset);
    lay_out(source, edge);
    begin_with(samples_, 0, 0, 2);
  } else if (holds(source, box)) {
    begin_with(source, box.x, box.y, 1);
  } else {
    samples_ = Image(box.width, box.height, bands_, Depth::u8, Image::Start::unset);
    begin_with(samples_, 0, 0, 1);
    copy_with_border(source, box, edge, samples_.row<std::uint8_t>(0, 0), stride_, plane_);
  }
}

/// Lays out 16-bit numbers.
void Int16Tile::lay_out(const Image& source, BorderMode edge) {
  constexpr int rows_ahead = 8;
  const int first = std::clamp(box_.x, 0, source.width()),
            last = std::clamp(box_.x + box_.width, first, source.width());
  for (int band = 0; band < bands_; ++band)
    for (int y = 0; y < box_.height; ++y) {
      const auto* in = source.row<std::uint8_t>(band, folded(box_.y + y, source.height(), edge));
      auto* out = samples_.row<std::int16_t>(band, y);
      HWY_DYNAMIC_DISPATCH(LayInt16)
      (in + first, last - first, rows_ahead * source.stride<std::uint8_t>(), out + (first - box_.x));
      const auto word = [&](int x) {
        return static_cast<std::int16_t>((in[folded(x, source.width(), edge)] - 128) * 128);
      };
      const auto beyond = [&](int from, int to) {
        if (from >= to) return;
        if (edge == BorderMode::fill || edge == BorderMode::extend)
          std::fill(out + (from - box_.x), out + (to - box_.x), word(from));
        else
          for (int x = from; x < to; ++x) out[x - box_.x] = word(x);
      };
      beyond(box_.x, std::min(first, box_.x + box_.width));
      beyond(std::max(last, box_.x), box_.x + box_.width);
    }
}

void interpolate_int16(const Int16Tile& words, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                       const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateInt16)(words, kernel, inverse_map, x, y, count, target, rest, clamped);
}

void interpolate_int16_along(const Int16Tile& words, Kernel kernel, const MapGridRow& row, int x, int count,
                             const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  HWY_DYNAMIC_DISPATCH(InterpolateInt16Along)(words, kernel, row, x, count, target, rest, clamped);
}

}  // namespace fexel
#endif
