#include "filter/filter.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <numbers>
#include <optional>

namespace fexel {
namespace {

/// A row as floats, with `around` more on either side that repeat its ends.
template <class T>
void widen(const T* row, int width, int around, std::vector<float>& out) {
  out.resize(static_cast<std::size_t>(width + 2 * around));
  float* at = out.data();
  std::fill(at, at + around, static_cast<float>(row[0]));
  for (int x = 0; x < width; ++x) at[around + x] = static_cast<float>(row[x]);
  std::fill(at + around + width, at + 2 * around + width, static_cast<float>(row[width - 1]));
}

}  // namespace

double Grid::sum() const {
  double out = 0;
  for (const double v : numbers) out += v;
  return out;
}

Image chosen_bands(const Image& image, const std::vector<int>& bands) {
  Image out(image.width(), image.height(), static_cast<int>(bands.size()), image.depth(), Image::Start::unset);
  out.set_largest(image.stated_largest());
  for (std::size_t i = 0; i < bands.size(); ++i)
    for (int y = 0; y < image.height(); ++y)
      std::memcpy(out.bytes(static_cast<int>(i), y), image.bytes(bands[i], y), image.row_bytes());
  copy_mask(image, out);
  return out;
}

Image weighed_bands(const Image& image, const std::vector<double>& weights, const Job& job, std::int64_t* clamped) {
  std::atomic<std::int64_t> all_clamped = 0;
  Image out(image.width(), image.height(), 1, image.depth(), Image::Start::unset);
  parallel_for(image.height(), job, [&](int y) {
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      std::int64_t none = 0;
      for (int x = 0; x < image.width(); ++x) {
        double sum = 0;
        for (int band = 0; band < image.bands(); ++band)
          sum += weights[static_cast<std::size_t>(band)] * static_cast<double>(image.row<T>(band, y)[x]);
        out.row<T>(0, y)[x] = to_sample<T>(static_cast<float>(sum), none);
      }
      all_clamped += none;
    });
  });
  if (clamped) *clamped += all_clamped;
  copy_mask(image, out);
  return out;
}

double noise_in(const Image& plane, Region part) {
  double sum = 0;
  const std::int64_t count = std::int64_t{part.width - 2} * (part.height - 2);
  if (part.width < 3 || part.height < 3) return 0;
  for (int y = part.y + 1; y + 1 < part.y + part.height; ++y) {
    const float *p = plane.row<float>(0, y - 1), *q = plane.row<float>(0, y), *r = plane.row<float>(0, y + 1);
    for (int x = part.x + 1; x + 1 < part.x + part.width; ++x)
      sum += static_cast<double>(std::abs(p[x - 1] - 2 * p[x] + p[x + 1] - 2 * (q[x - 1] - 2 * q[x] + q[x + 1]) +
                                          r[x - 1] - 2 * r[x] + r[x + 1]));
  }
  return std::sqrt(std::numbers::pi / 2) / 6 * sum / static_cast<double>(count);
}

Image convolved(const Image& image, const Grid& kernel, double scale, double offset, Depth depth, const Job& job,
                std::int64_t* clamped) {
  Image out(image.width(), image.height(), image.bands(), depth, Image::Start::unset);
  const int left = (kernel.width - 1) / 2, top = (kernel.height - 1) / 2;
  const auto columns = static_cast<std::size_t>(image.width());
  std::atomic<std::int64_t> all_clamped = 0;
  parallel_for(image.height(), job, [&](int y) {
    std::vector<float> wide;
    std::vector<double> sums(columns);
    for (int band = 0; band < image.bands(); ++band) {
      std::ranges::fill(sums, offset);
      for (int j = 0; j < kernel.height; ++j) {
        const int from = std::clamp(y + j - top, 0, image.height() - 1);
        visit_depth(image.depth(), [&](auto sample) {
          widen(image.row<decltype(sample)>(band, from), image.width(), kernel.width, wide);
        });
        for (int i = 0; i < kernel.width; ++i) {
          const double number = scale * kernel.numbers[static_cast<std::size_t>(j * kernel.width + i)];
          if (number == 0) continue;
          const float* in = wide.data() + kernel.width + i - left;
          for (std::size_t x = 0; x < columns; ++x) sums[x] += number * static_cast<double>(in[x]);
        }
      }
      visit_depth(depth, [&](auto sample) {
        std::int64_t count = 0;
        auto* row = out.row<decltype(sample)>(band, y);
        for (std::size_t x = 0; x < columns; ++x)
          row[x] = to_sample<decltype(sample)>(static_cast<float>(sums[x]), count);
        all_clamped += count;
      });
    }
  });
  if (clamped) *clamped += all_clamped;
  copy_mask(image, out);
  return out;
}

Image plane_of(const Image& image, int band, const Job& job) {
  Image out(image.width(), image.height(), 1, Depth::f32, Image::Start::unset);
  const int first = band > 0 ? band - 1 : 0, count = band > 0 ? 1 : image.bands();
  constexpr int strip = 64;
  parallel_for((out.height() + strip - 1) / strip, job, [&](int index) {
    for (int y = index * strip; y < std::min((index + 1) * strip, out.height()); ++y)
      visit_depth(image.depth(), [&](auto sample) {
        float* to = out.row<float>(0, y);
        for (int b = first; b < first + count; ++b) {
          const auto* from = image.row<decltype(sample)>(b, y);
          if (b == first)
            for (int x = 0; x < out.width(); ++x) to[x] = static_cast<float>(from[x]);
          else
            for (int x = 0; x < out.width(); ++x) to[x] += static_cast<float>(from[x]);
        }
        const float share = 1 / static_cast<float>(count);
        for (int x = 0; count > 1 && x < out.width(); ++x) to[x] *= share;
      });
  });
  copy_mask(image, out);
  return out;
}

}  // namespace fexel
