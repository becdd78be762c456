#include "motion/subset.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "resample/kernels/kernel.h"

namespace fexel {
namespace {

constexpr int rounds = 30;
constexpr double settled = 1e-3;        // px, of the last step; what is left is a tenth of it and less
constexpr double least_counted = 0.5;   // share of a subset's pixels
constexpr double steepest = 0.7;        // of the gradient's numbers: what the margin of the coefficients allows for
constexpr double interpolation = 5e-4;  // px: what the spline is off by between samples, of speckles as fine as can be
constexpr double inverted = 0.1;        // of the area: less is folded over
/// The variance of the spline's slope at a sample, where that of the samples' noise is 1: the mean of 9 sin² / (2 +
/// cos)² over all frequencies, 9 (2 / sqrt(3) − 1).
constexpr double slope_noise = 1.3923048454132638;

}  // namespace

double spline_noise_kept(double fraction) {
  // Its square summed over the samples; what is between the nodes of the table is a line.
  static const std::array<double, 65> table = [] {
    std::array<double, 65> out{};
    for (int i = 0; i < 65; ++i) {
      double sum = 0;
      for (int k = -16; k <= 16; ++k) sum += std::pow(kernel_value(Kernel::bspline3, k + i / 64.0), 2);
      out[static_cast<std::size_t>(i)] = sum;
    }
    return out;
  }();
  const double at = 64 * (fraction - std::floor(fraction));
  const auto i = static_cast<std::size_t>(std::min(at, 63.0));
  return table[i] + (at - static_cast<double>(i)) * (table[i + 1] - table[i]);
}

SubsetMatcher::SubsetMatcher(int size) : size_(size), stride_((size + subset_lanes - 1) / subset_lanes * subset_lanes) {
  const auto cells = static_cast<std::size_t>(size_) * static_cast<std::size_t>(stride_);
  for (auto* buffer : {&value_, &across_, &down_, &own_weight_, &used_value_, &used_across_, &used_down_, &weight_})
    buffer->assign(cells, 0);
  for (int r = 0; r < size_; ++r)
    std::fill_n(own_weight_.begin() + static_cast<std::ptrdiff_t>(r) * stride_, size_, 1.0F);
  rows_ = {used_value_.data(), used_across_.data(), used_down_.data(), weight_.data(), size_, stride_};
}

bool SubsetMatcher::take(const MotionFrame& reference, Point place) {
  place_ = place;
  const double half = 0.5 * (size_ - 1), x = place.x - 0.5, y = place.y - 0.5;
  const Size size = reference.size();
  reason_ = MotionReason::outside;
  if (!(x - half >= 0 && y - half >= 0 && x + half <= size.width - 1 && y + half <= size.height - 1)) return false;
  read_subset(reference.coefficients(), x, y, {value_.data(), across_.data(), down_.data(), nullptr, size_, stride_});
  double count = static_cast<double>(size_) * size_;
  if (reference.masked() || own_masked_) {
    count = 0;
    for (int r = 0; r < size_; ++r)
      for (int c = 0; c < size_; ++c) {
        const bool in = !reference.masked() || reference.counts(static_cast<int>(std::lround(x - half + c)),
                                                                static_cast<int>(std::lround(y - half + r)));
        own_weight_[static_cast<std::size_t>(r * stride_ + c)] = in ? 1.0F : 0.0F;
        count += in ? 1 : 0;
      }
    own_masked_ = reference.masked();
  }
  reason_ = MotionReason::masked;
  if (count < least_counted * size_ * size_) return false;
  own_count_ = count;
  weigh(own_weight_, count);
  reason_ = MotionReason::flat;
  if (!(square_ > 1e-6 * count_)) return false;
  reason_ = MotionReason::none;
  return true;
}

void SubsetMatcher::weigh(const std::vector<float>& weight, double count) {
  if (&weight != &weight_) std::ranges::copy(weight, weight_.begin());
  count_ = count;
  mean_ = weigh_subset({value_.data(), across_.data(), down_.data()}, count, rows_);
  using M = SubsetMoments;
  const SubsetMoments m = moments_of(rows_);
  square_ = m[M::vv];
  for (int k = 0; k < 6; ++k) {
    mean_slope_(k) = m[M::gx + k] / std::max(count_, 1.0);
    value_slope_(k) = m[M::vgx + k] / std::max(square_, 1e-30);
  }
  // 1, x, y times 1, x, y: where their products stand among the six sums.
  constexpr int product[3][3] = {{0, 1, 2}, {1, 3, 4}, {2, 4, 5}};
  for (int i = 0; i < 3; ++i)
    for (int k = 0; k < 3; ++k) {
      normal_(i, k) = m[M::aa + product[i][k]];
      normal_(i, k + 3) = normal_(k + 3, i) = m[M::ab + product[i][k]];
      normal_(i + 3, k + 3) = m[M::bb + product[i][k]];
    }
  normal_ -= count_ * mean_slope_ * mean_slope_.transpose() + square_ * value_slope_ * value_slope_.transpose();
}

SubsetMatcher::Matrix6 SubsetMatcher::noise_part() const {
  // Of a whole square; a masked one has its share of it.
  const double n = size_, share = count_ / (n * n), squares = n * n * (n * n - 1) / 12;
  Matrix6 out = Matrix6::Zero();
  for (const int k : {0, 3}) {
    out(k, k) = n * n;
    out(k + 1, k + 1) = out(k + 2, k + 2) = squares;
  }
  return slope_noise * share * out;
}

SubsetTexture SubsetMatcher::texture(double noise) const {
  SubsetTexture out{{std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()}, 1};
  if (reason_ != MotionReason::none) return out;
  const double energy = normal_(0, 0) + normal_(3, 3), of_noise = 2 * slope_noise * count_ * noise * noise;
  out.noise_share = energy > 0 ? of_noise / energy : 1;
  const Matrix6 texture = normal_ - noise * noise * noise_part();
  const Eigen::LDLT<Matrix6> solved(texture);
  if (!(solved.isPositive() && solved.vectorD().minCoeff() > 1e-9 * solved.vectorD().maxCoeff())) return out;
  const Matrix6 inverse = solved.solve(Matrix6::Identity());
  if (inverse(0, 0) > 0 && inverse(3, 3) > 0)
    out.sigma_per_noise = {std::sqrt(2 * inverse(0, 0)), std::sqrt(2 * inverse(3, 3))};
  return out;
}

SubsetPlace SubsetMatcher::placed(const SubsetMotion& motion) const {
  const auto& g = motion.gradient;
  return {place_.x - 0.5 + motion.moved.x, place_.y - 0.5 + motion.moved.y, static_cast<float>(1 + g(0, 0)),
          static_cast<float>(g(0, 1)),     static_cast<float>(g(1, 0)),     static_cast<float>(1 + g(1, 1))};
}

bool SubsetMatcher::inside(const MotionFrame& frame, const SubsetPlace& place, double beyond) const {
  const double half = 0.5 * (size_ - 1);
  const Size size = frame.size();
  for (const double x : {-half, half})
    for (const double y : {-half, half}) {
      const double px = place.x0 + static_cast<double>(place.xx) * x + static_cast<double>(place.xy) * y,
                   py = place.y0 + static_cast<double>(place.yx) * x + static_cast<double>(place.yy) * y;
      if (!(px >= -beyond && py >= -beyond && px <= size.width - 1 + beyond && py <= size.height - 1 + beyond))
        return false;
    }
  return true;
}

/// Leaves out what the frame does not show. False where that is more than half.
bool SubsetMatcher::weigh_by(const MotionFrame& frame, const SubsetPlace& place) {
  std::vector<float> weight = own_weight_;
  const double half = 0.5 * (size_ - 1);
  double count = 0;
  for (int r = 0; r < size_; ++r)
    for (int c = 0; c < size_; ++c) {
      float& w = weight[static_cast<std::size_t>(r * stride_ + c)];
      const double x = c - half, y = r - half;
      const double px = place.x0 + static_cast<double>(place.xx) * x + static_cast<double>(place.xy) * y,
                   py = place.y0 + static_cast<double>(place.yx) * x + static_cast<double>(place.yy) * y;
      if (!frame.counts(static_cast<int>(std::lround(px)), static_cast<int>(std::lround(py)))) w = 0;
      count += static_cast<double>(w);
    }
  if (count < least_counted * size_ * size_) return false;
  if (weight != weight_) weigh(weight, count);
  return true;
}

SubsetFound SubsetMatcher::match(const MotionFrame& frame, SubsetMotion start) {
  SubsetFound out;
  out.motion = start;
  out.reason = MotionReason::unlike;
  const double half = 0.5 * (size_ - 1);
  bool own = true;  // as take() weighed it
  Eigen::LDLT<Matrix6> solved(normal_);
  double offset = mean_;
  for (int round = 0;; ++round) {
    const SubsetPlace place = placed(out.motion);
    const bool whole = inside(frame, place);
    const double most = std::max({std::abs(out.motion.gradient(0, 0)), std::abs(out.motion.gradient(0, 1)),
                                  std::abs(out.motion.gradient(1, 0)), std::abs(out.motion.gradient(1, 1))});
    if (!(most < steepest) || !((Eigen::Matrix2d::Identity() + out.motion.gradient).determinant() > inverted) ||
        !(distance(out.motion.moved, start.moved) <= half + 2))
      return out;
    // The coefficients end a little behind the frame: no place that is read may lie farther.
    constexpr double beyond = 5, level = 0.2;
    if (!whole && (most > level || !inside(frame, place, beyond))) {
      out.reason = MotionReason::outside;
      return out;
    }
    if (!whole || frame.masked()) {
      if (!weigh_by(frame, place)) {
        out.reason = whole ? MotionReason::masked : MotionReason::outside;
        return out;
      }
      solved.compute(normal_);
      own = weight_ == own_weight_;
    } else if (!own) {
      weigh(own_weight_, own_count_);
      solved.compute(normal_);
      own = true;
    }
    using M = MatchSums;
    const MatchSums sums = sums_of(rows_, frame.coefficients(), place, static_cast<float>(offset));
    const double variance = sums[M::gg] - sums[M::g] * sums[M::g] / count_, product = sums[M::vg];
    if (!(variance > 1e-6 * count_)) return out;
    out.score = product / std::sqrt(square_ * variance);
    if (!(out.score > 0)) return out;
    const double gain = std::sqrt(square_ / variance);
    Vector6 right;
    for (int k = 0; k < 6; ++k)
      right(k) = gain * (sums[M::jg + k] - mean_slope_(k) * sums[M::g] - value_slope_(k) * product);
    // Noise makes the slopes look steeper, and steps too short: what it adds is known once the match is near.
    if (round == 1) {
      const double of_noise = std::min(square_ * (1 - out.score) / std::max(1.0, count_ - 8),
                                       0.3 * (normal_(0, 0) + normal_(3, 3)) / (2 * slope_noise * count_));
      solved.compute(normal_ - of_noise * noise_part());
      if (!solved.isPositive()) solved.compute(normal_);
    }
    const Vector6 step = solved.solve(right);
    if (!step.allFinite()) return out;
    offset += sums[M::g] / count_;
    // What is around a place moves by (I + G) (I + step)^-1.
    Eigen::Matrix3d now = Eigen::Matrix3d::Identity(), by = Eigen::Matrix3d::Identity();
    now.topLeftCorner<2, 2>() += out.motion.gradient;
    now.topRightCorner<2, 1>() << out.motion.moved.x, out.motion.moved.y;
    by.topLeftCorner<2, 2>() << 1 + step(1), step(2), step(4), 1 + step(5);
    by.topRightCorner<2, 1>() << step(0), step(3);
    if (!(std::abs(by.topLeftCorner<2, 2>().determinant()) > inverted)) return out;
    const Eigen::Matrix3d next = now * by.inverse();
    const double change = std::max(std::hypot(next(0, 2) - now(0, 2), next(1, 2) - now(1, 2)),
                                   half * (next - now).topLeftCorner<2, 2>().cwiseAbs().maxCoeff());
    out.motion.gradient = next.topLeftCorner<2, 2>() - Eigen::Matrix2d::Identity();
    out.motion.moved = {next(0, 2), next(1, 2)};
    if (change < settled) break;
    if (round == rounds) return out;
  }
  // The residual is that of a match that settled: its last step is far below the noise.
  const double residual = 2 * square_ * std::max(0.0, 1 - out.score) / std::max(1.0, count_ - 8);
  out.misfit = std::sqrt(residual);
  // Interpolation takes some noise out of the frame, though not of the waves that the texture is made of.
  const Point to = place_ + out.motion.moved;
  const auto kept = [&](double at, double along, double across) {
    // A subset that is stretched or turned sees all fractions.
    const bool many = (std::abs(along) + std::abs(across)) * size_ > 1;
    static const double mean = [] {
      double sum = 0;
      for (int i = 0; i < 64; ++i) sum += spline_noise_kept(i / 64.0) / 64;
      return sum;
    }();
    return many ? mean : spline_noise_kept(at - 0.5);
  };
  const auto& g = out.motion.gradient;
  const double both = 1 + kept(to.x, g(0, 0), g(0, 1)) * kept(to.y, g(1, 1), g(1, 0));
  const double of_noise = residual / both;  // of one frame
  const Matrix6 texture = normal_ - of_noise * noise_part();
  const Eigen::LDLT<Matrix6> known(texture);
  out.reason = MotionReason::flat;
  if (!(known.isPositive() && known.vectorD().minCoeff() > 1e-9 * known.vectorD().maxCoeff())) return out;
  const double of_x = known.solve(Vector6::Unit(0))(0), of_y = known.solve(Vector6::Unit(3))(3);
  if (!(of_x > 0 && of_y > 0)) return out;
  out.per_noise = std::sqrt(2 * std::max(of_x, of_y));
  out.noise_share = 2 * slope_noise * count_ * of_noise / std::max(1e-30, normal_(0, 0) + normal_(3, 3));
  const double slow = frame.colour();
  out.sigma = {std::hypot(interpolation, slow * std::sqrt(2 * of_noise * of_x)),
               std::hypot(interpolation, slow * std::sqrt(2 * of_noise * of_y))};
  out.reason = MotionReason::none;
  return out;
}

}  // namespace fexel
