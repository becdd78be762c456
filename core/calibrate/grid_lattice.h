#pragma once
/// Nodes numbered along two directions. Parts of find_grid_target().
#include <map>
#include <vector>

#include "calibrate/grid_nodes.h"

namespace fexel {

/// A node with its numbers: column and row, from an origin of its own.
using Lattice = std::map<std::pair<int, int>, Point>;

/// The largest set of candidates that goes on from node to node in steps that hardly change. With `in_turns`
/// neighbours rise in directions that differ by about a right angle, as those of a checkerboard do.
Lattice grown_lattice(const std::vector<NodeCandidate>& candidates, bool in_turns, const Job& job);

/// Candidates that lie where `place` says that nodes are, which are not numbered yet; across gaps of up to `reach`.
template <class Place>
int fill_lattice(Lattice& lattice, const std::vector<NodeCandidate>& candidates, int reach, const Place& place) {
  if (lattice.empty()) return 0;
  int left = 1 << 30, right = -left, top = left, bottom = right;
  for (const auto& [index, point] : lattice) {
    left = std::min(left, index.first);
    right = std::max(right, index.first);
    top = std::min(top, index.second);
    bottom = std::max(bottom, index.second);
  }
  int added = 0;
  for (int j = top - reach; j <= bottom + reach; ++j)
    for (int i = left - reach; i <= right + reach; ++i) {
      if (lattice.contains({i, j})) continue;
      const auto at = place(i, j), beside = place(i + 1, j), below = place(i, j + 1);
      if (!at || !beside || !below) continue;
      const double near = 0.2 * std::min(distance(*at, *beside), distance(*at, *below));
      const NodeCandidate* best = nullptr;
      for (const NodeCandidate& c : candidates)
        if (distance(c.at, *at) < (best ? distance(best->at, *at) : near)) best = &c;
      if (!best) continue;
      lattice[{i, j}] = best->at;
      ++added;
    }
  return added;
}

}  // namespace fexel
