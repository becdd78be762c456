#include "calibrate/lens_solve.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <Eigen/SVD>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/error.h"
#include "calibrate/minimise.h"
#include "fit/fit.h"

namespace fexel {
namespace {

using Vector = Eigen::VectorXd;
using Solution = Minimum;

Point seen_by(const Matrix3& to_ideal, const Lens::Terms& terms, Point centre, double focal, double x, double y) {
  const Eigen::Vector3d p = to_ideal * Eigen::Vector3d(x, y, 1);
  const double w = std::abs(p.z()) > 1e-12 ? p.z() : 1e-12;
  const Point ideal{(p.x() / w - centre.x) / focal, (p.y() / w - centre.y) / focal};
  return centre + focal * Lens::bent(terms, ideal);
}

/// Columns and rows about their middle, to about one: what the solver works with.
struct Frame {
  double x = 0, y = 0, scale = 1;
  double wide = 1, high = 1;  // half of the columns and of the rows, scaled
};
Frame frame_of(const std::vector<GridNode>& nodes) {
  const auto [left, right] = std::ranges::minmax(nodes, {}, &GridNode::column);
  const auto [top, bottom] = std::ranges::minmax(nodes, {}, &GridNode::row);
  const double columns = right.column - left.column, rows = bottom.row - top.row,
               scale = 2 / std::max({1.0, columns, rows});
  return {(left.column + right.column) / 2.0, (top.row + bottom.row) / 2.0, scale, scale * columns / 2,
          scale * rows / 2};
}

void require_nodes(const std::vector<GridNode>& nodes) {
  if (nodes.size() < 9)
    throw input_error(fmt::format("Only {} nodes of a grid are to be seen.", nodes.size()), {},
                      "Show nine or more, in three columns and three rows.");
}

/// The projective map from a frame to the picture, by the points as they are.
Matrix3 projective_start(const std::vector<GridNode>& nodes, const Frame& frame) {
  std::vector<PointPair> pairs;
  for (const GridNode& n : nodes)
    pairs.push_back({{(n.column - frame.x) * frame.scale, (n.row - frame.y) * frame.scale}, n.at - n.shift, {}, true});
  return fit_pairs(Model::projective, pairs, false).map.matrix();
}

/// Which terms are solved for beside the perspective.
struct Terms {
  bool k1, k2, centre;
  int count() const { return (k1 ? 1 : 0) + (k2 ? 1 : 0) + (centre ? 2 : 0); }
};

/// A view solved for with one choice of terms, and how well that choice does.
struct Candidate {
  GridView view;
  double criterion = 1e300;           // the corrected Akaike criterion
  std::array<Point, 4> corners{};     // where the four outermost nodes are seen
  std::array<double, 4> variances{};  // of these places, a mean per axis, to first order in the parameters
};

Candidate view_with(const std::vector<GridNode>& nodes, Size size, const Terms& terms) {
  const Frame frame = frame_of(nodes);
  Matrix3 start = projective_start(nodes, frame);
  start /= start(2, 2);
  Vector at = Vector::Zero(8 + terms.count());
  for (int i = 0; i < 8; ++i) at[i] = start(i / 3, i % 3);
  const double focal = size.width;
  const auto unpack = [&](const Vector& v, GridView& view) {
    for (int i = 0; i < 8; ++i) view.to_ideal(i / 3, i % 3) = v[i];
    view.to_ideal(2, 2) = 1;
    int next = 8;
    view.terms = {};
    view.centre = size.middle();
    view.focal = focal;
    if (terms.k1) view.terms.k1 = v[next++];
    if (terms.k2) view.terms.k2 = v[next++];
    // In shares of the width, so that steps of the solver are alike.
    if (terms.centre) view.centre = view.centre + focal * Point{v[next], v[next + 1]};
  };
  const int numbers = 2 * static_cast<int>(nodes.size());
  const Residuals residuals = [&](const Vector& v, Vector& out) {
    GridView view;
    unpack(v, view);
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      const GridNode& n = nodes[i];
      const Point seen = seen_by(view.to_ideal, view.terms, view.centre, focal, (n.column - frame.x) * frame.scale,
                                 (n.row - frame.y) * frame.scale) +
                         n.shift - n.at;
      out[2 * static_cast<Eigen::Index>(i)] = seen.x;
      out[2 * static_cast<Eigen::Index>(i) + 1] = seen.y;
    }
  };
  const Solution solved = minimised(residuals, at, numbers);
  Candidate out;
  GridView& view = out.view;
  unpack(solved.at, view);
  view.own_centre = terms.centre;
  constexpr Point corners[] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
  for (std::size_t c = 0; c < 4; ++c) {
    const auto seen = [&](const Vector& v) {
      GridView one;
      unpack(v, one);
      return seen_by(one.to_ideal, one.terms, one.centre, focal, corners[c].x * frame.wide, corners[c].y * frame.high);
    };
    out.corners[c] = seen(solved.at);
    Eigen::MatrixXd slope(2, solved.at.size());
    for (Eigen::Index k = 0; k < solved.at.size(); ++k) {
      const double by = 1e-6 * std::max(1.0, std::abs(solved.at[k]));
      Vector plus = solved.at, minus = solved.at;
      plus[k] += by;
      minus[k] -= by;
      const Point d = (0.5 / by) * (seen(plus) - seen(minus));
      slope.col(k) << d.x, d.y;
    }
    out.variances[c] = (slope * solved.covariance * slope.transpose()).trace() / 2;
  }
  const double n = numbers, k = static_cast<double>(at.size()) + 1;
  view.rms = std::sqrt(solved.sum / std::max(1.0, n - k + 1));
  if (n - k - 1 > 0)
    out.criterion = n * std::log(std::max(solved.sum, 1e-12) / n) + 2 * k + 2 * k * (k + 1) / (n - k - 1);
  Matrix3 to_frame = Matrix3::Identity();
  to_frame << frame.scale, 0, -frame.x * frame.scale, 0, frame.scale, -frame.y * frame.scale, 0, 0, 1;
  view.to_ideal = view.to_ideal * to_frame;
  return out;
}

/// Of the corners of the view that was chosen: which terms it has was told by the same nodes, so every candidate counts
/// by how likely it is, with its own variance and with how far from the chosen one it sees the corners.
double corner_sigma(const Candidate& chosen, const std::vector<Candidate>& candidates) {
  double sum = 0, weights = 0;
  double least = chosen.criterion;
  for (const Candidate& one : candidates) least = std::min(least, one.criterion);
  for (const Candidate& one : candidates) {
    const double weight = std::exp(-(one.criterion - least) / 2);
    weights += weight;
    for (std::size_t c = 0; c < 4; ++c) {
      const Point off = one.corners[c] - chosen.corners[c];
      sum += weight * (one.variances[c] + (off.x * off.x + off.y * off.y) / 2) / 4;
    }
  }
  return weights > 0 ? std::sqrt(sum / weights) : 0;
}

}  // namespace

