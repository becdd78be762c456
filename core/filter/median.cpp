#include <algorithm>
#include <cmath>

#include "filter/filter.h"

namespace fexel {
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

/// The median of nine by exchanges, for radius 1, which is asked most (J. L. Smith, 1996, "Implementing median
/// filters").
template <class T>
void median_of_nine_row(const Image& image, int band, int y, T* out) {
  const T* rows[3];
  for (int j = 0; j < 3; ++j) rows[j] = image.row<T>(band, std::clamp(y + j - 1, 0, image.height() - 1));
  const int last = image.width() - 1;
  const auto at = [&](int x) {
    const int left = std::max(x - 1, 0), right = std::min(x + 1, last);
    T v[9] = {rows[0][left],  rows[0][x],    rows[0][right], rows[1][left], rows[1][x],
              rows[1][right], rows[2][left], rows[2][x],     rows[2][right]};
    const auto order = [&](int a, int b) {
      const T low = std::min(v[a], v[b]), high = std::max(v[a], v[b]);
      v[a] = low, v[b] = high;
    };
    order(1, 2), order(4, 5), order(7, 8), order(0, 1), order(3, 4), order(6, 7), order(1, 2), order(4, 5);
    order(7, 8), order(0, 3), order(5, 8), order(4, 7), order(3, 6), order(1, 4), order(2, 5), order(4, 7);
    order(4, 2), order(6, 4), order(4, 2);
    return v[4];
  };
  for (int x = 0; x <= last; ++x) out[x] = at(x);
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
      } else if (radius == 1) {
        for (int y = y0; y < y1; ++y) median_of_nine_row<T>(image, band, y, out.row<T>(band, y));
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
