#include "measure/edge_fit.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "base/statistics.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

constexpr double pitch = EdgeProfiles::pitch;
constexpr double presmoothing = 0.5;                      // of the samples across, in pixels: below it they alias
constexpr std::array<double, 4> scales = {0.5, 1, 2, 4};  // at which an edge is looked for, in pixels
constexpr double stands_out = 12;                         // standard deviations of the noise's own sums
constexpr double clear_of = 3.2;          // widths of an edge within which its neighbour is not told from it
constexpr double least_of_first = 0.25;   // support and contrast of a second edge
constexpr std::size_t blocks = 20;        // that share what disturbs them
constexpr double least_significance = 8;  // of a contrast
constexpr double clear = 5;               // standard deviations by which a place alone stands out
constexpr double sharp = 1.2;             // width below which an edge is where the slope is largest, in pixels
constexpr double resolved = 0.8;          // width from which samples carry an edge whole, presmoothing included
constexpr double widest = 6;              // blur that is measured, in pixels

double bell(double x) {
  return std::exp(-0.5 * x * x) / std::sqrt(2 * std::numbers::pi);
}
double step_of(double x) {
  return 0.5 * std::erfc(-x / std::numbers::sqrt2);
}

/// A row smoothed, so that what is fitted to it is wider than what it can carry; NaN at its ends.
void presmooth(const float* row, int samples, float* out) {
  constexpr int reach = static_cast<int>(3 * presmoothing / pitch);
  std::array<double, 2 * reach + 1> weights{};
  double sum = 0;
  for (int k = -reach; k <= reach; ++k)
    sum += weights[static_cast<std::size_t>(k + reach)] = std::exp(-0.5 * std::pow(k * pitch / presmoothing, 2));
  std::fill_n(out, samples, std::nanf(""));
  for (int s = reach; s < samples - reach; ++s) {
    double value = 0;
    for (int k = -reach; k <= reach; ++k) value += weights[static_cast<std::size_t>(k + reach)] * double(row[s + k]);
    out[s] = static_cast<float>(value / sum);
  }
}

std::vector<float> presmoothed(const EdgeProfiles& p) {
  std::vector<float> out(p.value.size());
  for (int i = 0; i < p.places; ++i)
    presmooth(p.row(i), p.samples, &out[static_cast<std::size_t>(i) * static_cast<std::size_t>(p.samples)]);
  return out;
}

/// A blurred step, fitted to samples about a place: level, ramp, step, shift of the step, and change of its width.
/// Linear in small shifts; nothing where samples are missing.
struct StepFit {
  double contrast, shift, widening, noise;
};
template <bool with_width>
std::optional<StepFit> fit_step(const float* row, int samples, double half, double place, double width, double window) {
  const int first = std::max(0, static_cast<int>(std::ceil((place - window + half) / pitch))),
            last = std::min(samples - 1, static_cast<int>(std::floor((place + window + half) / pitch)));
  constexpr int terms = with_width ? 5 : 4;
  if (last - first < 2 * terms || (last - first) * pitch < 1.5 * window) return std::nullopt;
  using Terms = Eigen::Matrix<double, terms, 1>;
  Eigen::Matrix<double, terms, terms> normal = Eigen::Matrix<double, terms, terms>::Zero();
  Terms right = Terms::Zero(), v;
  double squares = 0;
  for (int s = first; s <= last; ++s) {
    const double x = (-half + s * pitch - place) / width, value = double(row[s]);
    if (!std::isfinite(value)) return std::nullopt;
    v(0) = 1;
    v(1) = x;
    v(2) = step_of(x) - 0.5;
    v(3) = bell(x);
    if constexpr (with_width) v(4) = x * bell(x);
    normal += v * v.transpose();
    right += value * v;
    squares += value * value;
  }
  const auto solved = solve_symmetric(normal, right, 1e-9);
  if (!solved) return std::nullopt;
  const Terms c = *solved;
  const double left = std::max(0.0, squares - c.dot(right));
  return StepFit{c(2), -c(3) * width, with_width ? -c(terms - 1) * width : 0,
                 std::sqrt(left / (last - first + 1 - terms))};
}

