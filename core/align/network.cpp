#include "align/network.h"
#include "geometry/linear.h"

#include <Eigen/LU>
#include <Eigen/SparseCholesky>
#include <queue>

namespace fexel {
namespace {

using Frames = std::vector<std::optional<NetworkFrame>>;
using Sparse = Eigen::SparseMatrix<double>;

/// Each frame by the fewest pairs from the root.
Frames joined(int frames, int root, const std::vector<PairMatch>& pairs) {
  Frames out(static_cast<std::size_t>(frames));
  std::vector<std::vector<std::size_t>> at(static_cast<std::size_t>(frames));
  for (std::size_t k = 0; k < pairs.size(); ++k) {
    at[static_cast<std::size_t>(pairs[k].from)].push_back(k);
    at[static_cast<std::size_t>(pairs[k].to)].push_back(k);
  }
  std::queue<int> next;
  next.push(root);
  out[static_cast<std::size_t>(root)].emplace();
  while (!next.empty()) {
    const int here = next.front();
    next.pop();
    for (const std::size_t k : at[static_cast<std::size_t>(here)]) {
      const bool ahead = pairs[k].from == here;
      const int other = ahead ? pairs[k].to : pairs[k].from;
      if (out[static_cast<std::size_t>(other)]) continue;
      const Matrix3& from = out[static_cast<std::size_t>(here)]->matrix;
      out[static_cast<std::size_t>(other)].emplace().matrix =
          ahead ? Matrix3(from * pairs[k].matrix) : Matrix3(from * pairs[k].matrix.inverse());
      next.push(other);
    }
  }
  return out;
}

Matrix3 between(const PairMatch& pair, const Frames& frames) {
  return frames[static_cast<std::size_t>(pair.from)]->matrix.inverse() *
         frames[static_cast<std::size_t>(pair.to)]->matrix;
}

/// What the frames as they are say against a pair, as a step in the px of `from`: there the pair's covariance holds,
/// however far from the root the frames lie.
SmallStep mismatch(const PairMatch& pair, const Frames& frames, const StepBasis& basis) {
  return basis.step_of(between(pair, frames) * pair.matrix.inverse());
}

/// What steps in the px of `to` are in those of `from`: one column for each number of a step.
StepMatrix carried_steps(const Matrix3& to_from, const StepBasis& basis) {
  constexpr double small = 1e-3;
  const int count = basis.count();
  const Matrix3 back = to_from.inverse();
  StepMatrix out(count, count);
  for (int c = 0; c < count; ++c) {
    SmallStep step = SmallStep::Zero(count);
    step(c) = small;
    out.col(c) = basis.step_of(to_from * basis.transform(step) * back) / small;
  }
  return out;
}

void adjust(Frames& frames, int root, const std::vector<PairMatch>& pairs, const StepBasis& basis) {
  const int count = basis.count();
  std::vector<int> place(frames.size(), -1);
  int unknowns = 0;
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (frames[i] && static_cast<int>(i) != root) {
      place[i] = unknowns;
      unknowns += count;
    }
  if (unknowns == 0) return;
  constexpr int rounds = 4;
  for (int round = 0; round < rounds; ++round) {
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns);
    const auto add = [&](int at, int other, const StepMatrix& weight, double sign) {
      if (at < 0 || other < 0) return;
      for (int r = 0; r < count; ++r)
        for (int c = 0; c < count; ++c) entries.emplace_back(at + r, other + c, sign * weight(r, c));
    };
    for (const PairMatch& pair : pairs) {
      const int from = place[static_cast<std::size_t>(pair.from)], to = place[static_cast<std::size_t>(pair.to)];
      if (!frames[static_cast<std::size_t>(pair.from)] || !frames[static_cast<std::size_t>(pair.to)]) continue;
      // mismatch − step of `from` + step of `to`, seen from `from`, = 0.
      const SmallStep off = mismatch(pair, frames, basis);
      const StepMatrix weight = symmetric_inverse(pair.covariance);
      const StepMatrix carried = carried_steps(between(pair, frames), basis);
      const StepMatrix across = weight * carried;
      add(from, from, weight, 1);
      add(to, to, carried.transpose() * across, 1);
      add(from, to, across, -1);
      add(to, from, across.transpose(), -1);
      if (from >= 0) right.segment(from, count) += weight * off;
      if (to >= 0) right.segment(to, count) -= across.transpose() * off;
    }
    Sparse normal(unknowns, unknowns);
    normal.setFromTriplets(entries.begin(), entries.end());
    const Eigen::SimplicialLDLT<Sparse> solver(normal);
    const Eigen::VectorXd steps = solver.solve(right);
    for (std::size_t i = 0; i < frames.size(); ++i)
      if (place[i] >= 0) frames[i]->matrix = frames[i]->matrix * basis.transform(steps.segment(place[i], count));
    if (round + 1 < rounds && steps.cwiseAbs().maxCoeff() > 1e-7) continue;
    for (std::size_t i = 0; i < frames.size(); ++i) {
      if (!frames[i]) continue;
      frames[i]->covariance = StepMatrix::Zero(count, count);
      for (int c = 0; place[i] >= 0 && c < count; ++c) {
        Eigen::VectorXd unit = Eigen::VectorXd::Zero(unknowns);
        unit(place[i] + c) = 1;
        frames[i]->covariance.col(c) = solver.solve(unit).segment(place[i], count);
      }
    }
    return;
  }
}

}  // namespace

Frames adjust_network(int frames, int root, std::vector<PairMatch> pairs, const StepBasis& basis, double farthest) {
  constexpr int most_rounds = 24;
  Frames out = joined(frames, root, pairs);
  adjust(out, root, pairs, basis);
  for (int round = 0; round < most_rounds; ++round) {
    // One wrong pair pulls at its neighbours: of pairs that share a frame the one that disagrees most goes first.
    std::vector<double> off(pairs.size(), 0), worst(static_cast<std::size_t>(frames), 0);
    for (std::size_t k = 0; k < pairs.size(); ++k) {
      const auto from = static_cast<std::size_t>(pairs[k].from), to = static_cast<std::size_t>(pairs[k].to);
      if (!out[from] || !out[to]) continue;
      const SmallStep step = mismatch(pairs[k], out, basis);
      off[k] = step.dot(SmallStep(*solve_symmetric(pairs[k].covariance, step)));
      worst[from] = std::max(worst[from], off[k]);
      worst[to] = std::max(worst[to], off[k]);
    }
    std::vector<PairMatch> kept;
    for (std::size_t k = 0; k < pairs.size(); ++k) {
      const auto from = static_cast<std::size_t>(pairs[k].from), to = static_cast<std::size_t>(pairs[k].to);
      if (off[k] < farthest * farthest * basis.count() || off[k] < worst[from] || off[k] < worst[to])
        kept.push_back(pairs[k]);
    }
    if (kept.size() == pairs.size()) return out;
    Frames again = joined(frames, root, kept);
    for (std::size_t i = 0; i < out.size(); ++i)
      if (out[i] && !again[i]) return out;  // the frame would be lost without them
    adjust(again, root, kept, basis);
    out = std::move(again);
    pairs = std::move(kept);
  }
  return out;
}

}  // namespace fexel
