#include "align/match.h"
#include "base/statistics.h"

#include <fmt/format.h>

#include <Eigen/LU>

#include "align/coarse.h"
#include "align/sums.h"
#include "base/error.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

using S = BlockSums;

/// Residuals count up to this many of their spread; weighted so, the variance of normal ones comes out as `kept` of
/// what it is.
constexpr double cut_spreads = 4.685, kept = 0.828;
/// Variance of residuals, where samples have 1, that rounding in the sums alone comes to.
constexpr double least_residual = 1e-6;
constexpr double least_detail = 0.2, good_detail = 0.4;
constexpr double least_shown = 0.08, good_shown = 0.25;
constexpr double max_uncertain = 0.25;

struct Totals {
  double w = 0, i = 0, t = 0, ii = 0, tt = 0, it = 0, count = 0;
  void add(const BlockSums& b) {
    w += b[S::w];
    i += b[S::i];
    t += b[S::t];
    ii += b[S::ii];
    tt += b[S::tt];
    it += b[S::it];
    count += b[S::count];
  }
  double mean_i() const { return i / w; }
  double mean_t() const { return t / w; }
  double var_i() const { return ii / w - mean_i() * mean_i(); }
  double var_t() const { return tt / w - mean_t() * mean_t(); }
  double cov() const { return it / w - mean_i() * mean_t(); }
};

/// What one pass says.
struct Pass {
  std::vector<BlockSums> blocks, plain;
  Totals totals;
  SmallStep step;
  StepMatrix normal;
  double moved = 0;  // RMS over the blocks of what the step moves them by, in the level's pixels
  bool solved = false;
};

class Search {
 public:
  Search(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options, const Job& job)
      : reference_(reference), frame_(frame), basis_(options.model, reference.size()), job_(job) {}

  /// Steps at one level from `inverse_map` (the reference's places to the frame's, full size) until they are shorter
  /// than `enough` pixels of the level; false where nothing can be solved.
  bool refine(int level, int max_steps, double enough) {
    for (int k = 0; k < max_steps; ++k) {
      if (!pass(level, false)) return false;
      take(last_.step);
      if (last_.moved < enough) break;
    }
    return true;
  }

  /// One pass, and the step that it asks for; with `judged`, also the sums without weights.
  bool pass(int level, bool judged) {
    const int block = level == 0 ? 32 : 16;
    const double scale = std::ldexp(1.0, -level);
    // A frame that shows more detail than the reference is read from its halves.
    int own = level;
    const double grown = std::sqrt(std::abs(inverse_map_.topLeftCorner<2, 2>().determinant()));
    if (grown > 1.4) own += static_cast<int>(std::lround(std::log2(grown)));
    if (grown < 0.7) own -= static_cast<int>(std::lround(-std::log2(grown)));
    own = std::clamp(own, 0, frame_.levels() - 1);
    MovedSamples moved;
    if (own == 0 && level == 0)
      moved.coefficients = &frame_.coefficients();
    else
      moved.plane = &frame_.plane(own);
    moved.there = frame_.there(own);
    const double own_scale = std::ldexp(1.0, -own);
    const Matrix3 here = scaling(own_scale, own_scale) * inverse_map_ * scaling(1 / scale, 1 / scale);
    last_.solved = false;
    last_.blocks = sum_blocks(reference_, level, moved, here, block, light_, job_, judged ? &last_.plain : nullptr);
    return solve(scale);
  }

  /// Goes on at the next finer level, where noise is not averaged over four pixels any more.
  void descend() { light_.cut *= 2; }

  void take(const SmallStep& step) { inverse_map_ = inverse_map_ * basis_.transform(step).inverse(); }

  Matrix3 inverse_map_ = Matrix3::Identity();
  Expectation light_;
  Pass last_;