/// How the noise of pixels comes through a fit to presmoothed samples, into contrast and shift: the root of the sum of
/// the squares of what each pixel weighs.
std::pair<double, double> noise_gains(double place, double width, double window) {
  constexpr int terms = 5, spread = static_cast<int>(3 * presmoothing / pitch);
  const int reach = static_cast<int>(window / pitch);
  const double off = place / pitch - std::floor(place / pitch);
  Eigen::MatrixXd rows(2 * reach + 1, terms);
  for (int k = -reach; k <= reach; ++k) {
    const double x = (k - off) * pitch / width;
    rows.row(k + reach) << 1, x, step_of(x) - 0.5, bell(x), x * bell(x);
  }
  const Eigen::MatrixXd weights = symmetric_inverse(rows.transpose() * rows) * rows.transpose();
  double sum = 0, contrast = 0, shift = 0;
  std::vector<double> kernel;
  for (int k = -spread; k <= spread; ++k) {
    kernel.push_back(std::exp(-0.5 * std::pow(k * pitch / presmoothing, 2)));
    sum += kernel.back();
  }
  for (int k = -reach - spread; k <= reach + spread; ++k) {
    double of_contrast = 0, of_shift = 0;
    for (int j = std::max(-reach, k - spread); j <= std::min(reach, k + spread); ++j) {
      const double part = kernel[static_cast<std::size_t>(k - j + spread)] / sum;
      of_contrast += part * weights(2, j + reach);
      of_shift += part * weights(3, j + reach) * width;
    }
    contrast += of_contrast * of_contrast;
    shift += of_shift * of_shift;
  }
  return {std::sqrt(contrast / pitch), std::sqrt(shift / pitch)};
}

/// Places of an edge, and how far each is to be believed: as the square of its contrast.
struct Track {
  std::vector<double> place, weight;
};

/// Where the profiles are steepest within `near` samples of a curve. It is not as sure as a fit of a step, but what
/// else lies beside the edge matters less.
Track steepest(const EdgePath& path, const EdgeProfiles& p, const EdgeSlopes& slopes, const Eigen::VectorXd& curve) {
  constexpr int near = 8;
  Track out;
  std::vector<double> sizes;
  for (int i = 0; i < p.places; ++i) {
    out.place.push_back(0);
    out.weight.push_back(0);
    const double at =
        curve.dot(curve_terms(path, static_cast<int>(curve.size()), p.along[static_cast<std::size_t>(i)]));
    const int middle = static_cast<int>((at + p.half) / pitch);
    const int first = std::max(1, middle - near), last = std::min(p.samples - 2, middle + near + 1);
    if (first >= last || !p.seen[static_cast<std::size_t>(i)]) continue;
    const float* row = &slopes.value[static_cast<std::size_t>(i) * static_cast<std::size_t>(p.samples)];
    const auto top = static_cast<int>(
        std::max_element(row + first, row + last + 1, [](float l, float r) { return std::abs(l) < std::abs(r); }) -
        row);
    if (top <= first || top >= last) continue;
    const double l = double(row[top - 1]), c = double(row[top]), r = double(row[top + 1]);
    out.place.back() = p.offset(top + (l - r) / (2 * (l - 2 * c + r)));
    out.weight.back() = c * c;
    sizes.push_back(c * c);
  }
  if (sizes.empty()) return out;
  const double usual = median(std::move(sizes));
  for (double& weight : out.weight) weight = std::min(4.0, weight / usual);
  return out;
}

