#include "motion/windows.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"
#include "motion/clean.h"
#include "motion/deformed.h"
#include "motion/window_correlation.h"

namespace fexel {
namespace {

constexpr int least_window = 8, largest_window = 512, most_passes = 20;
constexpr double no_peak = 5, low_peak = 6, way_peak = 3.5;  // standard deviations of the plane beside the peak
constexpr double least_ratio = 1.15, sure_ratio = 1.3;       // of the two highest peaks
constexpr double far_apart = 4, too_apart = 2;               // of the median test
constexpr double weak_sigma = 0.3, lost_sigma = 1;           // px

/// What is known of one window in a pass.
struct Window {
  WindowPlane sum;
  WindowFit fit;
  bool there = false;
  double share = 0;
};

struct Pass {
  int size = 0;
  MotionGrid grid;
  bool deform = false, last = false;
};

/// Where windows of a pass are, about the places that are wanted.
MotionGrid lattice(const MotionGrid& wanted, int step) {
  MotionGrid out = wanted;
  out.step_x = out.step_y = step;
  const auto lines = [&](int count, int own) {
    return static_cast<int>(std::ceil(static_cast<double>((count - 1) * own) / step)) + 1;
  };
  out.columns = lines(wanted.columns, wanted.step_x);
  out.rows = lines(wanted.rows, wanted.step_y);
  out.used.assign(out.count(), 1);
  return out;
}

std::vector<Pass> passes_of(const MotionGrid& grid, const WindowSettings& settings) {
  std::vector<Pass> out;
  for (std::size_t k = 0; k < settings.sizes.size(); ++k) {
    const int size = settings.sizes[k];
    const bool last = k + 1 == settings.sizes.size();
    out.push_back({size, last ? grid : lattice(grid, size / 2), k > 0 && settings.passes > 0, false});
  }
  // The first pass at the last size is deformed already, if there was one before.
  const int more = settings.sizes.size() > 1 ? settings.passes - 1 : settings.passes;
  for (int k = 0; k < more; ++k) out.push_back({settings.last(), grid, true, false});
  out.back().last = true;
  return out;
}

/// Gives each point the slope of its surroundings: medians of the differences from point to point within two steps,
/// which wrong ones among them do not move. At a rim neighbours are compared by it.
void set_slopes(MotionField& field) {
  constexpr int reach = 2;
  const MotionGrid& grid = field.grid;
  const MotionField from = field;
  const auto there = [&](int c, int r) {
    const auto i = static_cast<std::size_t>(r * grid.columns + c);
    return grid.used[i] != 0 && from.points[i].has_place();
  };
  const auto moved = [&](int c, int r) { return from.points[static_cast<std::size_t>(r * grid.columns + c)].moved; };
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    if (grid.used[i] == 0 || !field.points[i].has_place()) continue;
    const int column = static_cast<int>(i) % grid.columns, row = static_cast<int>(i) / grid.columns;
    for (int axis = 0; axis < 2; ++axis) {
      std::vector<double> x, y;
      const int dc = axis == 0 ? 1 : 0, dr = 1 - dc;
      for (int r = std::max(0, row - reach); r <= std::min(grid.rows - 1, row + reach) - dr; ++r)
        for (int c = std::max(0, column - reach); c <= std::min(grid.columns - 1, column + reach) - dc; ++c) {
          if (!there(c, r) || !there(c + dc, r + dr)) continue;
          const Point d = moved(c + dc, r + dr) - moved(c, r);
          x.push_back(d.x);
          y.push_back(d.y);
        }
      const double step = axis == 0 ? grid.step_x : grid.step_y;
      field.points[i].gradient(0, axis) = x.empty() ? 0 : median(x) / step;
      field.points[i].gradient(1, axis) = y.empty() ? 0 : median(y) / step;
    }
  }
}

/// Displacements that the next pass begins with: without what is unlike its neighbours, without holes, a little
/// smoother, so that passes do not build up waves.
std::vector<Point> predicted(const MotionField& found) {
  // Twice, since one wrong point hides another.
  const CleanRule rule{CleanRule::Kind::neighbours, too_apart, {}};
  MotionField field = found;
  set_slopes(field);
  field = cleaned(field, {rule, rule});
  Point usual;
  std::vector<double> x, y;
  for (MotionPoint& p : field.points) {
    p.gradient.setZero();
    if (!p.has_place()) {
      p.status = MotionStatus::rejected;
      continue;
    }
    x.push_back(p.moved.x);
    y.push_back(p.moved.y);
  }
  field.grid.used.assign(field.grid.count(), 1);
  if (!x.empty()) usual = {median(x), median(y)};
  field = with_holes_filled(std::move(field));
  const MotionGrid& grid = field.grid;
  std::vector<Point> plain(grid.count());
  for (std::size_t i = 0; i < plain.size(); ++i) plain[i] = field.points[i].has_place() ? field.points[i].moved : usual;
  // Along one axis and then the other; ends stay, so that slopes go on to the rim.
  std::vector<Point> out = plain;
  const auto along = [&](int count, int lines, int stride, int across) {
    const std::vector<Point> from = out;
    for (int l = 0; l < lines; ++l)
      for (int k = 1; k + 1 < count; ++k) {
        const auto i = static_cast<std::size_t>(k * stride + l * across);
        const auto s = static_cast<std::size_t>(stride);
        out[i] = 0.25 * (from[i - s] + from[i + s]) + 0.5 * from[i];
      }
  };
  for (int round = 0; round < 2; ++round) {
    along(grid.columns, grid.rows, 1, grid.columns);
    along(grid.rows, grid.columns, grid.columns, 1);
  }
  return out;
}

/// By how much the passes at the last size add to the noise of one: each begins with the last one's displacements,
/// smoothed as predicted() does, of which its windows take off what they see on average. Over the waves that noise has
/// when windows overlap.
double noise_gain(const MotionGrid& grid, int size, int passes) {
  if (passes < 2) return 1;
  constexpr int waves = 32;
  std::vector<double> seen[2], kept, power[2];
  for (const int axis : {0, 1}) {
    const double step = static_cast<double>(axis == 0 ? grid.step_x : grid.step_y) / size;
    const int reach = static_cast<int>(std::ceil(1 / step)) + 1;
    for (int k = 0; k < waves; ++k) {
      const double turn = 3.14159265358979323846 * (k + 0.5) / waves;
      double mean = 0, all = 0;
      constexpr int parts = 200;
      for (int q = 0; q < parts; ++q) {
        // Linear between points, over the window.
        const double at = ((q + 0.5) / parts - 0.5) / step, before = std::floor(at), part = at - before;
        mean += ((1 - part) * std::cos(turn * before) + part * std::cos(turn * (before + 1))) / parts;
      }
      for (int m = -reach; m <= reach; ++m) all += std::max(0.0, 1 - std::abs(m) * step) * std::cos(turn * m);
      seen[axis].push_back(mean);
      power[axis].push_back(std::max(0.0, all));
      if (axis == 0) kept.push_back(std::pow(0.5 + 0.5 * std::cos(turn), 2));
    }
  }
  double sum = 0, weight = 0;
  for (std::size_t y = 0; y < waves; ++y)
    for (std::size_t x = 0; x < waves; ++x) {
      const double again = kept[x] * kept[y] * (1 - seen[0][x] * seen[1][y]);
      double gain = 0;
      for (int p = 0; p < passes; ++p) gain = 1 + again * gain;
      sum += power[0][x] * power[1][y] * gain * gain;
      weight += power[0][x] * power[1][y];
    }
  return std::sqrt(sum / weight);
}

double longest(Point p) {
  return std::max(std::abs(p.x), std::abs(p.y));
}

class Windows {
 public:
  Windows(const MotionGrid& grid, const WindowSettings& settings)
      : settings_(settings),
        passes_(passes_of(grid, settings)),
        gain_(noise_gain(grid, settings.last(), settings.passes)) {}

