#pragma once
/// Small dense systems of equations. The solvers are compiled here once, for they are large.
#include <Eigen/Core>
#include <optional>

namespace fexel {

/// rows x = values in the least-squares sense, column by column; nothing where the rows do not determine x: the
/// smallest singular value is below `least` times the largest.
std::optional<Eigen::MatrixXd> least_squares(const Eigen::MatrixXd& rows, const Eigen::MatrixXd& values, double least);
/// The unit vector that the rows carry nearest to zero; nothing where it is not the only one: the last but one singular
/// value is below `least` times the largest.
std::optional<Eigen::VectorXd> null_direction(const Eigen::MatrixXd& rows, double least);
/// Solves a symmetric system; nothing where a pivot is not above `least` times the largest one.
std::optional<Eigen::MatrixXd> solve_symmetric(const Eigen::MatrixXd& normal, const Eigen::MatrixXd& right,
                                               double least = 0);
/// The inverse of a symmetric matrix that can be inverted.
Eigen::MatrixXd symmetric_inverse(const Eigen::MatrixXd& normal);
/// Solves a square system of any kind.
Eigen::MatrixXd solve_square(const Eigen::MatrixXd& rows, const Eigen::MatrixXd& values);

}  // namespace fexel