/// A curve of so many terms through the places, with the covariance of its coefficients.
std::optional<EdgeFit> fitted(const EdgePath& path, const EdgeProfiles& p, const Track& track, int terms) {
  EdgeFit fit;
  std::vector<double> weight = track.weight;
  std::vector<Eigen::VectorXd> rows;
  for (const double u : p.along) rows.push_back(curve_terms(path, terms, u));
  constexpr int rounds = 12;
  for (int round = 0; round < rounds; ++round) {
    Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(terms, terms);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(terms);
    for (std::size_t i = 0; i < rows.size(); ++i) {
      if (weight[i] == 0) continue;
      normal += weight[i] * rows[i] * rows[i].transpose();
      right += weight[i] * track.place[i] * rows[i];
    }
    const auto solved = solve_symmetric(normal, right, 1e-7);
    if (!solved) return std::nullopt;
    fit.value = *solved;
    std::vector<double> residual(rows.size(), 0), sizes;
    for (std::size_t i = 0; i < rows.size(); ++i)
      if (track.weight[i] > 0) {
        residual[i] = track.place[i] - fit.value.dot(rows[i]);
        sizes.push_back(std::abs(residual[i]));
      }
    if (sizes.empty()) return std::nullopt;
    const double spread = std::max(0.01, 1.4826 * median(sizes));
    double square = 0, sum = 0;
    fit.used = 0;
    std::array<Eigen::VectorXd, blocks> scores;
    std::array<Eigen::MatrixXd, blocks> normals;
    scores.fill(Eigen::VectorXd::Zero(terms));
    normals.fill(Eigen::MatrixXd::Zero(terms, terms));
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const double t = residual[i] / (4.7 * spread);
      weight[i] = std::abs(t) >= 1 ? 0 : track.weight[i] * (1 - t * t) * (1 - t * t);
      if (weight[i] == 0) continue;
      ++fit.used;
      square += weight[i] * residual[i] * residual[i];
      sum += weight[i];
      const std::size_t block = i * blocks / rows.size();
      scores[block] += weight[i] * residual[i] * rows[i];
      normals[block] += weight[i] * rows[i] * rows[i].transpose();
    }
    const auto count =
        static_cast<double>(std::ranges::count_if(normals, [](const Eigen::MatrixXd& n) { return n(0, 0) > 0; }));
    if (fit.used < 2 * terms || count < 2 * terms) return std::nullopt;
    fit.scatter = std::sqrt(square / sum);
    if (round + 1 < rounds) continue;
    // How the coefficients move when one block is left out (B. Efron, 1982, "The jackknife, the bootstrap and other
    // resampling plans"): neighbouring places share what disturbs them.
    fit.covariance = Eigen::MatrixXd::Zero(terms, terms);
    for (std::size_t block = 0; block < blocks; ++block) {
      if (!(normals[block](0, 0) > 0)) continue;
      const auto moved = solve_symmetric(normal - normals[block], scores[block], 1e-9);
      if (!moved) return std::nullopt;
      fit.covariance += (count - 1) / count * *moved * moved->transpose();
    }
  }
  return fit;
}

/// The noise of contrasts, from what neighbours differ by.
double contrast_noise(const std::vector<double>& contrast, const std::vector<bool>& seen) {
  std::vector<double> differences;
  for (std::size_t i = 1; i < contrast.size(); ++i)
    if (seen[i] && seen[i - 1]) differences.push_back(std::abs(contrast[i] - contrast[i - 1]));
  return differences.empty() ? 0 : 1.4826 / std::numbers::sqrt2 * median(std::move(differences));
}

/// Contrasts as they are where each stands out of the noise: along an edge they may change, and change sign. Else with
/// those of their neighbours taken into account, no more of them than is needed, over a ninth of the path at most.
std::vector<double> smoothed(const std::vector<double>& contrast, const std::vector<bool>& seen, double noise) {
  const int count = static_cast<int>(contrast.size()), widest_reach = std::max(2, count / 18);
  std::vector<double> out(contrast.size(), 0);
  for (int reach = 0;; reach = std::min(widest_reach, 2 * reach + 1)) {
    std::vector<double> sizes;
    for (int i = 0; i < count; ++i) {
      double sum = 0;
      int used = 0;
      for (int k = std::max(0, i - reach); k <= std::min(count - 1, i + reach); ++k)
        if (seen[static_cast<std::size_t>(k)]) {
          sum += contrast[static_cast<std::size_t>(k)];
          ++used;
        }
      if (used) out[static_cast<std::size_t>(i)] = sum / used;
      if (seen[static_cast<std::size_t>(i)]) sizes.push_back(std::abs(out[static_cast<std::size_t>(i)]));
    }
    if (reach == widest_reach || median(std::move(sizes)) > clear * noise / std::sqrt(2 * reach + 1)) return out;
  }
}