  /// Normalised correlation within blocks, all blocks together.
  static double detail(const std::vector<BlockSums>& blocks) {
    double vi = 0, vt = 0, c = 0;
    for (const BlockSums& b : blocks) {
      const double n = b[S::w];
      if (n < 1) continue;
      vi += b[S::ii] - b[S::i] * b[S::i] / n;
      vt += b[S::tt] - b[S::t] * b[S::t] / n;
      c += b[S::it] - b[S::i] * b[S::t] / n;
    }
    return vi > 0 && vt > 0 ? c / std::sqrt(vi * vt) : 0;
  }

  /// Of a step, from how the blocks' contributions scatter.
  StepMatrix covariance(int level) const {
    const double scale = std::ldexp(1.0, -level);
    StepMatrix meat = StepMatrix::Zero(basis_.count(), basis_.count());
    int used = 0;
    for (const BlockSums& b : last_.blocks) {
      const auto g = jacobian(b, scale);
      const Eigen::Matrix2d n = gradients(b);
      const SmallStep own = g.transpose() * (inverse_maps(b) - n * (g * last_.step));
      meat += own * own.transpose();
      used += b[S::w] > 0 ? 1 : 0;
    }
    const StepMatrix inverse = symmetric_inverse(last_.normal);
    const double more = used > basis_.count() ? static_cast<double>(used) / (used - basis_.count()) : 1e6;
    return more * inverse * meat * inverse;
  }

 private:
  Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, 8> jacobian(const BlockSums& b, double scale) const {
    return basis_.at((1 / scale) * b.middle) * scale;
  }
  /// What a block's gradients are worth without the noise in them, as far as the residuals can be taken for noise.
  Eigen::Matrix2d gradients(const BlockSums& b) const {
    Eigen::Matrix2d n;
    n << b[S::gxx], b[S::gxy], b[S::gxy], b[S::gyy];
    if (b[S::w] > 0) {
      const Eigen::Vector2d g(b[S::gx], b[S::gy]);
      n -= g * g.transpose() / b[S::w];
    }
    const double both = n.trace();
    const double noise = b[S::w] * PreparedFrame::gradient_noise * noise_;
    if (both > 0) n *= std::max(0.6, 1 - 2 * noise / both);
    return n;
  }
  /// Gradient times residual, with the light that this pass found; what all of a block's pixels differ by is taken for
  /// light, too, such as a shadow or a damp patch that came and went.
  Eigen::Vector2d inverse_maps(const BlockSums& b) const {
    const Eigen::Vector2d inverse_map(b[S::gxr] + change_.gain * b[S::gxi] + change_.offset * b[S::gx],
                                      b[S::gyr] + change_.gain * b[S::gyi] + change_.offset * b[S::gy]);
    if (!(b[S::w] > 0)) return inverse_map;
    const double differs = light_.gain * b[S::i] + light_.offset * b[S::w] - b[S::t];
    return inverse_map - Eigen::Vector2d(b[S::gx], b[S::gy]) * differs / b[S::w];
  }

