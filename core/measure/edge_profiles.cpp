#include "measure/edge_profiles.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/statistics.h"
#include "resample/paths/sampler.h"

namespace fexel {
namespace {

constexpr double pitch = EdgeProfiles::pitch;
constexpr double place_length = 3;  // pixels along the path that one place is the mean of
constexpr double spare = 22;        // pixels across beyond the reach, for wide edges
constexpr double wide = 2;          // of the slope that is taken off, in scales
constexpr double apart = 3;         // pixels between two edges side by side
constexpr double lobes = 6;         // scales beside an edge at which its own slopes are taken off
constexpr int sections = 8;         // of the path, within which an edge does not change sign

class Search {
 public:
  Search(const EdgePath& path, const EdgeProfiles& profiles, const EdgeSlopes& slopes, int sections)
      : path_(path), p_(profiles), slopes_(slopes), sections_(sections) {
    std::vector<float> peaks;
    for (int i = 0; i < p_.places; ++i) {
      if (!p_.seen[static_cast<std::size_t>(i)]) continue;
      float peak = 0;
      for (int s = 0; s < p_.samples; ++s) peak = std::max(peak, std::abs(at(i, s)));
      peaks.push_back(peak);
      ++seen_;
    }
    // A place counts for no more than what is usual: a few strong things across the path do not lead it astray.
    if (!peaks.empty()) cap_ = median(std::move(peaks));
  }
  EdgeGuess strongest(double scale, const EdgeGuess* other) const {
    const EdgeGuess best = path_.closed ? of_ring(scale) : of_line(scale, other);
    if (!(best.support > 0) || seen_ == 0) return {};
    EdgeGuess out = best;
    out.sections = sections_;
    // Sums of noise over a section: their sizes have a mean of 0.8 and a spread of 0.6 standard deviations.
    const double spread = std::max(slopes_.noise, 1e-6 * double(cap_)) * std::sqrt(double(seen_) / sections_);
    out.significance = (best.support - 0.8 * sections_ * spread) / (0.6 * std::sqrt(double(sections_)) * spread);
    return out;
  }

 private:
  float at(int place, int sample) const {
    return slopes_.value[static_cast<std::size_t>(place) * static_cast<std::size_t>(p_.samples) +
                         static_cast<std::size_t>(sample)];
  }
  template <class Offset>
  double support(Offset offset) const {
    double total = 0;
    for (int section = 0; section < sections_; ++section) {
      double sum = 0;
      for (int i = section * p_.places / sections_; i < (section + 1) * p_.places / sections_; ++i) {
        const double sample = (offset(i) + p_.half) / pitch + 0.5;
        if (sample < 0 || sample >= p_.samples) continue;
        sum += double(std::clamp(at(i, static_cast<int>(sample)), -cap_, cap_));
      }
      total += std::abs(sum);
    }
    return total;
  }
  EdgeGuess of_line(double scale, const EdgeGuess* other) const {
    EdgeGuess best;
    const double step = std::max(pitch, scale / 2);
    const auto end = [](const EdgeGuess& g, double u) { return g.value(0) + g.value(1) * u; };
    for (double a = -p_.reach; a <= p_.reach; a += step)
      for (double b = -p_.reach; b <= p_.reach; b += step) {
        if (other) {
          // Lines that meet or cross, and lines that are the same, are not two edges side by side.
          const double l = a - end(*other, -0.5), r = b - end(*other, 0.5);
          if (l * r <= 0 || std::min(std::abs(l), std::abs(r)) < std::max(apart, lobes * scale)) continue;
        }
        const double sum = support([&](int i) { return a + (b - a) * p_.along[static_cast<std::size_t>(i)]; });
        if (sum > best.support) best = {Eigen::Vector2d((a + b) / 2, b - a), sum, 0};
      }
    return best;
  }
  EdgeGuess of_ring(double scale) const {
    std::vector<double> cosine, sine;
    for (const double u : p_.along) {
      cosine.push_back(std::cos(2 * std::numbers::pi * u));
      sine.push_back(std::sin(2 * std::numbers::pi * u));
    }
    EdgeGuess best;
    const auto around = [&](Eigen::Vector3d middle, int steps, double step) {
      for (int a = -steps; a <= steps; ++a)
        for (int b = -steps; b <= steps; ++b)
          for (int c = -steps; c <= steps; ++c) {
            const Eigen::Vector3d v = middle + step * Eigen::Vector3d(a, b, c);
            if (std::abs(v(0)) + std::hypot(v(1), v(2)) > p_.reach) continue;
            const double sum = support([&](int i) {
              return v(0) + v(1) * cosine[static_cast<std::size_t>(i)] + v(2) * sine[static_cast<std::size_t>(i)];
            });
            if (sum > best.support) best = {v, sum, 0};
          }
    };
    const double step = std::max({pitch, scale / 2, p_.reach / 16});
    around(Eigen::Vector3d::Zero(), static_cast<int>(p_.reach / step), step);
    for (double fine = step / 2; fine >= pitch; fine /= 2)
      if (best.support > 0) around(best.value, 2, fine);
    return best;
  }

