#include "measure/edges.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <algorithm>
#include <array>

#include "base/error.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr double leave_out = 0.04;     // of a side at either end
constexpr double least_known = 0.3;    // pixels: a line known less well than this, or than
constexpr double of_its_width = 0.25;  // this share of the edge's own width, is of no use

struct Frame {
  Point from, direction, normal;
  double length;
  Point at(double u, double d) const { return from + u * length * direction + d * normal; }
};
Frame frame_of(Point from, Point to) {
  const double length = distance(from, to);
  const Point along = 1 / length * (to - from);
  return {from, along, {-along.y, along.x}, length};
}

/// A straight line and a bent one, of one edge or of the middle of two.
struct Candidate {
  EdgeLine::Kind kind;
  EdgeFit line, curve;
};

EdgeFit middle_of(const EdgeFit& a, const EdgeFit& b) {
  EdgeFit out = a;
  out.value = 0.5 * (a.value + b.value);
  out.covariance = 0.25 * (a.covariance + b.covariance);
  out.scatter = std::sqrt((a.scatter * a.scatter + b.scatter * b.scatter) / 2);
  out.used = std::min(a.used, b.used);
  out.width = std::max(a.width, b.width);
  out.contrast = std::min(a.contrast, b.contrast);
  return out;
}

}  // namespace

std::optional<EdgeLine> find_edge(const EdgeView& view, Point from, Point to, double reach, EdgeRefusal* why) {
  const Frame frame = frame_of(from, to);
  const EdgePath path{[&](double u, double d) { return frame.at(u, d); }, frame.length, leave_out, 1 - leave_out,
                      std::max(reach, 4.0)};
  const EdgeProfiles p = edge_profiles(view, path);
  std::vector<Candidate> candidates;
  for (const auto& [fit, curved] : edges_along(path, p, why)) candidates.push_back({EdgeLine::Kind::step, fit, curved});
  if (candidates.empty()) return std::nullopt;
  if (candidates.size() == 2)
    candidates.push_back({EdgeLine::Kind::stripe, middle_of(candidates[0].line, candidates[1].line),
                          middle_of(candidates[0].curve, candidates[1].curve)});
  // The nearest to what was given comes first.
  const auto& [kind, line, curve] =
      *std::ranges::min_element(candidates, {}, [](const Candidate& c) { return std::abs(c.line.value(0)); });
  const auto at = [&](double u) { return line.value(0) + line.value(1) * (u - 0.5); };
  EdgeLine out;
  out.kind = kind;
  out.from = frame.at(0, at(0));
  out.to = frame.at(1, at(1));
  out.bow = -curve.value(2) / 4;
  out.bow_sigma = std::sqrt(curve.covariance(2, 2)) / 4;
  const bool bows = std::abs(out.bow) > 5 * out.bow_sigma;
  // Of a smaller bow it is not known whether it is one: a straight line through it misses the ends by two thirds of it.
  const double doubt = bows ? 0 : 2.0 / 3 * std::sqrt(std::max(0.0, out.bow * out.bow - out.bow_sigma * out.bow_sigma));
  // At its ends a bow lies to one side of the straight line, and is turned against it.
  const EdgeFit& used = bows ? curve : line;
  const auto ends_at = [&](double u) {
    const Eigen::VectorXd& v = used.value;
    const double w = u - 0.5, offset = v(0) + v(1) * w + (bows ? v(2) * w * w : 0),
                 slope = v(1) + (bows ? 2 * v(2) * w : 0);
    return std::array<Point, 2>{frame.at(u, offset), frame.at(u + 0.5, offset + 0.5 * slope)};
  };
  const auto sigma = [&](double u) {
    const Eigen::VectorXd v = curve_terms(path, bows ? 3 : 2, u);
    return std::hypot(std::sqrt(v.dot(used.covariance * v)), doubt);
  };
  out.at_from = ends_at(0);
  out.at_to = ends_at(1);
  out.sigma_from = sigma(0);
  out.sigma_to = sigma(1);
  out.scatter = line.scatter;
  out.used = line.used;
  out.places = p.places;
  out.width = line.width;
  out.contrast = line.contrast;
  const double least_sure = std::max(out.sigma_from, out.sigma_to);
  if (least_sure > std::max(least_known, of_its_width * out.width)) {
    if (why) *why = {EdgeRefusal::Why::uncertain, line.contrast, line.noise, line.width, least_sure};
    return std::nullopt;
  }
  return out;
}

EdgeCorners corners_from_edges(const EdgeView& view, const Quad& near, double reach,
                               const std::optional<std::array<double, 4>>& known) {
  static const char* const names[] = {"top", "right", "bottom", "left"};
  EdgeCorners out;
  out.corners = near;
  for (int round = 0; round < 2; ++round) {  // once more across the sides as they were found
    for (std::size_t i = 0; i < 4; ++i) {
      EdgeRefusal why;
      const auto line = find_edge(view, out.corners[i], out.corners[(i + 1) % 4], reach, &why);
      if (!line)
        throw input_error(
            why.why == EdgeRefusal::Why::none
                ? fmt::format("No straight edge stands out along the {} side, within {:.0f} px of it.", names[i], reach)
                : fmt::format("The edge along the {} side is not taken: {}.", names[i], reason_of(why)),
            "/corners", "Place its two corners closer to the edge, or keep the corners as placed.");
      out.sides[i] = *line;
    }
    for (std::size_t i = 0; i < 4; ++i) {
      // The side before ends here, and this one begins.
      const EdgeLine &before = out.sides[(i + 3) % 4], &after = out.sides[i];
      const Frame f = frame_of(before.at_to[0], before.at_to[1]), g = frame_of(after.at_from[0], after.at_from[1]);
      Matrix2 normals;
      normals << f.normal.x, f.normal.y, g.normal.x, g.normal.y;
      const Matrix2 solve = normals.inverse();
      const Eigen::Vector2d p = solve * Eigen::Vector2d(f.normal.x * f.from.x + f.normal.y * f.from.y,
                                                        g.normal.x * g.from.x + g.normal.y * g.from.y);
      out.corners[i] = {p.x(), p.y()};
      const Eigen::Vector2d sigma(before.sigma_to, after.sigma_from);
      const Matrix2 spread = solve * sigma.asDiagonal();
      out.sigma[i] = std::sqrt(spread.squaredNorm() / 2);
    }
    const auto farthest = [&] {
      double most = 0;
      for (std::size_t i = 0; i < 4; ++i) most = std::max(most, distance(out.corners[i], near[i]));
      return most;
    };
    if (check_quad(out.corners))
      throw input_error("The edges that were found do not enclose a rectangle.", "/corners",
                        "Place the corners closer to the edges, or keep them as placed.");
    if (farthest() > 2.5 * reach)
      throw input_error(fmt::format("The edges that were found meet {:.0f} px from a corner as placed.", farthest()),
                        "/corners", "Place the corners closer to the edges, or keep them as placed.");
  }
  if (known)
    for (std::size_t i = 0; i < 4; ++i)
      if (out.sigma[i] > (*known)[i]) {
        out.kept[i] = true;
        out.corners[i] = near[i];
        out.sigma[i] = (*known)[i];
      }
  return out;
}

}  // namespace fexel
