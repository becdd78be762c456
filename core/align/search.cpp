#include "align/search.h"

#include <Eigen/LU>

#include "align/smoothing.h"
#include "base/statistics.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

using S = BlockSums;

/// Residuals count up to this many of their spread; weighted so, the variance of normal ones comes out as `kept` of
/// what it is.
constexpr double cut_spreads = 4.685, kept = 0.828;
/// The mean slope of residual times weight over the mean weight, of normal residuals at that cut.
constexpr double slope_share = 1 / 1.207;
/// Variance of residuals, where samples have 1, that rounding in the sums alone comes to.
constexpr double least_residual = 1e-6;

Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, 8> jacobian(const StepBasis& basis, const BlockSums& b, double scale) {
  return basis.at((1 / scale) * b.middle) * scale;
}

}  // namespace

void Totals::add(const BlockSums& b) {
  w += b[S::w];
  i += b[S::i];
  t += b[S::t];
  ii += b[S::ii];
  tt += b[S::tt];
  it += b[S::it];
  count += b[S::count];
}

bool LeftOut::holds(Point place) const {
  if (blocks.empty()) return false;
  const auto at =
      static_cast<std::size_t>(static_cast<int>(place.y) / side * across + static_cast<int>(place.x) / side);
  return at < blocks.size() && blocks[at] != 0;
}

Within::Within(const BlockSums& b)
    : n(b[S::w]),
      vi(n > 0 ? std::max(0.0, b[S::ii] - b[S::i] * b[S::i] / n) : 0),
      vt(n > 0 ? std::max(0.0, b[S::tt] - b[S::t] * b[S::t] / n) : 0),
      c(n > 0 ? b[S::it] - b[S::i] * b[S::t] / n : 0) {}

double residual_variance(const BlockSums& b, double gain) {
  const double n = b[S::w], mean = (gain * b[S::i] - b[S::t]) / n;
  return (gain * gain * b[S::ii] + b[S::tt] - 2 * gain * b[S::it]) / n - mean * mean;
}

Search::Search(const PreparedFrame& reference, const PreparedFrame& frame, Model model, const Job& job)
    : reference_(&reference), frame_(&frame), basis_(model, reference.size()), job_(&job) {}

bool Search::refine(int level, int max_steps, double enough) {
  for (int k = 0; k < max_steps; ++k) {
    if (!pass(level, false)) return false;
    take(last_.step);
    if (last_.moved < enough) break;
  }
  return true;
}

bool Search::pass(int level, bool judged) {
  const int block = level == 0 ? 32 : 16;
  const double scale = std::ldexp(1.0, -level);
  // A frame that shows more detail than the reference is read from its halves.
  int own = level;
  const double grown = std::sqrt(std::abs(inverse_map_.topLeftCorner<2, 2>().determinant()));
  if (grown > 1.4) own += static_cast<int>(std::lround(std::log2(grown)));
  if (grown < 0.7) own -= static_cast<int>(std::lround(-std::log2(grown)));
  own = std::clamp(own, 0, frame_->levels() - 1);
  MovedSamples moved;
  if (own == 0 && level == 0)
    moved.coefficients = &frame_->coefficients();
  else
    moved.plane = &frame_->plane(own);
  moved.there = frame_->there(own);
  const double own_scale = std::ldexp(1.0, -own);
  const Matrix3 here = scaling(own_scale, own_scale) * inverse_map_ * scaling(1 / scale, 1 / scale);
  noise_kept_ = 1;
  for (int axis = 0; axis < 2; ++axis) {
    // Where the frame is turned or scaled its places lie at all fractions of a pixel.
    const bool straight = rms_distance(here, translation(here(0, 2), here(1, 2)), reference_->size(level)) < 0.25;
    const double at = here(axis, 2) - std::floor(here(axis, 2)), smoothing = reference_->smoothing(level);
    const bool spline = own == 0 && level == 0;
    noise_kept_ *=
        straight ? fexel::noise_kept(smoothing, at, spline)
                 : 0.5 * (fexel::noise_kept(smoothing, 0.25, spline) + fexel::noise_kept(smoothing, 0.75, spline));
  }
  last_.solved = false;
  last_.plain.clear();
  last_.blocks = sum_blocks(*reference_, level, moved, here, block, light_, *job_, judged ? &last_.plain : nullptr);
  if (!left_out_.none()) {
    const auto out = [&](const BlockSums& b) { return left_out_.holds((1 / scale) * b.middle); };
    std::erase_if(last_.blocks, out);
    std::erase_if(last_.plain, out);
    if (last_.blocks.empty()) return false;
  }
  return solve(level);
}

