#include "calibrate/ruled_target.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <optional>

#include "base/error.h"
#include "base/statistics.h"
#include "calibrate/ruled_strips.h"
#include "filter/filter.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr int narrow_strip = 16, widest_strip = 64;  // pixels along the lines
constexpr double least_seen = 0.5;                   // share of the lines between the first and the last
constexpr double largest_residual = 0.08;            // RMS, in spacings
constexpr double least_explained = 0.55;             // share of the variance beyond noise
constexpr double weakest = 0.35;                     // of the usual contrast of a line
constexpr std::size_t line_blocks = 10;

/// Where a line is in a strip: the zero of the first moment of the samples about it, over one spacing with weights that
/// fall to its ends; symmetric lines are found without bias. Its strength is the sum of samples about it, likewise.
struct LineSearch {
  const RuledStrip& strip;
  double spacing;
  std::vector<double> ground;  // running mean over one spacing

  LineSearch(const RuledStrip& of, double one) : strip(of), spacing(one), ground(of.value.size(), 0) {
    const auto half = static_cast<std::ptrdiff_t>(std::lround(spacing / 2 / pitch_of_samples));
    const auto count = static_cast<std::ptrdiff_t>(strip.value.size());
    std::vector<double> sums(strip.value.size() + 1, 0);
    for (std::size_t i = 0; i < strip.value.size(); ++i) sums[i + 1] = sums[i] + double(strip.value[i]);
    for (std::ptrdiff_t i = 0; i < count; ++i) {
      const auto reach = std::min({half, i, count - 1 - i});
      const auto use = std::max<std::ptrdiff_t>(reach, 1);
      const auto low = std::max<std::ptrdiff_t>(0, i - use), high = std::min(count, i + use + 1);
      ground[static_cast<std::size_t>(i)] =
          (sums[static_cast<std::size_t>(high)] - sums[static_cast<std::size_t>(low)]) /
          static_cast<double>(high - low);
    }
  }
  std::pair<double, double> moments(double place) const {
    double zero = 0, one = 0;
    const double first = (place - spacing / 2 - strip.start) / pitch_of_samples,
                 last = (place + spacing / 2 - strip.start) / pitch_of_samples;
    for (auto i = static_cast<std::ptrdiff_t>(std::ceil(first)); i <= static_cast<std::ptrdiff_t>(std::floor(last));
         ++i) {
      if (i < 0 || i >= static_cast<std::ptrdiff_t>(strip.value.size())) return {0, 0};
      const auto at = static_cast<std::size_t>(i);
      const double turn = 2 * std::numbers::pi * (strip.at(at) - place) / spacing, weight = 0.5 + 0.5 * std::cos(turn);
      const double value = double(strip.value[at]) - ground[at];
      zero += weight * value * std::cos(turn);
      one += weight * value * std::sin(turn);
    }
    return {zero * pitch_of_samples, one * pitch_of_samples};
  }
  /// Nothing where there is no line of this sign nearby.
  std::optional<double> centre(double place, double sign) const {
    const double began = place;
    for (int round = 0; round < 12; ++round) {
      const auto [zero, one] = moments(place);
      if (!(sign * zero > 0)) return std::nullopt;
      const double step = std::clamp(std::atan2(sign * one, sign * zero) / (2 * std::numbers::pi), -0.2, 0.2) * spacing;
      place += step;
      if (std::abs(place - began) > 0.4 * spacing) return std::nullopt;
      if (std::abs(step) < 1e-6) break;
    }
    return place;
  }
};

/// A line as it was found in one strip.
struct Seen {
  int strip, number;
  double along, place;
};

