#include "align/periods.h"

#include <cmath>
#include <numbers>

namespace fexel {
namespace {

constexpr int side = 384;           // of the part that is looked at
constexpr int least = 4;            // px
constexpr double alike = 0.4;       // correlation from which a shift counts
constexpr double as_strong = 0.85;  // of the strongest

struct Lag {
  Point shift;
  double height;
};

}  // namespace

std::vector<Point> periods_in(const Image& plane, int left, int top, Size size, const FftPlans& transforms) {
  const int width = std::min(size.width, side), height = std::min(size.height, side);
  const int x0 = left + (size.width - width) / 2, y0 = top + (size.height - height) / 2;
  const Size whole{FftPlans::quick(2 * width), FftPlans::quick(2 * height)};
  const auto at = [&](int x, int y) {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(whole.width) + static_cast<std::size_t>(x);
  };
  const auto fall = [](int i, int count) { return static_cast<float>(std::sin(std::numbers::pi * (i + 0.5) / count)); };
  Plane values(static_cast<std::size_t>(whole.width) * static_cast<std::size_t>(whole.height)), share = values;
  double sum = 0;
  int known = 0;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      if (const float v = plane.row<float>(0, y0 + y)[x0 + x]; !std::isnan(v)) {
        sum += static_cast<double>(v);
        ++known;
      }
  if (known < width * height / 4) return {};
  const auto mean = static_cast<float>(sum / known);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const float v = plane.row<float>(0, y0 + y)[x0 + x];
      if (std::isnan(v)) continue;
      share[at(x, y)] = fall(x, width) * fall(y, height);
      values[at(x, y)] = (v - mean) * share[at(x, y)];
    }
  const int wide = whole.width / 2 + 1;
  const auto with_itself = [&](const Plane& of, bool slope) {
    Spectrum spectrum = transforms.forward(whole, of);
    for (int v = 0; v < whole.height; ++v)
      for (int u = 0; u < wide; ++u) {
        auto& value =
            spectrum[static_cast<std::size_t>(v) * static_cast<std::size_t>(wide) + static_cast<std::size_t>(u)];
        const double sx = std::sin(2 * std::numbers::pi * u / whole.width),
                     sy = std::sin(2 * std::numbers::pi * v / whole.height);
        value = std::norm(value) * (slope ? static_cast<float>(sx * sx + sy * sy) : 1.0F);
      }
    return transforms.backward(whole, std::move(spectrum));
  };
  const Plane gradients = with_itself(values, true), overlap = with_itself(share, false);
  const auto value = [&](int x, int y) {
    const std::size_t k = at((x + whole.width) % whole.width, (y + whole.height) % whole.height);
    return static_cast<double>(gradients[k]) / gradients[0] * static_cast<double>(overlap[0]) /
           std::max(static_cast<double>(overlap[k]), 0.05 * static_cast<double>(overlap[0]));
  };
  if (!(gradients[0] > 0)) return {};
  std::vector<Lag> lags;
  double strongest = 0;
  for (int y = 0; y <= height / 2; ++y)
    for (int x = -width / 2; x <= width / 2; ++x) {
      if (x * x + y * y < least * least || (y == 0 && x < 0)) continue;
      const double here = value(x, y);
      if (here < alike) continue;
      bool top_of_all = true;
      for (int j = -2; j <= 2 && top_of_all; ++j)
        for (int i = -2; i <= 2; ++i)
          if ((i != 0 || j != 0) && value(x + i, y + j) > here) {
            top_of_all = false;
            break;
          }
      if (!top_of_all) continue;
      const auto between = [here](double before, double after) {
        const double bend = before + after - 2 * here;
        return bend < 0 ? 0.5 * (before - after) / bend : 0.0;
      };
      lags.push_back(
          {{x + between(value(x - 1, y), value(x + 1, y)), y + between(value(x, y - 1), value(x, y + 1))}, here});
      strongest = std::max(strongest, here);
    }
  std::erase_if(lags, [&](const Lag& lag) { return lag.height < as_strong * strongest; });
  std::ranges::sort(lags, {}, [](const Lag& lag) { return distance(lag.shift, {}); });
  std::vector<Point> out;
  for (const Lag& lag : lags) {
    if (out.empty()) {
      out.push_back(lag.shift);
      continue;
    }
    const double across = std::abs(out[0].x * lag.shift.y - out[0].y * lag.shift.x);
    if (across < 0.3 * distance(out[0], {}) * distance(lag.shift, {})) continue;
    out.push_back(lag.shift);
    break;
  }
  return out;
}

}  // namespace fexel