  const EdgePath& path_;
  const EdgeProfiles& p_;
  const EdgeSlopes& slopes_;
  int sections_;
  float cap_ = 0;
  int seen_ = 0;
};

/// Samples at places in lines, summed over the bands and averaged over the lines; NaN where one is not on a pixel.
void add_samples(const EdgeView& view, const std::function<Point(int, int)>& at, int lines, int samples, float* row) {
  std::vector<float> values(points_at_once);
  std::fill_n(row, samples, 0.0F);
  for (int line = 0; line < lines; ++line)
    for (int first = 0; first < samples; first += points_at_once) {
      SourcePoints run;
      run.count = std::min(points_at_once, samples - first);
      std::vector<bool> inside(static_cast<std::size_t>(run.count));
      for (int k = 0; k < run.count; ++k) {
        const auto q = view.to_image.forward(at(line, first + k));
        const bool in = q && q->x > 0 && q->y > 0 && q->x < view.image.width() && q->y < view.image.height() &&
                        view.image.valid(static_cast<int>(q->x), static_cast<int>(q->y));
        inside[static_cast<std::size_t>(k)] = in;
        run.x[static_cast<std::size_t>(k)] = in ? q->x : 0.5;
        run.y[static_cast<std::size_t>(k)] = in ? q->y : 0.5;
      }
      for (int band = 0; band < view.image.bands(); ++band) {
        sample_plain(view.image, band, Kernel::cubic, BorderMode::extend, run, values.data());
        for (int k = 0; k < run.count; ++k) {
          float& sum = row[first + k];
          sum = inside[static_cast<std::size_t>(k)] ? sum + values[static_cast<std::size_t>(k)] : std::nanf("");
        }
      }
    }
  for (int k = 0; k < samples; ++k) row[k] /= static_cast<float>(lines);
}

}  // namespace

Eigen::VectorXd curve_terms(const EdgePath& path, int terms, double u) {
  Eigen::VectorXd v(terms);
  for (int n = 0; n < terms; ++n) v(n) = path.closed ? 1 : std::pow(u - 0.5, n);
  if (!path.closed) return v;
  // Shift of the middle, then a second harmonic.
  for (int n = 1; n < terms; ++n) {
    const double turn = 2 * std::numbers::pi * u * ((n + 1) / 2);
    v(n) = n % 2 ? std::cos(turn) : std::sin(turn);
  }
  return v;
}

std::optional<std::vector<float>> samples_across(const EdgeView& view, const std::function<Point(int, int)>& at,
                                                 int lines, int samples) {
  std::vector<float> out(static_cast<std::size_t>(samples));
  add_samples(view, at, lines, samples, out.data());
  if (!std::ranges::all_of(out, [](float v) { return std::isfinite(v); })) return std::nullopt;
  return out;
}

EdgeProfiles edge_profiles(const EdgeView& view, const EdgePath& path) {
  EdgeProfiles p;
  p.reach = path.reach;
  p.half = std::ceil(path.reach + spare);
  p.samples = static_cast<int>(2 * p.half / pitch) + 1;
  const double length = path.length * (path.to - path.from);
  p.places = std::clamp(static_cast<int>(length / place_length), 8, 2000);
  const int lines = std::clamp(static_cast<int>(length / p.places), 1, 64);
  p.value.assign(static_cast<std::size_t>(p.places) * static_cast<std::size_t>(p.samples), 0);
  for (int i = 0; i < p.places; ++i) {
    float* row = &p.value[static_cast<std::size_t>(i) * static_cast<std::size_t>(p.samples)];
    add_samples(
        view,
        [&](int line, int k) {
          return path.at(path.from + (path.to - path.from) * (i + (line + 0.5) / lines) / p.places, p.offset(k));
        },
        lines, p.samples, row);
    p.along.push_back(path.from + (path.to - path.from) * (i + 0.5) / p.places);
    bool seen = true;
    for (int s = 0; s < p.samples; ++s)
      if (std::abs(p.offset(s)) <= p.reach + 2) seen = seen && std::isfinite(row[s]);
    p.seen.push_back(seen);
  }
  return p;
}

EdgeSlopes edge_slopes(const EdgeProfiles& p, double scale) {
  const int reach = static_cast<int>(2.5 * wide * scale / pitch);
  std::vector<double> weights(static_cast<std::size_t>(2 * reach + 1));
  const auto add = [&](double width, double sign) {
    double sum = 0;
    const auto value = [&](int k) { return k * pitch * std::exp(-0.5 * std::pow(k * pitch / width, 2)); };
    for (int k = -reach; k <= reach; ++k) sum += k * pitch * value(k);
    for (int k = -reach; k <= reach; ++k) weights[static_cast<std::size_t>(k + reach)] += sign * value(k) / sum;
  };
  add(scale, 1);
  add(wide * scale, -1);
  EdgeSlopes out;
  out.scale = scale;
  out.value.assign(p.value.size(), 0);
  std::vector<float> sizes;
  for (int i = 0; i < p.places; ++i) {
    if (!p.seen[static_cast<std::size_t>(i)]) continue;
    const float* row = p.row(i);
    for (int s = 0; s < p.samples; ++s) {
      if (std::abs(p.offset(s)) > p.reach + 2 * pitch) continue;
      double sum = 0;
      for (int k = -reach; k <= reach; ++k)
        sum += weights[static_cast<std::size_t>(k + reach)] * double(row[std::clamp(s + k, 0, p.samples - 1)]);
      if (!std::isfinite(sum)) continue;
      out.value[static_cast<std::size_t>(i) * static_cast<std::size_t>(p.samples) + static_cast<std::size_t>(s)] =
          static_cast<float>(sum);
      sizes.push_back(static_cast<float>(std::abs(sum)));
    }
  }
  if (!sizes.empty()) out.noise = 1.4826 * double(median(std::move(sizes)));
  return out;
}

EdgeGuess strongest_edge(const EdgePath& path, const EdgeProfiles& profiles, const EdgeSlopes& slopes,
                         const EdgeGuess* other) {
  if (other) return Search(path, profiles, slopes, other->sections).strongest(slopes.scale, other);
  // Along most edges the sign of the step stays; along tiles and the like it changes from place to place.
  EdgeGuess out = Search(path, profiles, slopes, sections).strongest(slopes.scale, nullptr);
  const EdgeGuess any_sign = Search(path, profiles, slopes, profiles.places).strongest(slopes.scale, nullptr);
  if (any_sign.significance > out.significance) out = any_sign;
  return out;
}

}  // namespace fexel