std::optional<Point> GridView::seen(Point plane) const {
  const Eigen::Vector3d p = to_ideal * Eigen::Vector3d(plane.x, plane.y, 1);
  if (!(p.z() > 1e-9)) return std::nullopt;
  return seen_by(to_ideal, terms, centre, focal, plane.x, plane.y);
}

GridView solve_view(std::vector<GridNode>& nodes, Size size) {
  require_nodes(nodes);
  std::vector<Candidate> candidates;
  Candidate best;
  for (const Terms terms : {Terms{false, false, false}, Terms{true, false, false}, Terms{true, true, false},
                            Terms{true, false, true}, Terms{true, true, true}}) {
    if (2 * nodes.size() < static_cast<std::size_t>(8 + terms.count() + 4)) continue;
    const Candidate one = view_with(nodes, size, terms);
    // A centre that was solved for far outside of the picture says that it cannot be told.
    if (terms.centre && distance(one.view.centre, size.middle()) > 0.3 * size.width) continue;
    if (!std::isfinite(one.criterion)) continue;
    candidates.push_back(one);
    if (one.criterion < best.criterion - 2) best = one;
  }
  best.view.corner_sigma = corner_sigma(best, candidates);
  for (GridNode& n : nodes)
    n.residual = seen_by(best.view.to_ideal, best.view.terms, best.view.centre, best.view.focal, n.column, n.row) +
                 n.shift - n.at;
  return best.view;
}

