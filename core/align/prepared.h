#pragma once
/// A frame made ready for matching.
#include <cmath>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "base/job.h"
#include "filter/fft_plans.h"
#include "filter/filter.h"
#include "geometry/map.h"
#include "image/image.h"

namespace fexel {

/// What is compared. brightness: the samples, up to a gain and an offset. structure: how strongly they change,
/// whichever way and however much in that place, for bands that look unlike but have their edges in common.
enum class SimilarityMetric { brightness, structure };

/// What a frame is made ready for.
enum class Role { reference, moved, both };

/// One plane of a frame at full size and its halves, down to 128 px or so, with mean 0 and standard deviation 1 or
/// thereabouts.
class PreparedFrame {
 public:
  /// `band` counts from 1; 0 is the mean of all bands. `use`: the pixels that count when the frame is the reference
  /// (where it is not zero), as large as the frame; may be null. Raises an input error when there is nothing to match:
  /// every pixel is the same, or none counts, or the frame is smaller than 16 px.
  /// `smoothing`: see best_smoothing(); frames that are matched with each other have the same.
  PreparedFrame(const Image& frame, int band, SimilarityMetric likeness, const Image* use, Role role, const Job& job,
                double smoothing = 0);

  /// Border of NaN around a reference's plane: left and above.
  static constexpr int left = 16, above = 1;

  Size size() const { return size_; }
  int levels() const { return static_cast<int>(levels_.size()); }
  Size size(int level) const;
  /// The plane; masked pixels are painted.
  const Image& plane(int level) const { return *levels_[static_cast<std::size_t>(level)].plane; }
  /// The plane as a reference: with a border, NaN there and in all pixels that do not count.
  const Image& reference(int level) const { return *levels_[static_cast<std::size_t>(level)].reference; }
  /// The reference's gradient, samples a pixel, in the same frame: two bands, along x and y. Central differences,
  /// averaged across by 1 2 1: the noise in them is small, and has nothing in common with that of the pixel itself.
  const Image& gradient(int level) const { return *levels_[static_cast<std::size_t>(level)].gradient; }
  /// The standard deviation of a level's noise, at most: fine texture counts, too. See noise_in().
  double noise(int level) const { return std::ldexp(noise_, -level); }
  /// The standard deviation of the Gaussian that a level was smoothed with, in its px.
  double smoothing(int level) const { return std::ldexp(smoothing_, -level); }
  /// The variance of the gradient's noise where that of a level's samples is 1.
  double gradient_noise(int level) const { return levels_[static_cast<std::size_t>(level)].gradient_noise; }
  /// The coefficients of the spline through the plane at full size, of a frame that is moved.
  const Image& coefficients() const { return *coefficients_; }
  /// 1 where the plane has pixels, 0 where it is empty; null where it is whole.
  const Image* there(int level) const { return levels_[static_cast<std::size_t>(level)].there.get(); }
  /// The shifts, at full size, by which the middle of the plane looks like itself: none, one, or two that span a
  /// lattice, the shorter first. Found when first asked for; several threads may ask.
  const std::vector<Point>& periods(const FftPlans& transforms) const;
  /// The same frame smoothed further: by a Gaussian of 1.3 px, or 1.6 times what it was smoothed by. Made when first
  /// asked for; several threads may ask.
  const PreparedFrame& softer(const Job& job) const;
  /// The share of the frame that counts when it is the reference.
  double used_share() const { return used_share_; }
  /// Bytes a pixel that a frame takes here, all in all, and its softer one.
  static constexpr int bytes_per_pixel = 52;
  /// Samples were (value − mean) / spread before.
  double mean() const { return mean_; }
  double spread() const { return spread_; }

 private:
  struct Level {
    std::shared_ptr<const Image> plane;
    std::shared_ptr<const Image> use;  // its mask tells
    std::shared_ptr<const Image> reference, gradient, there;
    double gradient_noise = 0;
  };
  static Image bordered(const Level& level);
  static Image gradient_of(const Image& reference, const Job& job);
  Size size_;
  double smoothing_, noise_ = 0;
  double mean_ = 0, spread_ = 1;
  std::vector<Level> levels_;
  std::shared_ptr<const Image> coefficients_;
  Role role_;
  mutable std::once_flag looked_, softened_;
  mutable std::unique_ptr<const PreparedFrame> softer_;
  double used_share_ = 1;
  mutable std::vector<Point> periods_;
};

}  // namespace fexel
