#include "align/residual.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"
#include "motion/subset.h"

namespace fexel {
namespace {

constexpr double least_agreement = 0.4;  // correlation
constexpr double max_spread = 0.25;      // px
constexpr double least_movement = 0.02;  // px

/// The plane that is matched, with the frame's mask.
MotionFrame frame_of(const Image& frame, int band, SimilarityMetric likeness, const Job& job) {
  const PreparedFrame prepared(frame, band, likeness, nullptr, Role::moved, job);
  Image plane = prepared.plane(0).clone();
  copy_mask(frame, plane);
  return {plane, {}, nullptr, job};
}

ResidualShift shift_of(SubsetMatcher& matcher, const MotionFrame& still, const MotionFrame& moved, Point middle,
                       int window) {
  ResidualShift out;
  out.at = middle;
  if (!matcher.take(still, middle)) return out;
  const SubsetFound found = matcher.match(moved, {});
  if (!found.found()) return out;
  out.moved = found.motion.moved;
  out.score = found.score;
  out.uncertainty_px = std::sqrt((found.sigma.x * found.sigma.x + found.sigma.y * found.sigma.y) / 2);
  out.sound = out.score > least_agreement && out.uncertainty_px < max_spread &&
              std::hypot(out.moved.x, out.moved.y) <= window / 4.0;
  return out;
}

}  // namespace

ResidualField residual_field(const Image& reference, const Image& frame, int band, SimilarityMetric likeness,
                             int window, const Job& job) {
  if (reference.width() != frame.width() || reference.height() != frame.height())
    throw call_error("The frames are not of one size.", {}, "Crop them to one size first.");
  const MotionFrame still = frame_of(reference, band, likeness, job), moved = frame_of(frame, band, likeness, job);
  const int width = reference.width(), height = reference.height();
  ResidualField out;
  out.window = window;
  const int across = width / window, down = height / window;
  // What is left over is shared by both sides.
  const int left = (width - across * window) / 2, top = (height - down * window) / 2;
  out.shifts.resize(static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  parallel_for(down, job, [&](int row) {
    SubsetMatcher matcher(window);
    for (int column = 0; column < across; ++column) {
      job.check();
      out.shifts[static_cast<std::size_t>(row * across + column)] =
          shift_of(matcher, still, moved, {left + (column + 0.5) * window, top + (row + 0.5) * window}, window);
    }
  });
  std::vector<double> lengths, spreads;
  double most = -1;
  for (const ResidualShift& shift : out.shifts) {
    if (!shift.sound) continue;
    ++out.sound;
    const double length = std::hypot(shift.moved.x, shift.moved.y);
    lengths.push_back(length);
    spreads.push_back(shift.uncertainty_px);
    out.mean = out.mean + shift.moved;
    out.moving += length > std::max(significance * shift.uncertainty_px, least_movement);
    if (length > most) {
      most = length;
      out.farthest = shift;
    }
  }
  if (out.sound > 0) {
    out.usual_px = median(lengths);
    // The median length of a normal vector with a standard deviation of 1 along each axis.
    out.expected_px = 1.1774 * median(spreads);
    out.mean = 1.0 / out.sound * out.mean;
  }
  return out;
}

}  // namespace fexel