  int passes() const { return static_cast<int>(passes_.size()); }

  void begin(int pass) {
    pass_ = &passes_[static_cast<std::size_t>(pass)];
    start_.assign(pass_->grid.count(), {});
    if (motion_)
      for (std::size_t i = 0; i < start_.size(); ++i) {
        start_[i] = motion_->at(pass_->grid.at(i));
        if (!pass_->deform) start_[i] = {std::round(start_[i].x), std::round(start_[i].y)};
      }
    windows_.assign(pass_->grid.count(), {});
    found_.assign(pass_->grid.count(), {});
    glare_.assign(pass_->grid.count(), 0);
  }

  /// A pair; planes are kept only where more pairs come.
  void add(const MotionFrame& a, const MotionFrame& b, bool more, const Job& job) {
    const bool deform = pass_->deform && motion_;
    const Image first = deform ? deformed(a, *motion_, -0.5, job.part(0, 0.2)) : counted_plane(a);
    const Image second = deform ? deformed(b, *motion_, 0.5, job.part(0.2, 0.4)) : counted_plane(b);
    const MotionGrid& grid = pass_->grid;
    parallel_for(grid.rows, job.part(0.4, 1), [&](int r) {
      WindowCorrelator correlator(pass_->size, plans_);
      WindowFitter fitter(pass_->size);
      WindowPlane plane;
      for (int c = 0; c < grid.columns; ++c) {
        const auto i = static_cast<std::size_t>(r * grid.columns + c);
        if (grid.used[i] == 0) continue;
        const Corners at = corners(i, deform);
        Window& w = windows_[i];
        // A place that is masked in this pair has nothing of it, however much of its window is free.
        if (pass_->last && !counts(i, a, b)) continue;
        const bool there = correlate(correlator, first, second, at, plane);
        w.share = std::max(w.share, plane.share);
        if (pass_->last) look_at(i, a, b);
        if (!there) continue;
        if (more || w.there)
          sum(w, plane);
        else
          found_[i] = peak_of(plane);
        w.there = true;
        if (pass_->last || deform) {
          if (deform) {
            w.fit.add(
                fitter.fit(first, at.ax, at.ay, second, at.bx, at.by, more ? std::optional(Point{}) : std::nullopt));
          } else {
            // Laid on each other to whole pixels; the part of a pixel that is left is no doubt of what was found.
            const Point shift = found_[i].shift;
            const int dx = static_cast<int>(std::lround(shift.x)), dy = static_cast<int>(std::lround(shift.y));
            w.fit.add(
                fitter.fit(first, at.ax, at.ay, second, at.bx + dx, at.by + dy, Point{shift.x - dx, shift.y - dy}));
          }
        }
      }
    });
    job.check();
  }

