#include "stacks/mosaic_place.h"

#include <algorithm>
#include <list>
#include <map>
#include <mutex>
#include <set>

#include "align/network.h"
#include "align/smoothing.h"
#include "base/error.h"
#include "geometry/clip.h"

namespace fexel {
namespace {

constexpr double least_shared = 0.04;  // of a frame's area, that a pair is matched over
constexpr int rounds = 4;              // of matching those that lie over each other by now
constexpr double farthest = 3;         // standard deviations that a pair may disagree with the others
constexpr int most_tries = 600;        // pairs without a start

/// The share of a frame that another one covers: by places of a grid.
double shared(const Matrix3& to_other, Size size) {
  constexpr int grid = 24;
  const Map map(to_other);
  int inside = 0;
  for (int j = 0; j < grid; ++j)
    for (int i = 0; i < grid; ++i) {
      const auto at = map.forward({(i + 0.5) * size.width / grid, (j + 0.5) * size.height / grid});
      inside += at && at->x >= 0 && at->y >= 0 && at->x <= size.width && at->y <= size.height;
    }
  return inside / static_cast<double>(grid * grid);
}

}  // namespace

class MosaicPlaces::Pairs {
 public:
  Pairs(const FrameStack& frames, const MatchOptions& match, int band, std::int64_t memory)
      : stack_(frames), match_(match), band_(band), out_(frames.count()) {
    const double one = static_cast<double>(frames.size().width) * frames.size().height * PreparedFrame::bytes_per_pixel;
    most_kept_ = static_cast<std::size_t>(std::clamp(static_cast<double>(memory) / one, 3.0, 1e6));
  }

  void search(const Job& job) {
    const int count = static_cast<int>(stack_.count());
    std::vector<std::pair<int, int>> wanted;
    for (int i = 0; i < count; ++i) {
      job.check();
      if (prepared(i, job)) {
        if (reference_ < 0) reference_ = i;
        if (last_ >= 0) match(last_, i, std::nullopt, job);
        last_ = i;
      }
      if (job.progress) job.progress(0.5 * (i + 1) / count);
    }
    if (reference_ < 0)
      throw input_error("None of these frames can be matched.", {}, "Name frames that show something.");
    for (int round = 0; round < rounds; ++round) {
      adjust();
      if (!match_overlapping(job) && !match_unjoined(job)) break;
      if (job.progress) job.progress(0.5 + 0.5 * (round + 1) / rounds);
    }
    adjust();
  }

  void drop(const std::vector<int>& frames) {
    std::erase_if(pairs_, [&](const PairMatch& pair) {
      return std::ranges::find(frames, pair.from) != frames.end() || std::ranges::find(frames, pair.to) != frames.end();
    });
    adjust();
  }

  int reference_ = -1;
  const FrameStack& stack_;
  MatchOptions match_;
  int band_;
  std::vector<PlacedFrame> out_;

 private:
  using Ready = std::shared_ptr<const PreparedFrame>;

  /// Null for a frame that cannot be read, or has nothing to match.
  Ready prepared(int i, const Job& job) {
    const auto found = std::ranges::find(kept_, i, &std::pair<int, Ready>::first);
    if (found != kept_.end()) {
      kept_.splice(kept_.begin(), kept_, found);
      return kept_.front().second;
    }
    PlacedFrame& frame = out_[static_cast<std::size_t>(i)];
    if (!frame.reason.empty()) return nullptr;
    try {
      const Job quiet{job.stop, {}};
      const Image image = stack_.read(static_cast<std::size_t>(i), quiet);
      Ready made;
      if (smoothing_) {
        made = std::make_shared<const PreparedFrame>(image, band_, SimilarityMetric::brightness, nullptr, Role::both,
                                                     quiet, *smoothing_);
      } else {
        made = prepared_best(image, band_, SimilarityMetric::brightness, nullptr, Role::both, plans_, quiet);
        smoothing_ = made->smoothing(0);
      }
      kept_.emplace_front(i, made);
      if (kept_.size() > most_kept_) kept_.pop_back();
      return made;
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      frame.reason = error.message();
      return nullptr;
    }
  }

  /// Whether the frames were found to lie over each other.
  bool match(int from, int to, const std::optional<Matrix3>& start, const Job& job) {
    const auto pair = std::pair(std::min(from, to), std::max(from, to));
    if (!tried_.emplace(pair, start.has_value()).second) return false;
    const Ready a = prepared(pair.first, job), b = prepared(pair.second, job);
    if (!a || !b) return false;
    const std::optional<Matrix3> begin = start && from > to ? std::optional(Matrix3(start->inverse())) : start;
    const Match found = match_frames(*a, *b, match_, plans_, begin, {job.stop, {}});
    // A small overlap makes a match weak; one that is wrong does not agree with the others, and with its own seams.
    if (found.status != MatchStatus::ok && found.status != MatchStatus::weak) return false;
    // What lenses and detail finer than the pixels leave of a small overlap no scatter within it shows.
    constexpr double least_px = 0.03;
    const StepMatrix covariance =
        found.covariance + least_px * least_px * StepMatrix::Identity(found.covariance.rows(), found.covariance.cols());
    pairs_.push_back({pair.first, pair.second, found.matrix, covariance});
    if (found.status == MatchStatus::ok) sure_.insert(pair);
    return true;
  }

