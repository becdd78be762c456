#pragma once
/// A transform from pairs of control points.
#include <string>
#include <vector>

#include "geometry/map.h"

namespace fexel {

enum class Model { translation, rigid, similarity, affine, projective, polynomial2, polynomial3, thin_plate };
const char* name_of(Model model);
const std::vector<std::string>& model_names();
std::optional<Model> model_named(const std::string& name);
/// How many pairs a model needs at least.
int pairs_needed(Model model);

struct PointPair {
  Point from, to;
  std::string name;
  bool use = true;
  bool check = false;                      ///< kept out of the fit, to check it
  std::optional<double> uncertainty = {};  ///< standard uncertainty of each coordinate of the pair, in `to` pixels
  bool counts() const { return use && !check; }
  bool operator==(const PointPair&) const = default;
};

inline constexpr double least_stated = 1e-6, most_stated = 1e6;  ///< of a pair's uncertainty

struct Fit {
  Map map;                       ///< carries `from` to `to`
  std::vector<Point> residuals;  ///< fitted minus given, in `to`, of every pair, used or not
  std::vector<double> weights;  ///< 0 for pairs that are not used, and for outliers where the fit is robust; at most 1,
                                ///< and 1 for all others where pairs state no uncertainties
  double rms = 0;               ///< sqrt(mean(dx^2 + dy^2)) over the pairs used
  int used = 0;
  int freedom = 0;       ///< 2 numbers for each pair used, less the parameters of the model
  double noise = 0;      ///< standard deviation of a coordinate of a pair of weight 1: sqrt(sum / freedom), each square
                         ///< times its weight; 0 without freedom
  int checks = 0;        ///< pairs that are used to check it
  double check_rms = 0;  ///< of them, as rms
};

/// Of clean sets with normal noise no more than this share lose a pair to the tests for outliers.
inline constexpr double outlier_rate = 0.03;

/// The least uncertainty that a pair which counts states; nothing where none states any.
std::optional<double> least_uncertainty(const std::vector<PointPair>& pairs);
/// How much each pair weighs by what it states: the inverse square of its uncertainty, as a share of the best known
/// one's; 0 for pairs that do not count. Pairs that state none count as the least certain one that does.
std::vector<double> stated_weights(const std::vector<PointPair>& pairs);

/// Least squares on the distances in `to`, weighted as stated_weights() says. With `robust`, outliers are excluded: J.
/// W. Tukey's biweight, 1974, finds the pairs that surely belong together, and each of the others is tested against
/// them, with the variance and leverage of the rest (R. D. Cook and S. Weisberg, 1982, "Residuals and influence in
/// regression"), at outlier_rate for the whole set. Not for the thin-plate spline, which goes through every pair.
/// Raises a call error whose place is "/pairs" when there are too few pairs, or when they do not determine the model:
/// points that are the same, on a line, or in a corner of the picture that says nothing of the rest.
Fit fit_pairs(Model model, const std::vector<PointPair>& pairs, bool robust);

/// The largest standard uncertainty of where a fit puts some places, in `to` pixels, both axes together, when each
/// coordinate of a pair is uncertain by `sigma`. Places that the map does not reach do not count. Infinite where the
/// pairs do not determine one. Where pairs state uncertainties, `sigma` is that of one with weight 1. For a thin-plate
/// spline that of the closest affine map, which is less.
double largest_uncertainty(Model model, const std::vector<PointPair>& pairs, const Fit& fit,
                           const std::vector<Point>& places, double sigma);

}  // namespace fexel