/// The step of the mean of all places, shifted onto one another along a curve, with what its width lacks.
std::optional<StepFit> mean_step(const EdgePath& path, const EdgeProfiles& p, const std::vector<float>& smooth,
                                 const Eigen::VectorXd& curve, const std::vector<double>& weight,
                                 const std::vector<double>& usual, double width, double window) {
  const int reach = static_cast<int>(std::ceil((window + 1) / pitch));
  std::vector<double> mean(static_cast<std::size_t>(2 * reach + 1), 0);
  double sum = 0;
  for (std::size_t i = 0; i < usual.size(); ++i) {
    if (weight[i] == 0) continue;
    const double start =
        (curve.dot(curve_terms(path, static_cast<int>(curve.size()), p.along[i])) + p.half) / pitch - reach;
    const int first = static_cast<int>(std::floor(start));
    const double part = start - first;
    if (first < 0 || first + 2 * reach + 1 >= p.samples) continue;
    const float* row = &smooth[i * static_cast<std::size_t>(p.samples)];
    const double signed_weight = std::copysign(weight[i], usual[i]);
    if (!std::isfinite(row[first]) || !std::isfinite(row[first + 2 * reach + 1])) continue;
    for (int k = 0; k <= 2 * reach; ++k)
      mean[static_cast<std::size_t>(k)] +=
          signed_weight * ((1 - part) * double(row[first + k]) + part * double(row[first + k + 1]));
    sum += weight[i];
  }
  if (!(sum > 0)) return std::nullopt;
  std::vector<float> profile;
  for (const double m : mean) profile.push_back(static_cast<float>(m / sum));
  return fit_step<true>(profile.data(), static_cast<int>(profile.size()), reach * pitch, 0, width, window);
}

