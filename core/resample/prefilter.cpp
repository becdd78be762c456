#include "resample/prefilter.h"

#include <cmath>

namespace fexel {
namespace {

const auto pole = static_cast<float>(std::sqrt(3.0) - 2);
constexpr int block = 64;  // columns that are filtered side by side

/// Second differences of a line, filtered there and back with the pole: what has to be added to the samples. `line`
/// holds count + 2 samples, `change` count numbers, both with `block` lines interleaved or one alone.
template <int lines>
void change_of(const float* line, int count, float* change) {
  float last[lines] = {};
  for (int k = 0; k < count; ++k)
    for (int i = 0; i < lines; ++i) {
      const float before = line[k * lines + i], here = line[(k + 1) * lines + i], behind = line[(k + 2) * lines + i];
      last[i] = (before - here) + (behind - here) + pole * last[i];
      change[k * lines + i] = last[i];
    }
  for (int i = 0; i < lines; ++i) last[i] = change[(count - 1) * lines + i] / (1 - pole * pole);
  for (int k = count - 1; k >= 0; --k)
    for (int i = 0; i < lines; ++i) {
      if (k + 1 < count) last[i] = change[k * lines + i] + pole * last[i];
      change[k * lines + i] = pole * last[i];
    }
}

/// One row of samples, longer by the margin and one more at both ends.
template <class T>
void extended_row(const T* row, int width, Edge edge, std::vector<float>& line) {
  constexpr int more = prefilter_margin + 1;
  for (int i = -more; i < 0; ++i)
    line[static_cast<std::size_t>(i + more)] = static_cast<float>(row[folded(i, width, edge)]);
  for (int i = 0; i < width; ++i) line[static_cast<std::size_t>(i + more)] = static_cast<float>(row[i]);
  for (int i = width; i < width + more; ++i)
    line[static_cast<std::size_t>(i + more)] = static_cast<float>(row[folded(i, width, edge)]);
}

}  // namespace

Image spline_coefficients(const Image& samples, Edge edge, const Job& job) {
  const int width = samples.width() + 2 * prefilter_margin;
  const int height = samples.height() + 2 * prefilter_margin;
  Image out(width, height, samples.bands(), Depth::f32);
  parallel_for(samples.height(), job.part(0, 0.5), [&](int y) {
    std::vector<float> line(static_cast<std::size_t>(width) + 2), change(static_cast<std::size_t>(width));
    for (int band = 0; band < samples.bands(); ++band) {
      visit_depth(samples.depth(), [&](auto sample) {
        extended_row(samples.row<decltype(sample)>(band, y), samples.width(), edge, line);
      });
      change_of<1>(line.data(), width, change.data());
      float* row = out.row<float>(band, y + prefilter_margin);
      for (int x = 0; x < width; ++x)
        row[x] = line[static_cast<std::size_t>(x) + 1] + change[static_cast<std::size_t>(x)];
    }
  });
  const int blocks = (width + block - 1) / block;
  parallel_for(blocks * samples.bands(), job.part(0.5, 1), [&](int index) {
    const int band = index / blocks;
    const int x0 = index % blocks * block;
    const int columns = std::min(block, width - x0);
    std::vector<float> line((static_cast<std::size_t>(height) + 2) * block);
    std::vector<float> change(static_cast<std::size_t>(height) * block);
    for (int k = 0; k < height + 2; ++k) {
      const int y = folded(k - 1 - prefilter_margin, samples.height(), edge);
      const float* row = out.row<float>(band, y + prefilter_margin) + x0;
      std::copy(row, row + columns, line.begin() + static_cast<std::ptrdiff_t>(k) * block);
    }
    change_of<block>(line.data(), height, change.data());
    for (int y = 0; y < height; ++y) {
      float* row = out.row<float>(band, y) + x0;
      const float* sample = line.data() + static_cast<std::ptrdiff_t>(y + 1) * block;
      const float* more = change.data() + static_cast<std::ptrdiff_t>(y) * block;
      for (int x = 0; x < columns; ++x) row[x] = sample[x] + more[x];
    }
  });
  return out;
}

}  // namespace fexel
