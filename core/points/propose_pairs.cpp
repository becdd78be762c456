#include "points/propose_pairs.h"

#include <Eigen/Core>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <random>

#include "base/error.h"
#include "fit/fit_quality.h"
#include "image/pyramid.h"
#include "points/features.h"
#include "points/patch_match.h"

namespace fexel {
namespace {

constexpr int searched_side = 1400;  // pixels of the longer side, at most, when features are looked for
constexpr int features_each = 640;   // for each half octave
constexpr int octaves = 3;
constexpr double nearest_share = 0.9;  // of the distance to the next place's descriptor
constexpr std::size_t most_matches = 900;
constexpr int samples = 3000;
constexpr double tolerance_share = 0.006;  // of the second picture's diagonal
constexpr double sure = 1e-8;              // expected number of such consensuses by chance
constexpr double rival = 0.7;              // of the consensus: another that is as good
constexpr int least_pairs = 8;
constexpr double least_held = 0.4;  // of the places that were tried
constexpr double patch_reach = 6;

struct Match {
  Point from, to;
  double scale = 1, turn = 0;  // of the second for the first
  double ratio = 1;            // distance to the nearest descriptor for one to the next
};

Eigen::MatrixXf matrix_of(const std::vector<Feature>& features) {
  Eigen::MatrixXf out(descriptor_bins, static_cast<Eigen::Index>(features.size()));
  for (std::size_t k = 0; k < features.size(); ++k)
    out.col(static_cast<Eigen::Index>(k)) =
        Eigen::Map<const Eigen::VectorXf>(features[k].descriptor.data(), descriptor_bins);
  return out;
}

/// Each feature of the first with the one of the second that is most alike, where the next that lies elsewhere is less.
std::vector<Match> matches_of(const std::vector<Feature>& first, const std::vector<Feature>& second, const Job& job) {
  std::vector<Match> out;
  if (first.empty() || second.empty()) return out;
  const Eigen::MatrixXf a = matrix_of(first), b = matrix_of(second);
  constexpr int at_once = 64;
  const int parts = static_cast<int>((first.size() + at_once - 1) / at_once);
  std::vector<std::vector<Match>> made(static_cast<std::size_t>(parts));
  parallel_for(parts, job, [&](int part) {
    const auto begin = static_cast<Eigen::Index>(part) * at_once;
    const Eigen::Index count = std::min<Eigen::Index>(at_once, a.cols() - begin);
    const Eigen::MatrixXf products = b.transpose() * a.middleCols(begin, count);
    for (Eigen::Index k = 0; k < count; ++k) {
      Eigen::Index best = 0;
      const float most = products.col(k).maxCoeff(&best);
      const Feature &f = first[static_cast<std::size_t>(begin + k)], &g = second[static_cast<std::size_t>(best)];
      float next = -1;
      for (Eigen::Index m = 0; m < products.rows(); ++m)
        if (products(m, k) > next && distance(second[static_cast<std::size_t>(m)].at, g.at) >
                                         5 * std::max(g.scale, second[static_cast<std::size_t>(m)].scale))
          next = products(m, k);
      const double ratio = std::sqrt(std::max(0.0, 2 - 2.0 * static_cast<double>(most)) /
                                     std::max(1e-9, 2 - 2.0 * static_cast<double>(next)));
      if (ratio < nearest_share)
        made[static_cast<std::size_t>(part)].push_back({f.at, g.at, g.scale / f.scale, g.angle - f.angle, ratio});
    }
  });
  for (const auto& part : made) out.insert(out.end(), part.begin(), part.end());
  std::ranges::sort(out, {}, &Match::ratio);
  // One match of a place: a corner is found in several half octaves.
  std::vector<Match> kept;
  for (const Match& m : out) {
    const bool again = std::ranges::any_of(
        kept, [&](const Match& k) { return distance(k.from, m.from) < 3 && distance(k.to, m.to) < 6; });
    if (!again) kept.push_back(m);
    if (kept.size() == most_matches) break;
  }
  return kept;
}

struct Consensus {
  Map map;
  std::vector<std::size_t> members;
};

bool agrees(const Match& m, const Map& map, double tolerance) {
  const auto at = map.forward(m.from);
  if (!at || distance(*at, m.to) > tolerance) return false;
  // Its own scale and turn have to fit, roughly: tilt changes both.
  const auto right = map.forward(m.from + Point{1, 0}), down = map.forward(m.from + Point{0, 1});
  if (!right || !down) return false;
  const Point u = *right - *at, v = *down - *at;
  const double area = u.x * v.y - u.y * v.x;
  if (!(area > 0)) return false;
  const double scale = std::sqrt(area), turn = std::atan2(u.y - v.x, u.x + v.y);
  return std::abs(std::log(scale / m.scale)) < 0.7 && std::abs(std::remainder(turn - m.turn, 2 * M_PI)) < 0.6;
}

std::vector<std::size_t> members_of(const std::vector<Match>& matches, const Map& map, double tolerance) {
  std::vector<std::size_t> out;
  for (std::size_t k = 0; k < matches.size(); ++k)
    if (agrees(matches[k], map, tolerance)) out.push_back(k);
  return out;
}

std::optional<Map> fitted(const std::vector<Match>& matches, const std::vector<std::size_t>& members, Model model) {
  std::vector<PointPair> pairs;
  for (const std::size_t k : members) pairs.push_back({matches[k].from, matches[k].to, {}, true});
  try {
    return fit_pairs(model, pairs, false).map;
  } catch (const Error&) {
    return std::nullopt;
  }
}

/// Whether a map is one that a camera could make: not mirrored, and not squeezed to nothing.
bool possible(const Map& map, Size size) {
  for (const Point p : {Point{0, 0}, Point{double(size.width), 0}, Point{double(size.width), double(size.height)},
                        Point{0, double(size.height)}, size.middle()}) {
    const auto at = map.forward(p), right = map.forward(p + Point{1, 0}), down = map.forward(p + Point{0, 1});
    if (!at || !right || !down) return false;
    const Point u = *right - *at, v = *down - *at;
    const double area = u.x * v.y - u.y * v.x;
    const double squeeze = area / std::max({u.x * u.x + u.y * u.y, v.x * v.x + v.y * v.y, 1e-12});
    if (!(area > 0.01 && area < 100) || !(squeeze > 0.15)) return false;
  }
  return true;
}

/// From a rough map to the projective one of all that agree with it.
Consensus grown(const std::vector<Match>& matches, Map map, double tolerance, Size size) {
  Consensus best;
  double wide = 4;
  for (int round = 0; round < 8; ++round) {
    auto members = members_of(matches, map, wide * tolerance);
    if (wide <= 1 && members.size() > best.members.size()) best = {map, members};
    const Model model = round >= 3 && members.size() >= 12 ? Model::projective : Model::affine;
    if (members.size() < 5) break;
    const auto next = fitted(matches, members, model);
    if (!next || !possible(*next, size)) break;
    map = *next;
    wide = std::max(1.0, wide / 2);
  }
  const auto members = members_of(matches, map, tolerance);
  if (members.size() > best.members.size() && possible(map, size)) best = {map, members};
  return best;
}

/// The logarithm of how many consensuses of this size chance would bring, all in all.
double chance_of(std::size_t members, std::size_t matches, double tolerance, Size size) {
  // A match falls near enough, and has a scale and a turn that fit, with this probability.
  const double p =
      std::min(0.5, M_PI * tolerance * tolerance / (double(size.width) * size.height) * (1.2 / (2 * M_PI)) * 0.5);
  const auto n = static_cast<double>(matches), k = static_cast<double>(members);
  if (members < 5) return 0;
  // Binomial tail by its first term; four matches determine the transform.
  const double tail = std::lgamma(n - 3) - std::lgamma(k - 3) - std::lgamma(n - k + 1) + (k - 4) * std::log(p);
  const double tests = std::log(n) + std::lgamma(n + 1) - std::lgamma(5) - std::lgamma(n - 3);
  return tests + tail;
}

/// The best of rough maps: those that most agree with are grown.
class Contest {
 public:
  Contest(const std::vector<Match>& matches, double tolerance, Size size)
      : matches_(matches), tolerance_(tolerance), size_(size) {}
  void enter(const Map& map) {
    const std::size_t count = members_of(matches_, map, 3 * tolerance_).size();
    if (count >= 5) entered_.emplace_back(count, map);
  }
  Consensus won() {
    constexpr std::size_t grown_at_most = 12;
    std::ranges::sort(entered_, std::ranges::greater{}, &std::pair<std::size_t, Map>::first);
    if (entered_.size() > grown_at_most) entered_.resize(grown_at_most);
    Consensus best;
    for (const auto& [count, map] : entered_)
      if (Consensus one = grown(matches_, map, tolerance_, size_); one.members.size() > best.members.size())
        best = std::move(one);
    entered_.clear();
    return best;
  }

