#pragma once
/// Least squares over a few parameters, by Eigen's solver (K. Levenberg, 1944; D. Marquardt, 1963). A part of this
/// layer.
#include <Eigen/Cholesky>
#include <Eigen/QR>
#include <algorithm>
#include <functional>
#include <unsupported/Eigen/NonLinearOptimization>
#include <unsupported/Eigen/NumericalDiff>

namespace fexel {

using Residuals = std::function<void(const Eigen::VectorXd&, Eigen::VectorXd&)>;

struct Minimum {
  Eigen::VectorXd at, residual;
  double sum = 0;              ///< of squared residuals
  Eigen::MatrixXd covariance;  ///< for residuals of variance sum / freedom
};

/// Derivatives are differences to both sides.
inline Minimum minimised(const Residuals& residuals, Eigen::VectorXd start, int numbers, int calls = 4000,
                         double tolerance = 1e-12) {
  struct Functor {
    using Scalar = double;
    using InputType = Eigen::VectorXd;
    using ValueType = Eigen::VectorXd;
    using JacobianType = Eigen::MatrixXd;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };
    int unknowns, number;
    const Residuals& body;
    int inputs() const { return unknowns; }
    int values() const { return number; }
    int operator()(const InputType& at, ValueType& out) const {
      body(at, out);
      return 0;
    }
  };
  using Differences = Eigen::NumericalDiff<Functor, Eigen::Central>;
  Differences functor(Functor{static_cast<int>(start.size()), numbers, residuals}, 1e-10);
  Eigen::LevenbergMarquardt<Differences> solver(functor);
  solver.parameters.maxfev = calls;
  solver.parameters.xtol = solver.parameters.ftol = tolerance;
  solver.minimize(start);
  Minimum out{start, Eigen::VectorXd(numbers), 0, {}};
  residuals(start, out.residual);
  out.sum = out.residual.squaredNorm();
  Eigen::MatrixXd jacobian(numbers, start.size());
  functor.df(start, jacobian);
  const double freedom = std::max<double>(1, static_cast<double>(numbers - start.size()));
  const Eigen::MatrixXd normal = jacobian.transpose() * jacobian;
  out.covariance = (out.sum / freedom) * normal.ldlt().solve(Eigen::MatrixXd::Identity(start.size(), start.size()));
  return out;
}

}  // namespace fexel
