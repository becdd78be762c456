#pragma once
/// What stands still on the sensor while the scene moves: fixed pattern, columns, hot pixels, dust, shading.
#include <optional>

#include "align/match.h"

namespace fexel {

/// A frame less a picture of the scene, in the frame's own pixels and samples; empty where one of them is. `scene` lies
/// as the reference does; `match` says how the frame lies on it.
Image less_scene(const Image& frame, const Image& scene, const Match& match, const Job& job);

/// The share of the variance of such residuals that they have in common where they lie on the sensor, from pairs of
/// them; nothing without a pair. Residuals beyond four times the usual count as that.
std::optional<double> common_share(const std::vector<std::pair<const Image*, const Image*>>& pairs);

/// The mean of residuals that are added one after the other.
class PatternMean {
 public:
  explicit PatternMean(Size size);
  void add(const Image& residual);
  /// Each pixel by as much as it stands out of what noise leaves in its mean (W. James, C. Stein, 1961, "Estimation
  /// with quadratic loss"); 0 where fewer than five residuals tell.
  Image pattern() const;

 private:
  Size size_;
  std::vector<float> sums_, squares_;
  std::vector<int> counts_;
};

}  // namespace fexel
