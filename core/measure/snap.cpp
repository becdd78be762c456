#include "measure/snap.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "filter/filter.h"

namespace fexel {
namespace {

constexpr double over_noise = 8;   // of a gradient that counts
constexpr double rounded_off = 3;  // pixels about a corner that its edges are not fitted by
constexpr int least_bins = 4;      // pixels along an edge
constexpr double alike = 0.93;     // cosine of how far directions on one edge may differ

struct Slope {
  Point at;       // from the middle of the window
  double across;  // direction of the gradient, in radians
  double weight;  // its square
};

struct Line {
  Point on, normal;
  double sigma = 0;       // of where it lies, across
  double tilt_sigma = 0;  // of its direction, in radians
  double middle = 0;      // along, from `on`, of what it was fitted by
};

/// The line through slopes of about this direction, without those near `but`.
std::optional<Line> line_through(const std::vector<Slope>& slopes, double across, std::optional<Point> but) {
  double sum = 0;
  Point middle;
  std::vector<const Slope*> own;
  for (const Slope& s : slopes) {
    if (std::abs(std::cos(s.across - across)) < alike) continue;
    if (but && distance(s.at, *but) < rounded_off) continue;
    own.push_back(&s);
    sum += s.weight;
    middle = middle + s.weight * s.at;
  }
  if (own.size() < 6) return std::nullopt;
  middle = (1 / sum) * middle;
  double xx = 0, xy = 0, yy = 0;
  for (const Slope* s : own) {
    const Point d = s->at - middle;
    xx += s->weight * d.x * d.x;
    xy += s->weight * d.x * d.y;
    yy += s->weight * d.y * d.y;
  }
  const double along = 0.5 * std::atan2(2 * xy, xx - yy);
  Line out{middle, {-std::sin(along), std::cos(along)}};
  // The direction has to be that of the edge, and not of a blot.
  if (std::abs(std::cos(std::atan2(out.normal.y, out.normal.x) - across)) < alike) return std::nullopt;
  // Pixel by pixel along the line: the centre of the slopes, and how far it lies off.
  std::map<int, std::pair<double, double>> bins;
  for (const Slope* s : own) {
    const Point d = s->at - middle;
    auto& [weight, moment] = bins[static_cast<int>(std::floor(std::cos(along) * d.x + std::sin(along) * d.y))];
    weight += s->weight;
    moment += s->weight * (out.normal.x * d.x + out.normal.y * d.y);
  }
  double off = 0, spread = 0, count = 0;
  for (const auto& [place, bin] : bins) {
    if (bin.first < 0.2 * sum / static_cast<double>(bins.size())) continue;
    const double residual = bin.second / bin.first;
    off += residual * residual;
    spread += (place + 0.5) * (place + 0.5);
    ++count;
  }
  if (count < least_bins) return std::nullopt;
  // Smoothing makes neighbours alike: half as many say something of their own.
  const double variance = std::max(1e-6, 2 * off / (count - 2));
  out.sigma = std::sqrt(variance / count);
  out.tilt_sigma = std::sqrt(variance / std::max(spread, 1.0));
  return out;
}

}  // namespace

std::optional<Snapped> snapped_to_edge(const Image& plane, Point near, double reach) {
  // Long because it goes from gradients to the one edge, or the two, in one line of thought.
  const int w = plane.width(), h = plane.height();
  if (w < 8 || h < 8) return std::nullopt;
  const double window = std::max(reach, 4.0) + rounded_off;
  const Image smooth = gaussian(plane, 2 * 0.8);
  // A difference over two pixels of smoothed noise.
  const double noise = std::max(0.05, noise_in(plane, {0, 0, w, h})) * 0.2;
  std::vector<Slope> slopes;
  double strongest = 0;
  const int x0 = std::max(1, static_cast<int>(near.x - window)),
            x1 = std::min(w - 2, static_cast<int>(near.x + window)),
            y0 = std::max(1, static_cast<int>(near.y - window)),
            y1 = std::min(h - 2, static_cast<int>(near.y + window));
  for (int y = y0; y <= y1; ++y)
    for (int x = x0; x <= x1; ++x) {
      const Point at{x + 0.5 - near.x, y + 0.5 - near.y};
      if (std::hypot(at.x, at.y) > window || !plane.valid(x, y)) continue;
      const double gx = (smooth.row<float>(0, y)[x + 1] - smooth.row<float>(0, y)[x - 1]) / 2,
                   gy = (smooth.row<float>(0, y + 1)[x] - smooth.row<float>(0, y - 1)[x]) / 2;
      const double size = gx * gx + gy * gy;
      if (size < over_noise * over_noise * noise * noise) continue;
      slopes.push_back({at, std::atan2(gy, gx), size});
      strongest = std::max(strongest, size);
    }
  std::erase_if(slopes, [&](const Slope& s) { return s.weight < 0.04 * strongest; });
  if (slopes.size() < 8) return std::nullopt;
  // Directions modulo pi: the first one, and the strongest that is another.
  constexpr int cells = 36;
  std::array<double, cells> share{};
  const auto cell = [](double angle) {
    const double turn = angle / std::numbers::pi - std::floor(angle / std::numbers::pi);
    return std::min(cells - 1, static_cast<int>(turn * cells));
  };
  double all = 0;
  for (const Slope& s : slopes) {
    share[static_cast<std::size_t>(cell(s.across))] += s.weight;
    all += s.weight;
  }
  const auto about = [&](int at) {
    double sum = 0;
    for (int k = -2; k <= 2; ++k) sum += share[static_cast<std::size_t>((at + k + cells) % cells)];
    return sum;
  };
  int first = 0, second = -1;
  for (int i = 1; i < cells; ++i)
    if (about(i) > about(first)) first = i;
  for (int i = 0; i < cells; ++i) {
    const int apart = std::min((i - first + cells) % cells, (first - i + cells) % cells);
    if (apart < 5 || about(i) < 0.25 * all) continue;
    if (second < 0 || about(i) > about(second)) second = i;
  }
  const auto middle_of = [&](int at) { return (at + 0.5) * std::numbers::pi / cells; };
  if (second >= 0) {
    std::optional<Point> corner;
    double sigma = 0;
    for (int round = 0; round < 3; ++round) {
      const auto a = line_through(slopes, middle_of(first), corner),
                 b = line_through(slopes, middle_of(second), corner);
      const double cross = a && b ? a->normal.x * b->normal.y - a->normal.y * b->normal.x : 0;
      if (std::abs(cross) < 0.3) {
        corner.reset();
        break;
      }
      const double da = a->normal.x * a->on.x + a->normal.y * a->on.y,
                   db = b->normal.x * b->on.x + b->normal.y * b->on.y;
      corner = Point{(da * b->normal.y - db * a->normal.y) / cross, (a->normal.x * db - b->normal.x * da) / cross};
      // Both lines go on to the corner beyond what they were fitted by.
      const auto there = [&](const Line& line) {
        return std::hypot(line.sigma, line.tilt_sigma * distance(line.on, *corner));
      };
      sigma = std::hypot(there(*a), there(*b)) / std::abs(cross) / std::sqrt(2.0);
    }
    if (corner && std::hypot(corner->x, corner->y) <= reach && sigma < 1) return Snapped{near + *corner, sigma, true};
  }
  const auto line = line_through(slopes, middle_of(first), std::nullopt);
  if (!line) return std::nullopt;
  const double off = line->normal.x * line->on.x + line->normal.y * line->on.y;
  if (std::abs(off) > reach) return std::nullopt;
  const Point at = off * line->normal;
  const double sigma = std::hypot(line->sigma, line->tilt_sigma * distance(at, line->on));
  if (!(sigma < 1)) return std::nullopt;
  return Snapped{near + at, sigma, false};
}

}  // namespace fexel
