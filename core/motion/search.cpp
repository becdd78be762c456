#include "motion/search.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <vector>

#include "geometry/map.h"

namespace fexel {
namespace {

constexpr double steps_at_top = 8;  // px of the coarsest level that the search goes to each side
constexpr int least_radius = 6;     // px of a level's patch
constexpr int least_side = 48;      // px of a level
constexpr double least_correlation = 0.3;
constexpr double convincing = 0.7;

struct Sample {
  int dx, dy;  // in the frame, from the patch's middle
  float value;
};

/// A patch of a level of the reference about a pixel, laid in the frame as `lies` says.
struct Patch {
  std::vector<Sample> samples;
  double mean = 0, square = 0;
};

std::optional<Patch> patch_of(const Image& level, int x, int y, int radius, const Eigen::Matrix2d& lies) {
  if (x < radius || y < radius || x >= level.width() - radius || y >= level.height() - radius) return std::nullopt;
  Patch out;
  for (int dy = -radius; dy <= radius; ++dy)
    for (int dx = -radius; dx <= radius; ++dx) {
      const Eigen::Vector2d to = lies * Eigen::Vector2d(dx, dy);
      out.samples.push_back({static_cast<int>(std::lround(to.x())), static_cast<int>(std::lround(to.y())),
                             level.row<float>(0, y + dy)[x + dx]});
      out.mean += static_cast<double>(out.samples.back().value);
    }
  out.mean /= static_cast<double>(out.samples.size());
  for (const Sample& s : out.samples) out.square += std::pow(static_cast<double>(s.value) - out.mean, 2);
  if (!(out.square > 1e-6 * static_cast<double>(out.samples.size()))) return std::nullopt;
  return out;
}

double correlation(const Patch& patch, const Image& level, int x, int y) {
  double sum = 0, squares = 0, product = 0;
  int count = 0;
  for (const Sample& s : patch.samples) {
    const int px = x + s.dx, py = y + s.dy;
    if (px < 0 || py < 0 || px >= level.width() || py >= level.height()) continue;
    const double g = static_cast<double>(level.row<float>(0, py)[px]);
    sum += g;
    squares += g * g;
    product += g * (static_cast<double>(s.value) - patch.mean);
    ++count;
  }
  // What lies outside has no say, and must not be much.
  if (count < static_cast<int>(patch.samples.size()) * 3 / 4) return -1;
  const double variance = squares - sum * sum / count;
  return variance > 1e-9 * squares + 1e-9 ? product / std::sqrt(patch.square * variance) : -1;
}

struct Candidate {
  int x, y;
  double score;
};

/// The best places within `reach` px of a level, no two of them neighbours.
std::vector<Candidate> best_places(const Patch& patch, const Image& level, int x, int y, int reach, std::size_t most) {
  std::vector<Candidate> all;
  for (int dy = -reach; dy <= reach; ++dy)
    for (int dx = -reach; dx <= reach; ++dx) {
      const double score = correlation(patch, level, x + dx, y + dy);
      if (score > 0) all.push_back({x + dx, y + dy, score});
    }
  std::ranges::stable_sort(all, std::greater(), &Candidate::score);
  std::vector<Candidate> out;
  for (const Candidate& one : all) {
    if (out.size() == most) break;
    if (std::ranges::none_of(
            out, [&](const Candidate& o) { return std::abs(o.x - one.x) < 3 && std::abs(o.y - one.y) < 3; }))
      out.push_back(one);
  }
  return out;
}

}  // namespace

std::optional<SearchStart> search_place(const MotionFrame& reference, const MotionFrame& frame, Point place, int size,
                                        double reach, const SubsetMotion& expected) {
  int top = 0;
  const auto side_at = [&](int n) {
    return std::min({reference.halves().level(n).width(), reference.halves().level(n).height(),
                     frame.halves().level(n).width(), frame.halves().level(n).height()});
  };
  while (top + 1 < reference.halves().levels() && top + 1 < frame.halves().levels() &&
         std::ldexp(reach, -top) > steps_at_top && side_at(top + 1) >= least_side)
    ++top;
  std::optional<SearchStart> best;
  for (const double turn : {0.0, 6.0, -6.0, 12.0, -12.0, 18.0, -18.0}) {
    if (best && best->score > convincing) break;
    Eigen::Matrix2d lies = Eigen::Matrix2d::Identity() + expected.gradient;
    lies = Eigen::Rotation2D<double>(turn * degree).toRotationMatrix() * lies;
    std::vector<Candidate> places;
    for (int n = top; n >= 0; --n) {
      const auto pixel_at = [&](double at) { return static_cast<int>(std::floor(std::ldexp(at, -n))); };
      const int radius = std::max(least_radius, static_cast<int>(std::ldexp(size / 2.0, -n)));
      const auto patch = patch_of(reference.halves().level(n), pixel_at(place.x), pixel_at(place.y), radius, lies);
      const Image& level = frame.halves().level(n);
      if (!patch) {
        if (n == 0) places.clear();
        for (Candidate& c : places) c = {2 * c.x, 2 * c.y, c.score};
        continue;
      }
      if (places.empty()) {
        const int most = std::max(1, static_cast<int>(std::ceil(std::ldexp(reach, -n))));
        places = best_places(*patch, level, pixel_at(place.x + expected.moved.x), pixel_at(place.y + expected.moved.y),
                             std::min(most, 24), 3);
      } else {
        std::vector<Candidate> finer;
        for (const Candidate& c : places) {
          const auto found = best_places(*patch, level, 2 * c.x, 2 * c.y, 2, 1);
          if (!found.empty()) finer.push_back(found.front());
        }
        places = std::move(finer);
      }
      if (places.empty()) break;
    }
    for (const Candidate& c : places)
      if (c.score > least_correlation && (!best || c.score > best->score))
        best = SearchStart{{{c.x - std::floor(place.x), c.y - std::floor(place.y)}, lies - Eigen::Matrix2d::Identity()},
                           c.score};
  }
  return best;
}

}  // namespace fexel
