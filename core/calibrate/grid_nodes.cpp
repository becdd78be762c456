#include "calibrate/grid_nodes.h"

#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "filter/filter.h"
#include "image/pyramid.h"

namespace fexel {
namespace {

constexpr double smoothing = 1.5;       // standard deviation, in pixels of the level
constexpr double least_over_noise = 8;  // curvature of a candidate over that of noise
constexpr double least_of_strongest = 0.02;
constexpr std::size_t most_candidates = 6000;
constexpr int refinements = 8;

/// The standard deviation of a second difference, for white noise of 1 through the smoothing: the fourth derivative of
/// its autocorrelation, sqrt(3 / (16 pi)) / sigma^3.
double curvature_of_noise() {
  return std::sqrt(3 / (16 * M_PI)) / (smoothing * smoothing * smoothing);
}

}  // namespace

const char* name_of(GridPattern pattern) {
  return pattern == GridPattern::checkerboard ? "checkerboard" : pattern == GridPattern::dots ? "dots" : "lines";
}

std::vector<NodeCandidate> node_candidates(const Image& plane, CandidateKind kind, int level, const Job& job) {
  Image half = plane.clone();
  for (int i = 0; i < level; ++i) half = halved(half, job);
  if (half.width() < 16 || half.height() < 16) return {};
  // Halving a picture averages its noise; a picture whose noise is rounded away has that of rounding.
  const double noise = std::max(noise_in(half, {0, 0, half.width(), half.height()}), 0.3 / (1 << level));
  const Image smooth = gaussian(half, 2 * smoothing, job);
  const int w = smooth.width(), h = smooth.height();
  std::vector<float> response(static_cast<std::size_t>(w) * static_cast<std::size_t>(h), 0.0F);
  const double floor = least_over_noise * noise * curvature_of_noise();
  const auto at = [&](int x, int y) -> float& {
    return response[static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x)];
  };
  const auto curvatures = [&](int x, int y) {
    const float *a = smooth.row<float>(0, y - 1), *b = smooth.row<float>(0, y), *c = smooth.row<float>(0, y + 1);
    return std::array{b[x + 1] - 2 * b[x] + b[x - 1], c[x] - 2 * b[x] + a[x],
                      (c[x + 1] - c[x - 1] - a[x + 1] + a[x - 1]) / 4};
  };
  parallel_for(h - 2, job, [&](int row) {
    const int y = row + 1;
    for (int x = 1; x < w - 1; ++x) {
      const auto [xx, yy, xy] = curvatures(x, y);
      const float half_trace = (xx + yy) / 2, root = std::hypot((xx - yy) / 2, xy);
      float value = 0;
      if (kind == CandidateKind::saddles)
        value = std::min(half_trace + root, root - half_trace);  // the weaker of rise and fall
      else
        value = kind == CandidateKind::dark ? half_trace - root : -half_trace - root;
      at(x, y) = value > static_cast<float>(floor) ? value : 0.0F;
    }
  });
  std::vector<NodeCandidate> out;
  for (int y = 3; y < h - 3; ++y)
    for (int x = 3; x < w - 3; ++x) {
      const float value = at(x, y);
      if (value <= 0) continue;
      bool highest = true;
      for (int j = -2; j <= 2 && highest; ++j)
        for (int i = -2; i <= 2; ++i)
          if ((i != 0 || j != 0) &&
              (at(x + i, y + j) > value || (at(x + i, y + j) == value && (j < 0 || (j == 0 && i < 0))))) {
            highest = false;
            break;
          }
      if (!highest) continue;
      const auto peak = [](float before, float middle, float after) {
        const float bend = before - 2 * middle + after;
        return bend < 0 ? std::clamp(0.5 * (before - after) / bend, -0.5, 0.5) : 0.0;
      };
      const auto [xx, yy, xy] = curvatures(x, y);
      const double scale = 1 << level;
      out.push_back({scale * Point{x + 0.5 + peak(at(x - 1, y), value, at(x + 1, y)),
                                   y + 0.5 + peak(at(x, y - 1), value, at(x, y + 1))},
                     value, 0.5 * std::atan2(2 * double(xy), double(xx) - double(yy))});
    }
  std::ranges::sort(out, std::ranges::greater(), &NodeCandidate::strength);
  if (out.empty()) return out;
  const double least = least_of_strongest * out[std::min<std::size_t>(10, out.size() - 1)].strength;
  std::erase_if(out, [&](const NodeCandidate& c) { return c.strength < least; });
  if (out.size() > most_candidates) out.resize(most_candidates);
  return out;
}

NodeRefiner::NodeRefiner(const Image& plane, const Job& job) : width_(plane.width()), height_(plane.height()) {
  const Image smooth = gaussian(plane, 2 * 0.8, job);
  const std::size_t count = static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_);
  value_.resize(count);
  across_.assign(count, 0);
  down_.assign(count, 0);
  for (int y = 0; y < height_; ++y)
    for (int x = 0; x < width_; ++x) {
      const std::size_t at =
          static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
      value_[at] = plane.row<float>(0, y)[x];
      if (x == 0 || y == 0 || x + 1 == width_ || y + 1 == height_) continue;
      across_[at] = (smooth.row<float>(0, y)[x + 1] - smooth.row<float>(0, y)[x - 1]) / 2;
      down_[at] = (smooth.row<float>(0, y + 1)[x] - smooth.row<float>(0, y - 1)[x]) / 2;
    }
}

