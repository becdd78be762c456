#include "filter/filter.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <numbers>
#include <optional>

#include "resample/scale.h"

namespace fexel {
namespace {

std::vector<float> gaussian_weights(double radius) {
  const double sigma = radius / 2;
  const int reach = std::max(1, static_cast<int>(std::ceil(4 * sigma)));
  std::vector<double> weights;
  double sum = 0;
  for (int i = -reach; i <= reach; ++i) {
    weights.push_back(std::exp(-0.5 * (i / sigma) * (i / sigma)));
    sum += weights.back();
  }
  std::vector<float> out;
  for (const double w : weights) out.push_back(static_cast<float>(w / sum));
  return out;
}

/// A row as floats, with `around` more on either side that repeat its ends.
template <class T>
void widen(const T* row, int width, int around, std::vector<float>& out) {
  out.resize(static_cast<std::size_t>(width + 2 * around));
  float* at = out.data();
  std::fill(at, at + around, static_cast<float>(row[0]));
  for (int x = 0; x < width; ++x) at[around + x] = static_cast<float>(row[x]);
  std::fill(at + around + width, at + 2 * around + width, static_cast<float>(row[width - 1]));
}

/// Taps that are the same for every pixel.
Taps same_taps(const std::vector<float>& weights, int count) {
  Taps out;
  out.taps = static_cast<int>(weights.size());
  for (int i = 0; i < count; ++i) {
    out.first.push_back(i - out.taps / 2);
    out.weights.insert(out.weights.end(), weights.begin(), weights.end());
  }
  return out;
}

constexpr int widest_taps = 129;  // beyond it the weights of all pixels would take more memory than the picture

/// The Gaussian as a scaling by one, in vector code, in the picture's depth or as floats; nothing where it is too wide.
std::optional<Image> smoothed(const Image& image, double radius, Depth depth, const Job& job) {
  const std::vector<float> weights = gaussian_weights(radius);
  if (static_cast<int>(weights.size()) > widest_taps) return std::nullopt;
  ScalePlan plan;
  plan.source = &image;
  plan.edge = Edge::extend;
  plan.region = {0, 0, image.width(), image.height()};
  plan.columns = same_taps(weights, image.width());
  plan.rows = same_taps(weights, image.height());
  Image out(image.width(), image.height(), image.bands(), depth, Image::Start::unset);
  constexpr int tile_width = 1024, tile_height = 64;
  const int across = (image.width() + tile_width - 1) / tile_width,
            down = (image.height() + tile_height - 1) / tile_height;
  parallel_for(across * down, job, [&](int index) {
    const int x = index % across * tile_width, y = index / across * tile_height;
    scale_tile(plan, x, y, std::min(x + tile_width, image.width()), std::min(y + tile_height, image.height()), Clip(),
               out);
  });
  return out;
}

/// Calls write(band, y, sums) for every row of the Gaussian: first along rows, then across them, in strips.
template <class Write>
void smooth(const Image& image, double radius, const Job& job, const Write& write) {
  const std::vector<float> weights = gaussian_weights(radius);
  const int reach = static_cast<int>(weights.size()) / 2, width = image.width(), height = image.height();
  const int strip = std::max(32, 2 * reach), strips = (height + strip - 1) / strip;
  const auto columns = static_cast<std::size_t>(width);
  parallel_for(strips * image.bands(), job, [&](int index) {
    const int band = index / strips, y0 = index % strips * strip, y1 = std::min(y0 + strip, height);
    const int first = std::max(0, y0 - reach), last = std::min(height, y1 + reach);
    std::vector<float> lines(columns * static_cast<std::size_t>(last - first)), wide, sums(columns);
    for (int y = first; y < last; ++y) {
      visit_depth(image.depth(), [&](auto sample) { widen(image.row<decltype(sample)>(band, y), width, reach, wide); });
      float* out = lines.data() + columns * static_cast<std::size_t>(y - first);
      for (std::size_t k = 0; k < weights.size(); ++k)
        for (std::size_t x = 0; x < columns; ++x) out[x] += weights[k] * wide[x + k];
    }
    for (int y = y0; y < y1; ++y) {
      std::ranges::fill(sums, 0.0F);
      for (int k = -reach; k <= reach; ++k) {
        const float weight = weights[static_cast<std::size_t>(k + reach)];
        const float* line = lines.data() + columns * static_cast<std::size_t>(std::clamp(y + k, 0, height - 1) - first);
        for (std::size_t x = 0; x < columns; ++x) sums[x] += weight * line[x];
      }
      write(band, y, sums.data());
    }
  });
}

}  // namespace

double Grid::sum() const {
  double out = 0;
  for (const double v : numbers) out += v;
  return out;
}

Image chosen_bands(const Image& image, const std::vector<int>& bands) {
  Image out(image.width(), image.height(), static_cast<int>(bands.size()), image.depth(), Image::Start::unset);
  for (std::size_t i = 0; i < bands.size(); ++i)
    for (int y = 0; y < image.height(); ++y)
      std::memcpy(out.bytes(static_cast<int>(i), y), image.bytes(bands[i], y), image.row_bytes());
  copy_mask(image, out);
  return out;
}

Image weighed_bands(const Image& image, const std::vector<double>& weights, const Job& job) {
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
    });
  });
  copy_mask(image, out);
  return out;
}

Image gaussian(const Image& image, double radius, const Job& job) {
  if (auto made = smoothed(image, radius, image.depth(), job)) {
    copy_mask(image, *made);
    return std::move(*made);
  }
  Image out(image.width(), image.height(), image.bands(), image.depth(), Image::Start::unset);
  smooth(image, radius, job, [&](int band, int y, const float* sums) {
    visit_depth(image.depth(), [&](auto sample) {
      std::int64_t none = 0;
      auto* row = out.row<decltype(sample)>(band, y);
      for (int x = 0; x < image.width(); ++x) row[x] = to_sample<decltype(sample)>(sums[x], none);
    });
  });
  copy_mask(image, out);
  return out;
}

Image highpass(const Image& image, double radius, const Job& job) {
  Image out(image.width(), image.height(), image.bands(), image.depth(), Image::Start::unset);
  const float middle = image.depth() == Depth::u8 ? 128 : image.depth() == Depth::u16 ? 32768 : 0;
  const auto subtract = [&](int band, int y, const float* sums) {
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      std::int64_t none = 0;
      const T* in = image.row<T>(band, y);
      T* row = out.row<T>(band, y);
      for (int x = 0; x < image.width(); ++x) row[x] = to_sample<T>(static_cast<float>(in[x]) - sums[x] + middle, none);
    });
  };
  if (const auto mean = smoothed(image, radius, Depth::f32, job.part(0, 0.8)))
    parallel_for(image.height(), job.part(0.8, 1), [&](int y) {
      for (int band = 0; band < image.bands(); ++band) subtract(band, y, mean->row<float>(band, y));
    });
  else
    smooth(image, radius, job, subtract);
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

}  // namespace fexel
