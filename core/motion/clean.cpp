#include "motion/clean.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "geometry/polygon.h"

namespace fexel {
namespace {

constexpr double noise_floor = 0.1;  // px, of the median test

template <class Body>
void neighbours(const MotionGrid& grid, std::size_t i, int reach, const Body& body) {
  const int c = static_cast<int>(i) % grid.columns, r = static_cast<int>(i) / grid.columns;
  for (int y = std::max(0, r - reach); y <= std::min(grid.rows - 1, r + reach); ++y)
    for (int x = std::max(0, c - reach); x <= std::min(grid.columns - 1, c + reach); ++x)
      if (x != c || y != r) body(static_cast<std::size_t>(y * grid.columns + x));
}

/// How far a point is from the median of its neighbours, in units of how far they are themselves; nothing with fewer
/// than three.
std::optional<double> median_test(const MotionField& field, std::size_t i) {
  std::vector<double> x, y;
  neighbours(field.grid, i, 1, [&](std::size_t k) {
    if (field.grid.used[k] == 0 || !field.points[k].has_place()) return;
    // As its own gradient carries it here: a slope is no difference, at the rim neither.
    const MotionPoint& q = field.points[k];
    const Point d = field.grid.at(i) - field.grid.at(k);
    x.push_back(q.moved.x + q.gradient(0, 0) * d.x + q.gradient(0, 1) * d.y);
    y.push_back(q.moved.y + q.gradient(1, 0) * d.x + q.gradient(1, 1) * d.y);
  });
  if (x.size() < 3) return std::nullopt;
  const auto off = [](std::vector<double> values, double own) {
    const double middle = median(values);
    for (double& v : values) v = std::abs(v - middle);
    return std::abs(own - middle) / (median(values) + noise_floor);
  };
  return std::hypot(off(x, field.points[i].moved.x), off(y, field.points[i].moved.y));
}

struct Spread {
  Point mean, deviation;
};
Spread spread_of(const MotionField& field) {
  Spread out;
  double n = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (field.grid.used[i] != 0 && field.points[i].has_place()) {
      out.mean = out.mean + field.points[i].moved;
      ++n;
    }
  if (n > 0) out.mean = 1 / n * out.mean;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (field.grid.used[i] != 0 && field.points[i].has_place()) {
      const Point d = field.points[i].moved - out.mean;
      out.deviation = out.deviation + Point{d.x * d.x, d.y * d.y};
    }
  out.deviation = {std::sqrt(out.deviation.x / std::max(1.0, n - 1)),
                   std::sqrt(out.deviation.y / std::max(1.0, n - 1))};
  return out;
}

MotionReason reason_of(CleanRule::Kind kind) {
  constexpr MotionReason reasons[] = {MotionReason::flat,      MotionReason::glare,      MotionReason::correlation,
                                      MotionReason::uncertain, MotionReason::back,       MotionReason::limits,
                                      MotionReason::deviation, MotionReason::neighbours, MotionReason::peaks};
  return reasons[static_cast<std::size_t>(kind)];
}

/// Whether a rule takes a point out.
bool takes(const CleanRule& rule, const MotionField& field, std::size_t i, const Spread& spread) {
  const MotionPoint& p = field.points[i];
  switch (rule.kind) {
    case CleanRule::Kind::texture:
      return p.predicted > rule.limit;
    case CleanRule::Kind::glare:
      return p.glare > rule.limit;
    case CleanRule::Kind::correlation:
      return p.score < rule.limit;
    case CleanRule::Kind::noise:
      return std::max(p.sigma.x, p.sigma.y) > rule.limit;
    case CleanRule::Kind::back:
      return p.back && *p.back > rule.limit;
    case CleanRule::Kind::peaks:
      return p.peaks > 0 && p.peaks < rule.limit;
    case CleanRule::Kind::limits:
      return rule.outline.size() > 2 && !inside_polygon(rule.outline, p.moved);
    case CleanRule::Kind::deviation:
      return std::abs(p.moved.x - spread.mean.x) > rule.limit * spread.deviation.x ||
             std::abs(p.moved.y - spread.mean.y) > rule.limit * spread.deviation.y;
    case CleanRule::Kind::neighbours: {
      const auto off = median_test(field, i);
      return off && *off > rule.limit;
    }
  }
  return false;
}

}  // namespace

const std::vector<std::string>& clean_words() {
  static const std::vector<std::string> words{"texture", "glare",     "correlation", "noise",     "back",
                                              "limits",  "deviation", "neighbours",  "peak-ratio"};
  return words;
}
const char* name_of(CleanRule::Kind kind) {
  return clean_words()[static_cast<std::size_t>(kind)].c_str();
}

Point mean_of(const MotionField& field) {
  Point sum;
  double n = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (field.grid.used[i] != 0 && field.points[i].good()) {
      sum = sum + field.points[i].moved;
      ++n;
    }
  return n > 0 ? 1 / n * sum : Point{};
}

MotionField cleaned(const MotionField& field, const std::vector<CleanRule>& rules, std::vector<CleanEffect>* effects) {
  MotionField out = field;
  if (effects) effects->clear();
  for (const CleanRule& rule : rules) {
    const Point before = mean_of(out);
    const Spread spread = rule.kind == CleanRule::Kind::deviation ? spread_of(out) : Spread{};
    std::vector<std::size_t> taken;  // all are judged by the same field
    for (std::size_t i = 0; i < out.points.size(); ++i)
      if (out.grid.used[i] != 0 && out.points[i].has_place() && takes(rule, out, i, spread)) taken.push_back(i);
    for (const std::size_t i : taken) {
      out.points[i].status = MotionStatus::rejected;
      out.points[i].reason = reason_of(rule.kind);
    }
    if (effects) effects->push_back({static_cast<int>(taken.size()), mean_of(out) - before});
  }
  return out;
}

CleanRule proposed_rule(const MotionField& field, CleanRule::Kind kind) {
  CleanRule out{kind, 0, {}};
  std::vector<double> values;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    if (field.grid.used[i] == 0 || !field.points[i].has_place()) continue;
    const MotionPoint& p = field.points[i];
    switch (kind) {
      case CleanRule::Kind::texture:
        values.push_back(p.predicted);
        break;
      case CleanRule::Kind::correlation:
        values.push_back(1 - p.score);
        break;
      case CleanRule::Kind::noise:
        values.push_back(std::max(p.sigma.x, p.sigma.y));
        break;
      case CleanRule::Kind::back:
        if (p.back) values.push_back(*p.back);
        break;
      default:
        break;
    }
  }
  if (kind == CleanRule::Kind::glare) out.limit = 0.05;
  if (kind == CleanRule::Kind::deviation) out.limit = 4;
  if (kind == CleanRule::Kind::neighbours) out.limit = 2;
  if (kind == CleanRule::Kind::peaks) out.limit = 1.3;
  if (kind == CleanRule::Kind::limits) {
    // A rectangle around all but the few farthest, with room.
    std::vector<double> x, y;
    for (std::size_t i = 0; i < field.points.size(); ++i)
      if (field.grid.used[i] != 0 && field.points[i].has_place()) {
        x.push_back(field.points[i].moved.x);
        y.push_back(field.points[i].moved.y);
      }
    if (!x.empty()) {
      const auto range = [](std::vector<double>& v) {
        const double low = quantile(v, 0.005), high = quantile(v, 0.995), room = 0.1 * (high - low) + 0.2;
        return std::pair(low - room, high + room);
      };
      const auto [left, right] = range(x);
      const auto [top, bottom] = range(y);
      out.outline = {{left, top}, {right, top}, {right, bottom}, {left, bottom}};
    }
  }
  if (!values.empty()) {
    // Five times what is usual.
    out.limit = 5 * median(values);
    if (kind == CleanRule::Kind::correlation) out.limit = std::max(0.0, 1 - out.limit);
  }
  return out;
}