/// From a guess to a fit at the edge's own scale, which is looked for from `start`. `room` is how far the next edge is,
/// in pixels. Places are looked for about a curve that may bend, so that a bow does not leave the range in which shifts
/// are linear.
std::optional<FoundEdge> refined(const EdgePath& path, const EdgeProfiles& p, const std::vector<float>& smooth,
                                 const EdgeSlopes& finest, const EdgeGuess& guess, double start, double room) {
  const int terms = path.closed ? 3 : 2, more = path.closed ? 5 : 3;
  Eigen::VectorXd curve = Eigen::VectorXd::Zero(more);
  curve.head(terms) = guess.value;
  double width = std::clamp(start, 0.7, std::max(0.7, room / clear_of));
  const double most_wide = std::clamp(room / clear_of, 0.7, widest);
  FoundEdge out;
  Track track;
  for (int round = 0; round < 14; ++round) {
    const double window = std::min(std::max(2.0, 3.2 * width), std::max(1.5 * width, room / 2));
    std::vector<double> contrast(static_cast<std::size_t>(p.places), 0), slant = contrast, off = contrast;
    std::vector<bool> seen(static_cast<std::size_t>(p.places), false);
    std::vector<double> noises;
    for (int i = 0; i < p.places; ++i) {
      const auto at = static_cast<std::size_t>(i);
      if (!p.seen[at]) continue;
      const double place = curve.dot(curve_terms(path, more, p.along[at]));
      const auto fit =
          fit_step<false>(&smooth[at * static_cast<std::size_t>(p.samples)], p.samples, p.half, place, width, window);
      if (!fit) continue;
      seen[at] = true;
      contrast[at] = fit->contrast;
      slant[at] = fit->shift;
      noises.push_back(fit->noise);
    }
    if (noises.size() < 8) return std::nullopt;
    const double noise = contrast_noise(contrast, seen);
    const std::vector<double> usual = smoothed(contrast, seen, noise);
    std::vector<double> squares;
    for (std::size_t i = 0; i < usual.size(); ++i)
      if (seen[i]) squares.push_back(usual[i] * usual[i]);
    const double middle = median(squares);
    if (!(middle > 0)) return std::nullopt;
    std::vector<double> departures;
    for (std::size_t i = 0; i < usual.size(); ++i)
      if (seen[i]) departures.push_back(std::abs(contrast[i] - usual[i]));
    const double departure = 1.4826 * median(std::move(departures));
    track.place.assign(usual.size(), 0);
    track.weight.assign(usual.size(), 0);
    for (std::size_t i = 0; i < usual.size(); ++i) {
      if (!seen[i] || usual[i] == 0) continue;
      // Beyond its own width a shift is not linear.
      off[i] = std::clamp(slant[i] / usual[i], -1.5 * width, 1.5 * width);
      track.place[i] = curve.dot(curve_terms(path, more, p.along[i])) + off[i];
      // None counts for much more than what is usual, and one whose contrast is not that of its neighbours for little.
      const double unlike = (contrast[i] - usual[i]) / (0.3 * std::abs(usual[i]) + 3 * departure);
      track.weight[i] = std::min(4.0, usual[i] * usual[i] / middle) / (1 + unlike * unlike);
    }
    const auto fit = fitted(path, p, track, terms), curved = fitted(path, p, track, more);
    if (!fit || !curved) return std::nullopt;
    out = {*fit, *curved};
    curve = curved->value;
    const auto step = mean_step(path, p, smooth, curve, track.weight, usual, width, window);
    double level = 0;
    for (const double u : squares) level += std::sqrt(u);
    out.fit.contrast = level / static_cast<double>(squares.size());
    out.fit.noise = median(noises);
    out.fit.significance = out.fit.contrast * std::sqrt(static_cast<double>(squares.size())) / std::max(1e-12, noise);
    if (!step || !(std::abs(step->contrast) > 0)) return std::nullopt;
    width = std::clamp(width + std::clamp(step->widening / step->contrast, -0.3 * width, 0.3 * width), 0.5, most_wide);
  }
  // As wide as it may be: what was fitted is the way from one edge to the next, or shading.
  if (width >= most_wide) return std::nullopt;
  if (width > resolved && width < sharp) {
    const Track at_steepest = steepest(path, p, finest, guess.value);
    const auto fit = fitted(path, p, at_steepest, terms), curved = fitted(path, p, at_steepest, more);
    if (fit && curved && fit->used > out.fit.used / 2) {
      // Where both are sure and do not agree, the edge is no plain step: its flanks differ along it, and the half of
      // what they say is not known.
      const Eigen::VectorXd apart_by = fit->value - out.fit.value;
      const Eigen::VectorXd spread = (fit->covariance + out.fit.covariance).diagonal().cwiseSqrt();
      const bool tighter = fit->scatter < out.fit.scatter;
      const bool differ = !tighter && (apart_by.cwiseAbs().array() > 3 * spread.array()).any();
      if (tighter || differ) {
        const EdgeFit before = out.fit;
        out = {*fit, *curved};
        out.fit.contrast = before.contrast;
        out.fit.noise = before.noise;
        out.fit.significance = before.significance;
        if (differ) out.fit.covariance += 0.25 * apart_by * apart_by.transpose();
      }
    }
  }
  out.fit.width = std::sqrt(std::max(0.0, width * width - presmoothing * presmoothing));
  return out;
}

}  // namespace

std::string reason_of(const EdgeRefusal& refusal) {
  const std::string seen =
      fmt::format("contrast {:.2g}, noise {:.2g}, blur {:.1f} px", refusal.contrast, refusal.noise, refusal.width);
  switch (refusal.why) {
    case EdgeRefusal::Why::none:
      return "nothing stands out";
    case EdgeRefusal::Why::weak:
      return "it does not stand out of the noise: " + seen;
    case EdgeRefusal::Why::uncertain:
      return fmt::format("it is known to ± {:.2g} px only: {}", refusal.sigma, seen);
    case EdgeRefusal::Why::disagree:
      return "its parts lie on different lines";
  }
  return {};
}

