#include "calibrate/grid_lattice.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <set>

namespace fexel {
namespace {

constexpr double near_share = 0.22;  // how far a node may lie from where it is expected, in steps
constexpr std::size_t seeds_tried = 60;

/// Candidates by place.
class Nearby {
 public:
  explicit Nearby(const std::vector<NodeCandidate>& all) : all_(all) {
    for (const NodeCandidate& c : all) {
      columns_ = std::max(columns_, cell(c.at.x) + 1);
      rows_ = std::max(rows_, cell(c.at.y) + 1);
    }
    cells_.resize(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_));
    for (std::size_t i = 0; i < all.size(); ++i) cells_[index(cell(all[i].at.x), cell(all[i].at.y))].push_back(i);
  }
  template <class Body>
  void within(Point p, double radius, const Body& body) const {
    const int x0 = std::max(0, cell(p.x - radius)), x1 = std::min(columns_ - 1, cell(p.x + radius)),
              y0 = std::max(0, cell(p.y - radius)), y1 = std::min(rows_ - 1, cell(p.y + radius));
    for (int y = y0; y <= y1; ++y)
      for (int x = x0; x <= x1; ++x)
        for (const std::size_t i : cells_[index(x, y)])
          if (distance(all_[i].at, p) <= radius) body(i);
  }
  std::optional<std::size_t> nearest(Point p, double radius) const {
    std::optional<std::size_t> best;
    within(p, radius, [&](std::size_t i) {
      if (!best || distance(all_[i].at, p) < distance(all_[*best].at, p)) best = i;
    });
    return best;
  }

 private:
  static int cell(double v) { return static_cast<int>(std::floor(v / 16)); }
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(x);
  }
  const std::vector<NodeCandidate>& all_;
  int columns_ = 1, rows_ = 1;
  std::vector<std::vector<std::size_t>> cells_;
};

double length_of(Point p) {
  return std::hypot(p.x, p.y);
}

class Grower {
 public:
  Grower(const std::vector<NodeCandidate>& all, bool in_turns) : all_(all), nearby_(all), in_turns_(in_turns) {}

  Lattice from(std::size_t seed) const {
    const auto steps = first_steps(seed);
    if (!steps) return {};
    struct Node {
      std::size_t candidate;
      Point u, v;
    };
    std::map<std::pair<int, int>, Node> nodes{{{0, 0}, {seed, steps->first, steps->second}}};
    std::set<std::size_t> used{seed};
    std::deque<std::pair<int, int>> open{{0, 0}};
    while (!open.empty()) {
      const auto index = open.front();
      open.pop_front();
      const Node now = nodes.at(index);
      for (int way = 0; way < 4; ++way) {
        const bool along_u = way < 2;
        const int by = way % 2 == 0 ? 1 : -1;
        const std::pair<int, int> next{index.first + (along_u ? by : 0), index.second + (along_u ? 0 : by)};
        if (nodes.contains(next)) continue;
        // The step of before goes on.
        Point step = by * (along_u ? now.u : now.v);
        const std::pair<int, int> before{index.first - (along_u ? by : 0), index.second - (along_u ? 0 : by)};
        if (const auto at = nodes.find(before); at != nodes.end())
          step = all_[now.candidate].at - all_[at->second.candidate].at;
        const Point expected = all_[now.candidate].at + step;
        const double near = near_share * std::min(length_of(now.u), length_of(now.v));
        const auto found = nearby_.nearest(expected, near);
        if (!found || used.contains(*found) || !differ(now.candidate, *found)) continue;
        Node made{*found, now.u, now.v};
        (along_u ? made.u : made.v) = static_cast<double>(by) * (all_[*found].at - all_[now.candidate].at);
        nodes.emplace(next, made);
        used.insert(*found);
        open.push_back(next);
      }
    }
    Lattice out;
    for (const auto& [index, node] : nodes) out[index] = all_[node.candidate].at;
    return out;
  }

 private:
  bool differ(std::size_t a, std::size_t b) const {
    return !in_turns_ || std::abs(std::cos(all_[a].turn - all_[b].turn)) < 0.75;
  }

  /// The two shortest steps from a node on which other nodes lie on both sides.
  std::optional<std::pair<Point, Point>> first_steps(std::size_t seed) const {
    const Point p = all_[seed].at;
    std::vector<std::size_t> around;
    for (double radius = 12; radius < 400 && around.size() < 13; radius *= 1.4) {
      around.clear();
      nearby_.within(p, radius, [&](std::size_t i) {
        if (i != seed && distance(all_[i].at, p) > 3) around.push_back(i);
      });
    }
    std::ranges::sort(around, {}, [&](std::size_t i) { return distance(all_[i].at, p); });
    if (around.size() > 24) around.resize(24);
    std::vector<Point> steps;
    for (const std::size_t i : around) {
      const Point step = all_[i].at - p;
      if (!differ(seed, i)) continue;
      if (!nearby_.nearest(p - step, near_share * length_of(step))) continue;
      steps.push_back(step);
    }
    for (std::size_t i = 0; i < steps.size(); ++i)
      for (std::size_t j = i + 1; j < steps.size(); ++j) {
        const Point u = steps[i], v = steps[j];
        const double sine = (u.x * v.y - u.y * v.x) / (length_of(u) * length_of(v));
        if (std::abs(sine) < 0.5 || length_of(v) > 3 * length_of(u)) continue;
        const double near = near_share * std::min(length_of(u), length_of(v));
        int corners = 0;
        for (const double a : {-1.0, 1.0})
          for (const double b : {-1.0, 1.0}) corners += nearby_.nearest(p + a * u + b * v, near).has_value();
        if (corners < 3) continue;
        return std::pair(u, sine > 0 ? v : -1 * v);
      }
    return std::nullopt;
  }

  const std::vector<NodeCandidate>& all_;
  Nearby nearby_;
  bool in_turns_;
};

}  // namespace

Lattice grown_lattice(const std::vector<NodeCandidate>& candidates, bool in_turns, const Job& job) {
  Lattice best;
  if (candidates.size() < 9) return best;
  const Grower grower(candidates, in_turns);
  // Seeds all over the strong ones: where one stands in a gap, another does not.
  const std::size_t strong = std::max<std::size_t>(9, candidates.size() * 2 / 3);
  const std::size_t every = std::max<std::size_t>(1, strong / seeds_tried);
  for (std::size_t seed = 0; seed < strong; seed += every) {
    job.check();
    Lattice grown = grower.from(seed);
    if (grown.size() > best.size()) best = std::move(grown);
    if (best.size() > candidates.size() * 3 / 4) break;
  }
  return best;
}

}  // namespace fexel
