#include "align/sequence.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <utility>

#include "align/network.h"
#include "align/pattern.h"
#include "align/smoothing.h"
#include "base/error.h"
#include "filter/filter.h"
#include "image/pyramid.h"
#include "resample/warp.h"

namespace fexel {
namespace {

constexpr int strides[] = {1, 2, 4, 8, 16};
using Ready = std::shared_ptr<const PreparedFrame>;

Match failed(const Error& error) {
  Match out;
  out.reason = error.message();
  return out;
}

Match itself(int parameters) {
  Match out;
  out.status = MatchStatus::ok;
  out.score = out.detail = out.overlap = 1;
  out.covariance = StepMatrix::Zero(parameters, parameters);
  return out;
}

class Aligner {
 public:
  Aligner(const FrameReader& frames, const AlignOptions& options, const Job& job)
      : frames_(frames), options_(options), job_(job), quiet_{job.stop, {}} {
    out_.frames.resize(static_cast<std::size_t>(frames.count));
  }

  Alignment run() {
    if (frames_.count < 1) throw call_error("There are no frames to align.", {}, "Name at least two.");
    if (options_.against == ReferenceMode::frame && (options_.number < 1 || options_.number > frames_.count))
      throw call_error(fmt::format("There is no frame {}.", options_.number), "against",
                       fmt::format("Choose one from 1 to {}.", frames_.count));
    switch (options_.against) {
      case ReferenceMode::picture:
        out_.reference = -1;
        against(chosen(*options_.picture, Role::reference), job_);
        break;
      case ReferenceMode::frame:
        out_.reference = options_.number - 1;
        against(chosen(frames_.read(out_.reference, quiet_), Role::reference), job_);
        match_without_pattern();
        break;
      case ReferenceMode::first:
        against(first_usable(Role::reference), job_);
        match_without_pattern();
        break;
      case ReferenceMode::average:
        along_average();
        break;
      case ReferenceMode::neighbour:
      case ReferenceMode::network:
        along_pairs();
        break;
    }
    return std::move(out_);
  }

 private:
  Match& result(int index) { return out_.frames[static_cast<std::size_t>(index)]; }

  Ready prepared(const Image& frame, Role role) const {
    return std::make_shared<const PreparedFrame>(frame, options_.band, options_.likeness,
                                                 role == Role::moved ? nullptr : options_.use, role, quiet_,
                                                 smoothing_);
  }
  /// The first frame that is made ready: all are smoothed as is best for it.
  Ready chosen(const Image& frame, Role role) {
    const Ready made = prepared_best(frame, options_.band, options_.likeness, options_.use, role, transforms_, quiet_);
    smoothing_ = made->smoothing(0);
    return made;
  }
  Ready ready(int index, Role role) const { return prepared(frames_.read(index, quiet_), role); }

  /// The first frame that can be used; those before it have failed.
  Ready first_usable(Role role) {
    for (int i = 0;; ++i) {
      try {
        out_.reference = i;
        return chosen(frames_.read(i, quiet_), role);
      } catch (const Error& error) {
        if (error.kind() == Error::Kind::cancelled || i + 1 == frames_.count) throw;
        result(i) = failed(error);
      }
    }
  }

  Match matched(const PreparedFrame& reference, const PreparedFrame& frame, const std::optional<Matrix3>& start) const {
    return match_frames(reference, frame, options_.match, transforms_, start, quiet_);
  }

  int parameters() const { return StepBasis(options_.match.model, {1, 1}).count(); }

  void against(const Ready& reference, const Job& job) {
    out_.size = reference->size();
    int done = 0;
    std::mutex telling;
    parallel_for(frames_.count, quiet_, [&](int i) {
      if (i == out_.reference && options_.against != ReferenceMode::average) {
        result(i) = itself(parameters());
      } else if (result(i).reason.empty()) {
        std::optional<Matrix3> start;
        if (const auto given = options_.starts.find(i); given != options_.starts.end()) start = given->second;
        if (result(i).status != MatchStatus::failed) start = result(i).matrix;
        try {
          result(i) = matched(*reference, *ready(i, Role::moved), start);
        } catch (const Error& error) {
          if (error.kind() == Error::Kind::cancelled) throw;
          result(i) = failed(error);
        }
      }
      const std::scoped_lock lock(telling);
      if (options_.found) options_.found(i, result(i));
      if (job.progress) job.progress(static_cast<double>(++done) / frames_.count);
    });
  }

