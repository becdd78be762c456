#pragma once
/// A picture with its halves: what strong shrinking reads instead of every pixel.
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <vector>

#include "base/job.h"
#include "image/image.h"

namespace fexel {

/// A picture and, made when first asked for, its reductions by 2, 4, 8 ... Level n has ceil(size / 2^n) pixels, of
/// which pixel (i, j) covers the 2^n x 2^n pixels from (2^n i, 2^n j). Reading is safe from several threads.
///
/// Each halving filters with the cubic convolution kernel (a = −0.5) at twice its width, eight taps an axis: a wave
/// that folds onto a level below a quarter cycle per pixel keeps under 7 % of its amplitude, and one of an eighth of a
/// cycle per source pixel keeps over 93 %. Source: R. G. Keys, 1981, "Cubic convolution interpolation for digital image
/// processing".
class Pyramid {
 public:
  explicit Pyramid(std::shared_ptr<const Image> image);
  const Image& base() const { return *levels_.front(); }
  std::shared_ptr<const Image> shared_base() const { return levels_.front(); }
  /// The finest level that has at most `shrink` times fewer pixels along an axis; 0 for a shrink below 2.
  int level_for(double shrink) const;
  const Image& level(int n, const Job& job = {}) const;
  int levels() const { return static_cast<int>(levels_.size()); }
  /// A picture that somebody computes from the base, kept for as long as the pyramid lives: made once for each key.
  const Image& derived(int key, const std::function<Image()>& make) const;

 private:
  mutable std::mutex mutex_;
  mutable std::vector<std::shared_ptr<const Image>> levels_;
  mutable std::map<int, std::shared_ptr<const Image>> derived_;
};

/// One halving, as described at Pyramid. A masked picture stays masked: a half pixel is valid when all four are.
Image halved(const Image& image, const Job& job = {});

}  // namespace fexel
