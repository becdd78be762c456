#pragma once
/// How well a fit is determined by its pairs: its Jacobian, noise, outliers, and the uncertainty of places.
#include <Eigen/Core>
#include <functional>
#include <optional>

#include "fit/fit.h"

namespace fexel {

/// How many numbers a model adjusts; all of them for a thin-plate spline through `pairs` pairs.
int parameters_of(Model model, int pairs);

/// The linearised model about a fit.
class FitQuality {
 public:
  /// Of the pairs that `kept` marks. The map is the least-squares fit to them.
  FitQuality(Model model, const std::vector<PointPair>& pairs, const std::vector<bool>& kept, const Map& map);

  /// Numbers beyond what the parameters take up: 2 for each pair, less the parameters.
  int freedom() const { return freedom_; }
  /// The standard deviation of a coordinate of a pair of weight 1, in `to` pixels: sqrt(sum of weighted squares /
  /// freedom). 0 without freedom.
  double noise() const { return noise_; }
  /// The standard uncertainty of the place of `from`, in `to` pixels, both axes together, when each coordinate of a
  /// pair of weight 1 is uncertain by `sigma`. Infinite where the pairs do not determine it. For a thin-plate spline
  /// that of the affine map closest to it, which is less.
  double uncertainty_at(Point from, double sigma) const;
  /// The covariance of the x and y of some places, one after the other, in `to` pixels, when each coordinate of a pair
  /// of weight 1 is uncertain by one pixel. Empty where the pairs do not determine it.
  Eigen::MatrixXd covariance_of(const std::vector<Point>& places) const;
  /// Which of some candidates, one after the other, would as further pairs of weight 1 make the sum of variances over
  /// the judged places least. None where the pairs do not determine the fit.
  std::vector<std::size_t> most_helpful(const std::vector<Point>& candidates, const std::vector<Point>& judged,
                                        int count) const;
  /// How far pair `i` disagrees with the kept ones, as the ratio of variances that follows F(2, freedom) when it is
  /// like them; for a kept one, with the others.
  double disagreement(int i) const;
  /// How far a kept pair would lie off the fit of the others, in `to` pixels: exact for models that are linear in their
  /// numbers, to first order for rigid and projective ones (R. D. Cook and S. Weisberg, 1982). Nothing where the others
  /// do not determine the fit.
  std::optional<double> left_out(int i) const;
  /// Below this ratio are all but `rate` of pairs that are like the kept ones; for a kept one without its own two
  /// numbers.
  double limit(int i, double rate) const;

 private:
  Eigen::MatrixXd jacobian(Point from) const;  // 2 rows

  Model model_;
  const std::vector<PointPair>& pairs_;
  std::vector<bool> kept_;
  std::vector<double> weights_;  // that the pairs state
  Map map_;
  Point middle_, middle_to_;
  double scale_ = 1, scale_to_ = 1;
  Eigen::MatrixXd inverse_;  // of the normal matrix
  bool determined_ = false;
  int freedom_ = 0;
  double squares_ = 0, noise_ = 0;
};

/// Which of the pairs that are used are like each other: those of `start` and all that agree with them, less those that
/// do not agree with the rest. Of clean sets with normal noise at most the share `rate` lose a pair. `fit` gives the
/// least-squares map of the pairs that are marked.
std::vector<bool> pairs_that_agree(Model model, const std::vector<PointPair>& pairs, std::vector<bool> start,
                                   double rate, const std::function<Map(const std::vector<bool>&)>& fit);

}  // namespace fexel
