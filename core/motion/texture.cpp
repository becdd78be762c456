#include "motion/texture.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/statistics.h"
#include "motion/subset.h"

namespace fexel {

std::vector<double> predicted_uncertainty(const MotionFrame& frame, const MotionGrid& grid, int size, double noise,
                                          const Job& job) {
  std::vector<double> out(grid.count(), std::numeric_limits<double>::infinity());
  constexpr double most_noise = 0.7;  // share of the gradient's energy
  parallel_for(grid.rows, job, [&](int row) {
    SubsetMatcher matcher(size);
    for (int c = 0; c < grid.columns; ++c) {
      const auto i = static_cast<std::size_t>(row * grid.columns + c);
      if (grid.used[i] == 0 || !matcher.take(frame, grid.at(i))) continue;
      const SubsetTexture texture = matcher.texture(noise);
      if (texture.noise_share < most_noise)
        out[i] = noise * std::max(texture.sigma_per_noise.x, texture.sigma_per_noise.y);
    }
  });
  return out;
}

double share_within(const MotionGrid& grid, const std::vector<double>& predicted, double wanted) {
  double used = 0, good = 0;
  for (std::size_t i = 0; i < grid.count(); ++i) {
    if (grid.used[i] == 0) continue;
    ++used;
    good += predicted[i] <= wanted;
  }
  return used > 0 ? good / used : 0;
}

std::optional<int> proposed_size(const MotionFrame& frame, const MotionGrid& grid, double noise, double wanted,
                                 const Job& job) {
  // A few hundred points say it.
  constexpr int enough = 400;
  MotionGrid sample = grid;
  const int every = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(grid.count()) / enough)));
  sample.step_x *= every;
  sample.step_y *= every;
  sample.columns = (grid.columns + every - 1) / every;
  sample.rows = (grid.rows + every - 1) / every;
  sample.used.clear();
  for (int r = 0; r < sample.rows; ++r)
    for (int c = 0; c < sample.columns; ++c)
      sample.used.push_back(grid.used[static_cast<std::size_t>(r * every * grid.columns + c * every)]);
  constexpr int largest = 101;
  constexpr double most = 0.95;
  std::vector<char> findable(sample.count(), 0);  // at this size or a smaller one
  for (int size = 9; size <= largest; size += 2) {
    const std::vector<double> now = predicted_uncertainty(frame, sample, size, noise, {job.stop, {}});
    double good = 0, all = 0;
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (std::isfinite(now[i])) findable[i] = 1;
      const Point at = sample.at(i);
      const double half = size / 2.0;  // one without room does not count
      if (at.x < half || at.y < half || at.x > frame.size().width - half || at.y > frame.size().height - half) continue;
      all += findable[i] != 0;
      good += now[i] <= wanted;
    }
    if (good > 0 && good >= most * all) return size;
    if (job.progress) job.progress(static_cast<double>(size) / largest);
  }
  return std::nullopt;
}

double noise_between(const MotionFrame& a, const MotionFrame& b) {
  // Second differences of the difference leave little of a change of light; medians little of what moved.
  std::vector<double> sizes;
  const Size size{std::min(a.size().width, b.size().width), std::min(a.size().height, b.size().height)};
  constexpr int margin = 3, at_most = 200000;
  const int every = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(size.width) * size.height / at_most)));
  for (int y = margin; y < size.height - margin; y += every)
    for (int x = margin; x < size.width - margin; x += every) {
      if (!a.counts(x, y) || !b.counts(x, y)) continue;
      const auto d = [&](int k) {
        return static_cast<double>(a.plane().row<float>(0, y)[x + k]) -
               static_cast<double>(b.plane().row<float>(0, y)[x + k]);
      };
      sizes.push_back(std::abs(d(-1) - 2 * d(0) + d(1)));
    }
  // The median of a normal number's size is 0.6745 deviations; the second difference has six variances of a difference
  // that has two of a frame.
  return sizes.empty() ? 0 : median(sizes) / 0.6745 / std::sqrt(12.0);
}

double noise_at_most(const MotionFrame& frame, const MotionFrame* beside) {
  return beside ? std::min(frame.noise(), noise_between(frame, *beside)) : frame.noise();
}

}  // namespace fexel
