#include "align/prepared.h"

#include <array>
#include <limits>
#include <numeric>

#include "align/periods.h"
#include "align/smoothing.h"
#include "base/error.h"
#include "filter/filter.h"
#include "image/pyramid.h"
#include "resample/kernels/prefilter.h"

namespace fexel {
namespace {

constexpr int coarsest_side = 128;
constexpr int smallest_side = 16;

/// How strongly the samples change, against how strongly they do around there: the length of the gradient of the
/// smoothed plane over the root mean square of it, so that a faint edge counts as much as a stark one but noise does
/// not.
Image structure_of(const Image& plane, const Job& job) {
  const Image smooth = gaussian(plane, 2.4, job);
  Image strength(plane.width(), plane.height(), 1, Depth::f32);
  double total = 0;
  for (int y = 0; y < plane.height(); ++y) {
    const float* up = smooth.row<float>(0, std::max(y - 1, 0));
    const float* here = smooth.row<float>(0, y);
    const float* down = smooth.row<float>(0, std::min(y + 1, plane.height() - 1));
    float* out = strength.row<float>(0, y);
    double row = 0;
    for (int x = 0; x < plane.width(); ++x) {
      const float gx = here[std::min(x + 1, plane.width() - 1)] - here[std::max(x - 1, 0)], gy = down[x] - up[x];
      out[x] = gx * gx + gy * gy;
      row += static_cast<double>(out[x]);
    }
    total += row;
  }
  const auto usual = static_cast<float>(total / plane.width() / plane.height());
  const Image around = gaussian(strength, 32, job);
  for (int y = 0; y < plane.height(); ++y) {
    const float* level = around.row<float>(0, y);
    float* out = strength.row<float>(0, y);
    for (int x = 0; x < plane.width(); ++x)
      out[x] = std::sqrt(out[x] / (std::max(level[x], 0.0F) + 0.05F * usual + 1e-20F));
  }
  copy_mask(plane, strength);
  return strength;
}

struct Spread {
  double mean = 0, deviation = 0;
  std::int64_t count = 0;
};

/// Of every other row and column of the valid pixels.
Spread spread_of(const Image& plane, const Image* use) {
  double sum = 0, squares = 0;
  std::int64_t count = 0;
  const auto first = static_cast<double>(plane.row<float>(0, 0)[0]);
  const bool all = !use && !plane.has_mask();
  std::array<double, 8> s, q;  // side by side, which is faster than one after the other
  for (int y = 0; y < plane.height(); y += 2) {
    const float* row = plane.row<float>(0, y);
    s.fill(0);
    q.fill(0);
    const auto add = [&](int x, std::size_t k) {
      const double v = static_cast<double>(row[x]) - first;
      s[k] += v;
      q[k] += v * v;
      ++count;
    };
    int x = 0;
    for (; all && x + 16 <= plane.width(); x += 16)
      for (std::size_t k = 0; k < 8; ++k) add(x + 2 * static_cast<int>(k), k);
    for (; x < plane.width(); x += 2)
      if (plane.valid(x, y) && (!use || use->valid(x, y))) add(x, 0);
    sum += std::accumulate(s.begin(), s.end(), 0.0);
    squares += std::accumulate(q.begin(), q.end(), 0.0);
  }
  if (count == 0) return {};
  const double mean = sum / static_cast<double>(count);
  return {first + mean, std::sqrt(std::max(0.0, squares / static_cast<double>(count) - mean * mean)), count};
}

/// 1 where there are pixels, 0 elsewhere.
std::shared_ptr<const Image> presence(const Image& plane) {
  Image out(plane.width(), plane.height(), 1, Depth::f32);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out.row<float>(0, y)[x] = plane.valid(x, y) ? 1.0F : 0.0F;
  return std::make_shared<const Image>(std::move(out));
}

}  // namespace

PreparedFrame::PreparedFrame(const Image& frame, int band, SimilarityMetric likeness, const Image* use, Role role,
                             const Job& job, double smoothing)
    : size_{frame.width(), frame.height()}, smoothing_(smoothing), role_(role) {
  if (std::min(size_.width, size_.height) < smallest_side)
    throw input_error("The frame is smaller than 16 pixels; there is nothing to match in it.", {},
                      "Leave the frame out, or use a larger picture.");
  if (band > frame.bands())
    throw call_error("The frame does not have this band.", {}, "Choose a band that every frame has.");
  Image plane = plane_of(frame, band, job);
  if (likeness == SimilarityMetric::structure) plane = structure_of(plane, job);
  if (smoothing > 0) plane = gaussian(plane, 2 * smoothing, job);  // its radius is two standard deviations
  Image counted;
  if (use) {
    if (use->width() != size_.width || use->height() != size_.height)
      throw call_error("The mask is not as large as the frame.", {}, "Give a mask of the frame's size.");
    counted = Image(size_.width, size_.height, 1, Depth::u8);
    counted.make_mask(true);
    for (int y = 0; y < size_.height; ++y)
      visit_depth(use->depth(), [&](auto sample) {
        const auto* row = use->row<decltype(sample)>(0, y);
        for (int x = 0; x < size_.width; ++x)
          if (row[x] == 0 || !use->valid(x, y)) counted.set_valid(x, y, false);
      });
  }
  if (use) used_share_ = 1 - empty_share(counted);
  const Spread spread = spread_of(plane, use ? &counted : nullptr);
  if (spread.count < smallest_side * smallest_side / 4)
    throw input_error("None of the frame's pixels counts.", {}, "Widen the region or the mask.");
  if (!(spread.deviation > 1e-6 * (1 + std::abs(spread.mean))))
    throw input_error("The frame has no texture: every pixel is the same.", {},
                      "Leave the frame out, or match on another region or band.");
  mean_ = spread.mean;
  spread_ = spread.deviation;
  const auto mean = static_cast<float>(mean_), scale = static_cast<float>(1 / spread_);
  for (int y = 0; y < size_.height; ++y) {
    float* row = plane.row<float>(0, y);
    for (int x = 0; x < size_.width; ++x) row[x] = (row[x] - mean) * scale;
  }
  constexpr int side = 256;
  const Size looked{std::min(side, size_.width), std::min(side, size_.height)};
  noise_ = noise_in(
      plane, {(size_.width - looked.width) / 2, (size_.height - looked.height) / 2, looked.width, looked.height});
  levels_.emplace_back().plane = std::make_shared<const Image>(std::move(plane));
  if (use) levels_.back().use = std::make_shared<const Image>(std::move(counted));
  for (;;) {
    const Level& last = levels_.back();
    if (std::max(last.plane->width(), last.plane->height()) <= coarsest_side ||
        std::min(last.plane->width(), last.plane->height()) < 2 * smallest_side)
      break;
    Level next;
    next.plane = std::make_shared<const Image>(halved(*last.plane, job));
    if (last.use) next.use = std::make_shared<const Image>(halved(*last.use, job));
    levels_.push_back(std::move(next));
  }
  for (std::size_t k = 0; k < levels_.size(); ++k) {
    Level& level = levels_[k];
    level.gradient_noise = gradient_noise_of(this->smoothing(static_cast<int>(k)));
    if (level.plane->has_mask()) level.there = presence(*level.plane);
    if (role == Role::moved) continue;
    level.reference = std::make_shared<const Image>(bordered(level));
    level.gradient = std::make_shared<const Image>(gradient_of(*level.reference, job));
  }
  if (role != Role::reference)
    coefficients_ = std::make_shared<const Image>(spline_coefficients(this->plane(0), BorderMode::mirror_once, job));
}

const PreparedFrame& PreparedFrame::softer(const Job& job) const {
  std::call_once(softened_, [&] {
    const double wanted = std::max(1.3, 1.6 * smoothing_);
    const double more = std::sqrt(wanted * wanted - smoothing_ * smoothing_);
    const Level& whole = levels_.front();
    Image use;
    if (whole.use) {
      use = Image(size_.width, size_.height, 1, Depth::u8);
      for (int y = 0; y < size_.height; ++y)
        for (int x = 0; x < size_.width; ++x) use.row<std::uint8_t>(0, y)[x] = whole.use->valid(x, y) ? 1 : 0;
    }
    softer_ = std::make_unique<const PreparedFrame>(*whole.plane, 0, SimilarityMetric::brightness,
                                                    whole.use ? &use : nullptr, role_, job, more);
  });
  return *softer_;
}

const std::vector<Point>& PreparedFrame::periods(const FftPlans& transforms) const {
  std::call_once(looked_, [&] { periods_ = periods_in(reference(0), left, above, size_, transforms); });
  return periods_;
}

Size PreparedFrame::size(int level) const {
  const Image& at = plane(level);
  return {at.width(), at.height()};
}

Image PreparedFrame::bordered(const Level& level) {
  const Image& plane = *level.plane;
  constexpr float nothing = std::numeric_limits<float>::quiet_NaN();
  // Sums are taken over blocks of up to 32 columns, and look one pixel farther.
  Image out(left + (plane.width() + 31) / 32 * 32 + 16, plane.height() + 2 * above, 1, Depth::f32, Image::Start::unset);
  for (int y = 0; y < out.height(); ++y) {
    float* row = out.row<float>(0, y);
    std::fill(row, row + out.width(), nothing);
    const int from = y - above;
    if (from < 0 || from >= plane.height()) continue;
    std::copy_n(plane.row<float>(0, from), plane.width(), row + left);
    if (plane.has_mask() || level.use)
      for (int x = 0; x < plane.width(); ++x)
        if (!plane.valid(x, from) || (level.use && !level.use->valid(x, from))) row[left + x] = nothing;
  }
  return out;
}

Image PreparedFrame::gradient_of(const Image& plane, const Job& job) {
  Image out(plane.width(), plane.height(), 2, Depth::f32, Image::Start::unset);
  constexpr float nothing = std::numeric_limits<float>::quiet_NaN();
  constexpr int strip = 64;
  parallel_for((plane.height() + strip - 1) / strip, job, [&](int index) {
    for (int y = index * strip; y < std::min((index + 1) * strip, plane.height()); ++y) {
      float *along = out.row<float>(0, y), *down = out.row<float>(1, y);
      if (y == 0 || y + 1 == plane.height()) {
        std::fill(along, along + out.width(), nothing);
        std::fill(down, down + out.width(), nothing);
        continue;
      }
      const float *p = plane.row<float>(0, y - 1), *q = plane.row<float>(0, y), *r = plane.row<float>(0, y + 1);
      for (int x = 1; x + 1 < plane.width(); ++x) {
        along[x] = 0.125F * ((p[x + 1] - p[x - 1]) + 2 * (q[x + 1] - q[x - 1]) + (r[x + 1] - r[x - 1]));
        down[x] = 0.125F * ((r[x - 1] - p[x - 1]) + 2 * (r[x] - p[x]) + (r[x + 1] - p[x + 1]));
      }
      along[0] = down[0] = along[plane.width() - 1] = down[plane.width() - 1] = nothing;
    }
  });
  return out;
}

}  // namespace fexel
