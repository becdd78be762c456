#pragma once
/// Units of length, and numbers written for people.
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fexel {

/// The size of one pixel in x and y apart, in `unit`. Both are finite and above zero.
struct PixelSize {
  double x = 1;
  double y = 1;
  std::string unit = "mm";
  bool square() const;  ///< x and y agree within one part in a thousand
  double mean() const { return (x + y) / 2; }
  bool operator==(const PixelSize&) const = default;
};

/// The units that files and chains may name: nm, um, mm, cm, m, km, in.
const std::vector<std::string>& length_units();
bool is_length_unit(std::string_view unit);
/// Metres in one `unit`. Raises a call error for an unknown one.
double metres_per(std::string_view unit);
/// A unit of length or time as people write it: µm for um, µs for us.
std::string unit_name(const std::string& unit);
/// The pixel size said in another unit.
PixelSize in_unit(const PixelSize& size, std::string_view unit);

/// `value` with `decimals` digits behind the point and a true minus sign; "–" when it is not finite.
std::string number_text(double value, int decimals);
/// How many decimals show `value` to about a tenth of `uncertainty` (0 to 6).
int decimals_for(double uncertainty);
/// A factor or size in the shortest form with at most `digits` significant digits, without trailing zeros.
std::string short_number(double value, int digits = 4);
/// The nearest number of so many significant digits, as short_number() shows it.
double rounded_to(double value, int digits);
/// The number that a text begins with, with a point whatever the locale; nothing where there is none.
std::optional<double> number_in(std::string_view text);

/// The standard uncertainty, in pixels, of a point that a person places by hand.
inline constexpr double picking_by_hand = 0.5;

}  // namespace fexel