std::optional<StepInProfile> step_in_profile(const std::vector<float>& samples, double place, double room,
                                             double noise) {
  const int count = static_cast<int>(samples.size());
  std::vector<float> smooth(samples.size());
  presmooth(samples.data(), count, smooth.data());
  const double most_wide = std::clamp(room / 2, 0.7, widest), begun_at = place;
  double width = 0.8;
  std::optional<StepFit> step;
  const auto window = [&] { return std::min(std::max(2.0, 3.2 * width), std::max(1.5 * width, room / 2)); };
  for (int round = 0; round < 25; ++round) {
    step = fit_step<true>(smooth.data(), count, 0, place, width, window());
    if (!step || step->contrast == 0) return std::nullopt;
    place += std::clamp(step->shift / step->contrast, -0.7 * width, 0.7 * width);
    width = std::clamp(width + std::clamp(step->widening / step->contrast, -0.3 * width, 0.3 * width), 0.5, most_wide);
    if (std::abs(place - begun_at) > std::max(2.0, width)) return std::nullopt;
  }
  const auto [contrast_gain, shift_gain] = noise_gains(place, width, window());
  StepInProfile out;
  out.place = place;
  out.contrast = step->contrast;
  out.sigma = noise * shift_gain / std::abs(step->contrast);
  out.contrast_sigma = noise * contrast_gain;
  out.width = std::sqrt(std::max(0.0, width * width - presmoothing * presmoothing));
  return out;
}

std::vector<FoundEdge> edges_along(const EdgePath& path, const EdgeProfiles& profiles, EdgeRefusal* why) {
  if (why) *why = {};
  EdgeGuess best;
  double at_scale = scales[0];
  EdgeSlopes slopes;
  for (const double scale : scales) {
    EdgeSlopes here = edge_slopes(profiles, scale);
    const EdgeGuess guess = strongest_edge(path, profiles, here, nullptr);
    if (guess.significance > best.significance) {
      best = guess;
      at_scale = scale;
      slopes = std::move(here);
    }
    if (best.significance > stands_out) break;
  }
  if (!(best.significance > stands_out / 2)) return {};
  const std::vector<float> smooth = presmoothed(profiles);
  const EdgeSlopes finest = edge_slopes(profiles, scales[0]);
  // From narrow and from wide: what more places agree on, and more surely.
  const auto fit_of = [&](const EdgeGuess& guess, double room) {
    std::optional<FoundEdge> out;
    for (const double start : {0.8 + 0.4 * (at_scale - scales[0]), std::max(1.5, 1.2 * at_scale)}) {
      const auto edge = refined(path, profiles, smooth, finest, guess, start, room);
      const auto worth = [](const FoundEdge& e) { return e.fit.significance * e.fit.used; };
      if (edge && (!out || worth(*edge) > worth(*out))) out = edge;
    }
    return out;
  };
  const auto distance_of = [&](const Eigen::VectorXd& a, const Eigen::VectorXd& b) {
    return std::min(std::abs(a(0) - b(0) - (a(1) - b(1)) / 2), std::abs(a(0) - b(0) + (a(1) - b(1)) / 2));
  };
  std::vector<std::optional<FoundEdge>> fits;
  constexpr double none_near = 1e9;
  if (!path.closed) {
    const EdgeGuess second = strongest_edge(path, profiles, slopes, &best);
    if (second.support > least_of_first * best.support && second.significance > stands_out) {
      const double room = distance_of(second.value, best.value);
      const auto first = fit_of(best, room), other = fit_of(second, room);
      // The flank of a wide edge is not an edge of its own.
      if (first && other && other->fit.contrast > least_of_first * first->fit.contrast &&
          distance_of(first->fit.value, other->fit.value) > clear_of * std::max(first->fit.width, other->fit.width))
        fits = {first, other};
    }
  }
  if (fits.empty()) fits = {fit_of(best, none_near)};
  std::vector<FoundEdge> out;
  for (const auto& edge : fits) {
    if (!edge) continue;
    const bool weak = edge->fit.significance < least_significance;
    if (!weak && edge->fit.used > path.least_share * profiles.places)
      out.push_back(*edge);
    else if (why)
      *why = {weak ? EdgeRefusal::Why::weak : EdgeRefusal::Why::disagree, edge->fit.contrast, edge->fit.noise,
              edge->fit.width, 0};
  }
  return out;
}

}  // namespace fexel
