#include <algorithm>
#include <array>
#include <bit>
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

/// Where a value between 0 and 1 stands on a curve.
struct Standing {
  std::size_t level;
  float part;
};
Standing standing(float value) {
  const float at = std::clamp(value, 0.0F, 1.0F) * levels;
  const auto level = at == at ? std::min(static_cast<std::size_t>(at), std::size_t{levels - 1}) : 0;  // NaN stays NaN
  return {level, at - static_cast<float>(level)};
}

float looked_up(const float* curve, Standing at) {
  return curve[at.level] + at.part * (curve[at.level + 1] - curve[at.level]);
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
  if (image.depth() != Depth::f32) return {0.0F, static_cast<float>(image.largest())};
  const auto range = range_of_data(image);
  return range && range->second > range->first
             ? std::pair(static_cast<float>(range->first), static_cast<float>(range->second))
             : std::pair(0.0F, 1.0F);
}

/// The tiles of a picture, and where its columns and lines lie between their middles.
struct Tiles {
  int across, down;
  double width, height;
  std::vector<Between> columns, lines;
  Tiles(const Image& image, int tile)
      : across(std::max(1, (image.width() + tile / 2) / tile)),
        down(std::max(1, (image.height() + tile / 2) / tile)),
        width(double(image.width()) / across),
        height(double(image.height()) / down),
        columns(between(image.width(), width, across)),
        lines(between(image.height(), height, down)) {}
  std::vector<std::size_t> tile_of_columns() const {
    std::vector<std::size_t> out;
    for (std::size_t x = 0; x < columns.size(); ++x)
      out.push_back(static_cast<std::size_t>(std::min(static_cast<double>(x) / width, across - 1.0)));
    return out;
  }
};

constexpr int strip = 16;  // lines that are done together
constexpr std::size_t byte_values = 256;

/// One band of bytes: there are so few values that each tile's curve is a table of them.
void equalise_bytes(const Image& image, const Tiles& tiles, double limit, const Job& job, Image& out) {
  std::array<Standing, byte_values> places;
  for (std::size_t v = 0; v < byte_values; ++v) places[v] = standing(static_cast<float>(v) / 255);
  const auto across = static_cast<std::size_t>(tiles.across);
  std::vector<float> curves(across * static_cast<std::size_t>(tiles.down) * byte_values);
  const std::vector<std::size_t> tile_of = tiles.tile_of_columns();
  parallel_for(tiles.down, job.part(0, 0.4), [&](int j) {
    std::vector<int> counts(across * byte_values);
    for (int y = static_cast<int>(j * tiles.height); y < static_cast<int>((j + 1) * tiles.height); ++y) {
      const std::uint8_t* row = image.row<std::uint8_t>(0, y);
      for (int x = 0; x < image.width(); ++x)
        counts[tile_of[static_cast<std::size_t>(x)] * byte_values + row[x]] += image.valid(x, y) ? 1 : 0;
    }
    for (std::size_t i = 0; i < across; ++i) {
      const int* own = counts.data() + i * byte_values;
      const bool any = std::any_of(own, own + byte_values, [](int c) { return c > 0; });
      std::vector<double> spread(levels, any ? 0.0 : 1.0);  // 1: nothing to even
      for (std::size_t v = 0; v < byte_values; ++v) spread[places[v].level] += own[v];
      const Levels curve = curve_of(spread, limit);
      float* to = curves.data() + (static_cast<std::size_t>(j) * across + i) * byte_values;
      for (std::size_t v = 0; v < byte_values; ++v) to[v] = 255 * looked_up(curve.data(), places[v]);
    }
  });
  parallel_for((image.height() + strip - 1) / strip, job.part(0.4, 1), [&](int index) {
    std::vector<float> own(across * byte_values);  // each tile column's table at this line
    for (int y = index * strip; y < std::min((index + 1) * strip, image.height()); ++y) {
      const Between line = tiles.lines[static_cast<std::size_t>(y)];
      const float* upper = curves.data() + static_cast<std::size_t>(line.first) * own.size();
      const float* lower = curves.data() + static_cast<std::size_t>(line.second) * own.size();
      for (std::size_t k = 0; k < own.size(); ++k) own[k] = upper[k] + line.part * (lower[k] - upper[k]);
      const std::uint8_t* in = image.row<std::uint8_t>(0, y);
      std::uint8_t* to = out.row<std::uint8_t>(0, y);
      for (int x = 0; x < image.width(); ++x) {
        const Between& column = tiles.columns[static_cast<std::size_t>(x)];
        const float left = own[static_cast<std::size_t>(column.first) * byte_values + in[x]];
        const float right = own[static_cast<std::size_t>(column.second) * byte_values + in[x]];
        // Between 0 and 255, as the tables are; adding this leaves the nearest whole number, halves to even.
        constexpr float ones = 12582912.0F;
        to[x] = static_cast<std::uint8_t>(std::bit_cast<std::uint32_t>(left + column.part * (right - left) + ones));
      }
    }
  });
}

