#include "align/residual.h"
#include "base/statistics.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <limits>

#include "base/error.h"
#include "resample/kernels/prefilter.h"
#include "resample/paths/row_float.h"

namespace fexel {
namespace {

constexpr int rounds = 12;
constexpr double settled = 1e-4;         // px
constexpr double least_filled = 0.5;     // share of a window's pixels
constexpr double least_score = 0.4;      // correlation
constexpr double max_spread = 0.25;      // px
constexpr double least_movement = 0.02;  // px
constexpr float nothing = std::numeric_limits<float>::quiet_NaN();

/// One window's pixels of the reference, with their gradient; NaN where one does not count.
struct Window {
  Region part;
  std::vector<float> value, across, down;
};

/// Sums of a window that a shift is solved from.
struct Sums {
  double count = 0, r = 0, f = 0, rr = 0, ff = 0, rf = 0;
  Eigen::Matrix2d normal = Eigen::Matrix2d::Zero();
};

Window window_of(const Image& plane, const std::vector<char>& counts, Region part) {
  Window out{part, {}, {}, {}};
  const auto pixels = static_cast<std::size_t>(part.width) * static_cast<std::size_t>(part.height);
  out.value.assign(pixels, nothing);
  out.across.resize(pixels);
  out.down.resize(pixels);
  std::size_t i = 0;
  for (int y = part.y; y < part.y + part.height; ++y) {
    // Rows at the border do not count, and have no neighbour.
    const float *p = plane.row<float>(0, std::max(y - 1, 0)), *q = plane.row<float>(0, y),
                *r = plane.row<float>(0, std::min(y + 1, plane.height() - 1));
    for (int x = part.x; x < part.x + part.width; ++x, ++i) {
      if (counts[static_cast<std::size_t>(y) * static_cast<std::size_t>(plane.width()) + static_cast<std::size_t>(x)] ==
          0)
        continue;
      out.value[i] = q[x];
      out.across[i] = 0.125F * ((p[x + 1] - p[x - 1]) + 2 * (q[x + 1] - q[x - 1]) + (r[x + 1] - r[x - 1]));
      out.down[i] = 0.125F * ((r[x - 1] - p[x - 1]) + 2 * (r[x] - p[x]) + (r[x + 1] - p[x + 1]));
    }
  }
  return out;
}

/// The frame as the window sees it when it is shifted: NaN where it cannot be read.
void read_shifted(const Samples& frame, const Window& window, Point shift, std::vector<float>& out) {
  out.resize(window.value.size());
  std::vector<PixelSpan> rest;
  std::int64_t clamped = 0;
  const Region& part = window.part;
  for (int y = 0; y < part.height; ++y) {
    float* row = out.data() + static_cast<std::ptrdiff_t>(y) * part.width;
    rest.clear();
    interpolate_row(frame, Kernel::bspline3, translation(shift.x, shift.y), part.x, part.y + y, part.width,
                    {reinterpret_cast<std::byte*>(row), 0, Depth::f32}, rest, clamped);
    for (const PixelSpan& s : rest) std::fill_n(row + (s.x - part.x), s.count, nothing);
  }
}

ResidualShift shift_of(const Window& window, const Samples& frame) {
  const Region& part = window.part;
  ResidualShift out;
  out.at = {part.x + part.width / 2.0, part.y + part.height / 2.0};
  std::vector<float> seen;
  const std::size_t pixels = window.value.size();
  for (int round = 0;; ++round) {
    read_shifted(frame, window, out.moved, seen);
    Sums s;
    double gx = 0, gy = 0;
    const auto counted = [&](std::size_t i) { return !std::isnan(window.value[i]) && !std::isnan(seen[i]); };
    for (std::size_t i = 0; i < pixels; ++i) {
      if (!counted(i)) continue;
      const double r = static_cast<double>(window.value[i]), f = static_cast<double>(seen[i]);
      ++s.count;
      s.r += r;
      s.f += f;
      s.rr += r * r;
      s.ff += f * f;
      s.rf += r * f;
      gx += static_cast<double>(window.across[i]);
      gy += static_cast<double>(window.down[i]);
    }
    if (s.count < least_filled * static_cast<double>(pixels)) return out;
    const double vr = s.rr - s.r * s.r / s.count, vf = s.ff - s.f * s.f / s.count, c = s.rf - s.r * s.f / s.count;
    if (!(vr > 1e-9 * s.rr + 1e-12 && vf > 1e-9 * s.ff + 1e-12)) return out;
    out.score = c / std::sqrt(vr * vf);
    const double gain = c / vf, mean_r = s.r / s.count, mean_f = s.f / s.count;
    gx /= s.count;
    gy /= s.count;
    Eigen::Vector2d right = Eigen::Vector2d::Zero();
    double squares = 0;
    for (std::size_t i = 0; i < pixels; ++i) {
      if (!counted(i)) continue;
      const double e = gain * (static_cast<double>(seen[i]) - mean_f) - (static_cast<double>(window.value[i]) - mean_r);
      const Eigen::Vector2d g(static_cast<double>(window.across[i]) - gx, static_cast<double>(window.down[i]) - gy);
      right += e * g;
      s.normal += g * g.transpose();
      squares += e * e;
    }
    const double determinant = s.normal.determinant();
    if (!(determinant > 1e-9 * s.normal.trace() * s.normal.trace() && gain > 0)) return out;
    const Eigen::Matrix2d inverse = s.normal.inverse();
    const Eigen::Vector2d step = inverse * right;
    out.uncertainty_px = std::sqrt(squares / std::max(1.0, s.count - 5) * inverse.trace() / 2);
    if (step.norm() < settled || round == rounds) {
      out.sound = step.norm() < 0.01 && out.score > least_score && out.uncertainty_px < max_spread;
      return out;
    }
    out.moved = out.moved - Point{step.x(), step.y()};
    if (std::hypot(out.moved.x, out.moved.y) > part.width / 4.0) return out;
  }
}

}  // namespace

ResidualField residual_field(const Image& reference, const Image& frame, int band, SimilarityMetric likeness,
                             int window, const Job& job) {
  if (reference.width() != frame.width() || reference.height() != frame.height())
    throw call_error("The frames are not of one size.", {}, "Crop them to one size first.");
  const PreparedFrame still(reference, band, likeness, nullptr, Role::moved, job),
      moved(frame, band, likeness, nullptr, Role::moved, job);
  const Image& plane = still.plane(0);
  // What is empty in either frame, and two pixels around it, does not count.
  const int width = plane.width(), height = plane.height();
  std::vector<char> counts(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0);
  const bool masked = reference.has_mask() || frame.has_mask();
  constexpr int border = 2;
  parallel_for(height, job, [&](int y) {
    if (y < border || y >= height - border) return;
    for (int x = border; x < width - border; ++x) {
      bool all = true;
      for (int dy = -border; masked && all && dy <= border; ++dy)
        for (int dx = -border; all && dx <= border; ++dx)
          all = reference.valid(x + dx, y + dy) && frame.valid(x + dx, y + dy);
      counts[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)] = all ? 1 : 0;
    }
  });
  ResidualField out;
  out.window = window;
  const int across = width / window, down = height / window;
  // What is left over is shared by both sides.
  const int left = (width - across * window) / 2, top = (height - down * window) / 2;
  out.shifts.resize(static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  const Samples samples = samples_of(moved.coefficients(), prefilter_margin, true);
  parallel_for(down, job, [&](int row) {
    for (int column = 0; column < across; ++column) {
      job.check();
      out.shifts[static_cast<std::size_t>(row * across + column)] =
          shift_of(window_of(plane, counts, {left + column * window, top + row * window, window, window}), samples);
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