/// The lines of all strips, numbered alike.
std::vector<Seen> lines_in(const std::vector<RuledStrip>& strips, double spacing, bool& dark) {
  // Lines are what takes the smaller part of a spacing: they are to the side to which samples are skewed.
  double squares = 0, cubes = 0;
  std::vector<LineSearch> searches;
  for (const RuledStrip& strip : strips) {
    searches.emplace_back(strip, spacing);
    for (std::size_t i = 0; i < strip.value.size(); ++i) {
      const double v = double(strip.value[i]) - searches.back().ground[i];
      squares += v * v;
      cubes += v * v * v;
    }
  }
  dark = cubes < 0;
  const double sign = dark ? -1 : 1;
  std::vector<double> strengths;
  struct Found {
    int number;
    double place, strength;
  };
  std::vector<std::vector<Found>> found(strips.size());
  for (std::size_t s = 0; s < strips.size(); ++s) {
    // The strongest line near the middle begins; from it outwards, each where the one before says.
    const RuledStrip& strip = strips[s];
    const double middle = strip.at(strip.value.size() / 2);
    double begin = middle, most = 0;
    for (double t = middle - 2 * spacing; t < middle + 2 * spacing; t += spacing / 8) {
      const double strength = sign * searches[s].moments(t).first;
      if (strength > most) {
        most = strength;
        begin = t;
      }
    }
    const auto first = searches[s].centre(begin, sign);
    if (!first) continue;
    for (const int way : {1, -1}) {
      double expected = *first + (way < 0 ? way * spacing : 0);
      for (int number = way < 0 ? -1 : 0;; number += way) {
        if (expected - spacing / 2 < strip.start || expected + spacing / 2 > strip.at(strip.value.size() - 1)) break;
        const auto at = searches[s].centre(expected, sign);
        if (at && std::abs(*at - expected) < 0.3 * spacing) {
          const double strength = sign * searches[s].moments(*at).first;
          found[s].push_back({number, *at, strength});
          strengths.push_back(strength);
          expected = *at;
        }
        expected += way * spacing;
      }
    }
  }
  if (strengths.size() < least_lines) refuse_ruled_target("fewer than five lines are to be seen.");
  // Where lines are to be seen in few strips only, most of what was followed in the others is noise.
  const double usual = std::max(median(strengths), 0.5 * quantile(strengths, 0.95));
  // Numbers of neighbouring strips are brought together by their places.
  std::vector<Seen> out;
  // Beside ticks there are parts of the region without most of them: they say nothing.
  std::size_t most = 0;
  for (auto& of_strip : found) {
    std::erase_if(of_strip, [&](const Found& f) { return f.strength < weakest * usual; });
    most = std::max(most, of_strip.size());
  }
  std::optional<double> before;
  int shift = 0;
  for (std::size_t s = 0; s < strips.size(); ++s) {
    if (found[s].size() < std::max<std::size_t>(2, most / 2)) continue;
    std::vector<double> zeros;
    for (const Found& f : found[s]) zeros.push_back(f.place - f.number * spacing);
    const double zero = median(std::move(zeros));
    if (before) shift += static_cast<int>(std::lround((zero - *before) / spacing));
    before = zero;
    for (const Found& f : found[s]) out.push_back({static_cast<int>(s), f.number + shift, strips[s].along, f.place});
  }
  return out;
}

/// place = a + pitch number + slant along (+ stretch number squared), robust, with its covariance.
struct SpacingFit {
  Eigen::VectorXd value;
  Eigen::MatrixXd covariance;
  std::vector<double> residual, weight;
  double middle = 0;  // of the numbers
};

