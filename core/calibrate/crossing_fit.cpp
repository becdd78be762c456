#include "calibrate/crossing_fit.h"

#include <cmath>

#include "calibrate/minimise.h"

namespace fexel {

std::optional<FittedCrossing> fitted_crossing(const Image& plane, bool lines, Point near, Point u, Point v,
                                              double radius, const CrossingLook& start) {
  if (near.x - radius < 0 || near.y - radius < 0 || near.x + radius > plane.width() || near.y + radius > plane.height())
    return std::nullopt;
  struct Sample {
    double x, y, value;
  };
  std::vector<Sample> samples;
  double low = 1e300, high = -1e300;
  for (int y = std::max(0, static_cast<int>(near.y - radius));
       y < std::min(plane.height(), static_cast<int>(near.y + radius) + 1); ++y)
    for (int x = std::max(0, static_cast<int>(near.x - radius));
         x < std::min(plane.width(), static_cast<int>(near.x + radius) + 1); ++x) {
      const Sample s{x + 0.5 - near.x, y + 0.5 - near.y, plane.row<float>(0, y)[x]};
      if (std::hypot(s.x, s.y) > radius) continue;
      samples.push_back(s);
      low = std::min(low, s.value);
      high = std::max(high, s.value);
    }
  if (samples.size() < 20) return std::nullopt;
  // Place, two directions, blur, two widths: what bends. Ground with its slope and contrast are linear, and solved for
  // within.
  const int unknowns = lines ? 7 : 5;
  Eigen::VectorXd at(unknowns);
  at.head(5) << 0, 0, std::atan2(u.y, u.x), std::atan2(v.y, v.x), std::log(start.blur);
  if (lines) at.tail(2) << std::log(start.width_u), std::log(start.width_v);
  const auto count = static_cast<Eigen::Index>(samples.size());
  Eigen::MatrixXd terms(count, 4);
  Eigen::VectorXd values(count);
  for (Eigen::Index i = 0; i < count; ++i) {
    const Sample& s = samples[static_cast<std::size_t>(i)];
    terms.row(i) << 1, s.x, s.y, 0;
    values[i] = s.value;
  }
  const Residuals residuals = [&](const Eigen::VectorXd& p, Eigen::VectorXd& out) {
    const double blur = std::exp(std::clamp(p[4], -2.0, 2.5)) * std::sqrt(2.0);
    const double half1 = lines ? std::exp(std::clamp(p[5], -1.0, 4.0)) / 2 : 0,
                 half2 = lines ? std::exp(std::clamp(p[6], -1.0, 4.0)) / 2 : 0;
    const double c1 = std::cos(p[2]), s1 = std::sin(p[2]), c2 = std::cos(p[3]), s2 = std::sin(p[3]);
    for (Eigen::Index i = 0; i < count; ++i) {
      const double x = terms(i, 1) - p[0], y = terms(i, 2) - p[1];
      const double d1 = c1 * y - s1 * x, d2 = c2 * y - s2 * x;
      if (lines) {
        const double a = 0.5 * (std::erf((d1 + half1) / blur) - std::erf((d1 - half1) / blur)),
                     b = 0.5 * (std::erf((d2 + half2) / blur) - std::erf((d2 - half2) / blur));
        terms(i, 3) = a + b - a * b;
      } else {
        terms(i, 3) = std::erf(d1 / blur) * std::erf(d2 / blur);
      }
    }
    const Eigen::Matrix4d normal = terms.transpose() * terms;
    const Eigen::Vector4d linear = normal.ldlt().solve(terms.transpose() * values);
    out = terms * linear - values;
  };
  const Minimum found = minimised(residuals, at, static_cast<int>(count), 12 * (2 * unknowns + 1), 1e-7);
  const Point moved{found.at[0], found.at[1]};
  const double noise = std::sqrt(found.sum / static_cast<double>(samples.size()));
  if (!(std::hypot(moved.x, moved.y) < 0.6 * radius) || !std::isfinite(noise)) return std::nullopt;
  // What is left has to be little of what there is.
  if (noise > 0.2 * (high - low)) return std::nullopt;
  CrossingLook look{std::exp(found.at[4]), start.width_u, start.width_v};
  if (lines) look = {look.blur, std::exp(found.at[5]), std::exp(found.at[6])};
  return FittedCrossing{near + moved, look, noise};
}

}  // namespace fexel
