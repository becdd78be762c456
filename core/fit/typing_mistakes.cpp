#include "fit/typing_mistakes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "fit/coverage.h"

namespace fexel {
namespace {

constexpr double same = 1e-6;          // of a coordinate: one point
constexpr double agrees = 6;           // deviations of a coordinate
constexpr double far_more = 5;         // a mended pair was so many times farther off
constexpr std::size_t all_tried = 16;  // pairs, at most
constexpr int least_freedom = 4;       // of the others: their scatter has to be known
constexpr double units[] = {10, 0.1, 100, 0.01, 1000, 0.001, 25.4, 1 / 25.4, 2.54, 1 / 2.54};

Model straight(Model model) {
  return model > Model::projective ? Model::affine : model;
}

/// The fit of the others, and how near to it a pair has to come to be like them.
struct Others {
  Map map;
  double noise;
  std::shared_ptr<const Coverage> known;
  /// Farther from the fit of the others lies none that is like them.
  double near(Point from) const { return agrees * std::hypot(noise, known->uncertainty(from) / std::sqrt(2.0)); }
};
std::optional<Others> others_of(Model model, std::vector<PointPair> pairs, std::initializer_list<std::size_t> but,
                                bool robust = true) {
  for (const std::size_t i : but) pairs[i].use = false;
  try {
    const Fit fit = fit_pairs(model, pairs, robust);
    if (fit.freedom < least_freedom) return std::nullopt;
    double extent = 0;
    for (const PointPair& pair : pairs) extent = std::max({extent, std::abs(pair.to.x), std::abs(pair.to.y)});
    const double noise = std::max(fit.noise, 1e-9 * extent);
    return Others{fit.map, noise, std::make_shared<const Coverage>(model, pairs, fit, noise)};
  } catch (const Error&) {
    return std::nullopt;
  }
}

double off(const Map& map, Point from, Point to) {
  const auto at = map.forward(from);
  return at ? distance(*at, to) : std::numeric_limits<double>::infinity();
}

/// Whether the map lays pictures mirrored about the middle of the pairs.
std::optional<double> mirrored_turn(const std::vector<PointPair>& pairs) {
  try {
    const Fit fit = fit_pairs(Model::affine, pairs, true);
    if (fit.freedom < 2 || fit.map.matrix().topLeftCorner<2, 2>().determinant() >= 0) return std::nullopt;
    // With y counted upward, how far it turns then.
    const Matrix3 m = scaling(1, -1) * fit.map.matrix();
    return std::atan2(m(1, 0) - m(0, 1), m(0, 0) + m(1, 1));
  } catch (const Error&) {
    return std::nullopt;
  }
}

}  // namespace

std::vector<TypingMistake> typing_mistakes(Model given, const std::vector<PointPair>& pairs) {
  using Kind = TypingMistake::Kind;
  std::vector<TypingMistake> out;
  const Model model = straight(given);
  std::vector<bool> named(pairs.size());
  for (std::size_t i = 0; i < pairs.size(); ++i)
    for (std::size_t k = i + 1; k < pairs.size(); ++k)
      if (pairs[i].counts() && pairs[k].counts() && !named[k] &&
          (distance(pairs[i].from, pairs[k].from) < same || distance(pairs[i].to, pairs[k].to) < same)) {
        out.push_back({Kind::used_twice, static_cast<int>(i), static_cast<int>(k)});
        named[k] = true;
      }
  if (const auto turn = mirrored_turn(pairs)) {
    // Swapping x and y is counting y upward and a quarter turn: the smaller turn is the likelier.
    out.push_back({std::abs(*turn) <= M_PI / 4 ? Kind::y_upward : Kind::all_swapped});
    return out;
  }
  // Pairs that disagree with the others, the worst first; what a mistake explains is left out from then on.
  std::vector<PointPair> work = pairs;
  for (std::size_t i = 0; i < pairs.size(); ++i) work[i].use = work[i].use && !named[i];
  std::vector<std::pair<std::size_t, double>> wrong;
  std::vector<bool> judged(pairs.size(), true);
  constexpr std::size_t each_alone = 40;
  if (pairs.size() > each_alone) {
    // In a long table those alone that its robust fit excludes.
    try {
      const Fit fit = fit_pairs(model, work, true);
      for (std::size_t i = 0; i < pairs.size(); ++i) judged[i] = !(fit.weights[i] > 0);
    } catch (const Error&) {
      return out;
    }
  }
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    if (!pairs[i].counts() || named[i] || !judged[i]) continue;
    if (const auto others = others_of(model, work, {i}))
      if (const double away = off(others->map, pairs[i].from, pairs[i].to);
          away > far_more * others->near(pairs[i].from))
        wrong.emplace_back(i, away);
  }
  std::ranges::sort(wrong, std::ranges::greater{}, &std::pair<std::size_t, double>::second);
  const auto look_for_exchanged = [&](std::size_t i, bool robust) {
    for (std::size_t k = robust ? 0 : i + 1; k < pairs.size() && !named[i]; ++k) {
      if (k == i || named[k] || !pairs[k].counts()) continue;
      const auto others = others_of(model, work, {i, k}, robust);
      if (!others) continue;
      const double near_i = others->near(pairs[i].from), near_k = others->near(pairs[k].from);
      if (off(others->map, pairs[i].from, pairs[k].to) > near_i ||
          off(others->map, pairs[k].from, pairs[i].to) > near_k ||
          off(others->map, pairs[i].from, pairs[i].to) < far_more * near_i ||
          off(others->map, pairs[k].from, pairs[k].to) < far_more * near_k)
        continue;
      out.push_back({Kind::exchanged, static_cast<int>(std::min(i, k)), static_cast<int>(std::max(i, k))});
      named[i] = named[k] = true;
      work[i].use = work[k].use = false;
    }
  };
  for (const auto& [i, away] : wrong) look_for_exchanged(i, true);
  for (const auto& [i, first_away] : wrong) {
    if (named[i]) continue;
    const auto others = others_of(model, work, {i});
    if (!others) continue;
    const PointPair& p = pairs[i];
    const double away = off(others->map, p.from, p.to);
    if (!(away > far_more * others->near(p.from))) continue;
    const int index = static_cast<int>(i);
    std::optional<TypingMistake> best;
    // By how much of what it may be off; what mends it has to make it far better, too.
    double least = 1;
    const auto consider = [&](const TypingMistake& mistake, Point from, Point to) {
      if (const double off_then = off(others->map, from, to), then = off_then / others->near(from);
          then < least && off_then < away / far_more) {
        least = then;
        best = mistake;
      }
    };
    consider({Kind::swapped_to, index}, p.from, {p.to.y, p.to.x});
    consider({Kind::swapped_from, index}, {p.from.y, p.from.x}, p.to);
    for (const double factor : units) consider({Kind::other_unit, index, 0, factor}, p.from, factor * p.to);
    if (!best) continue;
    out.push_back(*best);
    named[i] = true;
    work[i].use = false;
  }
  if (out.empty() && pairs.size() <= all_tried)
    for (std::size_t i = 0; i < pairs.size(); ++i)
      if (pairs[i].counts()) look_for_exchanged(i, false);
  return out;
}

