#include <Eigen/Cholesky>
#include <cmath>

#include "stacks/mosaic.h"

namespace fexel {

std::vector<double> evened_gains(int frames, const std::vector<GainRatio>& ratios) {
  // log g of the first + log ratio = log g of the second; a weak pull to 0 holds what no overlap determines.
  Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(frames, frames);
  Eigen::VectorXd right = Eigen::VectorXd::Zero(frames);
  double all = 0;
  for (const GainRatio& pair : ratios) {
    const double log_ratio = std::log(pair.ratio);
    normal(pair.first, pair.first) += pair.weight;
    normal(pair.second, pair.second) += pair.weight;
    normal(pair.first, pair.second) -= pair.weight;
    normal(pair.second, pair.first) -= pair.weight;
    right(pair.first) -= pair.weight * log_ratio;
    right(pair.second) += pair.weight * log_ratio;
    all += pair.weight;
  }
  std::vector<double> out(static_cast<std::size_t>(frames), 1);
  if (!(all > 0)) return out;
  normal.diagonal().array() += 1e-9 * all;
  const Eigen::VectorXd logs = normal.ldlt().solve(right);
  for (int i = 0; i < frames; ++i) out[static_cast<std::size_t>(i)] = std::exp(logs(i));
  return out;
}

}  // namespace fexel
