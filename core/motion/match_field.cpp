#include "motion/match_field.h"

#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "motion/search.h"

namespace fexel {
namespace {

constexpr double least_score = 0.5;
constexpr double seed_score = 0.6;
constexpr double uncertain = 0.1, most_uncertain = 0.3;   // px
constexpr double many_times = 6, least_uncertain = 0.02;  // the usual uncertainty; px
constexpr double differs = 2.5, differs_much = 5;         // times the usual misfit
constexpr double alike = 0.98;                            // correlation: above it nothing differs
constexpr double most_noise = 0.7;                        // share of the gradient's energy
constexpr int most_tries = 3;                             // of a point, each from a better neighbour
constexpr int points_at_once = 24;                        // of a thread
constexpr int apart = 4;                                  // grid steps between seeds that failed

class FieldMatch {
 public:
  FieldMatch(const MotionFrame& reference, const MotionFrame& frame, const MotionGrid& grid, const MotionStarts& starts,
             const SubsetSettings& settings, const Job& job)
      : reference_(reference), frame_(frame), grid_(grid), starts_(starts), settings_(settings), job_(job) {
    found_.resize(grid.count());
    tries_.assign(grid.count(), 0);
    tried_from_.assign(grid.count(), -1);
    for (const char alive : starts.alive) alive_ += alive != 0;
  }

  MotionField run() {
    from_expected();
    spread();
    int seeds = 0;
    const int most_seeds = 12 + alive_ / 400;
    std::vector<char> looked(grid_.count(), 0);
    while (seeds < most_seeds) {
      const auto seed = next_seed(looked);
      if (!seed) break;
      ++seeds;
      if (plant(*seed)) spread();
    }
    if (settings_.back) go_back();
    return judged();
  }

 private:
  struct Task {
    std::size_t point;
    SubsetMotion start;
  };

  bool is_found(std::size_t i) const { return found_[i] && found_[i]->found() && found_[i]->score >= least_score; }

  /// Matches all tasks, on all cores.
  void match_all(const std::vector<Task>& tasks) {
    const auto count = static_cast<int>(tasks.size());
    parallel_for((count + points_at_once - 1) / points_at_once, {job_.stop, {}}, [&](int index) {
      SubsetMatcher matcher(settings_.size);
      for (int k = index * points_at_once; k < std::min(count, (index + 1) * points_at_once); ++k) {
        if (job_.stop.stop_requested()) return;
        const Task& task = tasks[static_cast<std::size_t>(k)];
        found_[task.point] = match_one(matcher, task);
      }
    });
    job_.check();
    done_ += count;
    if (job_.progress) job_.progress(std::min(0.99, static_cast<double>(done_) / std::max(1, alive_)));
  }

  SubsetFound match_one(SubsetMatcher& matcher, const Task& task) const {
    SubsetFound out;
    if (!matcher.take(reference_, starts_.places[task.point])) {
      out.reason = matcher.reason();
      return out;
    }
    out = matcher.match(frame_, task.start);
    if (out.found() && out.score < least_score) out.reason = MotionReason::unlike;
    if (out.reason == MotionReason::flat && out.score < least_score) out.reason = MotionReason::unlike;
    // Where noise is most of the slopes, a match is one of noise.
    if (out.found() && out.noise_share > most_noise) out.reason = MotionReason::flat;
    return out;
  }
  void from_expected() {
    std::vector<Task> tasks;
    for (std::size_t i = 0; i < grid_.count(); ++i)
      if (starts_.alive[i] != 0 && i < starts_.expected.size() && starts_.expected[i])
        tasks.push_back({i, *starts_.expected[i]});
    if (!tasks.empty()) match_all(tasks);
  }

  template <class Body>
  void around(std::size_t i, const Body& body) const {
    const int c = static_cast<int>(i) % grid_.columns, r = static_cast<int>(i) / grid_.columns;
    for (int dr = -1; dr <= 1; ++dr)
      for (int dc = -1; dc <= 1; ++dc) {
        if ((dr == 0 && dc == 0) || c + dc < 0 || r + dr < 0 || c + dc >= grid_.columns || r + dr >= grid_.rows)
          continue;
        body(static_cast<std::size_t>((r + dr) * grid_.columns + c + dc));
      }
  }