  /// The mean of the matched frames as the first one sees them, each less a pattern where there is one.
  Image mean_of(int count, const Job& job, const Image* pattern = nullptr) const {
    Image sum(out_.size.width, out_.size.height, 1, Depth::f32);
    std::vector<float> shares(static_cast<std::size_t>(sum.width()) * static_cast<std::size_t>(sum.height()));
    for (int i = 0; i < count; ++i) {
      const Match& match = out_.frames[static_cast<std::size_t>(i)];
      if (match.status != MatchStatus::ok) continue;
      const Image frame = frames_.read(i, quiet_);
      Image plane = plane_of(frame, options_.band, quiet_);
      if (pattern) subtract(plane, *pattern);
      const Pyramid pyramid(std::make_shared<const Image>(std::move(plane)));
      WarpPlan plan;
      plan.inverse_map = match.matrix.inverse();
      plan.result = out_.size;
      Clip own;
      own.keep_inside({frame.width(), frame.height()});
      plan.clip = own.through(Map(match.matrix));
      Resampling how;
      how.kernel = Kernel::bspline3;
      const Image seen = warp(pyramid, plan, {0, 0, out_.size.width, out_.size.height}, how, Quality::final, quiet_);
      const auto gain = static_cast<float>(match.gain), offset = static_cast<float>(match.offset);
      for (int y = 0; y < sum.height(); ++y) {
        float* to = sum.row<float>(0, y);
        float* share = shares.data() + static_cast<std::ptrdiff_t>(y) * sum.width();
        const float* from = seen.row<float>(0, y);
        for (int x = 0; x < sum.width(); ++x)
          if (seen.valid(x, y)) {
            to[x] += gain * from[x] + offset;
            share[x] += 1;
          }
      }
      if (job.progress) job.progress(static_cast<double>(i + 1) / count);
    }
    sum.make_mask(true);
    for (int y = 0; y < sum.height(); ++y)
      for (int x = 0; x < sum.width(); ++x) {
        const float share =
            shares[static_cast<std::size_t>(y) * static_cast<std::size_t>(sum.width()) + static_cast<std::size_t>(x)];
        if (share > 0)
          sum.row<float>(0, y)[x] /= share;
        else
          sum.set_valid(x, y, false);
      }
    paint_empty(sum);
    return sum;
  }

  /// A frame that cannot be read again, or has nothing left to match, keeps all as they were matched before.
  void match_without_pattern() {
    const std::vector<Match> before = out_.frames;
    try {
      take_out_pattern();
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      out_.frames = before;
    }
  }

  /// What stands still on the sensor pulls frames towards where they lay: where residuals of frames that lie apart have
  /// much in common, it is estimated from all of them, taken out of each, and the frames are matched again from where
  /// they lie. Scene and pattern are estimated in turns.
  void take_out_pattern() {
    constexpr int least_ok = 6, tested = 4, turns = 2;
    constexpr double apart = 3, least_share = 0.03;  // pixels; of the residuals' variance
    // Of what is compared by structure, samples are not alike.
    if (options_.likeness != SimilarityMetric::brightness) return;
    std::vector<int> ok;
    for (int i = 0; i < frames_.count; ++i)
      if (i != out_.reference && result(i).status == MatchStatus::ok) ok.push_back(i);
    if (static_cast<int>(ok.size()) < least_ok) return;
    const auto plane = [&](int i) { return plane_of(frames_.read(i, quiet_), options_.band, quiet_); };
    const auto fits = [&](const Image& frame) {
      return frame.width() == out_.size.width && frame.height() == out_.size.height;
    };
    const Image reference = plane(out_.reference);
    std::vector<Image> residuals;
    std::vector<int> of;
    for (int k = 0; k < tested; ++k) {
      const int i = ok[static_cast<std::size_t>(k) * ok.size() / tested];
      const Image frame = plane(i);
      if (!fits(frame)) return;
      residuals.push_back(less_scene(frame, reference, result(i), quiet_));
      of.push_back(i);
    }
    // What the reference holds lies at other places of frames that lie apart, from each other and from it.
    const auto lie_apart = [&](const Matrix3& a, const Matrix3& b) { return rms_distance(a, b, out_.size) > apart; };
    std::vector<std::pair<const Image*, const Image*>> pairs;
    for (std::size_t a = 0; a < of.size(); ++a)
      for (std::size_t b = a + 1; b < of.size(); ++b)
        if (lie_apart(result(of[a]).matrix, result(of[b]).matrix) &&
            lie_apart(result(of[a]).matrix, Matrix3::Identity()) &&
            lie_apart(result(of[b]).matrix, Matrix3::Identity()))
          pairs.emplace_back(&residuals[a], &residuals[b]);
    const auto share = common_share(pairs);
    if (!share || *share < least_share) return;
    Image pattern;
    for (int turn = 0; turn < turns; ++turn) {
      const Image scene = mean_of(frames_.count, {job_.stop, {}}, pattern.empty() ? nullptr : &pattern);
      PatternMean mean(out_.size);
      for (const int i : ok) {
        const Image frame = plane(i);
        if (!fits(frame)) return;
        mean.add(less_scene(frame, scene, result(i), quiet_));
      }
      pattern = mean.pattern();
    }
    const auto without = [&](int i, Role role) {
      Image frame = plane(i);
      subtract(frame, pattern);
      return PreparedFrame(frame, 0, options_.likeness, role == Role::moved ? nullptr : options_.use, role, quiet_,
                           smoothing_);
    };
    const PreparedFrame clean = without(out_.reference, Role::reference);
    std::mutex telling;
    parallel_for(static_cast<int>(ok.size()), quiet_, [&](int k) {
      const int i = ok[static_cast<std::size_t>(k)];
      const Match again = matched(clean, without(i, Role::moved), result(i).matrix);
      if (again.status == MatchStatus::failed) {
        result(i).status = MatchStatus::weak;
        result(i).reason =
            "Without what stands still on the sensor it does not match: choose a region with more texture, or leave it "
            "out.";
        return;
      }
      // How well the pattern is known is not: half of what it moved the frame by goes into the uncertainty.
      const double moved = rms_distance(again.matrix, result(i).matrix, out_.size) / std::sqrt(2.0);
      result(i) = again;
      result(i).uncertainty_px = std::hypot(again.uncertainty_px, moved / 2);
      result(i).covariance *= std::pow(result(i).uncertainty_px / std::max(1e-12, again.uncertainty_px), 2);
      const std::scoped_lock lock(telling);
      if (options_.found) options_.found(i, result(i));
    });
  }

