#include "align/self_test.h"

#include <Eigen/LU>
#include <chrono>
#include <random>

#include "align/smoothing.h"
#include "base/error.h"
#include "filter/filter.h"
#include "image/pyramid.h"
#include "resample/warp.h"

namespace fexel {
namespace {

constexpr int least_half = 64;  // pixels of the shorter side

void add_noise(Image& plane, double noise, std::mt19937& random) {
  if (!(noise > 0)) return;
  std::normal_distribution<float> grain(0, static_cast<float>(noise));
  for (int y = 0; y < plane.height(); ++y)
    for (int x = 0; x < plane.width(); ++x) plane.row<float>(0, y)[x] += grain(random);
}

Image moved_copy(const Pyramid& plane, const Matrix3& moved, double noise, std::mt19937& random, const Job& job) {
  const Size size{plane.base().width(), plane.base().height()};
  WarpPlan plan;
  plan.inverse_map = moved.inverse();
  plan.result = size;
  Clip inside;
  inside.keep_inside(size);
  plan.clip = inside.through(Map(moved));
  Resampling how;
  how.kernel = Kernel::bspline3;
  Image out = warp(plane, plan, {0, 0, size.width, size.height}, how, Quality::final, job);
  paint_empty(out);
  add_noise(out, noise, random);
  return out;
}

/// Every second pixel from an offset on.
Image half_of(const Image& plane, int dx, int dy, Size size) {
  Image out(size.width, size.height, 1, Depth::f32);
  if (plane.has_mask()) out.make_mask(true);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      out.row<float>(0, y)[x] = plane.row<float>(0, 2 * y + dy)[2 * x + dx];
      if (plane.has_mask()) out.set_valid(x, y, plane.valid(2 * x + dx, 2 * y + dy));
    }
  return out;
}

void try_halves(SelfTest& out, const Image& plane, const AlignOptions& options, const FftPlans& transforms,
                const Job& quiet) {
  const Size size{plane.width() / 2, plane.height() / 2};
  if (std::min(size.width, size.height) < least_half) return;
  const auto from = half_of(plane, 0, 0, size);
  const auto reference = prepared_best(from, 0, options.likeness, nullptr, Role::reference, transforms, quiet);
  double squares = 0, stated = 0;
  for (const auto& [dx, dy] : {std::pair{1, 0}, {0, 1}, {1, 1}}) {
    const Image half = half_of(plane, dx, dy, size);
    const Match found = match_frames(
        *reference, PreparedFrame(half, 0, options.likeness, nullptr, Role::moved, quiet, reference->smoothing(0)),
        options.match, transforms, {}, quiet);
    ++out.halves;
    if (found.status == MatchStatus::failed) {
      ++out.halves_failed;
      continue;
    }
    // A place of the half lies so much farther on in the one that it is compared with.
    const Matrix3 truth = translation(0.5 * dx, 0.5 * dy);
    squares += std::pow(rms_distance(found.matrix, truth, size), 2);
    stated += 2 * std::pow(found.uncertainty_px, 2);
  }
  if (const int matched = out.halves - out.halves_failed; matched > 0) {
    out.halves_error_px = std::sqrt(squares / matched);
    out.halves_stated_px = std::sqrt(stated / matched);
  }
}

}  // namespace

SelfTest try_known_motions(const Image& frame, const AlignOptions& options, int rounds, double reach, unsigned seed,
                           const Job& job) {
  const Job quiet{job.stop, {}};
  SelfTest out;
  Image plane = plane_of(frame, options.band, quiet);
  out.noise = noise_in(plane, {0, 0, plane.width(), plane.height()});
  const Size size{plane.width(), plane.height()};
  std::mt19937 random(seed);
  const Image whole = plane.clone();
  plane = gaussian(plane, 2, quiet);  // keeps the mask
  paint_empty(plane);                 // splines read beyond what is known
  Image noisy = plane.clone();
  add_noise(noisy, out.noise, random);
  const FftPlans transforms;
  const auto reference = prepared_best(noisy, 0, options.likeness, options.use, Role::reference, transforms, quiet);
  const Pyramid pyramid(std::make_shared<const Image>(std::move(plane)));
  const StepBasis basis(options.match.model, size);
  const auto even = [&random](double most) { return most * (2.0 * static_cast<double>(random()) / 4294967295.0 - 1); };
  const double far = std::max(size.width, size.height) * 0.5;
  double squares = 0, stated = 0;
  for (int k = 0; k < rounds; ++k) {
    SelfTestRound round;
    SmallStep step = SmallStep::Zero(basis.count());
    step(0) = even(reach);
    step(1) = even(reach);
    if (basis.count() > 2) step(2) = even(M_PI / 180 * far);
    for (int i = 3; i < basis.count(); ++i) step(i) = even((i < 6 ? 0.01 : 0.002) * far);
    if (options.match.model == Model::affine || options.match.model == Model::projective) step(2) = even(0.01 * far);
    round.moved = basis.transform(step);
    const Image copy = moved_copy(pyramid, round.moved, out.noise, random, quiet);
    const auto begin = std::chrono::steady_clock::now();
    round.found = match_frames(
        *reference, PreparedFrame(copy, 0, options.likeness, nullptr, Role::moved, quiet, reference->smoothing(0)),
        options.match, transforms, {}, quiet);
    round.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    out.seconds += round.seconds / rounds;
    if (round.found.status == MatchStatus::failed) {
      ++out.failed;
    } else {
      round.error_px = rms_distance(round.found.matrix * round.moved, Matrix3::Identity(), size);
      squares += round.error_px * round.error_px;
      stated += 2 * std::pow(round.found.uncertainty_px, 2);  // both axes
    }
    out.rounds.push_back(round);
    if (job.progress) job.progress(static_cast<double>(k + 1) / rounds);
  }
  try {
    try_halves(out, whole, options, transforms, quiet);
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;  // a half without texture says nothing
  }
  if (const int matched = rounds - out.failed; matched > 0) {
    out.error_px = std::sqrt(squares / matched);
    out.stated_px = std::sqrt(stated / matched);
  }
  return out;
}

}  // namespace fexel