  bool solve(double scale) {
    Totals totals;
    for (const BlockSums& b : last_.blocks) totals.add(b);
    last_.totals = totals;
    if (!(totals.count >= 64 && totals.w > 0.02 * totals.count)) return false;
    const double vi = totals.var_i(), vt = totals.var_t();
    if (!(vi > 1e-12 && vt > 1e-12)) return false;
    Expectation found;
    // Noise is in both frames: the ratio of their spreads is not drawn toward zero by it, as a regression is.
    found.gain = std::sqrt(vt / vi);
    found.offset = totals.mean_t() - found.gain * totals.mean_i();
    // The usual block's, so that what covers less than half of the frame does not count as noise.
    std::vector<double> variances;
    for (const BlockSums& b : last_.blocks) {
      const double n = b[S::w];
      if (n < 0.25 * b[S::count] || n < 16) continue;
      const double mean = (found.gain * b[S::i] - b[S::t]) / n;
      variances.push_back((found.gain * found.gain * b[S::ii] + b[S::tt] - 2 * found.gain * b[S::it]) / n -
                          mean * mean);
    }
    if (variances.empty()) return false;
    const double residual = median(std::move(variances));
    noise_ = 0.5 * std::max(residual, 0.0);
    found.cut = cut_spreads * std::sqrt(std::max(residual / (light_.cut > 0 ? kept : 1), least_residual));
    change_ = {found.gain - light_.gain, found.offset - light_.offset, 0};
    light_ = found;
    const int count = basis_.count();
    StepMatrix normal = StepMatrix::Zero(count, count);
    SmallStep inverse_map = SmallStep::Zero(count);
    for (const BlockSums& b : last_.blocks) {
      const auto g = jacobian(b, scale);
      normal += g.transpose() * gradients(b) * g;
      inverse_map += g.transpose() * inverse_maps(b);
    }
    const auto step = solve_symmetric(normal, inverse_map, 1e-9);
    if (!step) return false;
    last_.normal = normal;
    last_.step = *step;
    if (!last_.step.allFinite()) return false;
    double squares = 0;
    for (const BlockSums& b : last_.blocks) squares += (jacobian(b, scale) * last_.step).squaredNorm();
    last_.moved = std::sqrt(squares / static_cast<double>(last_.blocks.size()));
    constexpr double longest = 4;
    if (last_.moved > longest) {
      last_.step *= longest / last_.moved;
      last_.moved = longest;
    }
    last_.solved = true;
    return true;
  }

  const PreparedFrame& reference_;
  const PreparedFrame& frame_;
  StepBasis basis_;
  const Job& job_;
  Expectation change_{0, 0, 0};
  double noise_ = 0;  // variance of one frame's
};

Match failure(std::string reason) {
  Match out;
  out.reason = std::move(reason);
  return out;
}

constexpr double agrees = 0.55;

struct Found {
  Matrix3 inverse_map;
  Expectation light;
  double detail = -1;
};

/// Follows a start at the coarsest level, and says how well it agrees then.
Found follow(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options, int level,
             const Matrix3& inverse_map, const Job& job) {
  // A shift, and what turns with it, is found before what bends.
  MatchOptions simple = options;
  if (options.model == Model::affine || options.model == Model::projective) simple.model = Model::similarity;
  Search search(reference, frame, simple, job);
  search.inverse_map_ = inverse_map;
  if (!search.refine(level, 25, 0.02) || !search.pass(level, true)) return {inverse_map, {}, -1};
  const double shown = search.last_.totals.count / (reference.size(level).width * reference.size(level).height);
  const double detail = shown < least_shown ? -1 : Search::detail(search.last_.plain);
  return {search.inverse_map_, search.light_, detail};
}

/// What starts led to.
class Candidates {
 public:
  explicit Candidates(Size size) : middle_(size.middle()), near_(0.02 * std::max(size.width, size.height)) {}

  void add(const Found& found) {
    if (found.detail > best_.detail) {
      if (apart(found, best_)) second_ = std::max(second_, best_.detail);
      best_ = found;
    } else if (apart(found, best_)) {
      second_ = std::max(second_, found.detail);
    }
  }
  const Found& best() const { return best_; }
  /// Nothing else need be tried.
  bool agree() const { return best_.detail >= agrees; }
  /// The best is more than what chance gives elsewhere.
  bool stands_out() const { return agree() || best_.detail > 2 * second_; }

 private:
  bool apart(const Found& a, const Found& b) const {
    const auto p = Map::apply(a.inverse_map, middle_), q = Map::apply(b.inverse_map, middle_);
    const double turned = (a.inverse_map.topLeftCorner<2, 2>() - b.inverse_map.topLeftCorner<2, 2>()).norm();
    return !p || !q || distance(*p, *q) > near_ || turned > 0.1;
  }
  Point middle_;
  double near_;
  Found best_{Matrix3::Identity(), {}, -1};
  double second_ = 0;
};

}  // namespace