MotionField with_holes_filled(MotionField field) {
  constexpr int reach = 2, least = 5;
  for (;;) {
    std::vector<std::pair<std::size_t, MotionPoint>> made;
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      const MotionPoint& p = field.points[i];
      if (field.grid.used[i] == 0 || p.status != MotionStatus::rejected) continue;
      Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
      Eigen::Matrix<double, 3, 2> right = Eigen::Matrix<double, 3, 2>::Zero();
      int count = 0;
      Point sigma;
      neighbours(field.grid, i, reach, [&](std::size_t k) {
        const MotionPoint& q = field.points[k];
        if (field.grid.used[k] == 0 || !q.has_place()) return;
        const Point d = field.grid.at(k) - field.grid.at(i);
        const Eigen::Vector3d row(1, d.x, d.y);
        normal += row * row.transpose();
        right += row * Eigen::RowVector2d(q.moved.x, q.moved.y);
        sigma = {std::max(sigma.x, q.sigma.x), std::max(sigma.y, q.sigma.y)};
        ++count;
      });
      const Eigen::Matrix3d inverse = normal.inverse();
      if (count < least || !inverse.allFinite() || !(normal.determinant() > 1e-9 * std::pow(normal.trace(), 3)))
        continue;
      const Eigen::Matrix<double, 3, 2> plane = inverse * right;
      MotionPoint next;
      next.moved = {plane(0, 0), plane(0, 1)};
      next.gradient << plane(1, 0), plane(2, 0), plane(1, 1), plane(2, 1);
      next.sigma = sigma;
      next.status = MotionStatus::filled;
      next.reason = p.reason;
      made.emplace_back(i, next);
    }
    if (made.empty()) return field;
    for (const auto& [i, point] : made) field.points[i] = point;
  }
}

}  // namespace fexel
