#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>

#include "filter/filter.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "filter/gaussian.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "filter/gaussian-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(SmoothAlong);
HWY_EXPORT(SmoothAcross);
HWY_EXPORT(ReadRowU8);
HWY_EXPORT(ReadRowU16);
HWY_EXPORT(WriteRowU8);
HWY_EXPORT(WriteRowU16);
HWY_EXPORT(WriteRowF32);

namespace {

constexpr int smooth_block = 64;  // pixels that sums may be made for beyond those asked for

/// Weights from the middle outward.
std::vector<float> gaussian_weights(double radius) {
  const double sigma = radius / 2;
  const int reach = std::max(1, static_cast<int>(std::ceil(4 * sigma)));
  std::vector<double> weights;
  double sum = 0;
  for (int i = 0; i <= reach; ++i) {
    weights.push_back(std::exp(-0.5 * (i / sigma) * (i / sigma)));
    sum += (i == 0 ? 1 : 2) * weights.back();
  }
  std::vector<float> out;
  for (const double w : weights) out.push_back(static_cast<float>(w / sum));
  return out;
}

void read(const std::uint8_t* in, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(ReadRowU8)(in, count, out);
}
void read(const std::uint16_t* in, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(ReadRowU16)(in, count, out);
}
void read(const float* in, int count, float* out) {
  std::copy_n(in, count, out);
}
void write(const float* sums, const std::uint8_t* in, float middle, int count, std::uint8_t* out) {
  HWY_DYNAMIC_DISPATCH(WriteRowU8)(sums, in, middle, count, out);
}
void write(const float* sums, const std::uint16_t* in, float middle, int count, std::uint16_t* out) {
  HWY_DYNAMIC_DISPATCH(WriteRowU16)(sums, in, middle, count, out);
}
void write(const float* sums, const float* in, float middle, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(WriteRowF32)(sums, in, middle, count, out);
}

/// Along rows first and across them then, a tile at a time; the picture less that, if so asked.
Image smoothed(const Image& image, double radius, bool difference, const Job& job, std::int64_t* clamped = nullptr) {
  constexpr int tile_width = 512, tile_height = 128;
  const std::vector<float> weights = gaussian_weights(radius);
  const int reach = static_cast<int>(weights.size()) - 1, width = image.width(), height = image.height();
  const int tall = std::max(tile_height, 2 * reach);
  const int across = (width + tile_width - 1) / tile_width, down = (height + tall - 1) / tall;
  const float middle = image.depth() == Depth::f32 ? 0 : static_cast<float>(std::floor((image.largest() + 1) / 2));
  Image out(width, height, image.bands(), image.depth(), Image::Start::unset);
  std::atomic<std::int64_t> all_clamped = 0;
  parallel_for(across * down * image.bands(), job, [&](int index) {
    const int band = index / (across * down), x0 = index % across * tile_width, y0 = index / across % down * tall;
    const int columns = std::min(tile_width, width - x0), y1 = std::min(y0 + tall, height);
    constexpr std::size_t stride = tile_width + smooth_block;
    std::vector<float> wide(stride + 2 * static_cast<std::size_t>(reach));
    std::vector<float> lines(stride * static_cast<std::size_t>(y1 - y0 + 2 * reach));
    const auto line = [&](int y) { return lines.data() + stride * static_cast<std::size_t>(y - y0 + reach); };
    const int first = std::max(0, y0 - reach), last = std::min(height, y1 + reach);
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      // What of the row is there, and its ends repeated.
      const int left = std::max(0, x0 - reach), right = std::min(width, x0 + columns + reach);
      float* const begin = wide.data() + (left - x0 + reach);
      float* const end = begin + (right - left);
      for (int y = first; y < last; ++y) {
        read(image.row<T>(band, y) + left, right - left, begin);
        std::fill(wide.data(), begin, *begin);
        std::fill(end, wide.data() + columns + 2 * reach, end[-1]);
        HWY_DYNAMIC_DISPATCH(SmoothAlong)(wide.data() + reach, weights.data(), reach, columns, line(y));
      }
      for (int y = y0 - reach; y < first; ++y) std::copy_n(line(first), stride, line(y));
      for (int y = last; y < y1 + reach; ++y) std::copy_n(line(last - 1), stride, line(y));
      HWY_DYNAMIC_DISPATCH(SmoothAcross)
      (lines.data(), static_cast<std::ptrdiff_t>(stride), weights.data(), reach, columns, y1 - y0);
      for (int y = y0; clamped && sizeof(T) < 4 && y < y1; ++y) {
        const T* in = image.row<T>(band, y) + x0;
        const float top = static_cast<float>(std::numeric_limits<T>::max());
        std::int64_t count = 0;
        for (int i = 0; i < columns; ++i) {
          const float value = static_cast<float>(in[i]) - line(y - reach)[i] + middle;
          count += value < -0.5F || value > top + 0.5F;
        }
        all_clamped += count;
      }
      for (int y = y0; y < y1; ++y)
        write(line(y - reach), difference ? image.row<T>(band, y) + x0 : nullptr, middle, columns,
              out.row<T>(band, y) + x0);
    });
  });
  copy_mask(image, out);
  if (clamped) *clamped += all_clamped;
  return out;
}

}  // namespace

Image gaussian(const Image& image, double radius, const Job& job) {
  return smoothed(image, radius, false, job);
}

Image highpass(const Image& image, double radius, const Job& job, std::int64_t* clamped) {
  return smoothed(image, radius, true, job, clamped);
}

}  // namespace fexel
#endif
