#include "measure/ring_edge.h"
#include "base/statistics.h"

#include <Eigen/LU>
#include <algorithm>
#include <numbers>

#include "geometry/linear.h"
#include "geometry/ring.h"

namespace fexel {
namespace {

constexpr double spare = 8;     // pixels across the strip for what smooths the profiles
constexpr double least = 0.25;  // of the arcs have to show an edge
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

std::optional<RingEdge> find_ring_edge(const EdgeView& view, Point centre, double radius, double reach) {
  std::optional<RingEdge> found;
  for (const double within : {reach, std::max(3.0, reach / 4)}) {
    const double outer = radius + within + spare, inner = std::max(0.0, radius - within - spare);
    const int around = static_cast<int>(std::lround(2 * std::numbers::pi * radius));
    const int arcs = std::clamp(around / 16, 24, 180);
    if (around < 48) return std::nullopt;
    const Size strip{around, std::max(1, static_cast<int>(std::lround(outer - inner)))};
    const double across = strip.height / (outer - inner), row = (outer - radius) * across;
    const auto ring =
        std::make_shared<const Ring>(RingShape{centre, inner, outer, 0, 2 * std::numbers::pi, false, strip});
    const EdgeView laid{view.image, view.to_image.after(Map(ring))};
    std::vector<Point> places;
    for (int i = 0; i < arcs; ++i) {
      const double from = double(around) * i / arcs, to = double(around) * (i + 1) / arcs;
      const auto edge = find_edge(laid, {from, row}, {to, row}, within);
      if (!edge) continue;
      if (const auto p = ring->forward(0.5 * (edge->from + edge->to))) places.push_back(*p);
    }
    if (static_cast<double>(places.size()) < least * arcs) return std::nullopt;
    found = fit_circle(places);
    if (!found) return std::nullopt;
    found->places = arcs;
    centre = found->centre;
    radius = found->radius;
  }
  return found;
}

}  // namespace fexel