StepMatrix Search::covariance(const StepBasis& basis, const StepMatrix& normal, const SmallStep& step, int level,
                              const std::function<bool(Point)>& counts) const {
  const double scale = std::ldexp(1.0, -level);
  StepMatrix meat = StepMatrix::Zero(basis.count(), basis.count());
  int used = 0;
  for (const BlockSums& b : last_.blocks) {
    if (counts && !counts((1 / scale) * b.middle)) continue;
    const auto g = jacobian(basis, b, scale);
    const Eigen::Matrix2d n = gradients(b);
    const SmallStep own = g.transpose() * (rights(b) - n * (g * step));
    meat += own * own.transpose();
    used += b[S::w] > 0 ? 1 : 0;
  }
  const StepMatrix inverse = symmetric_inverse(normal);
  const double more = used > basis.count() ? static_cast<double>(used) / (used - basis.count()) : 1e6;
  return more / (response_ * response_) * inverse * meat * inverse;
}

std::optional<Asked> Search::asked(const StepBasis& basis, int level) const {
  const double scale = std::ldexp(1.0, -level);
  StepMatrix normal = StepMatrix::Zero(basis.count(), basis.count());
  SmallStep right = SmallStep::Zero(basis.count());
  for (const BlockSums& b : last_.blocks) {
    const auto g = jacobian(basis, b, scale);
    normal += g.transpose() * gradients(b) * g;
    right += g.transpose() * rights(b);
  }
  const auto step = solve_symmetric(normal, right, 1e-9);
  if (!step || !step->allFinite()) return std::nullopt;
  return Asked{*step, covariance(basis, normal, *step, level)};
}

std::optional<Asked> Search::shift_of(int level, const std::function<bool(Point)>& counts) const {
  const double scale = std::ldexp(1.0, -level);
  const StepBasis basis(Model::translation, reference_->size());
  StepMatrix normal = StepMatrix::Zero(2, 2);
  SmallStep right = SmallStep::Zero(2);
  int used = 0;
  for (const BlockSums& b : last_.blocks) {
    if (!counts((1 / scale) * b.middle)) continue;
    used += b[S::w] > 0 ? 1 : 0;
    normal += scale * scale * gradients(b);
    right += scale * rights(b);
  }
  constexpr int least = 6;  // blocks that know their own scatter
  if (used < least) return std::nullopt;
  const auto step = solve_symmetric(normal, right, 1e-6);
  if (!step || !step->allFinite()) return std::nullopt;
  return Asked{*step, covariance(basis, normal, *step, level, counts)};
}

/// What a block's gradients are worth without the noise in them, as far as the residuals can be taken for noise.
Eigen::Matrix2d Search::gradients(const BlockSums& b) const {
  Eigen::Matrix2d n;
  n << b[S::gxx], b[S::gxy], b[S::gxy], b[S::gyy];
  if (b[S::w] > 0) {
    const Eigen::Vector2d g(b[S::gx], b[S::gy]);
    n -= g * g.transpose() / b[S::w];
  }
  return n * signal_share_;
}

/// Gradient times residual, with the light that the last pass found; what all of a block's pixels differ by is taken
/// for light, too, such as a shadow or a damp patch that came and went.
Eigen::Vector2d Search::rights(const BlockSums& b) const {
  const Eigen::Vector2d right(b[S::gxr] + change_.gain * b[S::gxi] + change_.offset * b[S::gx],
                              b[S::gyr] + change_.gain * b[S::gyi] + change_.offset * b[S::gy]);
  if (!(b[S::w] > 0)) return right;
  const double differs = light_.gain * b[S::i] + light_.offset * b[S::w] - b[S::t];
  return right - Eigen::Vector2d(b[S::gx], b[S::gy]) * differs / b[S::w];
}

