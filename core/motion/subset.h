#pragma once
/// One subset of a reference, found in another frame.
#include <Eigen/Core>
#include <vector>

#include "motion/field.h"
#include "motion/motion_frame.h"
#include "motion/subset_sums.h"

namespace fexel {

/// How a place and what is around it moved: a first-order shape function.
struct SubsetMotion {
  Point moved;
  Eigen::Matrix2d gradient = Eigen::Matrix2d::Zero();
  /// The same at a place `away` from the subset's middle.
  SubsetMotion carried(Point away) const {
    return {{moved.x + gradient(0, 0) * away.x + gradient(0, 1) * away.y,
             moved.y + gradient(1, 0) * away.x + gradient(1, 1) * away.y},
            gradient};
  }
};

/// How well a subset can be found, before anything is matched: the standard deviation along x and y of a displacement
/// when each pixel of both frames has noise of one grey level; infinite where there is nothing to hold on to.
struct SubsetTexture {
  Point sigma_per_noise;
  double noise_share = 0;  ///< of its gradient's energy that noise of the given size accounts for
};

/// What a match comes to.
struct SubsetFound {
  MotionReason reason = MotionReason::none;  ///< why there is none
  SubsetMotion motion;
  Point sigma;             ///< standard uncertainty along x and y, px, from what the match leaves
  double score = 0;        ///< normalised correlation
  double misfit = 0;       ///< RMS of what it leaves, grey levels of the reference
  double per_noise = 0;    ///< see SubsetTexture, of the worse axis
  double noise_share = 0;  ///< see SubsetTexture, by what the match leaves
  bool found() const { return reason == MotionReason::none; }
};

/// Matches subsets of one size. Holds buffers: one object for each thread.
///
/// Zero-normalised least squares, by inverse composition and Gauss-Newton (S. Baker, I. Matthews, 2004, "Lucas-Kanade
/// 20 years on: a unifying framework"; B. Pan, K. Li, W. Tong, 2013, "Fast, robust and accurate digital image
/// correlation calculation without redundant computations"), with a first-order shape function, on the cubic splines
/// through both frames. Mean and gain are taken out of the slopes, too, so that neither pulls at the result. Pixels
/// that are masked in either frame do not count.
class SubsetMatcher {
 public:
  /// `size` is odd, in px.
  explicit SubsetMatcher(int size);
  /// Reads the subset about a place of the reference, which may lie between pixels. False where less than half of it
  /// counts, or it leaves the picture; then reason() says which.
  bool take(const MotionFrame& reference, Point place);
  MotionReason reason() const { return reason_; }
  /// `noise` of a frame, grey levels: the part of the gradient that it makes is no texture.
  SubsetTexture texture(double noise) const;
  /// Where the subset that was taken is in a frame, from a start.
  SubsetFound match(const MotionFrame& frame, SubsetMotion start);

 private:
  using Vector6 = Eigen::Matrix<double, 6, 1>;
  using Matrix6 = Eigen::Matrix<double, 6, 6>;
  void weigh(const std::vector<float>& weight, double count);
  bool weigh_by(const MotionFrame& frame, const SubsetPlace& place);
  SubsetPlace placed(const SubsetMotion& motion) const;
  /// Whether all of it lies in the frame, or `beyond` px and less outside.
  bool inside(const MotionFrame& frame, const SubsetPlace& place, double beyond = 0) const;
  Matrix6 noise_part() const;

  int size_, stride_;
  Point place_;
  MotionReason reason_ = MotionReason::none;
  std::vector<float> value_, across_, down_, own_weight_;    // as read
  std::vector<float> used_value_, used_across_, used_down_;  // as weighed
  std::vector<float> weight_;
  SubsetRows rows_;
  bool own_masked_ = false;
  double own_count_ = 0, count_ = 0, mean_ = 0, square_ = 0;
  Vector6 mean_slope_, value_slope_;
  Matrix6 normal_;  // of the slopes without mean and gain
};

/// The share of the variance of white noise that the cubic spline keeps at a fraction of a pixel along one axis.
double spline_noise_kept(double fraction);

}  // namespace fexel