LensCalibration solve_lens(std::vector<std::vector<GridNode>>& views, Size size) {
  // Long because it goes from the closed form to the uncertainties in one line of thought.
  if (views.size() < 3)
    throw input_error(
        fmt::format("{} view{} of the grid cannot tell a lens.", views.size(), views.size() == 1 ? "" : "s"), {},
        "Give three or more, with the target tilted in different directions.");
  int numbers = 0;
  for (auto& nodes : views) {
    require_nodes(nodes);
    numbers += 2 * static_cast<int>(nodes.size());
  }
  // Each view alone, about the middle of the picture; then the focal length from all of them.
  const Point middle = size.middle();
  std::vector<Matrix3> planes;
  double normal = 0, right = 0, k1 = 0;
  for (auto& nodes : views) {
    const GridView view = view_with(nodes, size, Terms{true, false, false}).view;
    k1 += view.terms.k1 / static_cast<double>(views.size());
    Matrix3 about = translation(-middle.x, -middle.y) * view.to_ideal;
    about /= std::sqrt(about.col(0).norm() * about.col(1).norm());
    planes.push_back(about);
    const double scale = size.width;
    const Eigen::Vector3d a(about(0, 0) / scale, about(1, 0) / scale, about(2, 0)),
        b(about(0, 1) / scale, about(1, 1) / scale, about(2, 1));
    for (const auto& [q, c] :
         {std::pair(a.x() * b.x() + a.y() * b.y(), a.z() * b.z()),
          std::pair(a.x() * a.x() + a.y() * a.y() - b.x() * b.x() - b.y() * b.y(), a.z() * a.z() - b.z() * b.z())}) {
      const double weight = 1 / std::max(1e-30, a.squaredNorm() * b.squaredNorm());
      normal += weight * q * q;
      right -= weight * q * c;
    }
  }
  const auto untold = [] {
    throw input_error(
        "The views do not tell the focal length: the target is nearly square to the camera in all of them.", {},
        "Tilt the target by 20 to 45 degrees, to different sides.");
  };
  const double inverse_square = right / normal;
  if (!(inverse_square > 1e-3) || !(inverse_square < 1e3)) untold();
  const double start_focal = size.width / std::sqrt(inverse_square);

  const auto solve = [&](bool k2, bool rest) {
    const int terms = 1 + (k2 ? 1 : 0) + (rest ? 3 : 0), own = 3 + terms;
    Vector at = Vector::Zero(own + 6 * static_cast<Eigen::Index>(views.size()));
    at[0] = std::log(start_focal / size.width);
    at[3] = k1 * std::pow(start_focal / size.width, 2);
    for (std::size_t v = 0; v < views.size(); ++v) {
      Matrix3 pose = planes[v];
      pose.row(0) /= start_focal;
      pose.row(1) /= start_focal;
      pose /= std::sqrt(pose.col(0).norm() * pose.col(1).norm());
      if (pose(2, 2) < 0) pose = -pose;
      Matrix3 turn;
      turn << pose.col(0).normalized(), pose.col(1).normalized(),
          pose.col(0).normalized().cross(pose.col(1).normalized());
      const Eigen::JacobiSVD<Matrix3> svd(turn, Eigen::ComputeFullU | Eigen::ComputeFullV);
      turn = svd.matrixU() * svd.matrixV().transpose();
      const Eigen::AngleAxisd angle(turn);
      const Eigen::Index base = own + 6 * static_cast<Eigen::Index>(v);
      at.segment<3>(base) = angle.angle() * angle.axis();
      at.segment<3>(base + 3) = pose.col(2);
    }
    const Residuals residuals = [&, k2, rest, own](const Vector& p, Vector& out) {
      const double focal = size.width * std::exp(p[0]);
      const Point centre = middle + static_cast<double>(size.width) * Point{p[1], p[2]};
      Lens::Terms lens;
      int next = 3;
      lens.k1 = p[next++];
      if (k2) lens.k2 = p[next++];
      if (rest) {
        lens.k3 = p[next++];
        lens.p1 = p[next++];
        lens.p2 = p[next++];
      }
      Eigen::Index row = 0;
      for (std::size_t v = 0; v < views.size(); ++v) {
        const Eigen::Index base = own + 6 * static_cast<Eigen::Index>(v);
        const Eigen::Vector3d axis = p.segment<3>(base);
        const double angle = axis.norm();
        const Matrix3 turn =
            angle > 1e-12 ? Eigen::AngleAxisd(angle, axis / angle).toRotationMatrix() : Matrix3::Identity();
        for (const GridNode& n : views[v]) {
          Eigen::Vector3d q = turn.col(0) * n.column + turn.col(1) * n.row + p.segment<3>(base + 3);
          if (std::abs(q.z()) < 1e-9) q.z() = 1e-9;
          const Point seen = centre + focal * Lens::bent(lens, {q.x() / q.z(), q.y() / q.z()}) + n.shift - n.at;
          out[row++] = seen.x;
          out[row++] = seen.y;
        }
      }
    };
    return minimised(residuals, at, numbers);
  };
  const auto criterion = [&](const Solution& s) {
    const double n = numbers, k = static_cast<double>(s.at.size()) + 1;
    return n * std::log(std::max(s.sum, 1e-12) / n) + 2 * k + 2 * k * (k + 1) / std::max(1.0, n - k - 1);
  };
  Solution best = solve(false, false);
  int level = 0;
  for (const int next : {1, 2}) {
    Solution more = solve(next >= 1, next >= 2);
    if (!(criterion(more) < criterion(best) - 2)) continue;
    best = std::move(more);
    level = next;
  }
  LensCalibration out;
  out.size = size;
  const double focal = size.width * std::exp(best.at[0]);
  const auto sigma = [&](Eigen::Index i) { return std::sqrt(std::max(0.0, best.covariance(i, i))); };
  out.focal = {focal, focal * sigma(0)};
  out.centre_x = {middle.x + size.width * best.at[1], size.width * sigma(1)};
  out.centre_y = {middle.y + size.width * best.at[2], size.width * sigma(2)};
  double* values[] = {&out.terms.k1, &out.terms.k2, &out.terms.k3, &out.terms.p1, &out.terms.p2};
  double* sigmas[] = {&out.sigma.k1, &out.sigma.k2, &out.sigma.k3, &out.sigma.p1, &out.sigma.p2};
  const int terms = level == 0 ? 1 : level == 1 ? 2 : 5;
  for (int i = 0; i < terms; ++i) {
    *values[i] = best.at[3 + i];
    *sigmas[i] = sigma(3 + i);
  }
  out.rms = std::sqrt(best.sum / std::max<double>(1, static_cast<double>(numbers - best.at.size())));
  out.views = static_cast<int>(views.size());
  out.nodes = numbers / 2;
  Eigen::Index row = 0;
  for (std::size_t v = 0; v < views.size(); ++v) {
    const Eigen::Vector3d axis = best.at.segment<3>(3 + terms + 6 * static_cast<Eigen::Index>(v));
    const Matrix3 turn = axis.norm() > 1e-12 ? Eigen::AngleAxisd(axis.norm(), axis.normalized()).toRotationMatrix()
                                             : Matrix3::Identity();
    out.tilts.push_back(std::acos(std::clamp(std::abs(turn(2, 2)), 0.0, 1.0)) * 180 / M_PI);
    for (GridNode& n : views[v]) {
      n.residual = {best.residual[row], best.residual[row + 1]};
      row += 2;
    }
  }
  if (!std::isfinite(out.focal.sigma) || out.focal.sigma > 0.05 * focal) untold();
  return out;
}

}  // namespace fexel