  /// Ends a pass: the field as it was found.
  MotionField end() {
    const MotionGrid& grid = pass_->grid;
    MotionField out;
    out.grid = grid;
    out.points.resize(grid.count());
    for (std::size_t i = 0; i < grid.count(); ++i) {
      if (grid.used[i] == 0) continue;
      if (!windows_[i].sum.values.empty()) found_[i] = peak_of(windows_[i].sum);
      out.points[i] = judged(i);
      windows_[i].sum = {};
    }
    by_neighbours(out);
    std::vector<double> misfits;
    for (const MotionPoint& p : out.points)
      if (p.has_place()) misfits.push_back(p.misfit);
    if (!misfits.empty()) out.typical_misfit = median(misfits);
    if (!pass_->last) motion_.emplace(grid, predicted(out));
    return out;
  }

 private:
  struct Corners {
    int ax, ay, bx, by;
  };
  /// The first pixels of a window in both frames.
  Corners corners(std::size_t i, bool deform) const {
    const Point place = pass_->grid.at(i);
    const int half = pass_->size / 2;
    Corners out{static_cast<int>(std::lround(place.x)) - half, static_cast<int>(std::lround(place.y)) - half, 0, 0};
    out.bx = out.ax;
    out.by = out.ay;
    if (deform) return out;
    const int dx = static_cast<int>(start_[i].x), dy = static_cast<int>(start_[i].y);
    const int back_x = static_cast<int>(std::floor(dx / 2.0)), back_y = static_cast<int>(std::floor(dy / 2.0));
    return {out.ax - back_x, out.ay - back_y, out.bx - back_x + dx, out.by - back_y + dy};
  }

  bool correlate(WindowCorrelator& correlator, const Image& a, const Image& b, const Corners& at,
                 WindowPlane& out) const {
    if (!correlator.correlate(a, at.ax, at.ay, b, at.bx, at.by, out)) return false;
    if (!settings_.robust) return true;
    std::vector<WindowPlane> planes{out};
    const int by = std::max(1, pass_->size / 4);
    for (const auto& [x, y] : {std::pair(by, 0), std::pair(-by, 0), std::pair(0, by), std::pair(0, -by)}) {
      WindowPlane beside;
      if (correlator.correlate(a, at.ax + x, at.ay + y, b, at.bx + x, at.by + y, beside))
        planes.push_back(std::move(beside));
    }
    const double share = out.share, over_noise = peak_of(out).over_noise;
    out = mean_of_products(planes);
    out.share = share;
    out.over_noise = over_noise;
    return true;
  }