SpacingFit fit_spacing(const std::vector<Seen>& seen, bool with_stretch) {
  const int terms = with_stretch ? 4 : 3;
  SpacingFit fit;
  const auto [low, high] = std::ranges::minmax(seen, {}, &Seen::number);
  fit.middle = (low.number + high.number) / 2.0;
  const double half = std::max(1.0, (high.number - low.number) / 2.0);
  std::vector<Eigen::VectorXd> rows;
  for (const Seen& line : seen) {
    Eigen::VectorXd row(terms);
    const double x = (line.number - fit.middle) / half;
    row(0) = 1;
    row(1) = x;
    row(2) = line.along;
    if (with_stretch) row(3) = x * x;
    rows.push_back(row);
  }
  fit.weight.assign(seen.size(), 1);
  fit.residual.assign(seen.size(), 0);
  Eigen::MatrixXd normal;
  for (int round = 0; round < 12; ++round) {
    normal = Eigen::MatrixXd::Zero(terms, terms);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(terms);
    for (std::size_t i = 0; i < seen.size(); ++i) {
      normal += fit.weight[i] * rows[i] * rows[i].transpose();
      right += fit.weight[i] * seen[i].place * rows[i];
    }
    const auto solved = solve_symmetric(normal, right, 1e-12);
    if (!solved) refuse_ruled_target("its lines do not say how they are spaced.");
    fit.value = *solved;
    std::vector<double> sizes;
    for (std::size_t i = 0; i < seen.size(); ++i) {
      fit.residual[i] = seen[i].place - fit.value.dot(rows[i]);
      sizes.push_back(std::abs(fit.residual[i]));
    }
    const double limit = 4.7 * std::max(1e-3, 1.4826 * median(std::move(sizes)));
    for (std::size_t i = 0; i < seen.size(); ++i) {
      const double t = fit.residual[i] / limit;
      fit.weight[i] = std::abs(t) < 1 ? (1 - t * t) * (1 - t * t) : 0;
    }
  }
  // Lines next to each other share what disturbs them: blocks of lines are left out (B. Efron, 1982, "The jackknife,
  // the bootstrap and other resampling plans").
  const auto count = static_cast<std::size_t>(high.number - low.number + 1), blocks = std::min(line_blocks, count);
  fit.covariance = Eigen::MatrixXd::Zero(terms, terms);
  for (std::size_t block = 0; block < blocks; ++block) {
    Eigen::MatrixXd less = normal;
    Eigen::VectorXd score = Eigen::VectorXd::Zero(terms);
    for (std::size_t i = 0; i < seen.size(); ++i)
      if (static_cast<std::size_t>(seen[i].number - low.number) * blocks / count == block) {
        less -= fit.weight[i] * rows[i] * rows[i].transpose();
        score += fit.weight[i] * fit.residual[i] * rows[i];
      }
    const auto moved = solve_symmetric(less, score, 1e-12);
    if (moved)
      fit.covariance += static_cast<double>(blocks - 1) / static_cast<double>(blocks) * *moved * moved->transpose();
  }
  // Back to numbers as they are.
  Eigen::VectorXd scale = Eigen::VectorXd::Ones(terms);
  scale(1) = 1 / half;
  if (with_stretch) scale(3) = 1 / half / half;
  fit.value = fit.value.cwiseProduct(scale).eval();
  fit.covariance = (scale.asDiagonal() * fit.covariance * scale.asDiagonal()).eval();
  return fit;
}

/// The share of what varies in the strips, beyond noise, that lines of this spacing explain.
double explained_by(const Image& plane, double direction, const std::vector<RuledStrip>& strips, const SpacingFit& fit,
                    double spacing, double noise) {
  constexpr int bins = 24;
  std::array<double, bins> sum{}, count{};
  double all = 0, places = 0;
  for (const RuledStrip& strip : strips) {
    const LineSearch search(strip, spacing);
    for (std::size_t i = 0; i < strip.value.size(); ++i) {
      const double v = double(strip.value[i]) - search.ground[i];
      const double number = (strip.at(i) - fit.value(0) - fit.value(2) * strip.along) / spacing;
      const auto bin = static_cast<std::size_t>((number - std::floor(number)) * bins) % bins;
      sum[bin] += v;
      ++count[bin];
      all += v * v;
      ++places;
    }
  }
  double even = 0;
  for (std::size_t b = 0; b < bins; ++b)
    if (count[b] > 0) even += sum[b] * sum[b] / count[b];
  // The pixels themselves, less their mean over two spacings.
  const Image ground = gaussian(plane, std::max(2.0, 2 * spacing), {});
  double squares = 0, pixels = 0;
  for (int y = 0; y < plane.height(); ++y)
    for (int x = 0; x < plane.width(); ++x) {
      const double along =
          (y - plane.height() / 2.0) * std::cos(direction) - (x - plane.width() / 2.0) * std::sin(direction);
      if (!std::ranges::any_of(strips, [&](const RuledStrip& s) { return std::abs(along - s.along) < s.wide / 2.0; }))
        continue;
      const double v = double(plane.row<float>(0, y)[x] - ground.row<float>(0, y)[x]);
      squares += v * v;
      ++pixels;
    }
  const double of_pixels = std::max(1e-12, squares / pixels - noise * noise);
  return std::min(even / places / of_pixels, even / all);
}