bool Search::solve(int level) {
  const double scale = std::ldexp(1.0, -level);
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
    variances.push_back(residual_variance(b, found.gain));
  }
  if (variances.empty()) return false;
  const double residual = median(std::move(variances));
  noise_ = std::max(residual, 0.0) / (light_.cut > 0 ? kept : 1) / (1 + noise_kept_);
  found.cut = cut_spreads * std::sqrt(std::max(residual / (light_.cut > 0 ? kept : 1), least_residual));
  change_ = {found.gain - light_.gain, found.offset - light_.offset, 0};
  light_ = found;
  // While the frames are not in place, not all of what is left is noise.
  signal_share_ = 1;
  double both = 0;
  for (const BlockSums& b : last_.blocks) both += gradients(b).trace();
  if (both > 0)
    signal_share_ =
        std::max(last_.plain.empty() ? 0.6 : 0.1, 1 - 2 * noise_ * totals.w * reference_->gradient_noise(level) / both);
  const int count = basis_.count();
  StepMatrix normal = StepMatrix::Zero(count, count);
  SmallStep right = SmallStep::Zero(count);
  // Above full size no block counts for more than a few, so that a stark thing that stays or moves on its own does not
  // lead the search.
  double most = 0;
  if (level > 0) {
    std::vector<double> strengths;
    for (const BlockSums& b : last_.blocks)
      if (b[S::w] >= 16) strengths.push_back(gradients(b).trace());
    if (!strengths.empty()) most = 3 * median(std::move(strengths));
  }
  for (const BlockSums& b : last_.blocks) {
    const auto g = jacobian(basis_, b, scale);
    const Eigen::Matrix2d strength = gradients(b);
    const double share = most > 0 && strength.trace() > most ? most / strength.trace() : 1;
    normal += share * g.transpose() * strength * g;
    right += share * g.transpose() * rights(b);
  }
  const auto step = solve_symmetric(normal, right, 1e-9);
  if (!step) return false;
  // The next step would be none if the normal matrix were right; what it leaves of the last one tells by how much it is
  // not: gradients are damped and have noise, and the weights change with the residuals.
  constexpr double long_enough = 0.004;
  response_ = slope_share;
  if (taken_.size() == count && taken_at_ == level && taken_moved_ > long_enough) {
    const double before = taken_.dot(SmallStep(normal * taken_));
    if (before > 0) response_ = std::clamp(1 - SmallStep(*step).dot(SmallStep(normal * taken_)) / before, 0.3, 1.6);
  }
  taken_.resize(0);
  taken_at_ = level;
  last_.normal = normal;
  last_.step = *step;
  if (!last_.step.allFinite()) return false;
  double squares = 0;
  for (const BlockSums& b : last_.blocks) squares += (jacobian(basis_, b, scale) * last_.step).squaredNorm();
  last_.moved = std::sqrt(squares / static_cast<double>(last_.blocks.size()));
  constexpr double longest = 4;
  if (last_.moved > longest) {
    last_.step *= longest / last_.moved;
    last_.moved = longest;
  }
  taken_moved_ = last_.moved;
  last_.solved = true;
  return true;
}

double detail_of(const std::vector<BlockSums>& blocks) {
  double vi = 0, vt = 0, c = 0;
  for (const BlockSums& b : blocks) {
    const Within own(b);
    if (own.n < 1) continue;
    vi += own.vi;
    vt += own.vt;
    c += own.c;
  }
  return vi > 0 && vt > 0 ? c / std::sqrt(vi * vt) : 0;
}

double typical_of(const std::vector<BlockSums>& blocks, double noise) {
  double largest = 0;
  for (const BlockSums& b : blocks) largest = std::max(largest, b[S::count]);
  std::vector<Within> all;
  std::vector<double> spreads, correlations;
  for (const BlockSums& b : blocks) {
    const Within own(b);
    if (own.n < 16 || b[S::count] < 0.4 * largest) continue;
    all.push_back(own);
    spreads.push_back(own.both() / own.n);
  }
  if (all.empty()) return 0;
  const double least = std::max(0.02 * quantile(spreads, 0.75), 4 * noise * noise);
  for (const Within& own : all)
    if (own.both() / own.n > least) correlations.push_back(own.correlation());
  return correlations.empty() ? 0 : median(std::move(correlations));
}

}  // namespace fexel