  static void subtract(Image& frame, const Image& pattern) {
    for (int y = 0; y < frame.height(); ++y)
      for (int x = 0; x < frame.width(); ++x) frame.row<float>(0, y)[x] -= pattern.row<float>(0, y)[x];
  }

  void along_average() {
    against(first_usable(Role::reference), job_.part(0, 0.4));
    result(out_.reference) = itself(parameters());
    const int count = options_.number > 0 ? std::min(options_.number, frames_.count) : frames_.count;
    const Image mean = mean_of(count, job_.part(0.4, 0.6));
    const auto reference = std::make_shared<const PreparedFrame>(mean, 0, options_.likeness, options_.use,
                                                                 Role::reference, quiet_, smoothing_);
    against(reference, job_.part(0.6, 1));
    // Frames are said to lie on the first one, whose own noise is in all of them.
    const Match first = result(out_.reference);
    if (first.status == MatchStatus::failed) return;
    for (int i = 0; i < frames_.count; ++i) {
      Match& match = result(i);
      if (i == out_.reference || match.status == MatchStatus::failed) continue;
      match.covariance += first.covariance;
      match.uncertainty_px = std::hypot(match.uncertainty_px, first.uncertainty_px);
    }
  }

  void along_pairs() {
    const bool network = options_.against == ReferenceMode::network;
    // Says which frame is the root, and what is wrong with those before it.
    out_.size = first_usable(Role::reference)->size();
    const int root = out_.reference;
    const double bytes = static_cast<double>(out_.size.width) * out_.size.height * PreparedFrame::bytes_per_pixel;
    const auto fit = static_cast<int>(std::min(1000.0, static_cast<double>(options_.memory) / bytes));
    const int batch = std::clamp(fit / 2, 1, 8), farthest = std::clamp(fit - batch, 1, network ? 16 : 1);
    std::vector<char> linked(static_cast<std::size_t>(frames_.count), 0);  // to a frame before
    std::map<int, Ready> kept;
    std::vector<PairMatch> pairs;
    std::vector<std::pair<int, int>> sure;  // pairs that are ok
    std::map<std::pair<int, int>, Match> matches;
    int last_good = root;
    for (int from = root; from < frames_.count; from += batch) {
      const int to = std::min(from + batch, frames_.count);
      std::vector<Ready> made(static_cast<std::size_t>(to - from));
      parallel_for(to - from, quiet_, [&](int k) {
        try {
          made[static_cast<std::size_t>(k)] = ready(from + k, Role::both);
        } catch (const Error& error) {
          if (error.kind() == Error::Kind::cancelled) throw;
          result(from + k) = failed(error);
        }
      });
      for (int k = 0; k < to - from; ++k)
        if (made[static_cast<std::size_t>(k)]) kept[from + k] = made[static_cast<std::size_t>(k)];
      const auto match_pairs = [&](const std::vector<std::pair<int, int>>& wanted) {
        std::vector<Match> found(wanted.size());
        parallel_for(static_cast<int>(wanted.size()), quiet_, [&](int n) {
          const auto [a, b] = wanted[static_cast<std::size_t>(n)];
          std::optional<Matrix3> start = Matrix3::Identity();
          for (int i = a; i < b && start; ++i) {
            const auto link = matches.find({i, i + 1});
            start = link != matches.end() && link->second.status != MatchStatus::failed
                        ? std::optional(Matrix3(*start * link->second.matrix))
                        : std::nullopt;
          }
          found[static_cast<std::size_t>(n)] = matched(*kept.at(a), *kept.at(b), b - a > 1 ? start : std::nullopt);
        });
        for (std::size_t n = 0; n < wanted.size(); ++n) {
          const Match& match = found[n];
          matches[wanted[n]] = match;
          if (match.status == MatchStatus::failed) continue;
          if (wanted[n].second - wanted[n].first > 1 && network && match.status != MatchStatus::ok) continue;
          pairs.push_back({wanted[n].first, wanted[n].second, match.matrix, match.covariance});
          if (match.status == MatchStatus::ok) sure.emplace_back(wanted[n].first, wanted[n].second);
          linked[static_cast<std::size_t>(wanted[n].second)] = 1;
        }
      };
      for (const int stride : strides) {
        if (stride > farthest) break;
        std::vector<std::pair<int, int>> wanted;
        for (int j = std::max(from, root + stride); j < to; ++j)
          if (kept.contains(j) && kept.contains(j - stride)) wanted.emplace_back(j - stride, j);
        match_pairs(wanted);
      }
      // A frame that does not go with the one before it may go with the last that did.
      for (int j = std::max(from, root + 1); j < to; ++j) {
        const char& joined_up = linked[static_cast<std::size_t>(j)];
        if (joined_up == 0 && kept.contains(j) && kept.contains(last_good) && j - last_good > 1)
          match_pairs({{last_good, j}});
        if (joined_up != 0) last_good = j;
      }
      std::erase_if(kept, [&](const auto& entry) { return entry.first < to - farthest && entry.first != last_good; });
      if (job_.progress) job_.progress(static_cast<double>(to) / frames_.count);
    }
    const StepBasis basis(options_.match.model, out_.size);
    const auto adjusted = adjust_network(frames_.count, root, pairs, basis);
    // A frame is no surer than the pairs that join it to the first one.
    std::vector<bool> joined(static_cast<std::size_t>(frames_.count), false);
    joined[static_cast<std::size_t>(root)] = true;
    for (bool more = true; std::exchange(more, false);)
      for (const auto& [a, b] : sure)
        if (joined[static_cast<std::size_t>(a)] != joined[static_cast<std::size_t>(b)])
          joined[static_cast<std::size_t>(a)] = joined[static_cast<std::size_t>(b)] = more = true;
    // What is said of a frame beside its place comes from its nearest pair that matched.
    std::vector<const Match*> said(static_cast<std::size_t>(frames_.count), nullptr);
    for (const auto& [pair, found] : matches) {
      const Match*& so_far = said[static_cast<std::size_t>(pair.second)];
      if (!so_far || found.status != MatchStatus::failed || so_far->status == MatchStatus::failed) so_far = &found;
    }
    for (int i = root; i < frames_.count; ++i) {
      Match& match = result(i);
      if (i == root) {
        match = itself(basis.count());
        continue;
      }
      if (const Match* own = said[static_cast<std::size_t>(i)]) match = *own;
      if (!adjusted[static_cast<std::size_t>(i)]) {
        if (match.reason.empty()) match.reason = "No chain of matching frames joins it to the first one.";
        match.status = MatchStatus::failed;
        match.matrix = Matrix3::Identity();
        match.uncertainty_px = 0;
        continue;
      }
      const NetworkFrame& frame = *adjusted[static_cast<std::size_t>(i)];
      match.matrix = frame.matrix / frame.matrix(2, 2);
      match.covariance = frame.covariance;
      match.uncertainty_px = basis.uncertainty(frame.covariance);
      // Pairs share the noise of their frames, which no number of them takes away: two frames are no surer than a pair.
      if (const Match* own = said[static_cast<std::size_t>(i)];
          own && own->status == MatchStatus::ok && own->uncertainty_px > match.uncertainty_px) {
        match.covariance = own->covariance;
        match.uncertainty_px = own->uncertainty_px;
      }
      if (match.status == MatchStatus::ok && !joined[static_cast<std::size_t>(i)]) {
        match.status = MatchStatus::weak;
        match.reason =
            "Only doubtful matches between other frames join it to the first one: look at the weak frames before it.";
      }
    }
  }

  const FrameReader& frames_;
  const AlignOptions& options_;
  const Job& job_;
  Job quiet_;
  FftPlans transforms_;
  double smoothing_ = 0;
  Alignment out_;
};

}  // namespace

Alignment align_frames(const FrameReader& frames, const AlignOptions& options, const Job& job) {
  return Aligner(frames, options, job).run();
}

}  // namespace fexel
