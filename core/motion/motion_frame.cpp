#include "motion/motion_frame.h"

#include <cmath>

#include "base/error.h"
#include "filter/filter.h"
#include "resample/kernels/prefilter.h"

namespace fexel {
namespace {

constexpr int guard = 2;  // pixels around what does not count: the spline carries it that far

/// The pixels that count, less those near one that does not.
Image counted_of(const Image& plane, const Image* use, const Job& job) {
  const int width = plane.width(), height = plane.height();
  std::vector<char> out(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0);
  const auto at = [&](int x, int y) -> char& {
    return out[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)];
  };
  for (int y = 0; y < height; ++y) {
    const auto off = [&](int x) {
      if (!plane.valid(x, y) || !std::isfinite(plane.row<float>(0, y)[x])) return true;
      if (!use) return false;
      return !use->valid(x, y) ||
             visit_depth(use->depth(), [&](auto sample) { return use->row<decltype(sample)>(0, y)[x] == 0; });
    };
    for (int x = 0; x < width; ++x) at(x, y) = off(x) ? 1 : 0;
  }
  Image counted(width, height, 1, Depth::u8);
  counted.make_mask(true);
  parallel_for(height, job, [&](int y) {
    for (int x = 0; x < width; ++x)
      for (int dy = std::max(0, y - guard); dy <= std::min(height - 1, y + guard); ++dy)
        for (int dx = std::max(0, x - guard); dx <= std::min(width - 1, x + guard); ++dx)
          if (at(dx, dy) != 0) counted.set_valid(x, y, false);
  });
  return counted;
}

/// Contrast evened out: what differs from the mean around, over its standard deviation there, both under a Gaussian.
/// Such windows go along with what moves, where tiles that stand still would pull at it. Contrast grows fourfold at
/// most, so that plain places do not turn into noise.
Image evened(const Image& plane, double radius, const Job& job) {
  const int width = plane.width(), height = plane.height();
  Image out = highpass(plane, radius, job);
  Image square = out.clone();
  parallel_for(height, job, [&](int y) {
    float* row = square.row<float>(0, y);
    for (int x = 0; x < width; ++x) row[x] *= row[x];
  });
  square = gaussian(square, radius, job);
  double all = 0;
  for (int y = 0; y < height; ++y) {
    const float* row = square.row<float>(0, y);
    for (int x = 0; x < width; ++x) all += std::max(0.F, row[x]);
  }
  all /= static_cast<double>(width) * height;
  if (all <= 0) return out;
  parallel_for(height, job, [&](int y) {
    const float* around = square.row<float>(0, y);
    float* row = out.row<float>(0, y);
    for (int x = 0; x < width; ++x)
      row[x] *= static_cast<float>(std::sqrt(all / (std::max(0.F, around[x]) * 15 / 16 + all / 16)));
  });
  return out;
}

}  // namespace

const std::vector<std::string>& motion_background_words() {
  static const std::vector<std::string> words{"none", "mean", "median", "minimum"};
  return words;
}

MotionFrame::MotionFrame(const Image& frame, const MotionPrepare& prepare, const Image* use, const Job& job,
                         const Image* background) {
  if (use && (use->width() != frame.width() || use->height() != frame.height()))
    throw call_error("The mask is not as large as the frame.", "/mask", "Give a mask of the frame's size.");
  Image plane = plane_of(frame, 0, job);
  top_ = frame.depth() == Depth::f32 ? 0 : frame.largest();
  masked_ = plane.has_mask() || use != nullptr;
  if (masked_) {
    counted_ = counted_of(plane, use, job);
    paint_empty(plane);
  }
  const bool filtered = background || prepare.local_contrast > 0 || prepare.high_pass > 0 || prepare.smoothing > 0;
  if (filtered) given_ = std::make_shared<const Image>(plane.clone());
  if (background)
    parallel_for(plane.height(), job, [&](int y) {
      float* row = plane.row<float>(0, y);
      const float* off = background->row<float>(0, y);
      for (int x = 0; x < plane.width(); ++x)
        if (std::isfinite(off[x])) row[x] -= off[x];
    });
  // The filters keep the mask, which is told by counted_ from here on.
  plane.drop_mask();
  if (prepare.local_contrast > 0) plane = evened(plane, prepare.local_contrast, job);
  if (prepare.high_pass > 0) plane = highpass(plane, prepare.high_pass, job);
  if (prepare.smoothing > 0) {
    plane = gaussian(plane, prepare.smoothing, job);
    // A Gaussian leaves slow waves as they are, and the sum of its squares of the variance.
    const double sigma = prepare.smoothing / 2;
    double sum = 0, squares = 0;
    for (int k = -40; k <= 40; ++k) {
      const double w = std::exp(-0.5 * (k / sigma) * (k / sigma));
      sum += w;
      squares += w * w;
    }
    colour_ = sum * sum / squares;  // of one axis; its root squared is that of both
  }
  noise_ = noise_in(plane, {0, 0, plane.width(), plane.height()});
  coefficients_ = spline_coefficients(plane, BorderMode::mirror, job);
  plane_ = std::make_shared<const Image>(std::move(plane));
  if (!filtered) given_ = plane_;
  halves_ = std::make_unique<const Pyramid>(plane_);
}

SplineCoefficients MotionFrame::coefficients() const {
  return {coefficients_.row<float>(0, prefilter_margin) + prefilter_margin, coefficients_.stride<float>()};
}

double MotionFrame::glare(Point middle, int size) const {
  if (!(top_ > 0)) return 0;
  const int half = size / 2, x0 = static_cast<int>(std::floor(middle.x)), y0 = static_cast<int>(std::floor(middle.y));
  int ends = 0, count = 0;
  for (int y = std::max(0, y0 - half); y <= std::min(given_->height() - 1, y0 + half); ++y) {
    const float* row = given_->row<float>(0, y);
    for (int x = std::max(0, x0 - half); x <= std::min(given_->width() - 1, x0 + half); ++x, ++count)
      ends += row[x] >= static_cast<float>(top_) || row[x] <= 0;
  }
  return count > 0 ? static_cast<double>(ends) / count : 0;
}

}  // namespace fexel
