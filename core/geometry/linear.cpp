#include "geometry/linear.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>
#include <Eigen/SVD>

namespace fexel {

std::optional<Eigen::MatrixXd> least_squares(const Eigen::MatrixXd& rows, const Eigen::MatrixXd& values, double least) {
  const Eigen::JacobiSVD<Eigen::MatrixXd> svd(rows, Eigen::ComputeThinU | Eigen::ComputeThinV);
  const auto& s = svd.singularValues();
  if (rows.rows() < rows.cols() || !(s(s.size() - 1) >= least * s(0))) return std::nullopt;
  return svd.solve(values);
}

std::optional<Eigen::VectorXd> null_direction(const Eigen::MatrixXd& rows, double least) {
  const Eigen::JacobiSVD<Eigen::MatrixXd> svd(rows, Eigen::ComputeFullV);
  const auto& s = svd.singularValues();
  const Eigen::Index last = rows.cols() - 1;
  if (s.size() < last || !(s(last - 1) >= least * s(0))) return std::nullopt;
  return svd.matrixV().col(last);
}

std::optional<Eigen::MatrixXd> solve_symmetric(const Eigen::MatrixXd& normal, const Eigen::MatrixXd& right,
                                               double least) {
  const Eigen::LDLT<Eigen::MatrixXd> solver(normal);
  const Eigen::VectorXd pivots = solver.vectorD();
  if (least > 0 && !(pivots.minCoeff() > least * pivots.maxCoeff())) return std::nullopt;
  return solver.solve(right);
}

Eigen::MatrixXd symmetric_inverse(const Eigen::MatrixXd& normal) {
  return *solve_symmetric(normal, Eigen::MatrixXd::Identity(normal.rows(), normal.cols()));
}

Eigen::MatrixXd solve_square(const Eigen::MatrixXd& rows, const Eigen::MatrixXd& values) {
  return rows.fullPivLu().solve(values);
}

}  // namespace fexel
