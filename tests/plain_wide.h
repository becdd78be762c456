#pragma once
/// The kernel that is laid along a footprint, from its definition, in plain double arithmetic.
#include <Eigen/SVD>
#include <map>

#include "geometry/map.h"
#include "tests/plain.h"

namespace fexel::test {

/// A smooth step between a shrink of 1.09 and 1.13.
inline double share_of_wide(double shrink) {
  const double t = std::clamp((shrink - 1.09) / 0.04, 0.0, 1.0);
  return t * t * (3 - 2 * t);
}

/// The Jacobian with singular values of at least one, and of at most 64.
inline Matrix2 raised(const Matrix2& jacobian) {
  const Eigen::JacobiSVD<Matrix2> svd(jacobian, Eigen::ComputeFullU | Eigen::ComputeFullV);
  return svd.matrixU() * svd.singularValues().cwiseMax(1.0).cwiseMin(64.0).asDiagonal() * svd.matrixV().transpose();
}

/// The widened kernel in full, from a table of exact values that is finer than it bends: each of them is an integral.
inline double exact_kernel(Kernel kernel, double x) {
  constexpr int per_pixel = 200, end = 5;
  static std::map<Kernel, std::vector<double>> tables;
  std::vector<double>& table = tables[kernel];
  if (table.empty())
    for (int i = -1; i < end * per_pixel + 3; ++i)
      table.push_back(ShrinkingKernel::exact(kernel, std::abs(i) / double(per_pixel)));
  const double at = std::min(std::abs(x), double(end)) * per_pixel;
  const auto i = static_cast<std::size_t>(at);
  const double t = at - std::floor(at), *p = &table[i];
  return p[1] +
         t / 2 * (p[2] - p[0] + t * (2 * p[0] - 5 * p[1] + 4 * p[2] - p[3] + t * (3 * (p[1] - p[2]) + p[3] - p[0])));
}

/// The kernel at its own width, over samples: for the spline what prefilter and spline come to together, cut at five
/// pixels.
inline double own_kernel(Kernel kernel, double x) {
  if (kernel != Kernel::bspline3) return plain_weight(kernel, x);
  if (std::abs(x) >= 5) return 0;
  const double pole = std::sqrt(3.0) - 2;
  double sum = 0;
  for (int tap = -30; tap <= 30; ++tap) sum += std::pow(pole, std::abs(tap)) * plain_weight(Kernel::bspline3, x - tap);
  return sum * -6 * pole / (1 - pole * pole);
}

/// The mean under kernels that are laid along the footprint, widened along u, along v or along both; source pixels are
/// walked to, one by one.
inline double laid_along(const Image& source, int band, Kernel kernel, BorderMode edge, Point at,
                         const Matrix2& jacobian, bool wide_u, bool wide_v) {
  const Matrix2 reach = raised(jacobian), to_result = reach.inverse();
  const double radius = kernel == Kernel::area ? 1 : 5.1;
  const int across = static_cast<int>(radius * (std::abs(reach(0, 0)) + std::abs(reach(0, 1)))) + 2;
  const int down = static_cast<int>(radius * (std::abs(reach(1, 0)) + std::abs(reach(1, 1)))) + 2;
  const auto weight = [&](int row, double dx, double dy) {
    const double from_middle = std::abs(to_result(row, 0) * dx + to_result(row, 1) * dy);
    if (kernel != Kernel::area)
      return (row == 0 ? wide_u : wide_v) ? exact_kernel(kernel, from_middle) : own_kernel(kernel, from_middle);
    // What of a source pixel's reach along the axis lies within half a pixel of the middle.
    const double length = std::abs(to_result(row, 0)) + std::abs(to_result(row, 1));
    const double low = std::max(from_middle - length / 2, -0.5), high = std::min(from_middle + length / 2, 0.5);
    return std::max(high - low, 0.0) / length;
  };
  double sum = 0, weights = 0;
  const int column = static_cast<int>(std::floor(at.x)), row = static_cast<int>(std::floor(at.y));
  for (int j = row - down; j <= row + down; ++j)
    for (int i = column - across; i <= column + across; ++i) {
      const double w = weight(0, i + 0.5 - at.x, j + 0.5 - at.y) * weight(1, i + 0.5 - at.x, j + 0.5 - at.y);
      if (w == 0) continue;
      sum += w * value(source, band, walked(i, source.width(), edge), walked(j, source.height(), edge));
      weights += w;
    }
  return sum / weights;
}

/// Along each axis the kernel and the widened one have the shares that the reach along it says.
inline double plain_wide(const Image& source, int band, Kernel kernel, BorderMode edge, Point at,
                         const Matrix2& jacobian) {
  if (kernel == Kernel::area) return laid_along(source, band, kernel, edge, at, jacobian, true, true);
  const Matrix2 reach = raised(jacobian);
  const double u = share_of_wide(reach.col(0).norm()), v = share_of_wide(reach.col(1).norm());
  double sum = 0;
  for (const bool wide_u : {false, true})
    for (const bool wide_v : {false, true})
      if (const double share = (wide_u ? u : 1 - u) * (wide_v ? v : 1 - v); share > 0)
        sum += share * laid_along(source, band, kernel, edge, at, jacobian, wide_u, wide_v);
  return sum;
}

/// What a result pixel is that stands at a place of the source, with the Jacobian there of the map from the result.
inline double expected_sample(const Image& source, const Endless& endless, int band, const Resampling& how, Point at,
                              const Matrix2& jacobian) {
  if (how.kernel == Kernel::nearest || !how.antialias) return plain_sample(endless, how.kernel, at);
  const Eigen::JacobiSVD<Matrix2> svd(jacobian);
  const double shrink = svd.singularValues()[0];
  const double share = share_of_wide(shrink), plain = share < 1 ? plain_sample(endless, how.kernel, at) : 0;
  if (share <= 0) return plain;
  const double wide = plain_wide(source, band, how.kernel, how.edge, at, jacobian);
  return share < 1 ? plain + share * (wide - plain) : wide;
}

}  // namespace fexel::test
