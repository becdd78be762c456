#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "marks/lay_out_marks.h"

namespace fexel {

RoundLength round_length(double wanted, const std::string& unit) {
  static const std::vector<std::string> metric{"nm", "um", "mm", "m", "km"};
  RoundLength out{1, unit};
  double best = 1e300;
  const int power = static_cast<int>(std::floor(std::log10(wanted)));
  for (int p = power - 1; p <= power + 1; ++p)
    for (const double digit : {1.0, 2.0, 5.0}) {
      const double value = digit * std::pow(10.0, p), off = std::abs(std::log(value / wanted));
      if (off < best) {
        best = off;
        out.value = value;
      }
    }
  if (std::ranges::find(metric, unit) == metric.end() && (unit != "cm" || (out.value >= 1 && out.value < 1000)))
    return out;
  // 0.05 mm is 50 um.
  const double metres = out.value * metres_per(unit);
  for (const std::string& other : metric) {
    const double value = metres / metres_per(other);
    if (value < 0.9999 || value > 999) continue;
    // Without what the powers of ten leave behind the last digit.
    return {rounded_to(value, 6), other};
  }
  return out;
}

}  // namespace fexel
