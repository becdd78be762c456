#include "measure/proposal.h"
#include "base/statistics.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "measure/edges.h"

namespace fexel {
namespace {

constexpr int working_side = 500;
constexpr int directions = 180;  // one a degree
constexpr int spread = 3;        // degrees about a gradient's direction that get votes
constexpr int max_lines = 20;    // of either family
constexpr double least_support = 0.6;
constexpr double least_area = 0.02;  // of the picture

/// Gradient of the mean of the bands, by central differences of a picture smoothed by a 3 x 3 binomial.
struct Gradients {
  int width = 0, height = 0;
  std::vector<float> x, y, size;
  float strong = 0;  ///< what counts as an edge
  std::size_t at(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(width) + static_cast<std::size_t>(i);
  }
};

Gradients gradients_of(const Image& image) {
  Gradients g;
  g.width = image.width();
  g.height = image.height();
  std::vector<float> grey(static_cast<std::size_t>(g.width) * static_cast<std::size_t>(g.height));
  visit_depth(image.depth(), [&](auto sample) {
    for (int band = 0; band < std::min(image.bands(), 3); ++band)
      for (int y = 0; y < g.height; ++y)
        for (int x = 0; x < g.width; ++x)
          if (const auto v = static_cast<float>(image.row<decltype(sample)>(band, y)[x]); std::isfinite(v))
            grey[g.at(x, y)] += v;
  });
  g.x.resize(grey.size());
  g.y.resize(grey.size());
  g.size.resize(grey.size());
  for (int y = 1; y + 1 < g.height; ++y)
    for (int x = 1; x + 1 < g.width; ++x) {
      const auto v = [&](int i, int j) { return grey[g.at(x + i, y + j)]; };
      const float dx = v(1, -1) + 2 * v(1, 0) + v(1, 1) - v(-1, -1) - 2 * v(-1, 0) - v(-1, 1);
      const float dy = v(-1, 1) + 2 * v(0, 1) + v(1, 1) - v(-1, -1) - 2 * v(0, -1) - v(1, -1);
      g.x[g.at(x, y)] = dx;
      g.y[g.at(x, y)] = dy;
      g.size[g.at(x, y)] = std::hypot(dx, dy);
    }
  // What stands out: the strongest eighth, and more than three times what most pixels have.
  g.strong = std::max({quantile(g.size, 0.875), 2 * quantile(g.size, 0.5), 1e-6F});
  return g;
}

/// cos(a) x + sin(a) y = r, with the gradient along (cos a, sin a) or against it.
struct Line {
  double angle, r;
  float votes;
};

std::vector<Line> lines_of(const Gradients& g, const Job& job) {
  const int reach = static_cast<int>(std::hypot(g.width, g.height)) + 2;
  const int columns = 2 * reach + 1;
  std::vector<float> votes(static_cast<std::size_t>(directions) * static_cast<std::size_t>(columns));
  std::vector<double> cosine(directions), sine(directions);
  for (int d = 0; d < directions; ++d) {
    cosine[static_cast<std::size_t>(d)] = std::cos(d * std::numbers::pi / directions);
    sine[static_cast<std::size_t>(d)] = std::sin(d * std::numbers::pi / directions);
  }
  for (int y = 1; y + 1 < g.height; ++y) {
    job.check();
    for (int x = 1; x + 1 < g.width; ++x) {
      const std::size_t at = g.at(x, y);
      if (g.size[at] < g.strong) continue;
      const double angle = std::atan2(g.y[at], g.x[at]) * directions / std::numbers::pi;
      for (int k = -spread; k <= spread; ++k) {
        const int d = ((static_cast<int>(std::lround(angle)) + k) % directions + directions) % directions;
        const double r =
            cosine[static_cast<std::size_t>(d)] * (x + 0.5) + sine[static_cast<std::size_t>(d)] * (y + 0.5);
        votes[static_cast<std::size_t>(d) * static_cast<std::size_t>(columns) +
              static_cast<std::size_t>(std::lround(r) + reach)] += 1;
      }
    }
  }
  std::vector<Line> lines;
  const float least = 0.12F * static_cast<float>(std::min(g.width, g.height));
  const auto vote = [&](int d, int column) {
    // A line of direction a and distance r is the one of a + 180° and -r.
    if (d < 0 || d >= directions) {
      d = d < 0 ? d + directions : d - directions;
      column = 2 * reach - column;
    }
    return column < 0 || column >= columns ? 0.0F
                                           : votes[static_cast<std::size_t>(d) * static_cast<std::size_t>(columns) +
                                                   static_cast<std::size_t>(column)];
  };
  constexpr int near_direction = 4, near_column = 4;
  for (int d = 0; d < directions; ++d)
    for (int c = 0; c < columns; ++c) {
      const float here = vote(d, c);
      if (here < least) continue;
      bool peak = true;
      for (int i = -near_direction; i <= near_direction && peak; ++i)
        for (int j = -near_column; j <= near_column && peak; ++j) {
          const float there = vote(d + i, c + j);
          peak = there < here || (there == here && (i < 0 || (i == 0 && j <= 0)));
        }
      if (peak) lines.push_back({d * std::numbers::pi / directions, static_cast<double>(c - reach), here});
    }
  std::ranges::sort(lines, [](const Line& a, const Line& b) { return a.votes > b.votes; });
  return lines;
}

std::optional<Point> meeting(const Line& a, const Line& b) {
  const double det = std::cos(a.angle) * std::sin(b.angle) - std::sin(a.angle) * std::cos(b.angle);
  if (std::abs(det) < 0.3) return std::nullopt;
  return Point{(a.r * std::sin(b.angle) - b.r * std::sin(a.angle)) / det,
               (b.r * std::cos(a.angle) - a.r * std::cos(b.angle)) / det};
}

/// The share of a side with a strong gradient across it within 1.5 pixels.
double support_of(const Gradients& g, Point a, Point b) {
  const double length = distance(a, b);
  const Point across{-(b.y - a.y) / length, (b.x - a.x) / length};
  const int places = std::max(8, static_cast<int>(length / 3));
  int found = 0;
  for (int i = 0; i < places; ++i) {
    const double u = 0.02 + 0.96 * (i + 0.5) / places;
    const Point p = a + u * (b - a);
    for (int k = -1; k <= 1; ++k) {
      const Point q = p + 1.25 * k * across;
      const int x = static_cast<int>(std::floor(q.x)), y = static_cast<int>(std::floor(q.y));
      if (x < 1 || y < 1 || x + 1 >= g.width || y + 1 >= g.height) continue;
      const std::size_t at = g.at(x, y);
      if (g.size[at] < g.strong) continue;
      if (std::abs(g.x[at] * across.x + g.y[at] * across.y) < 0.9 * static_cast<double>(g.size[at])) continue;
      ++found;
      break;
    }
  }
  return double(found) / places;
}

/// The side moved onto the strongest gradients within 2.5 pixels of it, by a straight line through them.
std::pair<Point, Point> settled(const Gradients& g, Point a, Point b) {
  const double length = distance(a, b);
  const Point across{-(b.y - a.y) / length, (b.x - a.x) / length};
  double n = 0, u1 = 0, u2 = 0, k1 = 0, uk = 0;
  for (double along = 0.05; along < 0.95; along += 2 / length) {
    double strongest = g.strong;
    std::optional<double> where;
    for (double k = -2.5; k <= 2.5; k += 0.5) {
      const Point q = a + along * (b - a) + k * across;
      const int x = static_cast<int>(std::floor(q.x)), y = static_cast<int>(std::floor(q.y));
      if (x < 1 || y < 1 || x + 1 >= g.width || y + 1 >= g.height) continue;
      const double size = std::abs(g.x[g.at(x, y)] * across.x + g.y[g.at(x, y)] * across.y);
      if (size <= strongest) continue;
      strongest = size;
      where = (x + 0.5 - a.x) * across.x + (y + 0.5 - a.y) * across.y;
    }
    if (!where) continue;
    n += 1;
    u1 += along;
    u2 += along * along;
    k1 += *where;
    uk += along * *where;
  }
  const double det = n * u2 - u1 * u1;
  if (n < 8 || det < 1e-6 * n * n) return {a, b};
  const double slope = (n * uk - u1 * k1) / det, start = (k1 - slope * u1) / n;
  return {a + start * across, b + (start + slope) * across};
}

Quad settled(const Gradients& g, const Quad& quad) {
  std::array<std::pair<Point, Point>, 4> sides;
  for (std::size_t i = 0; i < 4; ++i) sides[i] = settled(g, quad[i], quad[(i + 1) % 4]);
  Quad out = quad;
  for (std::size_t i = 0; i < 4; ++i) {
    const auto& [p, q] = sides[(i + 3) % 4];
    const auto& [r, s] = sides[i];
    const Point along = q - p, other = s - r;
    const double det = along.x * other.y - along.y * other.x;
    if (std::abs(det) < 1e-9) return quad;
    out[i] = p + (((r.x - p.x) * other.y - (r.y - p.y) * other.x) / det) * along;
    if (distance(out[i], quad[i]) > 6) return quad;
  }
  return check_quad(out) ? quad : out;
}

}  // namespace

namespace {

/// A quad and what speaks for it.
struct Candidate {
  Quad quad;
  double support, score;
};

/// The support of the weakest side, and the product of all.
std::pair<double, double> supports_of(const Gradients& g, const Quad& quad, double least) {
  double weakest = 1, all = 1;
  for (std::size_t side = 0; side < 4 && weakest >= least; ++side) {
    const double s = support_of(g, quad[side], quad[(side + 1) % 4]);
    weakest = std::min(weakest, s);
    all *= s;
  }
  return {weakest, all};
}

double share_of(const Gradients& g, const Quad& quad) {
  return (std::abs(cross(quad[0], quad[1], quad[2])) + std::abs(cross(quad[0], quad[2], quad[3]))) / 2 /
         (double(g.width) * g.height);
}

/// The product over the sides of the share of each along which its edge is found in full detail; a side that is no
/// edge, but the middle of a line or joint, counts for less. `scale` are the picture's pixels to one of the quad's.
double own_edges(const Image& picture, Quad quad, double scale) {
  constexpr double of_a_joint = 0.8, of_none = 0.25;
  for (Point& p : quad) p = scale * p;
  double all = 1;
  for (std::size_t side = 0; side < 4; ++side) {
    const auto edge = find_edge({picture, Map()}, quad[side], quad[(side + 1) % 4], 2 * scale + 2);
    all *=
        edge ? (edge->kind == EdgeLine::Kind::step ? 1 : of_a_joint) * edge->used / std::max(1, edge->places) : of_none;
  }
  return all;
}

/// All quads that lines of both families form and that have edges along their sides, the best first, at most so many.
std::vector<Candidate> quads_of(const Gradients& g, const std::vector<Line>& level, const std::vector<Line>& upright,
                                std::size_t most, const Job& job) {
  const double margin = -1;
  std::vector<Candidate> found;
  const auto better = [](const Candidate& a, const Candidate& b) { return a.score > b.score; };
  double least_score = 0;  // what a quad must be better than, once there are enough
  for (std::size_t i = 0; i < level.size(); ++i)
    for (std::size_t j = i + 1; j < level.size(); ++j) {
      job.check();
      for (std::size_t k = 0; k < upright.size(); ++k)
        for (std::size_t l = k + 1; l < upright.size(); ++l) {
          const std::array<std::optional<Point>, 4> met = {meeting(level[i], upright[k]), meeting(level[i], upright[l]),
                                                           meeting(level[j], upright[l]),
                                                           meeting(level[j], upright[k])};
          if (!std::ranges::all_of(met, [&](const auto& p) {
                return p && p->x > margin && p->y > margin && p->x < g.width - margin && p->y < g.height - margin;
              }))
            continue;
          const Quad quad = in_order({*met[0], *met[1], *met[2], *met[3]});
          if (check_quad(quad)) continue;
          const double share = share_of(g, quad);
          // Full support gives 1 at most, so that a small quad is not looked at along its sides in vain.
          if (share < least_area || std::sqrt(share) < least_score) continue;
          const auto [weakest, all] = supports_of(g, quad, least_support);
          const double score = all * std::sqrt(share);
          if (weakest < least_support || score <= least_score) continue;
          found.push_back({quad, weakest, score});
          if (found.size() < 2 * most) continue;
          std::ranges::nth_element(found, found.begin() + static_cast<std::ptrdiff_t>(most), better);
          found.resize(most);
          least_score = std::ranges::min(found, {}, &Candidate::score).score;
        }
    }
  std::ranges::sort(found, better);
  if (found.size() > most) found.resize(most);
  return found;
}

}  // namespace

std::vector<Proposal> propose_rectangles(const Pyramid& picture, const Job& job) {
  constexpr std::size_t looked_at = 200, most = 8;
  constexpr double same = 6;  // px of the reduced picture: quads whose corners are all nearer are one
  const Image& base = picture.base();
  const int n = picture.level_for(std::max(base.width(), base.height()) / double(working_side));
  const Image& small = picture.level(n, job);
  if (std::min(small.width(), small.height()) < 16) return {};
  const Gradients g = gradients_of(small);
  std::vector<Line> upright, level;
  for (const Line& line : lines_of(g, job)) {
    auto& family = std::abs(std::cos(line.angle)) > std::numbers::sqrt2 / 2 ? upright : level;
    if (family.size() < max_lines) family.push_back(line);
  }
  std::vector<Candidate> chosen;
  for (Candidate candidate : quads_of(g, level, upright, looked_at, job)) {
    job.check();
    candidate.quad = settled(g, settled(g, candidate.quad));
    const bool known = std::ranges::any_of(chosen, [&](const Candidate& other) {
      for (std::size_t i = 0; i < 4; ++i)
        if (distance(other.quad[i], candidate.quad[i]) > same) return false;
      return true;
    });
    if (known) continue;
    const auto [weakest, all] = supports_of(g, candidate.quad, 0);
    candidate.support = weakest;
    candidate.score = all * std::sqrt(share_of(g, candidate.quad));
    if (weakest >= least_support) chosen.push_back(candidate);
  }
  const auto best_first = [&] {
    std::ranges::stable_sort(chosen, [](const Candidate& a, const Candidate& b) { return a.score > b.score; });
    if (chosen.size() > most) chosen.resize(most);
  };
  best_first();
  // In full detail they are told apart: which of them has its own edges, all along its sides.
  for (Candidate& candidate : chosen) {
    job.check();
    candidate.score = own_edges(base, candidate.quad, 1 << n) * std::sqrt(share_of(g, candidate.quad));
  }
  best_first();
  std::vector<Proposal> out;
  for (const Candidate& candidate : chosen) {
    Proposal proposal{candidate.quad, double(1 << n), candidate.support};  // a pixel of what was looked at
    for (Point& p : proposal.corners) p = double(1 << n) * p;
    out.push_back(proposal);
  }
  return out;
}

}  // namespace fexel
