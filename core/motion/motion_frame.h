#pragma once
/// A frame made ready for measuring movement.
#include <memory>

#include "base/job.h"
#include "geometry/point.h"
#include "image/pyramid.h"
#include "motion/subset_sums.h"

namespace fexel {

/// What stays where it is over a sequence, and is taken off every frame.
enum class MotionBackground { none, mean, median, minimum };
const std::vector<std::string>& motion_background_words();

/// What is done to frames for matching only.
struct MotionPrepare {
  MotionBackground background = MotionBackground::none;
  bool apart = false;         ///< first and second frames of pairs have a background each
  double high_pass = 0;       ///< radius in px of what is taken out of slow changes of light; 0: nothing
  double local_contrast = 0;  ///< radius in px of the surroundings whose contrast is evened out; 0: nothing
  double smoothing = 0;       ///< radius in px of a Gaussian; 0: none
  bool operator==(const MotionPrepare&) const = default;
};

class MotionFrame {
 public:
  /// The mean of the frame's bands. Pixels that are empty, or not marked in `use` (where it is 0 or empty; may be
  /// null), do not count. `background`, a plane of the frame's size, is taken off first; it may be null. Raises a call
  /// error where the mask is of another size.
  MotionFrame(const Image& frame, const MotionPrepare& prepare, const Image* use, const Job& job,
              const Image* background = nullptr);
  Size size() const { return {plane_->width(), plane_->height()}; }
  const Image& plane() const { return *plane_; }
  SplineCoefficients coefficients() const;
  bool masked() const { return masked_; }
  /// Whether a pixel counts: two pixels away from what does not.
  bool counts(int x, int y) const {
    return x >= 0 && y >= 0 && x < plane_->width() && y < plane_->height() && (!masked_ || counted_.valid(x, y));
  }
  /// Standard deviation of its noise, grey levels; see noise_in(). Fine texture counts in part.
  double noise() const { return noise_; }
  /// By how much more noise there is in slow waves than its standard deviation says: 1 where it is white, more where
  /// frames were smoothed.
  double colour() const { return colour_; }
  const Pyramid& halves() const { return *halves_; }
  /// Range of samples that the source holds; at its ends nothing is known of the light.
  double top() const { return top_; }
  const Image& as_given() const { return *given_; }
  /// The share of a square's samples at the ends of their range; `size` px about a place.
  double glare(Point middle, int size) const;

 private:
  std::shared_ptr<const Image> plane_, given_;
  Image coefficients_, counted_;
  bool masked_ = false;
  double noise_ = 0, top_ = 0, colour_ = 1;
  std::unique_ptr<const Pyramid> halves_;
};

}  // namespace fexel
