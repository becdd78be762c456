#include "calibrate/ruled_strips.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include "base/error.h"
#include "filter/filter.h"
#include "measure/edge_profiles.h"

namespace fexel {
namespace {

constexpr int strip_count = 12;
constexpr double least_direction = 0.25;  // share of the gradients within 10 degrees of the commonest direction
constexpr double least_repeat = 0.2;      // autocorrelation of slopes, one spacing apart
constexpr double of_highest =
    0.35;  // of the autocorrelation: its first peak that is as high as this part of the highest

}  // namespace

void refuse_ruled_target(const std::string& why) {
  throw input_error(
      "No ruled target was found: " + why, "region",
      "Draw a region around evenly spaced, parallel lines, five or more, and leave out what else there is.");
}

Image grey_of(const Image& image, Region region) {
  Image out(region.width, region.height, 1, Depth::f32);
  if (image.has_mask()) out.make_mask(true);
  for (int y = 0; y < region.height; ++y)
    for (int x = 0; x < region.width; ++x) {
      float sum = 0;
      for (int band = 0; band < image.bands(); ++band) {
        const int px = region.x + x, py = region.y + y;
        sum += image.depth() == Depth::u8    ? image.row<std::uint8_t>(band, py)[px]
               : image.depth() == Depth::u16 ? image.row<std::uint16_t>(band, py)[px]
                                             : image.row<float>(band, py)[px];
      }
      out.row<float>(0, y)[x] = sum / static_cast<float>(image.bands());
      if (out.has_mask()) out.set_valid(x, y, image.valid(region.x + x, region.y + y));
    }
  return out;
}

double direction_across(const Image& plane, double noise) {
  constexpr int bins = 720;
  const Image smooth = gaussian(plane, 2, {});
  std::vector<double> histogram(bins, 0);
  double all = 0;
  for (int y = 1; y + 1 < plane.height(); ++y)
    for (int x = 1; x + 1 < plane.width(); ++x) {
      const double gx = double(smooth.row<float>(0, y)[x + 1] - smooth.row<float>(0, y)[x - 1]) / 2,
                   gy = double(smooth.row<float>(0, y + 1)[x] - smooth.row<float>(0, y - 1)[x]) / 2;
      // What smoothed noise leaves in a gradient is an eighth of it or so.
      const double weight = gx * gx + gy * gy;
      if (weight < 0.25 * noise * noise || weight == 0) continue;
      double turn = std::atan2(gy, gx) / std::numbers::pi;  // -1 to 1
      turn -= std::floor(turn);
      histogram[static_cast<std::size_t>(turn * bins) % bins] += weight;
      all += weight;
    }
  if (all == 0) refuse_ruled_target("nothing stands out here.");
  const auto near = [&](int middle, int reach) {
    double sum = 0;
    for (int k = -reach; k <= reach; ++k) sum += histogram[static_cast<std::size_t>((middle + k + bins) % bins)];
    return sum;
  };
  int best = 0;
  for (int i = 1; i < bins; ++i)
    if (near(i, 6) > near(best, 6)) best = i;
  if (near(best, 40) < least_direction * all) refuse_ruled_target("no direction stands out.");
  double sum = 0, moment = 0;
  for (int k = -12; k <= 12; ++k) {
    const double weight = histogram[static_cast<std::size_t>((best + k + bins) % bins)];
    sum += weight;
    moment += k * weight;
  }
  return (best + 0.5 + moment / sum) / bins * std::numbers::pi;
}

std::vector<RuledStrip> strips_across(const Image& plane, double direction, int most_wide) {
  const Point middle{plane.width() / 2.0, plane.height() / 2.0}, across{std::cos(direction), std::sin(direction)},
      along{-across.y, across.x};
  const auto reach = [&](Point d) { return (std::abs(d.x) * plane.width() + std::abs(d.y) * plane.height()) / 2; };
  const double high = 2 * reach(along);
  const int wide = std::clamp(static_cast<int>(high / strip_count), 1, most_wide);
  std::vector<RuledStrip> out;
  for (int s = 0; s < strip_count; ++s) {
    RuledStrip strip;
    strip.along = high * ((s + 0.5) / strip_count - 0.5);
    // As far as both edges of the strip lie inside.
    double low = -reach(across), end = reach(across);
    for (const double side : {-wide / 2.0, wide / 2.0}) {
      const Point p = middle + (strip.along + side) * along;
      for (const auto& [at, step, size] : {std::tuple(p.x, across.x, plane.width()), {p.y, across.y, plane.height()}}) {
        if (std::abs(step) < 1e-12) {
          if (at <= 0 || at >= size) low = end + 1;
          continue;
        }
        const double a = (0.01 - at) / step, b = (size - 0.01 - at) / step;
        low = std::max(low, std::min(a, b));
        end = std::min(end, std::max(a, b));
      }
    }
    if (end - low < least_lines * least_pitch) continue;
    strip.start = low;
    const auto value = samples_across(
        {plane, Map()},
        [&](int line, int k) {
          return middle + (strip.along + line - (wide - 1) / 2.0) * along +
                 (strip.start + k * pitch_of_samples) * across;
        },
        wide, static_cast<int>((end - low) / pitch_of_samples));
    if (!value) continue;
    strip.value = *value;
    strip.wide = wide;
    out.push_back(std::move(strip));
  }
  return out;
}

double spacing_across(const std::vector<RuledStrip>& strips) {
  constexpr int every = 2;  // samples
  std::size_t longest = 0;
  std::vector<std::vector<double>> slopes;
  for (const RuledStrip& strip : strips) {
    std::vector<double> slope;
    // Over a pixel and a half: what noise of single samples there is cancels in part.
    for (std::size_t i = 6; i < strip.value.size(); i += every)
      slope.push_back(double(strip.value[i] - strip.value[i - 6]));
    longest = std::max(longest, slope.size());
    slopes.push_back(std::move(slope));
  }
  const std::size_t lags = longest / 2;
  std::vector<double> repeat(lags, 0);
  double zero = 0;
  for (const auto& slope : slopes)
    for (const double v : slope) zero += v * v;
  double count_zero = 0;
  for (const auto& slope : slopes) count_zero += static_cast<double>(slope.size());
  if (!(zero > 0)) refuse_ruled_target("nothing stands out here.");
  for (std::size_t lag = 1; lag < lags; ++lag) {
    double sum = 0, count = 0;
    for (const auto& slope : slopes)
      for (std::size_t i = lag; i < slope.size(); ++i) {
        sum += slope[i] * slope[i - lag];
        ++count;
      }
    repeat[lag] = count > 0 ? sum / count / (zero / count_zero) : 0;
  }
  const auto first = static_cast<std::size_t>(least_pitch / pitch_of_samples / every);
  const auto top = [&](std::size_t lag) {
    return lag > first && lag + 1 < lags && repeat[lag] >= repeat[lag - 1] && repeat[lag] >= repeat[lag + 1];
  };
  double highest = 0;
  for (std::size_t lag = first; lag < lags; ++lag)
    if (top(lag)) highest = std::max(highest, repeat[lag]);
  if (highest < least_repeat) refuse_ruled_target("nothing repeats at an even spacing.");
  std::size_t best = 0;
  for (std::size_t lag = first; lag < lags && best == 0; ++lag)
    if (top(lag) && repeat[lag] > of_highest * highest) best = lag;
  const auto peak = [&](std::size_t lag) {
    const double l = repeat[lag - 1], c = repeat[lag], r = repeat[lag + 1], curve = l - 2 * c + r;
    return static_cast<double>(lag) + (curve < 0 ? (l - r) / (2 * curve) : 0);
  };
  double spacing = peak(best);
  for (int multiple = 2; multiple <= 8; ++multiple) {
    const auto near = static_cast<std::size_t>(std::lround(multiple * spacing));
    if (near + 2 >= lags) break;
    std::size_t at = near;
    for (const std::size_t lag : {near - 1, near + 1})
      if (repeat[lag] > repeat[at]) at = lag;
    if (top(at) && repeat[at] > 0.5 * repeat[best]) spacing = peak(at) / multiple;
  }
  return spacing * every * pitch_of_samples;
}

}  // namespace fexel
