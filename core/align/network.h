#pragma once
/// Transforms of all frames from matches between pairs of them, adjusted together so that errors do not add up.
#include <optional>
#include <vector>

#include "align/steps.h"

namespace fexel {

/// Frame `to` was matched against frame `from`, which served as the reference.
struct PairMatch {
  int from, to;
  Matrix3 matrix;         ///< carries `to`'s places to `from`'s
  StepMatrix covariance;  ///< of a step in the px of `from`
};

struct NetworkFrame {
  Matrix3 matrix = Matrix3::Identity();  ///< carries the frame's places to the root's
  StepMatrix covariance;                 ///< of a step in its own px
};

/// The root is the identity; a frame that no chain of pairs joins to it is nothing. Least squares with each pair
/// weighted by its covariance; pairs that disagree with the others by more than `farthest` standard deviations are left
/// out, the worst first, as long as every frame stays joined without them.
std::vector<std::optional<NetworkFrame>> adjust_network(int frames, int root, std::vector<PairMatch> pairs,
                                                        const StepBasis& basis, double farthest = 5);

}  // namespace fexel