  static void sum(Window& w, const WindowPlane& plane) {
    if (w.sum.values.empty()) w.sum.values.assign(plane.values.size(), 0);
    for (std::size_t k = 0; k < plane.values.size(); ++k) w.sum.values[k] += plane.values[k];
    w.sum.norm += plane.norm;
  }

  WindowPeak peak_of(const WindowPlane& plane) const {
    // Once something is known, what is far from it is another one's peak.
    const int half = pass_->size / 2;
    WindowPeak out = highest_peak(plane, pass_->size, motion_ ? std::max(3, half / 2) : half - 1);
    out.over_noise = std::min(out.over_noise, plane.over_noise);
    return out;
  }

  void look_at(std::size_t i, const MotionFrame& a, const MotionFrame& b) {
    const Point place = pass_->grid.at(i);
    glare_[i] = std::max({glare_[i], a.glare(place, pass_->size), b.glare(place, pass_->size)});
  }
  /// Whether the middle of a window counts in both frames.
  bool counts(std::size_t i, const MotionFrame& a, const MotionFrame& b) const {
    const Point place = pass_->grid.at(i);
    const int x = static_cast<int>(std::floor(place.x)), y = static_cast<int>(std::floor(place.y));
    return a.counts(x, y) && b.counts(x, y);
  }

  MotionPoint judged(std::size_t i) const {
    MotionPoint p;
    const Window& w = windows_[i];
    const WindowPeak& peak = found_[i];
    if (w.share < 0.5) {
      p.status = MotionStatus::masked;
      p.reason = MotionReason::masked;
      return p;
    }
    if (!w.there) {
      p.reason = MotionReason::flat;
      return p;
    }
    p.score = std::clamp(peak.height, 0.0, 1.0);
    p.peaks = peak.ratio;
    if (!peak.found) {
      p.reason = MotionReason::unlike;
      return p;
    }
    p.moved = start_[i] + peak.shift;
    // On frames that are deformed nearly all is known: what is left is found best by least squares.
    if (pass_->deform && motion_ && longest(peak.shift) < 1)
      if (const auto left = w.fit.shift(); left && longest(*left) < 1) p.moved = start_[i] + *left;
    p.status = MotionStatus::ok;
    p.reason = MotionReason::none;
    const auto say = [&](MotionStatus status, MotionReason reason) {
      if (p.status == MotionStatus::rejected) return;
      p.status = status;
      p.reason = reason;
    };
    if (peak.over_noise < low_peak) say(MotionStatus::weak, MotionReason::unlike);
    if (peak.ratio < sure_ratio) say(MotionStatus::weak, MotionReason::peaks);
    // On the way a peak may be low, as where the flow differs within a window: neighbours judge, and the next pass.
    if (!pass_->last && peak.over_noise >= way_peak) return p;
    if (peak.over_noise < no_peak) say(MotionStatus::rejected, MotionReason::unlike);
    if (peak.ratio < least_ratio) say(MotionStatus::rejected, MotionReason::peaks);
    if (!pass_->last) return p;
    p.glare = glare_[i];
    p.sigma = gain_ * w.fit.sigma();
    const double held = std::min(w.fit.xx, w.fit.yy);
    p.misfit = w.fit.count > 0 ? std::sqrt(w.fit.difference / w.fit.count) : 0;
    p.predicted = held > 0 ? std::min(1e3, p.misfit / std::sqrt(held)) : 1e3;
    const double worst = std::max(p.sigma.x, p.sigma.y);
    if (!(worst <= weak_sigma)) say(MotionStatus::weak, MotionReason::uncertain);
    if (!(worst <= lost_sigma)) say(MotionStatus::rejected, MotionReason::uncertain);
    if (!std::isfinite(worst)) p.sigma = {lost_sigma, lost_sigma};
    return p;
  }