 private:
  const std::vector<Match>& matches_;
  double tolerance_;
  Size size_;
  std::vector<std::pair<std::size_t, Map>> entered_;
};

/// `to_size` is that of the second picture.
Consensus consensus_of(const std::vector<Match>& matches, double tolerance, Size size, Size to_size, const Job& job) {
  if (matches.size() < 5) return {};
  Contest contest(matches, tolerance, size);
  // Each match alone, by its own scale and turn; then, unless that is clear already, three at a time.
  for (const Match& m : matches) {
    job.check();
    Matrix3 alone;
    alone << m.scale * std::cos(m.turn), -m.scale * std::sin(m.turn), 0, m.scale * std::sin(m.turn),
        m.scale * std::cos(m.turn), 0, 0, 0, 1;
    contest.enter(Map(translation(m.to.x, m.to.y) * alone * translation(-m.from.x, -m.from.y)));
  }
  Consensus best = contest.won();
  constexpr std::size_t clear = 30;
  if (best.members.size() >= clear &&
      chance_of(best.members.size(), matches.size(), tolerance, to_size) < 4 * std::log(sure))
    return best;
  std::mt19937 random(1981);
  for (int k = 0; k < samples; ++k) {
    if (k % 100 == 0) job.check();
    // The best matches more often than the others.
    const std::size_t among = std::clamp<std::size_t>(static_cast<std::size_t>(k) / 10 + 12, 4, matches.size());
    std::vector<std::size_t> three;
    for (int i = 0; i < 3; ++i) three.push_back(random() % among);
    if (three[0] == three[1] || three[1] == three[2] || three[0] == three[2]) continue;
    if (const auto map = fitted(matches, three, Model::affine); map && possible(*map, size)) contest.enter(*map);
  }
  Consensus sampled = contest.won();
  return sampled.members.size() > best.members.size() ? sampled : best;
}

struct Rough {
  Map map;  // from the first picture to the second
  double tolerance = 1;
};

[[noreturn]] void nothing_in_common() {
  throw input_error("Nothing that both pictures show was found.", {},
                    "Place four pairs by hand; the others are then predicted and can be refined.");
}

Rough rough_map(const Image& first, const Image& second, double shrink_first, double shrink_second, bool unlike,
                const Job& job) {
  const auto a = features_of(first, features_each, octaves, unlike, job.part(0, 0.3)),
             b = features_of(second, features_each, octaves, unlike, job.part(0.3, 0.6));
  auto matches = matches_of(a, b, job.part(0.6, 0.9));
  const Size size{second.width(), second.height()}, from_size{first.width(), first.height()};
  const double tolerance = std::max(2.0, tolerance_share * std::hypot(size.width, size.height));
  const Consensus best = consensus_of(matches, tolerance, from_size, size, job);
  if (best.members.size() < least_pairs ||
      chance_of(best.members.size(), matches.size(), tolerance, size) > std::log(sure))
    nothing_in_common();
  // What agrees with another transform as well is not known.
  std::vector<Match> rest;
  for (std::size_t k = 0; k < matches.size(); ++k)
    if (!std::ranges::binary_search(best.members, k)) rest.push_back(matches[k]);
  const Consensus other = consensus_of(rest, tolerance, from_size, size, job);
  if (static_cast<double>(other.members.size()) > rival * static_cast<double>(best.members.size()))
    throw input_error("Two transforms lay the pictures on each other as well as each other: the pattern repeats.", {},
                      "Place four pairs by hand; the others are then predicted and can be refined.");
  return {Map(scaling(shrink_second, shrink_second))
              .after(best.map)
              .after(Map(scaling(1 / shrink_first, 1 / shrink_first))),
          tolerance * shrink_second};
}

Eigen::Matrix2d local_of(const Map& map, Point p) {
  const auto left = map.forward(p - Point{0.5, 0}), right = map.forward(p + Point{0.5, 0}),
             up = map.forward(p - Point{0, 0.5}), down = map.forward(p + Point{0, 0.5});
  Eigen::Matrix2d out = Eigen::Matrix2d::Identity();
  if (left && right && up && down) out << right->x - left->x, down->x - up->x, right->y - left->y, down->y - up->y;
  return out;
}

/// Patches spread over the first picture, matched where the map expects them.
std::vector<ProposedPair> patches(const Image& first, const Image& second, const Map& map, int cells, double reach,
                                  PatchMetric metric, int& tried, const Job& job) {
  std::vector<Point> places;
  for (const Point p : spread_corners(first, cells, 2, 20)) {
    const auto at = map.forward(p);
    if (at && at->x > 20 && at->y > 20 && at->x < second.width() - 20 && at->y < second.height() - 20)
      places.push_back(p);
  }
  tried = static_cast<int>(places.size());
  std::vector<std::optional<ProposedPair>> found(places.size());
  parallel_for(tried, job, [&](int k) {
    const Point from = places[static_cast<std::size_t>(k)];
    const Eigen::Matrix2d local = local_of(map, from);
    try {
      const PatchMatch m = matched_patch(first, second, from, *map.forward(from), local, {12, reach, metric});
      found[static_cast<std::size_t>(k)] = ProposedPair{{from, m.to, {}, true}, m.sigma, m.score};
      found[static_cast<std::size_t>(k)]->pair.uncertainty = stated_uncertainty(m.sigma);
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
    }
  });
  std::vector<ProposedPair> out;
  for (const auto& one : found)
    if (one) out.push_back(*one);
  return out;
}

}  // namespace

Proposal propose_pairs(const Image& first, const Image& second, int most, const Job& job) {
  const auto small = [&](const Image& plane, double& shrink) {
    auto held = std::make_unique<Image>(plane.clone());
    shrink = 1;
    while (std::max(held->width(), held->height()) > searched_side) {
      held = std::make_unique<Image>(halved(*held, job));
      shrink *= 2;
    }
    return held;
  };
  double shrink_first = 1, shrink_second = 1;
  const auto a = small(first, shrink_first), b = small(second, shrink_second);
  Proposal out;
  std::optional<Rough> rough;
  try {
    rough = rough_map(*a, *b, shrink_first, shrink_second, false, job.part(0, 0.35));
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    out.unlike = true;
    rough = rough_map(*a, *b, shrink_first, shrink_second, true, job.part(0.35, 0.7));
  }
  const PatchMetric metric = out.unlike ? PatchMetric::edges : PatchMetric::automatic;
  const int cells = std::clamp(static_cast<int>(std::ceil(std::sqrt(double(most)))) + 2, 6, 40);
  // A few, from afar, as the features are coarser than the pictures; then all about what these came to.
  Map map = rough->map;
  std::vector<ProposedPair> found;
  for (int round = 0; round < 2; ++round) {
    const double scale = std::sqrt(std::abs(local_of(map, {first.width() / 2.0, first.height() / 2.0}).determinant()));
    const double coarse = std::max(1.0, scale);
    const double reach = round == 0 ? std::clamp(1.5 * rough->tolerance / coarse, patch_reach, 24.0) : patch_reach / 2;
    found = patches(first, second, map, round == 0 ? 6 : cells, reach, metric, out.tried,
                    round == 0 ? job.part(0.7, 0.8) : job.part(0.8, 1));
    std::vector<PointPair> pairs;
    for (const ProposedPair& p : found) pairs.push_back(p.pair);
    if (pairs.size() < least_pairs) nothing_in_common();
    Fit fit;
    try {
      fit = fit_pairs(Model::projective, pairs, true);
    } catch (const Error&) {
      nothing_in_common();
    }
    std::vector<ProposedPair> kept;
    double squares = 0;
    for (std::size_t k = 0; k < found.size(); ++k)
      if (fit.weights[k] > 0) {
        kept.push_back(found[k]);
        squares += std::pow(std::hypot(fit.residuals[k].x, fit.residuals[k].y), 2);
      }
    if (!possible(fit.map, {first.width(), first.height()})) nothing_in_common();
    found = std::move(kept);
    map = fit.map;
    out.rms = std::sqrt(squares / static_cast<double>(found.size()));
  }
  if (found.size() < least_pairs || static_cast<double>(found.size()) < least_held * out.tried) nothing_in_common();
  // The best spread: by turns the one that is farthest from all that are taken, of those that are well known.
  std::ranges::sort(found, {}, &ProposedPair::sigma);
  std::vector<ProposedPair> taken{found.front()};
  std::vector<double> away(found.size(), 1e300);
  while (taken.size() < std::min(found.size(), static_cast<std::size_t>(std::max(most, 4)))) {
    std::size_t next = 0;
    for (std::size_t k = 0; k < found.size(); ++k) {
      away[k] = std::min(away[k], distance(found[k].pair.from, taken.back().pair.from));
      if (away[k] > away[next]) next = k;
    }
    taken.push_back(found[next]);
  }
  for (std::size_t k = 0; k < taken.size(); ++k) taken[k].pair.name = std::to_string(k + 1);
  out.pairs = std::move(taken);
  out.map = map;
  return out;
}

}  // namespace fexel
