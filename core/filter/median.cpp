#include <algorithm>
#include <cmath>

#include "filter/filter.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "filter/median.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "filter/median-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(MedianBytes);
HWY_EXPORT(MedianWords);

namespace {

/// Counts of values in two layers: 256 of 256 for u16, 16 of 16 for u8.
template <class T>
class Counts {
 public:
  static constexpr int half = sizeof(T) * 4;
  void clear() {
    std::ranges::fill(fine_, 0);
    std::ranges::fill(coarse_, 0);
  }
  void add(T v) {
    ++fine_[v];
    ++coarse_[static_cast<std::size_t>(v >> half)];
  }
  void take(T v) {
    --fine_[v];
    --coarse_[static_cast<std::size_t>(v >> half)];
  }
  T at(int rank) const {
    std::size_t block = 0;
    while (rank >= coarse_[block]) rank -= coarse_[block++];
    std::size_t v = block << half;
    while (rank >= fine_[v]) rank -= fine_[v++];
    return static_cast<T>(v);
  }

 private:
  std::vector<int> fine_ = std::vector<int>(std::size_t{1} << (2 * half));
  std::vector<int> coarse_ = std::vector<int>(std::size_t{1} << half);
};

/// A row of an integer picture: the window's counts move on by one column at a time.
template <class T>
void median_row(const Image& image, int band, int y, int radius, Counts<T>& counts, T* out) {
  const auto sample = [&](int x, int j) {
    return image.row<T>(band, std::clamp(y + j, 0, image.height() - 1))[std::clamp(x, 0, image.width() - 1)];
  };
  const int side = 2 * radius + 1;
  counts.clear();
  for (int x = -radius; x <= radius; ++x)
    for (int j = -radius; j <= radius; ++j) counts.add(sample(x, j));
  for (int x = 0; x < image.width(); ++x) {
    out[x] = counts.at(side * side / 2);
    for (int j = -radius; j <= radius; ++j) {
      counts.take(sample(x - radius, j));
      counts.add(sample(x + radius + 1, j));
    }
  }
}

void median_row(const Image& image, int band, int y, int radius, float* out) {
  std::vector<float> values;
  for (int x = 0; x < image.width(); ++x) {
    values.clear();
    for (int j = -radius; j <= radius; ++j) {
      const float* row = image.row<float>(band, std::clamp(y + j, 0, image.height() - 1));
      for (int i = -radius; i <= radius; ++i)
        if (const float v = row[std::clamp(x + i, 0, image.width() - 1)]; !std::isnan(v)) values.push_back(v);
    }
    if (values.empty()) {
      out[x] = image.row<float>(band, y)[x];
      continue;
    }
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    out[x] = *middle;
  }
}

/// Rows of an integer picture by exchanges, for radius 1 and 2, which are asked most. Each source row is widened once.
template <class T>
void exchanged_rows(const Image& image, int band, int y0, int y1, int radius, Image& out) {
  constexpr int spare = 64;  // what a vector may read beyond the end
  const int width = image.width(), side = 2 * radius + 1;
  std::vector<std::vector<T>> wide(static_cast<std::size_t>(y1 - y0 + 2 * radius));
  for (std::size_t k = 0; k < wide.size(); ++k) {
    const T* in = image.row<T>(band, std::clamp(y0 - radius + static_cast<int>(k), 0, image.height() - 1));
    wide[k].assign(static_cast<std::size_t>(width + 2 * radius + spare), in[width - 1]);
    std::fill_n(wide[k].begin(), radius, in[0]);
    std::copy_n(in, width, wide[k].begin() + radius);
  }
  for (int y = y0; y < y1; ++y) {
    const T* rows[5];
    for (int j = 0; j < side; ++j) rows[j] = wide[static_cast<std::size_t>(y - y0 + j)].data();
    if constexpr (sizeof(T) == 1)
      HWY_DYNAMIC_DISPATCH(MedianBytes)(rows, radius, width, out.row<T>(band, y));
    else
      HWY_DYNAMIC_DISPATCH(MedianWords)(rows, radius, width, out.row<T>(band, y));
  }
}

}  // namespace

Image median(const Image& image, int radius, const Job& job) {
  Image out(image.width(), image.height(), image.bands(), image.depth(), Image::Start::unset);
  constexpr int strip = 16;
  const int strips = (image.height() + strip - 1) / strip;
  parallel_for(strips * image.bands(), job, [&](int index) {
    const int band = index / strips, y0 = index % strips * strip, y1 = std::min(y0 + strip, image.height());
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      if constexpr (std::is_floating_point_v<T>) {
        for (int y = y0; y < y1; ++y) median_row(image, band, y, radius, out.row<float>(band, y));
      } else if (radius <= 2) {
        exchanged_rows<T>(image, band, y0, y1, radius, out);
      } else {
        Counts<T> counts;
        for (int y = y0; y < y1; ++y) median_row<T>(image, band, y, radius, counts, out.row<T>(band, y));
      }
    });
  });
  copy_mask(image, out);
  return out;
}

}  // namespace fexel
#endif
