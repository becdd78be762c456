#include "measure/ring_edge.h"
#include "base/statistics.h"

#include <Eigen/LU>
#include <algorithm>
#include <numbers>

#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr double least_around = 48;    // pixels
constexpr double least_share = 0.25;   // of the places have to show an edge
constexpr double least_known = 0.3;    // pixels: a centre known less well than this, or than
constexpr double of_its_width = 0.25;  // this share of the edge's own width, is of no use
constexpr int rounds = 30;

}  // namespace

std::optional<RingEdge> fit_circle(const std::vector<Point>& points) {
  const auto count = static_cast<Eigen::Index>(points.size());
  if (count < 3) return std::nullopt;
  // x^2 + y^2 = 2 a x + 2 b y + c about the points' mean gives a place to begin from.
  Point mean{0, 0};
  for (const Point p : points) mean = mean + 1.0 / static_cast<double>(count) * p;
  Eigen::MatrixXd rows(count, 3);
  Eigen::VectorXd squares(count);
  double extent = 0;
  for (Eigen::Index i = 0; i < count; ++i) {
    const Point p = points[static_cast<std::size_t>(i)] - mean;
    rows.row(i) << 2 * p.x, 2 * p.y, 1;
    squares(i) = p.x * p.x + p.y * p.y;
    extent = std::max(extent, std::sqrt(squares(i)));
  }
  rows.leftCols(2) /= std::max(extent, 1e-300);
  const auto solution = least_squares(rows, squares, 1e-9);
  if (!solution) return std::nullopt;
  const Eigen::Vector3d start = *solution;
  Point centre{start(0) / extent, start(1) / extent};
  double radius = std::sqrt(std::max(0.0, start(2) + centre.x * centre.x + centre.y * centre.y));
  centre = centre + mean;

  RingEdge out;
  std::vector<double> weights(points.size(), 1), off(points.size()), sizes;
  Eigen::Matrix3d normal = Eigen::Matrix3d::Identity();
  for (int round = 0; round < rounds; ++round) {
    normal.setZero();
    Eigen::Vector3d gradient = Eigen::Vector3d::Zero();
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Point d = points[i] - centre;
      const double away = std::max(std::hypot(d.x, d.y), 1e-12);
      off[i] = away - radius;
      const Eigen::Vector3d j(-d.x / away, -d.y / away, -1);
      normal += weights[i] * j * j.transpose();
      gradient += weights[i] * off[i] * j;
    }
    const Eigen::Vector3d step = *solve_symmetric(normal, -gradient);
    if (!step.allFinite()) return std::nullopt;
    centre = centre + Point{step(0), step(1)};
    radius += step(2);
    sizes.clear();
    for (const double r : off) sizes.push_back(std::abs(r));
    const double limit = 4.685 * std::max(1.4826 * median(sizes), 1e-6);
    for (std::size_t i = 0; i < points.size(); ++i) {
      const double u = off[i] / limit;
      weights[i] = std::abs(u) < 1 ? (1 - u * u) * (1 - u * u) : 0;
    }
    if (round > 3 && step.norm() < 1e-9 * std::max(1.0, radius)) break;
  }
  double sum = 0, total = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    sum += weights[i] * off[i] * off[i];
    total += weights[i];
    out.used += weights[i] > 0;
  }
  if (out.used < 3) return std::nullopt;
  out.places = static_cast<int>(points.size());
  out.centre = centre;
  out.radius = radius;
  out.scatter = std::sqrt(sum / total);
  const double freedom = std::max(1.0, out.used - 3.0) / out.used;
  const Eigen::Matrix3d covariance = normal.inverse() * (sum / total / freedom);
  out.centre_sigma = std::sqrt((covariance(0, 0) + covariance(1, 1)) / 2);
  out.radius_sigma = std::sqrt(covariance(2, 2));
  return out;
}

std::optional<RingEdge> find_ring_edge(const EdgeView& view, Point centre, double radius, double reach,
                                       EdgeRefusal* why) {
  std::optional<RingEdge> found;
  if (why) *why = {};
  for (const double within : {reach, std::max(4.0, reach / 4), 4.0}) {  // once more about what was found
    if (2 * std::numbers::pi * radius < least_around) return std::nullopt;
    const EdgePath path{[&](double u, double d) {
                          const double turn = 2 * std::numbers::pi * u;
                          return centre + (radius + d) * Point{std::cos(turn), std::sin(turn)};
                        },
                        2 * std::numbers::pi * radius,
                        0,
                        1,
                        std::min(within, radius - 1),
                        true,
                        least_share};
    const EdgeProfiles p = edge_profiles(view, path);
    const auto edges = edges_along(path, p, why);
    if (edges.empty()) return std::nullopt;
    const EdgeFit& fit = edges.front().fit;
    radius += fit.value(0);
    centre = centre + Point{fit.value(1), fit.value(2)};
    found.emplace();
    found->centre = centre;
    found->radius = radius;
    found->centre_sigma = std::sqrt((fit.covariance(1, 1) + fit.covariance(2, 2)) / 2);
    found->radius_sigma = std::sqrt(fit.covariance(0, 0));
    found->scatter = fit.scatter;
    found->used = fit.used;
    found->places = p.places;
    found->width = fit.width;
    if (found->centre_sigma > std::max(least_known, of_its_width * fit.width)) {
      if (why) *why = {EdgeRefusal::Why::uncertain, fit.contrast, fit.noise, fit.width, found->centre_sigma};
      return std::nullopt;
    }
  }
  return found;
}

}  // namespace fexel
