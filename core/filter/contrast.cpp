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

float looked_up(const Levels& curve, float v) {
  const float at = std::clamp(v, 0.0F, 1.0F) * levels;
  const auto i = std::min(static_cast<std::size_t>(at), static_cast<std::size_t>(levels - 1));
  return curve[i] + (at - static_cast<float>(i)) * (curve[i + 1] - curve[i]);
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
      for (int y = static_cast<int>(j * tile_h); y < static_cast<int>((j + 1) * tile_h); ++y) {
        means<T>(image, y, low, high, row);
        for (int x = 0; x < image.width(); ++x) {
          const float v = row[static_cast<std::size_t>(x)];
          if (!image.valid(x, y) || std::isnan(v)) continue;
          const auto i = static_cast<std::size_t>(std::min(x / tile_w, across - 1.0));
          counts[i][std::min(static_cast<std::size_t>(std::clamp(v, 0.0F, 1.0F) * levels),
                             static_cast<std::size_t>(levels - 1))] += 1;
        }
      }
      for (int i = 0; i < across; ++i) {
        auto& own = counts[static_cast<std::size_t>(i)];
        if (std::ranges::all_of(own, [](double c) { return c == 0; })) std::ranges::fill(own, 1.0);  // nothing to even
        curves[static_cast<std::size_t>(j * across + i)] = curve_of(own, limit);
      }
    });
    parallel_for(image.height(), job.part(0.4, 1), [&](int y) {
      std::vector<float> row;
      means<T>(image, y, low, high, row);
      const double v = std::clamp((y + 0.5) / tile_h - 0.5, 0.0, down - 1.0);
      const int j = std::min(static_cast<int>(v), std::max(0, down - 2)), j1 = std::min(j + 1, down - 1);
      const auto t = static_cast<float>(v - j);
      std::int64_t none = 0;
      for (int x = 0; x < image.width(); ++x) {
        const double u = std::clamp((x + 0.5) / tile_w - 0.5, 0.0, across - 1.0);
        const int i = std::min(static_cast<int>(u), std::max(0, across - 2)), i1 = std::min(i + 1, across - 1);
        const auto s = static_cast<float>(u - i);
        const float old = row[static_cast<std::size_t>(x)];
        const auto curve = [&](int column, int line) {
          return looked_up(curves[static_cast<std::size_t>(line * across + column)], old);
        };
        const float made =
            (1 - t) * ((1 - s) * curve(i, j) + s * curve(i1, j)) + t * ((1 - s) * curve(i, j1) + s * curve(i1, j1));
        for (int band = 0; band < image.bands(); ++band) {
          const auto value = (static_cast<float>(image.row<T>(band, y)[x]) - low) / (high - low);
          const float own = image.bands() == 1 ? made : old > 0 ? value * made / old : made;
          out.row<T>(band, y)[x] = to_sample<T>(low + own * (high - low), none);
        }
      }
    });
  });
  copy_mask(image, out);
  return out;
}

}  // namespace fexel
