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

constexpr int lanes = 64;  // pixels at a time, so that the compiler can use vectors

template <class T>
struct Lanes {
  T v[lanes];
};
template <class T>
inline void order(Lanes<T>& a, Lanes<T>& b) {
  for (int i = 0; i < lanes; ++i) {
    const T low = std::min(a.v[i], b.v[i]), high = std::max(a.v[i], b.v[i]);
    a.v[i] = low;
    b.v[i] = high;
  }
}

/// The median of `count` numbers, an odd count, in every lane: the smallest and the largest of more than half of them
/// cannot be it and are forgotten, and one more is looked at (J. L. Smith, 1996, "Implementing median filters").
template <class T, int count>
Lanes<T> median_of(const Lanes<T>* all) {
  constexpr int held = count / 2 + 2;
  Lanes<T> some[held];
  std::copy(all, all + held, some);
  // The held ones shrink by one each round: two are forgotten, one comes.
  for (int size = held, next = held;; --size) {
    for (int i = 0; i < size / 2; ++i) order(some[i], some[size - 1 - i]);
    for (int i = 1; i < (size + 1) / 2; ++i) order(some[0], some[i]);
    for (int i = size / 2; i < size - 1; ++i) order(some[i], some[size - 1]);
    if (size == 3) return some[1];
    some[0] = all[next++];  // in the place of the smallest; the largest is left behind
  }
}

/// A row by exchanges, for radius 1 and 2, which are asked most.
template <class T, int radius>
void exchanged_row(const Image& image, int band, int y, T* out) {
  constexpr int side = 2 * radius + 1;
  const int width = image.width();
  std::vector<T> rows[side];
  for (int j = 0; j < side; ++j) {
    const T* in = image.row<T>(band, std::clamp(y + j - radius, 0, image.height() - 1));
    rows[j].assign(static_cast<std::size_t>(width + 2 * radius + lanes), in[width - 1]);
    std::fill_n(rows[j].begin(), radius, in[0]);
    std::copy_n(in, width, rows[j].begin() + radius);
  }
  Lanes<T> values[side * side];
  for (int x = 0; x < width; x += lanes) {
    for (int j = 0; j < side; ++j)
      for (int i = 0; i < side; ++i) std::copy_n(rows[j].data() + x + i, lanes, values[j * side + i].v);
    const Lanes<T> made = median_of<T, side * side>(values);
    std::copy_n(made.v, std::min(lanes, width - x), out + x);
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
      } else if (radius == 1) {
        for (int y = y0; y < y1; ++y) exchanged_row<T, 1>(image, band, y, out.row<T>(band, y));
      } else if (radius == 2) {
        for (int y = y0; y < y1; ++y) exchanged_row<T, 2>(image, band, y, out.row<T>(band, y));
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
