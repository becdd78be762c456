#include "measure/profile.h"

#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "measure/edge_fit.h"

namespace fexel {
namespace {

constexpr double slope_scale = 0.7;    // of the slopes by which edges are found, in pixels
constexpr double least_of_most = 0.1;  // of the steepest slope
constexpr double clear_of_noise = 6;   // standard deviations of the slope's noise
constexpr double least_apart = 2;      // pixels between two edges

/// The slope of the profile smoothed at a scale, in samples a pixel.
std::vector<double> slopes_along(const Profile& profile) {
  const int reach = static_cast<int>(3 * slope_scale / profile.pitch), count = static_cast<int>(profile.value.size());
  std::vector<double> weight, out(profile.value.size(), 0);
  double sum = 0;
  for (int k = -reach; k <= reach; ++k) {
    const double x = k * profile.pitch;
    weight.push_back(x * std::exp(-0.5 * x * x / slope_scale / slope_scale));
    sum += x * weight.back();
  }
  for (int i = 0; i < count; ++i) {
    double slope = 0;
    for (int k = -reach; k <= reach; ++k)
      slope += weight[static_cast<std::size_t>(k + reach)] / sum *
               double(profile.value[static_cast<std::size_t>(std::clamp(i + k, 0, count - 1))]);
    out[static_cast<std::size_t>(i)] = slope;
  }
  return out;
}

/// How far an edge that is as sharp as the pixels may lie from where a blurred step is fitted, in pixels: what lies
/// between samples is not known there. Interpolation alone leaves a blur of 0.55 px.
double left_by_pixels(double blur) {
  constexpr double most = 0.04, sharp = 0.62, soft = 0.75;
  return most * std::clamp((soft - blur) / (soft - sharp), 0.0, 1.0);
}

/// The noise of samples a pixel apart: what straight lines through pieces of the profile leave, at the half of them.
double noise_along(const Profile& profile) {
  constexpr int pixels = 6;  // of a piece
  const int piece = static_cast<int>(pixels / profile.pitch), count = static_cast<int>(profile.value.size());
  std::vector<double> variances;
  for (int first = 0; first + piece < count; first += piece / pixels) {
    double sum = 0, moment = 0, squares = 0, base = 0;
    for (int k = 0; k <= piece; ++k) {
      const double x = k - piece / 2.0, v = double(profile.value[static_cast<std::size_t>(first + k)]);
      sum += v;
      moment += x * v;
      squares += v * v;
      base += x * x;
    }
    const double left = squares - sum * sum / (piece + 1) - moment * moment / base;
    variances.push_back(std::max(0.0, left) / (piece + 1));
  }
  if (variances.empty()) return 0;
  // Two of six independent samples went into the line; interpolation between pixels took a fifth; and half of such
  // variances are below 0.84 of their mean (chi squared with 4 degrees of freedom).
  return std::sqrt(median(std::move(variances)) * pixels / (pixels - 2) / 0.8 / 0.84);
}

}  // namespace

std::optional<Profile> profile_along(const Image& image, Point from, Point to, double width) {
  const double length = distance(from, to);
  if (!(length >= 1) || length > 1e6) return std::nullopt;
  const Point along = 1 / length * (to - from), across{-along.y, along.x};
  Profile out;
  out.length = length;
  out.lines = std::max(1, static_cast<int>(std::lround(width)));
  out.pitch = EdgeProfiles::pitch;
  const int steps = static_cast<int>(length / out.pitch);
  const EdgeView view{image, Map()};
  const auto value = samples_across(
      view, [&](int line, int k) { return from + k * out.pitch * along + (line - (out.lines - 1) / 2.0) * across; },
      out.lines, steps + 1);
  if (!value) return std::nullopt;
  out.value = *value;
  for (float& v : out.value) v /= static_cast<float>(image.bands());
  return out;
}

std::vector<ProfileEdge> edges_on(const Profile& profile) {
  const std::vector<double> slopes = slopes_along(profile);
  std::vector<double> sizes;
  for (const double s : slopes) sizes.push_back(std::abs(s));
  const double noise = 1.4826 * median(sizes), most = *std::ranges::max_element(sizes);
  const double least = std::max({clear_of_noise * noise, least_of_most * most, 1e-9});
  const int apart = static_cast<int>(least_apart / profile.pitch), count = static_cast<int>(slopes.size());
  std::vector<double> places;
  for (int i = 0; i < count; ++i) {
    const double here = sizes[static_cast<std::size_t>(i)];
    if (here < least) continue;
    bool top = true;
    for (int k = std::max(0, i - apart); k <= std::min(count - 1, i + apart) && top; ++k) {
      const double there = sizes[static_cast<std::size_t>(k)];
      top = there < here || (there == here && k >= i);
    }
    if (top) places.push_back(i * profile.pitch);
  }
  const double sample_noise = noise_along(profile);
  std::vector<ProfileEdge> out;
  for (std::size_t i = 0; i < places.size(); ++i) {
    double room = 1e9;
    if (i > 0) room = std::min(room, places[i] - places[i - 1]);
    if (i + 1 < places.size()) room = std::min(room, places[i + 1] - places[i]);
    const auto step = step_in_profile(profile.value, places[i], room, sample_noise);
    if (step && step->place >= 0 && step->place <= profile.length &&
        std::abs(step->contrast) > 3 * step->contrast_sigma && step->sigma < 2)
      out.push_back({step->place, std::hypot(step->sigma, left_by_pixels(step->width)), step->width, step->contrast});
  }
  std::ranges::sort(out, {}, &ProfileEdge::place);
  return out;
}

std::pair<ProfileEdge, ProfileEdge> strongest_two(const std::vector<ProfileEdge>& edges) {
  std::vector<ProfileEdge> order = edges;
  std::ranges::sort(order, std::greater(), [](const ProfileEdge& e) { return std::abs(e.contrast); });
  if (order[0].place > order[1].place) std::swap(order[0], order[1]);
  return {order[0], order[1]};
}

}  // namespace fexel