const char* name_of(MatchStatus status) {
  return status == MatchStatus::ok ? "ok" : status == MatchStatus::weak ? "weak" : "failed";
}

Match match_frames(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options,
                   const FftPlans& transforms, const std::optional<Matrix3>& start, const Job& job) {
  const int top = reference.levels() - 1;
  const int first = std::max(0, std::min(top, top > 2 ? top - 1 : top));
  Candidates tried(reference.size());
  const auto try_from = [&](const Matrix3& inverse_map) {
    job.check();
    if (!tried.agree()) tried.add(follow(reference, frame, options, first, inverse_map, job));
  };
  if (start) try_from(start->inverse());
  const bool turns = options.any_turn && options.model != Model::translation;
  for (int level = top; level >= std::max(0, top - 2) && !tried.agree(); --level) {
    for (const Start& s : shift_starts(reference, frame, level, transforms)) try_from(s.inverse_map);
    if (level == top)
      for (const Start& s : overlap_starts(reference, frame, level, transforms)) try_from(s.inverse_map);
    if (!turns || tried.agree()) continue;
    const bool scales = options.model != Model::rigid;
    for (const Start& s : turned_starts(reference, frame, level, scales, transforms)) try_from(s.inverse_map);
  }
  const Found& best = tried.best();
  if (best.detail < 0.5 * least_detail || !tried.stands_out())
    return failure("The frame and the reference have nothing in common that could be found.");
  Search search(reference, frame, options, job);
  search.inverse_map_ = best.inverse_map;
  search.light_ = best.light;
  const auto lost = [] {
    return failure("The search lost its way: too little of the frame agrees with the reference.");
  };
  for (int level = first; level > 0; --level) {
    if (!search.refine(level, level == first ? 12 : level > 1 ? 6 : 4, 0.015)) return lost();
    search.descend();
  }
  // The sums of the last pass also say what its step leaves.
  for (int k = 0; k < 8; ++k) {
    if (!search.pass(0, true)) return lost();
    search.take(search.last_.step);
    if (search.last_.moved < 0.004) break;
  }
  const std::vector<BlockSums>& plain = search.last_.plain;
  Match out;
  out.covariance = search.covariance(0);
  Totals all;
  for (const BlockSums& b : plain) all.add(b);
  out.score = all.cov() / std::sqrt(std::max(1e-30, all.var_i() * all.var_t()));
  out.detail = Search::detail(plain);
  out.overlap = all.count / (static_cast<double>(reference.size().width) * reference.size().height);
  out.uncertainty_px = StepBasis(options.model, reference.size()).uncertainty(out.covariance);
  Matrix3 matrix = search.inverse_map_.inverse();
  matrix /= matrix(2, 2);
  const double light = search.light_.gain * reference.spread() / frame.spread();
  out.gain = light;
  out.offset = reference.mean() + reference.spread() * search.light_.offset - light * frame.mean();
  if (out.detail < least_detail)
    return failure(fmt::format("What varies from place to place agrees by no more than {:.2f}; it is another view.",
                               std::max(0.0, out.detail)));
  if (out.overlap < least_shown) return failure("The frame shows too little of the reference.");
  if (!matrix.allFinite() || !(out.uncertainty_px < 5)) return failure("The frame does not determine the transform.");
  out.matrix = matrix;
  out.status = MatchStatus::ok;
  if (out.uncertainty_px > max_uncertain) {
    out.status = MatchStatus::weak;
    out.reason = fmt::format("The transform is uncertain by {:.2f} px.", out.uncertainty_px);
  } else if (out.detail < good_detail) {
    out.status = MatchStatus::weak;
    out.reason = "Little of the detail agrees: the frame may be blurred, noisy or changed.";
  } else if (out.overlap < good_shown) {
    out.status = MatchStatus::weak;
    out.reason = fmt::format("The frame shows {:.0f} % of the reference.", 100 * out.overlap);
  }
  return out;
}

}  // namespace fexel