  /// What does not go with its neighbours is not sure, however high its peak is.
  void by_neighbours(MotionField& field) const {
    if (!pass_->last) return;
    set_slopes(field);
    const auto taken = [&](double limit) {
      const CleanRule rule{CleanRule::Kind::neighbours, limit, {}};
      return cleaned(field, {rule, rule});
    };
    const MotionField some = taken(too_apart), many = taken(far_apart);
    const MotionGrid& grid = field.grid;
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      MotionPoint& p = field.points[i];
      if (!p.has_place()) continue;
      // With fewer than three neighbours there is nothing to compare with.
      int around = 0;
      const int c = static_cast<int>(i) % grid.columns, r = static_cast<int>(i) / grid.columns;
      for (int y = std::max(0, r - 1); y <= std::min(grid.rows - 1, r + 1); ++y)
        for (int x = std::max(0, c - 1); x <= std::min(grid.columns - 1, c + 1); ++x)
          around += (x != c || y != r) && some.points[static_cast<std::size_t>(y * grid.columns + x)].has_place();
      if (some.points[i].has_place() && around >= 3) continue;
      p.reason = MotionReason::neighbours;
      p.status = many.points[i].has_place() ? MotionStatus::weak : MotionStatus::rejected;
    }
  }

  WindowSettings settings_;
  std::vector<Pass> passes_;
  double gain_;
  FftPlans plans_;
  Pass* pass_ = nullptr;
  std::optional<DenseMotion> motion_;
  std::vector<Point> start_;
  std::vector<Window> windows_;
  std::vector<WindowPeak> found_;
  std::vector<double> glare_;  // share of glare
};

}  // namespace

void check_windows(const WindowSettings& s) {
  if (s.sizes.empty() || s.sizes.size() > 8)
    throw call_error("Windows need one size to eight.", "/size", "Give sizes from large to small, such as 64, 32.");
  for (std::size_t k = 0; k < s.sizes.size(); ++k) {
    if (s.sizes[k] < least_window || s.sizes[k] > largest_window || s.sizes[k] % 2 != 0)
      throw call_error(fmt::format("A window of {} px is not possible.", s.sizes[k]), "/size",
                       fmt::format("Give even numbers from {} to {}.", least_window, largest_window));
    if (k > 0 && s.sizes[k] > s.sizes[k - 1])
      throw call_error("The sizes of windows do not go from large to small.", "/size",
                       "Begin with the largest, such as 64, 32.");
  }
  if (s.ensemble && s.passes < 1)
    throw call_error("Correlations of all pairs need one pass at least on deformed frames.", "/passes",
                     "Give one pass or more.");
  if (s.passes < 0 || s.passes > most_passes)
    throw call_error(fmt::format("{} passes are not possible.", s.passes), "/passes",
                     fmt::format("Give a whole number from 0 to {}.", most_passes));
}

MotionGrid window_grid(Size size, const std::vector<Point>& region, int step_x, int step_y, int window) {
  MotionGrid out = grid_over(size, region, step_x, step_y, window / 2);
  out.first = {std::floor(out.first.x), std::floor(out.first.y)};
  return out;
}

MotionField match_ensemble(int pairs, const std::function<WindowPair(int)>& pair, const MotionGrid& grid,
                           const WindowSettings& settings, const Job& job) {
  check_windows(settings);
  Windows windows(grid, settings);
  MotionField out;
  for (int p = 0; p < windows.passes(); ++p) {
    windows.begin(p);
    for (int k = 0; k < pairs; ++k) {
      const int all = windows.passes() * pairs, done = p * pairs + k;
      const auto [a, b] = pair(k);
      windows.add(*a, *b, pairs > 1, job.part(static_cast<double>(done) / all, (done + 1.0) / all));
    }
    out = windows.end();
  }
  return out;
}

MotionField match_windows(const MotionFrame& a, const MotionFrame& b, const MotionGrid& grid,
                          const WindowSettings& settings, const Job& job) {
  check_windows(settings);
  Windows windows(grid, settings);
  MotionField out;
  for (int p = 0; p < windows.passes(); ++p) {
    windows.begin(p);
    windows.add(a, b, false, job.part(static_cast<double>(p) / windows.passes(), (p + 1.0) / windows.passes()));
    out = windows.end();
  }
  return out;
}

}  // namespace fexel