std::optional<Point> NodeRefiner::crossing(Point near, double radius) const {
  Point at = near;
  for (int round = 0; round < refinements; ++round) {
    double xx = 0, xy = 0, yy = 0, bx = 0, by = 0;
    const int x0 = std::max(1, static_cast<int>(at.x - radius)),
              x1 = std::min(width_ - 2, static_cast<int>(at.x + radius)),
              y0 = std::max(1, static_cast<int>(at.y - radius)),
              y1 = std::min(height_ - 2, static_cast<int>(at.y + radius));
    // A window that is cut off is not symmetric.
    if (at.x - radius < 1 || at.y - radius < 1 || at.x + radius > width_ - 1 || at.y + radius > height_ - 1)
      return std::nullopt;
    for (int y = y0; y <= y1; ++y)
      for (int x = x0; x <= x1; ++x) {
        const double dx = x + 0.5 - at.x, dy = y + 0.5 - at.y, r = std::hypot(dx, dy) / radius;
        if (r >= 1) continue;
        const double fall = 1 - r * r, weight = fall * fall;
        const std::size_t i =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
        const double gx = across_[i], gy = down_[i];
        xx += weight * gx * gx;
        xy += weight * gx * gy;
        yy += weight * gy * gy;
        bx += weight * gx * (gx * dx + gy * dy);
        by += weight * gy * (gx * dx + gy * dy);
      }
    const double determinant = xx * yy - xy * xy, trace = xx + yy;
    // Two directions are needed: the smaller eigenvalue against the larger one.
    if (!(trace > 0) || determinant < 0.02 * trace * trace) return std::nullopt;
    const Point move{(yy * bx - xy * by) / determinant, (xx * by - xy * bx) / determinant};
    at = at + move;
    if (distance(at, near) > radius) return std::nullopt;
    if (std::hypot(move.x, move.y) < 1e-4) break;
  }
  return at;
}

std::optional<NodeRefiner::Dot> NodeRefiner::dot(Point near, Point u, Point v, bool dark) const {
  constexpr double reach = 0.48;  // of a step, so that the next dot's blur stays outside
  const double area = u.x * v.y - u.y * v.x;
  if (!(std::abs(area) > 1)) return std::nullopt;
  const double wide = reach * std::hypot(u.x, v.x), high = reach * std::hypot(u.y, v.y);
  Dot out{near, 0};
  for (int round = 0; round < 4; ++round) {
    if (out.at.x - wide < 1 || out.at.y - high < 1 || out.at.x + wide > width_ - 1 || out.at.y + high > height_ - 1)
      return std::nullopt;
    const int x0 = static_cast<int>(out.at.x - wide), x1 = static_cast<int>(out.at.x + wide),
              y0 = static_cast<int>(out.at.y - high), y1 = static_cast<int>(out.at.y + high);
    // Of a pixel: how far it lies from the middle, as a share of the reach; and its sample.
    const auto each = [&](const auto& body) {
      for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x) {
          const double dx = x + 0.5 - out.at.x, dy = y + 0.5 - out.at.y;
          const double a = (dx * v.y - dy * v.x) / area, b = (dy * u.x - dx * u.y) / area;
          const double r = std::hypot(a, b) / reach;
          if (r < 1)
            body(r, dx, dy,
                 value_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)]);
        }
    };
    std::vector<float> ring, core;
    each([&](double r, double dx, double dy, float sample) {
      if (r > 0.86) ring.push_back(sample);
      if (r < 0.3 || std::hypot(dx, dy) < 1.5) core.push_back(sample);
    });
    if (ring.size() < 6 || core.empty()) return std::nullopt;
    const double ground = median(ring), deep = median(core), contrast = dark ? ground - deep : deep - ground;
    if (!(contrast > 0)) return std::nullopt;
    double sum = 0, mx = 0, my = 0;
    each([&](double, double dx, double dy, float sample) {
      // What is within noise of the ground says nothing of the dot.
      const double part = std::min((dark ? ground - sample : sample - ground) / contrast, 1.2);
      if (part < 0.12) return;
      sum += part;
      mx += part * dx;
      my += part * dy;
    });
    if (!(sum > 2)) return std::nullopt;
    out.area = sum;
    out.at = out.at + Point{mx / sum, my / sum};
    if (distance(out.at, near) > std::max(wide, high)) return std::nullopt;
  }
  return out;
}

std::optional<double> NodeRefiner::sample(Point p) const {
  const double x = p.x - 0.5, y = p.y - 0.5;
  if (!(x >= 0 && y >= 0 && x < width_ - 1 && y < height_ - 1)) return std::nullopt;
  const int i = static_cast<int>(x), j = static_cast<int>(y);
  const double u = x - i, v = y - j;
  const float* row =
      value_.data() + static_cast<std::size_t>(j) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(i);
  return (1 - v) * ((1 - u) * row[0] + u * row[1]) + v * ((1 - u) * row[width_] + u * row[width_ + 1]);
}

}  // namespace fexel