std::vector<PointPair> mended(std::vector<PointPair> pairs, const TypingMistake& mistake,
                              std::optional<double> height) {
  using Kind = TypingMistake::Kind;
  PointPair& pair = pairs[static_cast<std::size_t>(mistake.pair)];
  PointPair& other = pairs[static_cast<std::size_t>(mistake.other)];
  switch (mistake.kind) {
    case Kind::used_twice:
      other.use = false;
      break;
    case Kind::exchanged:
      std::swap(pair.to, other.to);
      break;
    case Kind::swapped_from:
      std::swap(pair.from.x, pair.from.y);
      break;
    case Kind::swapped_to:
      std::swap(pair.to.x, pair.to.y);
      break;
    case Kind::other_unit:
      pair.to = mistake.factor * pair.to;
      break;
    case Kind::all_swapped:
      for (PointPair& p : pairs) std::swap(p.to.x, p.to.y);
      break;
    case Kind::y_upward: {
      double low = std::numeric_limits<double>::infinity(), high = -low;
      for (const PointPair& p : pairs) {
        low = std::min(low, p.to.y);
        high = std::max(high, p.to.y);
      }
      for (PointPair& p : pairs) p.to.y = height.value_or(low + high) - p.to.y;
      break;
    }
  }
  return pairs;
}

std::string sentence_of(const TypingMistake& mistake, const std::vector<std::string>& labels) {
  using Kind = TypingMistake::Kind;
  const std::string& name = labels[static_cast<std::size_t>(mistake.pair)];
  const std::string& other = labels[static_cast<std::size_t>(mistake.other)];
  switch (mistake.kind) {
    case Kind::used_twice:
      return fmt::format("Pairs {} and {} have one and the same point.", name, other);
    case Kind::exchanged:
      return fmt::format("The targets of {} and {} are exchanged.", name, other);
    case Kind::swapped_from:
      return fmt::format("x and y of the first point of {} are swapped.", name);
    case Kind::swapped_to:
      return fmt::format("x and y of the target of {} are swapped.", name);
    case Kind::other_unit:
      return fmt::format("The target of {} is in another unit: {:.4g} times as large it fits.", name, mistake.factor);
    case Kind::all_swapped:
      return "The pairs lay the picture mirrored: x and y of all targets are swapped, unless it is a mirror image.";
    case Kind::y_upward:
      break;
  }
  return "The pairs lay the picture mirrored: the targets count y upward, unless it is a mirror image.";
}

std::string remedy_of(const TypingMistake& mistake) {
  using Kind = TypingMistake::Kind;
  switch (mistake.kind) {
    case Kind::used_twice:
      return "Leave the second one out";
    case Kind::exchanged:
      return "Exchange them back";
    case Kind::swapped_from:
    case Kind::swapped_to:
    case Kind::all_swapped:
      return "Swap x and y";
    case Kind::other_unit:
      return "Convert it";
    case Kind::y_upward:
      break;
  }
  return "Count y downward";
}

}  // namespace fexel