  /// From matched points to their neighbours, ring by ring.
  void spread() {
    for (;;) {
      std::vector<Task> tasks;
      for (std::size_t i = 0; i < grid_.count(); ++i) {
        if (starts_.alive[i] == 0 || is_found(i) || tries_[i] >= most_tries || hopeless(i)) continue;
        double best = -1;
        std::size_t from = i;
        around(i, [&](std::size_t k) {
          if (is_found(k) && found_[k]->score > best) {
            best = found_[k]->score;
            from = k;
          }
        });
        // Again only from another, better one.
        if (from == i || best <= tried_from_[i]) continue;
        tried_from_[i] = best;
        ++tries_[i];
        tasks.push_back({i, found_[from]->motion.carried(starts_.places[i] - starts_.places[from])});
      }
      if (tasks.empty()) return;
      match_all(tasks);
    }
  }

  /// What its reference says is no better from elsewhere.
  bool hopeless(std::size_t i) const {
    return found_[i] && (found_[i]->reason == MotionReason::masked || found_[i]->reason == MotionReason::flat);
  }

  /// Of the points that are left the one with the best texture, away from those that were tried in vain.
  std::optional<std::size_t> next_seed(std::vector<char>& looked) {
    std::optional<std::size_t> best;
    double least = 1e9;
    const auto open = [&](std::size_t i) { return starts_.alive[i] != 0 && !is_found(i) && !hopeless(i); };
    if (texture_.empty()) {
      // Of those that are left alone: mostly there are few, or none.
      texture_.assign(grid_.count(), 1e9);
      parallel_for(grid_.rows, {job_.stop, {}}, [&](int row) {
        SubsetMatcher matcher(settings_.size);
        for (int c = 0; c < grid_.columns; ++c) {
          const auto i = static_cast<std::size_t>(row * grid_.columns + c);
          if (!open(i) || !matcher.take(reference_, starts_.places[i])) continue;
          // Whether it is noise, the match will tell: a frame alone cannot tell noise from fine texture.
          const SubsetTexture t = matcher.texture(0);
          texture_[i] = std::hypot(t.sigma_per_noise.x, t.sigma_per_noise.y);
        }
      });
      job_.check();
    }
    for (std::size_t i = 0; i < grid_.count(); ++i)
      if (looked[i] == 0 && open(i) && texture_[i] < least) {
        least = texture_[i];
        best = i;
      }
    if (!best) return std::nullopt;
    const int c = static_cast<int>(*best) % grid_.columns, r = static_cast<int>(*best) / grid_.columns;
    for (int y = std::max(0, r - apart); y <= std::min(grid_.rows - 1, r + apart); ++y)
      for (int x = std::max(0, c - apart); x <= std::min(grid_.columns - 1, c + apart); ++x)
        looked[static_cast<std::size_t>(y * grid_.columns + x)] = 1;
    return best;
  }

  /// Looks for a point with nothing but what is known nearest to it.
  bool plant(std::size_t seed) {
    SubsetMotion expected;
    double least = 1e18;
    for (std::size_t i = 0; i < grid_.count(); ++i) {
      if (!is_found(i)) continue;
      const double d = distance(starts_.places[i], starts_.places[seed]);
      if (d < least) {
        least = d;
        expected.moved = found_[i]->motion.moved;
      }
    }
    const auto start =
        search_place(reference_, frame_, starts_.places[seed], settings_.size, settings_.reach, expected);
    if (!start) return false;
    SubsetMatcher matcher(settings_.size);
    SubsetFound found = match_one(matcher, {seed, start->motion});
    job_.check();
    if (!found.found() || found.score < seed_score) return false;
    found_[seed] = found;
    return true;
  }

  /// Where the way back from each point that was found ends.
  void go_back() {
    back_.assign(grid_.count(), std::nullopt);
    parallel_for(grid_.rows, {job_.stop, {}}, [&](int row) {
      SubsetMatcher matcher(settings_.size);
      for (int c = 0; c < grid_.columns; ++c) {
        const auto i = static_cast<std::size_t>(row * grid_.columns + c);
        if (!is_found(i)) continue;
        const SubsetMotion& there = found_[i]->motion;
        if (!matcher.take(frame_, starts_.places[i] + there.moved)) continue;
        const Eigen::Matrix2d inverse = (Eigen::Matrix2d::Identity() + there.gradient).inverse();
        const SubsetFound back = matcher.match(reference_, {-1 * there.moved, inverse - Eigen::Matrix2d::Identity()});
        // One that is not found again ends nowhere near.
        back_[i] = back.found() ? std::hypot(back.motion.moved.x + there.moved.x, back.motion.moved.y + there.moved.y)
                                : static_cast<double>(settings_.size);
      }
    });
    job_.check();
  }

