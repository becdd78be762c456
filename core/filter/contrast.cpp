#include <algorithm>
#include <cmath>

#include "filter/filter.h"

namespace fexel {
namespace {

constexpr int levels = 1024;

/// From old to new value, both 0 to 1, in `levels` even steps.
using Levels = std::vector<float>;

Levels curve_of(const std::vector<double>& counts, double limit) {
  double all = 0;
  for (const double c : counts) all += c;
  const double most = limit * all / levels;
  std::vector<double> cut = counts;
  double over = 0;
  for (double& c : cut) {
    over += std::max(0.0, c - most);
    c = std::min(c, most);
  }
  Levels out(levels + 1);
  double sum = 0;
  for (std::size_t i = 0; i < levels; ++i) {
    out[i] = static_cast<float>(sum / all);
    sum += cut[i] + over / levels;
  }
  out[levels] = 1;
  return out;
}

float looked_up(const float* curve, std::size_t i, float part) {
  return curve[i] + part * (curve[i + 1] - curve[i]);
}

/// Between which two tiles' middles a column or line lies, and how far on.
struct Between {
  int first, second;
  float part;
};
std::vector<Between> between(int count, double tile, int tiles) {
  std::vector<Between> out;
  for (int k = 0; k < count; ++k) {
    const double at = std::clamp((k + 0.5) / tile - 0.5, 0.0, tiles - 1.0);
    const int first = std::min(static_cast<int>(at), std::max(0, tiles - 2));
    out.push_back({first, std::min(first + 1, tiles - 1), static_cast<float>(at - first)});
  }
  return out;
}

/// The mean of the bands in each pixel of a row, 0 to 1 between low and high.
template <class T>
void means(const Image& image, int y, float low, float high, std::vector<float>& out) {
  out.assign(static_cast<std::size_t>(image.width()), 0);
  for (int band = 0; band < image.bands(); ++band) {
    const T* row = image.row<T>(band, y);
    for (std::size_t x = 0; x < out.size(); ++x) out[x] += static_cast<float>(row[x]);
  }
  const float scale = 1 / (high - low) / static_cast<float>(image.bands());
  for (float& v : out) v = v * scale - low / (high - low);
}

std::pair<float, float> range_of(const Image& image) {
  if (image.depth() == Depth::u8) return {0, 255};
  if (image.depth() == Depth::u16) return {0, 65535};
  float low = 1e30F, high = -1e30F;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x)
        if (const float v = image.row<float>(band, y)[x]; std::isfinite(v) && image.valid(x, y)) {
          low = std::min(low, v);
          high = std::max(high, v);
        }
  return high > low ? std::pair(low, high) : std::pair(0.0F, 1.0F);
}

}  // namespace

Image equalised(const Image& image, int tile, double limit, const Job& job) {
  const auto [low, high] = range_of(image);
  const int across = std::max(1, (image.width() + tile / 2) / tile),
            down = std::max(1, (image.height() + tile / 2) / tile);
  const double tile_w = double(image.width()) / across, tile_h = double(image.height()) / down;
  Image out(image.width(), image.height(), image.bands(), image.depth(), Image::Start::unset);
  std::vector<Levels> curves(static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    parallel_for(down, job.part(0, 0.4), [&](int j) {
      std::vector<std::vector<double>> counts(static_cast<std::size_t>(across), std::vector<double>(levels));
      std::vector<float> row;
      std::vector<std::size_t> tile_of;
      for (int x = 0; x < image.width(); ++x)
        tile_of.push_back(static_cast<std::size_t>(std::min(x / tile_w, across - 1.0)));
      for (int y = static_cast<int>(j * tile_h); y < static_cast<int>((j + 1) * tile_h); ++y) {
        means<T>(image, y, low, high, row);
        for (int x = 0; x < image.width(); ++x) {
          const float v = row[static_cast<std::size_t>(x)];
          if (!image.valid(x, y) || std::isnan(v)) continue;
          counts[tile_of[static_cast<std::size_t>(x)]][std::min(
              static_cast<std::size_t>(std::clamp(v, 0.0F, 1.0F) * levels), static_cast<std::size_t>(levels - 1))] += 1;
        }
      }
      for (int i = 0; i < across; ++i) {
        auto& own = counts[static_cast<std::size_t>(i)];
        if (std::ranges::all_of(own, [](double c) { return c == 0; })) std::ranges::fill(own, 1.0);  // nothing to even
        curves[static_cast<std::size_t>(j * across + i)] = curve_of(own, limit);
      }
    });
    const std::vector<Between> columns = between(image.width(), tile_w, across),
                               lines = between(image.height(), tile_h, down);
    constexpr int strip = 16;
    parallel_for((image.height() + strip - 1) / strip, job.part(0.4, 1), [&](int index) {
      constexpr std::size_t size = levels + 1;
      std::vector<float> row, own(static_cast<std::size_t>(across) * size);  // each tile column's curve at this line
      for (int y = index * strip; y < std::min((index + 1) * strip, image.height()); ++y) {
        means<T>(image, y, low, high, row);
        const Between line = lines[static_cast<std::size_t>(y)];
        for (int i = 0; i < across; ++i) {
          const float* upper = curves[static_cast<std::size_t>(line.first * across + i)].data();
          const float* lower = curves[static_cast<std::size_t>(line.second * across + i)].data();
          float* to = own.data() + static_cast<std::size_t>(i) * size;
          for (std::size_t k = 0; k < size; ++k) to[k] = upper[k] + line.part * (lower[k] - upper[k]);
        }
        std::int64_t none = 0;
        for (int x = 0; x < image.width(); ++x) {
          const Between& column = columns[static_cast<std::size_t>(x)];
          const float old = row[static_cast<std::size_t>(x)], at = std::clamp(old, 0.0F, 1.0F) * levels;
          const int level = at == at ? std::min(static_cast<int>(at), levels - 1) : 0;  // NaN stays NaN by its part
          const float part = at - static_cast<float>(level);
          const float left = looked_up(own.data() + static_cast<std::size_t>(column.first) * size,
                                       static_cast<std::size_t>(level), part);
          const float right = looked_up(own.data() + static_cast<std::size_t>(column.second) * size,
                                        static_cast<std::size_t>(level), part);
          const float made = left + column.part * (right - left);
          if (image.bands() == 1) {
            out.row<T>(0, y)[x] = to_sample<T>(low + made * (high - low), none);
            continue;
          }
          for (int band = 0; band < image.bands(); ++band) {
            const auto value = (static_cast<float>(image.row<T>(band, y)[x]) - low) / (high - low);
            out.row<T>(band, y)[x] = to_sample<T>(low + (old > 0 ? value * made / old : made) * (high - low), none);
          }
        }
      }
    });
  });
  copy_mask(image, out);
  return out;
}

}  // namespace fexel