/// The target whose spacing is that of the autocorrelation, or a part of it, in a plane of the region.
RuledTarget target_in(const Image& plane, double direction, double noise, int divided_by, const Job& job) {
  double spacing = 0;
  RuledTarget out;
  SpacingFit fit;
  std::vector<Seen> seen;
  std::vector<RuledStrip> strips;
  for (const int wide : {narrow_strip, narrow_strip, widest_strip}) {
    strips = strips_across(plane, direction, wide);
    if (strips.empty()) refuse_ruled_target("the region is too small.");
    job.check();
    if (spacing == 0) spacing = spacing_across(strips) / divided_by;
    seen = lines_in(strips, spacing, out.dark);
    if (seen.size() < least_lines) refuse_ruled_target("fewer than five lines are to be seen.");
    fit = fit_spacing(seen, false);
    spacing = fit.value(1);
    // The lines' normal in the directions across and along the strips is (1, -slant).
    direction -= std::atan(fit.value(2));
  }
  const SpacingFit curved = fit_spacing(seen, true);
  const double slant = fit.value(2);
  std::map<int, RuledLine> lines;
  std::map<int, double> weights;
  double squares = 0, weight = 0;
  for (std::size_t i = 0; i < seen.size(); ++i) {
    if (fit.weight[i] == 0) continue;
    RuledLine& line = lines[seen[i].number];
    line.number = seen[i].number;
    line.residual += fit.weight[i] * fit.residual[i];
    weights[seen[i].number] += fit.weight[i];
    ++line.seen;
  }
  if (lines.size() < least_lines) refuse_ruled_target("fewer than five lines are to be seen.");
  const int first = lines.begin()->first, last = lines.rbegin()->first;
  for (auto& [number, line] : lines) {
    line.residual /= weights[number];
    line.place = (fit.value(0) + fit.value(1) * (number - fit.middle) + line.residual) / std::hypot(1, slant);
    squares += line.residual * line.residual;
    ++weight;
    line.number = number - first;
    out.lines.push_back(line);
  }
  out.rms = std::sqrt(squares / weight);
  out.missing = last - first + 1 - static_cast<int>(lines.size());
  if (static_cast<double>(lines.size()) < least_seen * (last - first + 1))
    refuse_ruled_target("too many lines are missing between the first and the last.");
  if (out.rms > largest_residual * spacing) refuse_ruled_target("the lines that are to be seen are not evenly spaced.");
  std::vector<RuledStrip> told;
  for (std::size_t i = 0; i < strips.size(); ++i)
    if (std::ranges::find(seen, static_cast<int>(i), &Seen::strip) != seen.end()) told.push_back(strips[i]);
  const double explained = explained_by(plane, direction, told, fit, spacing, noise);
  if (explained < least_explained)
    refuse_ruled_target("most of what is seen here is something else than evenly spaced lines.");
  out.pitch = fit.value(1) / std::hypot(1, slant);
  out.uncertainty = std::sqrt(fit.covariance(1, 1)) / std::hypot(1, slant);
  double degrees = -direction * 180 / std::numbers::pi;
  degrees -= 180 * std::ceil((degrees - 90) / 180);
  out.angle = degrees;
  out.angle_sigma = std::sqrt(fit.covariance(2, 2)) * 180 / std::numbers::pi;
  out.stretch = 2 * curved.value(3) * (last - first) / curved.value(1);
  out.stretch_sigma = 2 * std::sqrt(curved.covariance(3, 3)) * (last - first) / curved.value(1);
  return out;
}

}  // namespace

double pixel_width(const RuledTarget& target, double spacing, double tall) {
  // Lines c x + s y = k pitch are apart by pitch / sqrt((c / w)^2 + (s / h)^2) for pixels of w x h.
  const double turn = target.angle * std::numbers::pi / 180;
  return spacing / target.pitch * std::hypot(std::cos(turn), std::sin(turn) / tall);
}

RuledTarget find_ruled_target(const Image& image, Region region, const Job& job) {
  region.x = std::clamp(region.x, 0, image.width() - 1);
  region.y = std::clamp(region.y, 0, image.height() - 1);
  region.width = std::min(region.width, image.width() - region.x);
  region.height = std::min(region.height, image.height() - region.y);
  if (region.width < 4 * least_pitch || region.height < 4 * least_pitch)
    refuse_ruled_target("the region is too small.");
  const Image plane = grey_of(image, region);
  const double noise = noise_in(plane, {0, 0, plane.width(), plane.height()});
  // To the right, or up: lines are numbered that way.
  double direction = direction_across(plane, noise);
  direction -= std::numbers::pi * std::round(direction / std::numbers::pi);
  job.check();
  RuledTarget out;
  try {
    out = target_in(plane, direction, noise, 1, job);
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    // Of few lines some of which are hidden every second one may be all that repeats.
    try {
      out = target_in(plane, direction, noise, 2, job);
    } catch (const Error&) {
      throw error;
    }
  }
  out.middle = {region.x + region.width / 2.0, region.y + region.height / 2.0};
  return out;
}

}  // namespace fexel