/// Any depth and bands.
template <class T>
void equalise(const Image& image, const Tiles& tiles, double limit, const Job& job, Image& out) {
  const auto [low, high] = range_of(image);
  const int across = tiles.across;
  std::vector<Levels> curves(static_cast<std::size_t>(across) * static_cast<std::size_t>(tiles.down));
  const std::vector<std::size_t> tile_of = tiles.tile_of_columns();
  parallel_for(tiles.down, job.part(0, 0.4), [&](int j) {
    std::vector<std::vector<double>> counts(static_cast<std::size_t>(across), std::vector<double>(levels));
    std::vector<float> row;
    for (int y = static_cast<int>(j * tiles.height); y < static_cast<int>((j + 1) * tiles.height); ++y) {
      means<T>(image, y, low, high, row);
      for (int x = 0; x < image.width(); ++x) {
        const float v = row[static_cast<std::size_t>(x)];
        if (image.valid(x, y) && !std::isnan(v)) counts[tile_of[static_cast<std::size_t>(x)]][standing(v).level] += 1;
      }
    }
    for (int i = 0; i < across; ++i) {
      auto& own = counts[static_cast<std::size_t>(i)];
      if (std::ranges::all_of(own, [](double c) { return c == 0; })) std::ranges::fill(own, 1.0);  // nothing to even
      curves[static_cast<std::size_t>(j * across + i)] = curve_of(own, limit);
    }
  });
  parallel_for((image.height() + strip - 1) / strip, job.part(0.4, 1), [&](int index) {
    constexpr std::size_t size = levels + 1;
    std::vector<float> row, own(static_cast<std::size_t>(across) * size);  // each tile column's curve at this line
    for (int y = index * strip; y < std::min((index + 1) * strip, image.height()); ++y) {
      means<T>(image, y, low, high, row);
      const Between line = tiles.lines[static_cast<std::size_t>(y)];
      for (int i = 0; i < across; ++i) {
        const float* upper = curves[static_cast<std::size_t>(line.first * across + i)].data();
        const float* lower = curves[static_cast<std::size_t>(line.second * across + i)].data();
        float* to = own.data() + static_cast<std::size_t>(i) * size;
        for (std::size_t k = 0; k < size; ++k) to[k] = upper[k] + line.part * (lower[k] - upper[k]);
      }
      std::int64_t none = 0;
      for (int x = 0; x < image.width(); ++x) {
        const Between& column = tiles.columns[static_cast<std::size_t>(x)];
        const float old = row[static_cast<std::size_t>(x)];
        const Standing at = standing(old);
        const float left = looked_up(own.data() + static_cast<std::size_t>(column.first) * size, at);
        const float right = looked_up(own.data() + static_cast<std::size_t>(column.second) * size, at);
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
}

}  // namespace

Image equalised(const Image& image, int tile, double limit, const Job& job) {
  Image out(image.width(), image.height(), image.bands(), image.depth(), Image::Start::unset);
  const Tiles tiles(image, tile);
  if (image.depth() == Depth::u8 && image.bands() == 1 && image.stated_largest() == 0)
    equalise_bytes(image, tiles, limit, job, out);
  else
    visit_depth(image.depth(), [&](auto sample) { equalise<decltype(sample)>(image, tiles, limit, job, out); });
  copy_mask(image, out);
  return out;
}

}  // namespace fexel
