#pragma once
/// The search of one frame on another at one level, step by step, and what its blocks of pixels say.
#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <vector>

#include "align/prepared.h"
#include "align/steps.h"
#include "align/sums.h"

namespace fexel {

/// Sums of all blocks together.
struct Totals {
  double w = 0, i = 0, t = 0, ii = 0, tt = 0, it = 0, count = 0;
  void add(const BlockSums& b);
  double mean_i() const { return i / w; }
  double mean_t() const { return t / w; }
  double var_i() const { return ii / w - mean_i() * mean_i(); }
  double var_t() const { return tt / w - mean_t() * mean_t(); }
  double cov() const { return it / w - mean_i() * mean_t(); }
};

/// What one pass says.
struct Pass {
  std::vector<BlockSums> blocks, plain;
  Totals totals;
  SmallStep step;
  StepMatrix normal;
  double moved = 0;  ///< RMS over the blocks of what the step moves them by, in the level's pixels
  bool solved = false;
};

/// Blocks of 32 px of the reference that do not count, such as what stays where it is when the scene moves.
struct LeftOut {
  static constexpr int side = 32;
  int across = 0;
  std::vector<char> blocks = {};
  bool none() const { return blocks.empty(); }
  double share() const {
    return none() ? 0 : static_cast<double>(std::ranges::count(blocks, 1)) / static_cast<double>(blocks.size());
  }
  bool holds(Point place) const;
};

/// What a block's samples vary by, and how they do so together.
struct Within {
  double n, vi, vt, c;
  explicit Within(const BlockSums& b);
  double both() const { return std::sqrt(vi * vt); }
  double correlation() const { return both() > 0 ? c / both() : 0; }
};
/// The variance of a block's residuals about their mean.
double residual_variance(const BlockSums& b, double gain);

/// A step that the blocks ask for, and its covariance from how they scatter.
struct Asked {
  SmallStep step;
  StepMatrix covariance;
};

class Search {
 public:
  Search(const PreparedFrame& reference, const PreparedFrame& frame, Model model, const Job& job);

  /// Steps at one level from `inverse_map` (the reference's places to the frame's, full size) until they are shorter
  /// than `enough` pixels of the level; false where nothing can be solved.
  bool refine(int level, int max_steps, double enough);
  /// One pass, and the step that it asks for; with `judged`, also the sums without weights.
  bool pass(int level, bool judged);
  /// Goes on at the next finer level, where noise is not averaged over four pixels any more.
  void descend() { light_.cut *= 2; }
  void take(const SmallStep& step) {
    inverse_map_ = inverse_map_ * basis_.transform(step).inverse();
    taken_ = step;
  }
  /// Of a step, from how the blocks' contributions scatter in the last pass, at `level`.
  StepMatrix covariance(int level) const { return covariance(basis_, last_.normal, last_.step, level); }
  /// The variance of the reference's noise, as the last pass has it.
  double noise() const { return noise_; }
  /// The step that the last pass asks for under another model, from where the search is; nothing where it does not
  /// determine it.
  std::optional<Asked> asked(const StepBasis& basis, int level) const;
  /// The same of the blocks whose middles `counts` takes, a shift only.
  std::optional<Asked> shift_of(int level, const std::function<bool(Point)>& counts) const;

  /// From now on these blocks do not count.
  void leave_out(const LeftOut& blocks) { left_out_ = blocks; }

  Matrix3 inverse_map_ = Matrix3::Identity();
  Expectation light_;
  Pass last_;

 private:
  StepMatrix covariance(const StepBasis& basis, const StepMatrix& normal, const SmallStep& step, int level,
                        const std::function<bool(Point)>& counts = {}) const;
  Eigen::Matrix2d gradients(const BlockSums& b) const;
  Eigen::Vector2d rights(const BlockSums& b) const;
  bool solve(int level);

  const PreparedFrame* reference_;
  const PreparedFrame* frame_;
  StepBasis basis_;
  LeftOut left_out_;
  const Job* job_;
  Expectation change_{0, 0, 0};
  double noise_kept_ = 1;    // share of the moved frame's noise that interpolation keeps
  double noise_ = 0;         // variance of the reference's
  double signal_share_ = 1;  // of the gradients' squares
  SmallStep taken_;          // after the last pass; empty where none was
  int taken_at_ = -1;        // the level of that pass
  double taken_moved_ = 0;   // how far it asked to move
  double response_ = 1;      // what a step really changes, over what the normal matrix says
};

/// Normalised correlation within blocks, all blocks together.
double detail_of(const std::vector<BlockSums>& blocks);
/// The usual block's normalised correlation: the median over those with some texture beyond noise of this standard
/// deviation, so that what covers less than half of the frame does not speak for it.
double typical_of(const std::vector<BlockSums>& blocks, double noise);

}  // namespace fexel