  void adjust() {
    const StepBasis basis(match_.model, stack_.size());
    const auto found = adjust_network(static_cast<int>(stack_.count()), reference_, needed(), basis, farthest);
    for (std::size_t i = 0; i < out_.size(); ++i) {
      out_[i].matrix.reset();
      if (!found[i]) continue;
      out_[i].matrix = Matrix3(found[i]->matrix / found[i]->matrix(2, 2));
      out_[i].uncertainty_px = static_cast<int>(i) == reference_ ? 0 : basis.uncertainty(found[i]->covariance);
    }
  }

  /// The pairs that are ok, and of the weak ones those that join frames which nothing else does.
  std::vector<PairMatch> needed() const {
    std::vector<std::size_t> group(stack_.count());
    for (std::size_t i = 0; i < group.size(); ++i) group[i] = i;
    const auto join = [&](const PairMatch& pair) {
      const std::size_t a = group[static_cast<std::size_t>(pair.from)], b = group[static_cast<std::size_t>(pair.to)];
      for (std::size_t& one : group)
        if (one == b) one = a;
      return a != b;
    };
    std::vector<PairMatch> out, weak;
    for (const PairMatch& pair : pairs_) (sure_.contains({pair.from, pair.to}) ? out : weak).push_back(pair);
    for (const PairMatch& pair : out) join(pair);
    const std::vector<std::size_t> joined = group;
    for (const PairMatch& pair : weak)
      if (joined[static_cast<std::size_t>(pair.from)] != joined[static_cast<std::size_t>(pair.to)]) out.push_back(pair);
    return out;
  }

  bool match_overlapping(const Job& job) {
    bool more = false;
    const int count = static_cast<int>(stack_.count());
    for (int i = 0; i < count; ++i)
      for (int k = i + 1; k < count; ++k) {
        const auto &a = out_[static_cast<std::size_t>(i)].matrix, &b = out_[static_cast<std::size_t>(k)].matrix;
        if (!a || !b || tried_.contains({{i, k}, true})) continue;
        const Matrix3 start = a->inverse() * *b;  // k's places to i's
        if (std::ranges::any_of(pairs_, [&](const PairMatch& p) { return p.from == i && p.to == k; })) continue;
        if (shared(start, stack_.size()) < least_shared) continue;
        job.check();
        more = match(i, k, Matrix3(start / start(2, 2)), job) || more;
      }
    return more;
  }

  /// Frames that nothing joins to the reference are tried with those that are, nearest in their order first.
  bool match_unjoined(const Job& job) {
    const int count = static_cast<int>(stack_.count());
    bool more = false;
    for (int i = 0; i < count; ++i) {
      if (out_[static_cast<std::size_t>(i)].matrix || !out_[static_cast<std::size_t>(i)].reason.empty()) continue;
      for (int apart = 1; apart < count && tries_ < most_tries; ++apart)
        for (const int k : {i - apart, i + apart}) {
          if (k < 0 || k >= count || !out_[static_cast<std::size_t>(k)].matrix) continue;
          job.check();
          ++tries_;
          if (!match(k, i, std::nullopt, job)) continue;
          more = true;
          apart = count;
          break;
        }
      if (more) return true;  // what is joined now may join others
    }
    return more;
  }

  std::size_t most_kept_ = 3;
  std::list<std::pair<int, Ready>> kept_;
  std::optional<double> smoothing_;
  FftPlans plans_;
  std::set<std::pair<std::pair<int, int>, bool>> tried_;  // with a start or without
  std::vector<PairMatch> pairs_;
  std::set<std::pair<int, int>> sure_;  // pairs that are ok
  int tries_ = 0, last_ = -1;
};

MosaicPlaces::MosaicPlaces(const FrameStack& frames, const MatchOptions& match, int band, std::int64_t memory)
    : pairs_(std::make_unique<Pairs>(frames, match, band, memory)) {}
MosaicPlaces::~MosaicPlaces() = default;
void MosaicPlaces::search(const Job& job) {
  pairs_->search(job);
}
void MosaicPlaces::drop(const std::vector<int>& frames) {
  pairs_->drop(frames);
}
int MosaicPlaces::reference() const {
  return pairs_->reference_;
}
const std::vector<PlacedFrame>& MosaicPlaces::frames() const {
  return pairs_->out_;
}

}  // namespace fexel