  MotionField judged() const {
    MotionField out;
    out.grid = grid_;
    out.points.resize(grid_.count());
    std::vector<double> misfits, sigmas;
    for (std::size_t i = 0; i < grid_.count(); ++i)
      if (is_found(i)) {
        misfits.push_back(found_[i]->misfit);
        sigmas.push_back(std::max(found_[i]->sigma.x, found_[i]->sigma.y));
      }
    // What is held by a corner of its subset alone is pulled by changes of light: more than noise would.
    const double held = sigmas.empty() ? 0 : std::max(least_uncertain, many_times * median(sigmas));
    out.typical_misfit = misfits.empty() ? 0 : median(misfits);
    SubsetMatcher matcher(settings_.size);
    for (std::size_t i = 0; i < grid_.count(); ++i) {
      MotionPoint& p = out.points[i];
      if (starts_.alive[i] == 0) continue;
      if (!found_[i]) {
        // Nothing led there: its own reference may say why.
        if (!matcher.take(reference_, starts_.places[i])) p.reason = matcher.reason();
        if (p.reason == MotionReason::masked) p.status = MotionStatus::masked;
        if (p.reason == MotionReason::lost && i < texture_.size() && texture_[i] >= 1e9) p.reason = MotionReason::flat;
        continue;
      }
      const SubsetFound& f = *found_[i];
      p.reason = f.reason;
      p.score = f.score;
      p.misfit = f.misfit;
      if (f.reason == MotionReason::masked) p.status = MotionStatus::masked;
      if (!is_found(i)) continue;
      p.moved = f.motion.moved;
      p.gradient = f.motion.gradient;
      p.sigma = f.sigma;
      p.predicted = f.per_noise * out.typical_misfit / std::sqrt(2.0);
      p.glare = std::max(reference_.glare(starts_.places[i], settings_.size),
                         frame_.glare(starts_.places[i] + p.moved, settings_.size));
      if (!back_.empty()) p.back = back_[i];
      const double sigma = std::max(f.sigma.x, f.sigma.y);
      const double times = f.score < alike && out.typical_misfit > 0 ? f.misfit / out.typical_misfit : 0;
      p.status = MotionStatus::ok;
      p.reason = MotionReason::none;
      const auto say = [&](MotionStatus status, MotionReason reason) {
        if (p.status == MotionStatus::rejected) return;
        p.status = status;
        p.reason = reason;
      };
      if (sigma > std::min(uncertain, held)) say(MotionStatus::weak, MotionReason::uncertain);
      if (times > differs) say(MotionStatus::weak, MotionReason::differs);
      if (sigma > most_uncertain) say(MotionStatus::rejected, MotionReason::uncertain);
      if (times > differs_much) say(MotionStatus::rejected, MotionReason::differs);
    }
    return out;
  }

  const MotionFrame &reference_, &frame_;
  const MotionGrid& grid_;
  const MotionStarts& starts_;
  const SubsetSettings& settings_;
  const Job& job_;
  std::vector<std::optional<SubsetFound>> found_;
  std::vector<int> tries_;
  std::vector<double> tried_from_, texture_;
  std::vector<std::optional<double>> back_;
  int alive_ = 0;
  int done_ = 0;
};

}  // namespace

MotionStarts starts_on(const MotionGrid& grid) {
  MotionStarts out;
  for (std::size_t i = 0; i < grid.count(); ++i) out.places.push_back(grid.at(i));
  out.alive = grid.used;
  return out;
}

MotionField match_field(const MotionFrame& reference, const MotionFrame& frame, const MotionGrid& grid,
                        const MotionStarts& starts, const SubsetSettings& settings, const Job& job) {
  return FieldMatch(reference, frame, grid, starts, settings, job).run();
}

}  // namespace fexel
