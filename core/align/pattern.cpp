#include "align/pattern.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "image/pyramid.h"
#include "resample/warp.h"

namespace fexel {
namespace {

constexpr int least_frames = 5;

double usual_of(const Image& residual) {
  std::vector<float> sizes;
  for (int y = 0; y < residual.height(); y += 3)
    for (int x = 0; x < residual.width(); x += 3)
      if (residual.valid(x, y)) sizes.push_back(std::abs(residual.row<float>(0, y)[x]));
  return sizes.empty() ? 0 : 1.4826 * double(median(std::move(sizes)));
}

}  // namespace

Image less_scene(const Image& frame, const Image& scene, const Match& match, const Job& job) {
  const Size size{frame.width(), frame.height()};
  Image whole = scene.clone();
  paint_empty(whole);
  whole.drop_mask();
  const Pyramid pyramid(std::make_shared<const Image>(std::move(whole)));
  WarpPlan plan;
  plan.inverse_map = match.matrix;
  plan.result = size;
  Clip own;
  own.keep_inside({scene.width(), scene.height()});
  plan.clip = own.through(Map(Matrix3(match.matrix.inverse())));
  Resampling how;
  how.kernel = Kernel::bspline3;
  Image out = warp(pyramid, plan, {0, 0, size.width, size.height}, how, Quality::final, job);
  if (!out.has_mask()) out.make_mask(true);
  const auto gain = static_cast<float>(match.gain), offset = static_cast<float>(match.offset);
  for (int y = 0; y < size.height; ++y) {
    float* row = out.row<float>(0, y);
    const float* from = frame.row<float>(0, y);
    for (int x = 0; x < size.width; ++x) {
      if (!frame.valid(x, y)) out.set_valid(x, y, false);
      row[x] = out.valid(x, y) ? from[x] + (offset - row[x]) / gain : 0;
    }
  }
  return out;
}

std::optional<double> common_share(const std::vector<std::pair<const Image*, const Image*>>& pairs) {
  double common = 0, all = 0;
  for (const auto& [a, b] : pairs) {
    const double top_a = 4 * usual_of(*a), top_b = 4 * usual_of(*b);
    double sum_a = 0, sum_b = 0, product = 0, squares = 0, count = 0;
    for (int y = 0; y < a->height(); ++y)
      for (int x = 0; x < a->width(); ++x) {
        if (!a->valid(x, y) || !b->valid(x, y)) continue;
        const double u = std::clamp(double(a->row<float>(0, y)[x]), -top_a, top_a),
                     v = std::clamp(double(b->row<float>(0, y)[x]), -top_b, top_b);
        sum_a += u;
        sum_b += v;
        product += u * v;
        squares += (u * u + v * v) / 2;
        ++count;
      }
    if (count < 1000) continue;
    const double level = (sum_a * sum_a + sum_b * sum_b) / 2 / count;
    common += product - sum_a * sum_b / count;
    all += squares - level;
  }
  if (!(all > 0)) return std::nullopt;
  return common / all;
}

PatternMean::PatternMean(Size size)
    : size_(size),
      sums_(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height)),
      squares_(sums_.size()),
      counts_(sums_.size()) {}

void PatternMean::add(const Image& residual) {
  std::size_t at = 0;
  for (int y = 0; y < size_.height; ++y)
    for (int x = 0; x < size_.width; ++x, ++at) {
      if (!residual.valid(x, y)) continue;
      const float v = residual.row<float>(0, y)[x];
      sums_[at] += v;
      squares_[at] += v * v;
      ++counts_[at];
    }
}

Image PatternMean::pattern() const {
  Image out(size_.width, size_.height, 1, Depth::f32);
  std::vector<float> variances;
  for (std::size_t at = 0; at < sums_.size(); at += 7)
    if (counts_[at] >= least_frames) {
      const float n = static_cast<float>(counts_[at]), mean = sums_[at] / n;
      variances.push_back((squares_[at] / n - mean * mean) * n / (n - 1));
    }
  if (variances.empty()) return out;
  const double noise = double(median(std::move(variances)));
  std::size_t at = 0;
  for (int y = 0; y < size_.height; ++y)
    for (int x = 0; x < size_.width; ++x, ++at) {
      if (counts_[at] < least_frames) continue;
      const double n = counts_[at], mean = double(sums_[at]) / n, left = noise / n;
      out.row<float>(0, y)[x] = static_cast<float>(mean * mean > left ? mean * (1 - left / (mean * mean)) : 0);
    }
  return out;
}

}  // namespace fexel
