#include "points/features.h"

#include <algorithm>
#include <cmath>

#include "filter/filter.h"
#include "image/pyramid.h"

namespace fexel {
namespace {

constexpr double pi = M_PI;
constexpr double finest_sigma = 1.0;  // Gaussian of a level, in its pixels
constexpr double around = 10;         // of these: radius of a descriptor
constexpr int angle_bins = 36;
constexpr int directions = 8;
constexpr double clipped = 0.2;  // of a descriptor's length, at most, in one bin

/// Central differences.
struct Slopes {
  Image x, y;
};
Slopes slopes_of(const Image& plane) {
  Slopes out{Image(plane.width(), plane.height(), 1, Depth::f32), Image(plane.width(), plane.height(), 1, Depth::f32)};
  for (int j = 1; j + 1 < plane.height(); ++j) {
    const float *above = plane.row<float>(0, j - 1), *here = plane.row<float>(0, j),
                *below = plane.row<float>(0, j + 1);
    float *dx = out.x.row<float>(0, j), *dy = out.y.row<float>(0, j);
    for (int i = 1; i + 1 < plane.width(); ++i) {
      dx[i] = (here[i + 1] - here[i - 1]) / 2;
      dy[i] = (below[i] - above[i]) / 2;
    }
  }
  return out;
}

struct Corner {
  Point at;
  double strength;
};

/// Peaks of Harris' measure, to a fraction of a pixel, the strongest of each cell.
std::vector<Corner> corners_of(const Image& plane, const Slopes& slopes, double sigma, int cells, int in_each,
                               double border) {
  const int width = plane.width(), height = plane.height();
  // Of the steepest slope, so that products of four stay within what a float holds, whatever the samples mean.
  float steepest = 0;
  for (int j = 0; j < height; ++j)
    for (int i = 0; i < width; ++i)
      steepest = std::max({steepest, std::abs(slopes.x.row<float>(0, j)[i]), std::abs(slopes.y.row<float>(0, j)[i])});
  if (!(steepest > 0) || !std::isfinite(steepest)) return {};
  Image products[3];
  for (Image& p : products) p = Image(width, height, 1, Depth::f32);
  for (int j = 0; j < height; ++j) {
    const float *dx = slopes.x.row<float>(0, j), *dy = slopes.y.row<float>(0, j);
    for (int i = 0; i < width; ++i) {
      const float u = dx[i] / steepest, v = dy[i] / steepest;
      products[0].row<float>(0, j)[i] = u * u;
      products[1].row<float>(0, j)[i] = u * v;
      products[2].row<float>(0, j)[i] = v * v;
    }
  }
  for (Image& p : products) p = gaussian(p, 3 * sigma);
  Image measure(width, height, 1, Depth::f32);
  for (int j = 0; j < height; ++j) {
    const float *xx = products[0].row<float>(0, j), *xy = products[1].row<float>(0, j),
                *yy = products[2].row<float>(0, j);
    float* m = measure.row<float>(0, j);
    for (int i = 0; i < width; ++i) {
      const float trace = xx[i] + yy[i];
      m[i] = xx[i] * yy[i] - xy[i] * xy[i] - 0.05F * trace * trace;
    }
  }
  std::vector<std::vector<Corner>> found(static_cast<std::size_t>(cells) * static_cast<std::size_t>(cells));
  // Where the picture ends, empty pixels make corners of their own.
  const int clear = static_cast<int>(std::ceil(5 * sigma));
  const auto near_empty = [&](int i, int j) {
    if (!plane.has_mask()) return false;
    for (int v = -1; v <= 1; ++v)
      for (int u = -1; u <= 1; ++u)
        if (!plane.valid(std::clamp(i + u * clear, 0, width - 1), std::clamp(j + v * clear, 0, height - 1)))
          return true;
    return false;
  };
  const int edge = std::max(2, static_cast<int>(std::ceil(border)));
  for (int j = edge; j + edge < height; ++j) {
    const float *above = measure.row<float>(0, j - 1), *here = measure.row<float>(0, j),
                *below = measure.row<float>(0, j + 1);
    for (int i = edge; i + edge < width; ++i) {
      const float m = here[i];
      if (!(m > 0) || !(m > here[i - 1]) || !(m >= here[i + 1]) || near_empty(i, j)) continue;
      bool peak = true;
      for (int k = -1; k <= 1; ++k) peak = peak && m > above[i + k] && m >= below[i + k];
      if (!peak) continue;
      const auto refined = [](float before, float at, float after) {
        const double bend = static_cast<double>(before) - 2.0 * static_cast<double>(at) + static_cast<double>(after);
        return bend < 0 ? std::clamp(0.5 * (static_cast<double>(before) - static_cast<double>(after)) / bend, -0.5, 0.5)
                        : 0.0;
      };
      const Point at{i + 0.5 + refined(here[i - 1], m, here[i + 1]), j + 0.5 + refined(above[i], m, below[i])};
      const int cell = std::min(cells - 1, i * cells / width) + cells * std::min(cells - 1, j * cells / height);
      found[static_cast<std::size_t>(cell)].push_back({at, static_cast<double>(m)});
    }
  }
  std::vector<Corner> out;
  for (std::vector<Corner>& cell : found) {
    std::ranges::sort(cell, std::ranges::greater{}, &Corner::strength);
    if (cell.size() > static_cast<std::size_t>(in_each)) cell.resize(static_cast<std::size_t>(in_each));
    out.insert(out.end(), cell.begin(), cell.end());
  }
  std::ranges::sort(out, std::ranges::greater{}, &Corner::strength);
  return out;
}

/// The directions of the strongest gradients around: one, or two that are nearly as strong.
std::vector<double> angles_at(const Slopes& slopes, Point at, double sigma, double whole) {
  std::array<double, angle_bins> bins{};
  const double weight_sigma = 0.45 * around * sigma;
  const int half = static_cast<int>(std::ceil(0.9 * around * sigma)), i0 = static_cast<int>(at.x),
            j0 = static_cast<int>(at.y);
  for (int j = j0 - half; j <= j0 + half; ++j)
    for (int i = i0 - half; i <= i0 + half; ++i) {
      if (i < 1 || j < 1 || i + 1 >= slopes.x.width() || j + 1 >= slopes.x.height()) continue;
      const double x = i + 0.5 - at.x, y = j + 0.5 - at.y, dx = static_cast<double>(slopes.x.row<float>(0, j)[i]),
                   dy = static_cast<double>(slopes.y.row<float>(0, j)[i]);
      const double place = std::fmod(std::atan2(dy, dx) + 2 * pi, whole) / whole * angle_bins;
      bins[static_cast<std::size_t>(place) % angle_bins] +=
          std::exp(-(x * x + y * y) / (2 * weight_sigma * weight_sigma)) * std::hypot(dx, dy);
    }
  for (int pass = 0; pass < 3; ++pass) {
    auto before = bins;
    for (std::size_t k = 0; k < bins.size(); ++k)
      bins[k] = (before[(k + bins.size() - 1) % bins.size()] + before[k] + before[(k + 1) % bins.size()]) / 3;
  }
  const double most = *std::ranges::max_element(bins);
  std::vector<std::pair<double, double>> peaks;
  for (std::size_t k = 0; k < bins.size(); ++k) {
    const double a = bins[(k + bins.size() - 1) % bins.size()], b = bins[k], c = bins[(k + 1) % bins.size()];
    if (!(b > 0) || b < 0.8 * most || b < a || !(b > c)) continue;
    const double bend = a - 2 * b + c, off = bend < 0 ? 0.5 * (a - c) / bend : 0;
    peaks.emplace_back(b, (static_cast<double>(k) + 0.5 + off) / angle_bins * whole);
  }
  std::ranges::sort(peaks, std::ranges::greater{});
  std::vector<double> out;
  for (const auto& [strength, angle] : peaks)
    if (out.size() < 2) out.push_back(angle);
  return out;
}

/// How gradients are directed in the middle and in two rings of eight sectors. False where the place is flat.
bool describe(const Slopes& slopes, Feature& feature, Point at, double sigma, double whole) {
  std::array<double, descriptor_bins> bins{};
  const double radius = around * sigma, weight_sigma = 0.6 * radius;
  const int half = static_cast<int>(std::ceil(radius)), i0 = static_cast<int>(at.x), j0 = static_cast<int>(at.y);
  for (int j = j0 - half; j <= j0 + half; ++j)
    for (int i = i0 - half; i <= i0 + half; ++i) {
      if (i < 1 || j < 1 || i + 1 >= slopes.x.width() || j + 1 >= slopes.x.height()) continue;
      const double x = i + 0.5 - at.x, y = j + 0.5 - at.y, r = std::hypot(x, y);
      if (r > radius) continue;
      const double dx = static_cast<double>(slopes.x.row<float>(0, j)[i]),
                   dy = static_cast<double>(slopes.y.row<float>(0, j)[i]);
      const double strength = std::hypot(dx, dy) * std::exp(-r * r / (2 * weight_sigma * weight_sigma));
      if (!(strength > 0)) continue;
      const double turn = std::fmod(std::atan2(dy, dx) - feature.angle + 4 * pi, whole) / whole * directions;
      const double sector = std::fmod(std::atan2(y, x) - feature.angle + 4 * pi, 2 * pi) / (2 * pi) * 8;
      const double ring = std::clamp(r / radius * 3 - 0.5, 0.0, 2.0);
      const int t0 = static_cast<int>(turn) % directions, s0 = static_cast<int>(sector) % 8,
                r0 = std::min(1, static_cast<int>(ring));
      const double tf = turn - std::floor(turn), sf = sector - std::floor(sector), rf = ring - r0;
      for (int r1 = 0; r1 < 2; ++r1)
        for (int s1 = 0; s1 < 2; ++s1)
          for (int t1 = 0; t1 < 2; ++t1) {
            const int of_ring = r0 + r1;
            const int cell = of_ring == 0 ? 0 : 1 + 8 * (of_ring - 1) + (s0 + s1) % 8;
            bins[static_cast<std::size_t>(cell * directions + (t0 + t1) % directions)] +=
                strength * (r1 ? rf : 1 - rf) * (s1 ? sf : 1 - sf) * (t1 ? tf : 1 - tf);
          }
    }
  // The roots of the shares of all: differences of these are differences of distributions (E. Hellinger, 1909).
  double sum = 0;
  for (const double b : bins) sum += b;
  if (!(sum > 0)) return false;
  double length = 0;
  for (double& b : bins) {
    b = std::min(std::sqrt(b / sum), clipped);
    length += b * b;
  }
  for (std::size_t k = 0; k < bins.size(); ++k) feature.descriptor[k] = static_cast<float>(bins[k] / std::sqrt(length));
  return true;
}

}  // namespace

std::vector<Feature> features_of(const Image& plane, int most, int octaves, bool unsigned_directions, const Job& job) {
  std::vector<Feature> out;
  const double whole = unsigned_directions ? pi : 2 * pi;
  Image smaller;
  for (int octave = 0; octave < octaves; ++octave) {
    if (octave > 0) smaller = halved(octave == 1 ? plane : smaller, job);
    const Image& level = octave == 0 ? plane : smaller;
    if (std::min(level.width(), level.height()) < 6 * around) break;
    const double pixel = std::ldexp(1.0, octave);
    for (const double sigma : {finest_sigma, finest_sigma * std::sqrt(2.0)}) {
      const Image smooth = gaussian(level, 2 * sigma, job);
      const Slopes slopes = slopes_of(smooth);
      constexpr int cells = 8;
      const auto corners =
          corners_of(smooth, slopes, sigma, cells, std::max(1, most / (cells * cells)), 0.6 * around * sigma);
      constexpr int at_once = 32;
      const int parts = (static_cast<int>(corners.size()) + at_once - 1) / at_once;
      std::vector<std::vector<Feature>> made(static_cast<std::size_t>(parts));
      parallel_for(parts, job, [&](int part) {
        for (std::size_t k = static_cast<std::size_t>(part) * at_once;
             k < std::min(corners.size(), static_cast<std::size_t>(part + 1) * at_once); ++k) {
          const Corner& corner = corners[k];
          for (const double angle : angles_at(slopes, corner.at, sigma, whole))
            for (const double more : {0.0, pi}) {
              if (more > 0 && !unsigned_directions) continue;
              Feature f{pixel * corner.at, pixel * sigma, angle + more, corner.strength, {}};
              if (describe(slopes, f, corner.at, sigma, whole)) made[static_cast<std::size_t>(part)].push_back(f);
            }
        }
      });
      for (const auto& part : made) out.insert(out.end(), part.begin(), part.end());
    }
  }
  return out;
}

std::vector<Point> spread_corners(const Image& plane, int cells, int in_each, double border) {
  const Image smooth = gaussian(plane, 2 * 1.5);
  std::vector<Point> out;
  for (const Corner& corner : corners_of(smooth, slopes_of(smooth), 1.5, cells, in_each, border))
    out.push_back(corner.at);
  return out;
}

}  // namespace fexel
