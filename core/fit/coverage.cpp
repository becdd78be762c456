#include "fit/coverage.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <limits>

#include "fit/fit_quality.h"

namespace fexel {
namespace {

std::vector<bool> used_by(const Fit& fit) {
  std::vector<bool> out;
  for (const double weight : fit.weights) out.push_back(weight > 0);
  return out;
}

}  // namespace

std::vector<double> uncertainty_at(Model model, const std::vector<PointPair>& pairs, const Fit& fit,
                                   const std::vector<Point>& places, double sigma) {
  const FitQuality quality(model, pairs, used_by(fit), fit.map);
  std::vector<double> out;
  for (const Point p : places) out.push_back(quality.uncertainty_at(p, sigma));
  return out;
}

Eigen::MatrixXd matrix_covariance(Model model, const std::vector<PointPair>& pairs, const Fit& fit, double sigma) {
  if (!fit.map.planar()) return {};
  // Four places and where they come to say the matrix, and their covariance that of its numbers.
  Point low{1e300, 1e300}, high{-1e300, -1e300};
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (fit.weights[i] > 0) {
      low = {std::min(low.x, pairs[i].from.x), std::min(low.y, pairs[i].from.y)};
      high = {std::max(high.x, pairs[i].from.x), std::max(high.y, pairs[i].from.y)};
    }
  const Point middle = 0.5 * (low + high);
  const double half = std::max({high.x - low.x, high.y - low.y, 1.0}) / 2;
  const std::vector<Point> places{middle + Point{-half, -half}, middle + Point{half, -half}, middle + Point{half, half},
                                  middle + Point{-half, half}};
  const Eigen::MatrixXd of_places = FitQuality(model, pairs, used_by(fit), fit.map).covariance_of(places);
  if (of_places.size() == 0) return {};
  const Matrix3 m = fit.map.matrix() / fit.map.matrix()(2, 2);
  // Each place gives two equations, linear in the eight numbers; how they follow the places is their inverse.
  Eigen::MatrixXd equations(8, 8);
  Eigen::VectorXd depth(8);
  for (Eigen::Index k = 0; k < 4; ++k) {
    const Point p = places[static_cast<std::size_t>(k)];
    const double z = m(2, 0) * p.x + m(2, 1) * p.y + 1;
    const double x = (m(0, 0) * p.x + m(0, 1) * p.y + m(0, 2)) / z, y = (m(1, 0) * p.x + m(1, 1) * p.y + m(1, 2)) / z;
    equations.row(2 * k) << p.x, p.y, 1, 0, 0, 0, -x * p.x, -x * p.y;
    equations.row(2 * k + 1) << 0, 0, 0, p.x, p.y, 1, -y * p.x, -y * p.y;
    depth.segment<2>(2 * k).setConstant(z);
  }
  const Eigen::MatrixXd follows = equations.partialPivLu().solve(Eigen::MatrixXd(depth.asDiagonal()));
  return sigma * sigma * follows * of_places * follows.transpose();
}

std::vector<Point> hull_of(const std::vector<PointPair>& pairs, const Fit& fit) {
  std::vector<Point> points;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (fit.weights[i] > 0) points.push_back(pairs[i].from);
  std::ranges::sort(points, [](Point a, Point b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
  std::vector<Point> out;
  for (int side = 0; side < 2; ++side) {
    const std::size_t first = out.size();
    for (const Point p : points) {
      while (out.size() >= first + 2 && cross(out[out.size() - 2], out.back(), p) <= 0) out.pop_back();
      out.push_back(p);
    }
    if (!out.empty()) out.pop_back();
    std::ranges::reverse(points);
  }
  return out;
}

bool inside_hull(const std::vector<Point>& hull, Point place) {
  if (hull.size() < 3) return false;
  for (std::size_t i = 0; i < hull.size(); ++i)
    if (cross(hull[i], hull[(i + 1) % hull.size()], place) < 0) return false;
  return true;
}

Coverage::Coverage(Model model, std::vector<PointPair> pairs, const Fit& fit, double sigma)
    : pairs_(std::move(pairs)),
      hull_(hull_of(pairs_, fit)),
      sigma_(sigma),
      quality_(std::make_unique<const FitQuality>(model, pairs_, used_by(fit), fit.map)) {}

Coverage::~Coverage() = default;

double Coverage::uncertainty(Point from) const {
  return quality_->uncertainty_at(from, sigma_);
}

bool Coverage::among_pairs(Point from) const {
  return inside_hull(hull_, from);
}

std::vector<Point> helpful_places(Model model, const std::vector<PointPair>& pairs, const Fit& fit, double width,
                                  double height, int count, const std::function<bool(Point)>& allowed) {
  const auto grid = [&](int side, double inset) {
    std::vector<Point> out;
    for (int j = 0; j < side; ++j)
      for (int i = 0; i < side; ++i)
        out.push_back(
            {width * (inset + (1 - 2 * inset) * i / (side - 1)), height * (inset + (1 - 2 * inset) * j / (side - 1))});
    if (allowed) std::erase_if(out, [&](Point p) { return !allowed(p); });
    return out;
  };
  std::vector<Point> candidates = grid(15, 0.03);
  std::vector<Point> out;
  if (model != Model::thin_plate) {
    std::erase_if(candidates, [&](Point p) { return !fit.map.forward(p); });
    for (const std::size_t i :
         FitQuality(model, pairs, used_by(fit), fit.map).most_helpful(candidates, grid(13, 0), count))
      out.push_back(candidates[i]);
    return out;
  }
  // By how far the nearest pair is.
  std::vector<Point> taken;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (fit.weights[i] > 0) taken.push_back(pairs[i].from);
  const auto nearest = [&](Point p) {
    double least = std::numeric_limits<double>::infinity();
    for (const Point t : taken) least = std::min(least, distance(t, p));
    return least;
  };
  for (int k = 0; k < count && !candidates.empty(); ++k) {
    out.push_back(*std::ranges::max_element(candidates, {}, nearest));
    taken.push_back(out.back());
  }
  return out;
}

}  // namespace fexel
