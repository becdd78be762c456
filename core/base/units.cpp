#include "base/units.h"

#include <fmt/format.h>

#include <charconv>

#include "base/error.h"

namespace fexel {
namespace {

struct UnitEntry {
  const char* name;
  double metres;
};

constexpr UnitEntry unit_table[] = {{"nm", 1e-9}, {"um", 1e-6}, {"mm", 1e-3},  {"cm", 1e-2},
                                    {"m", 1.0},   {"km", 1e3},  {"in", 0.0254}};

std::string with_true_minus(std::string text) {
  if (text.starts_with('-')) text.replace(0, 1, "−");
  return text;
}

}  // namespace

bool PixelSize::square() const {
  return std::abs(x / y - 1) < 1e-3;
}

const std::vector<std::string>& length_units() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> all;
    for (const auto& entry : unit_table) all.emplace_back(entry.name);
    return all;
  }();
  return names;
}

bool is_length_unit(std::string_view unit) {
  return std::ranges::find(length_units(), unit) != length_units().end();
}

double metres_per(std::string_view unit) {
  for (const auto& entry : unit_table)
    if (unit == entry.name) return entry.metres;
  throw call_error(fmt::format("\"{}\" is not a unit of length that Fexel knows.", unit), "unit",
                   "Use nm, um, mm, cm, m, km or in.");
}

PixelSize in_unit(const PixelSize& size, std::string_view unit) {
  const double factor = metres_per(size.unit) / metres_per(unit);
  return {size.x * factor, size.y * factor, std::string(unit)};
}

std::string number_text(double value, int decimals) {
  if (!std::isfinite(value)) return "–";
  std::string text = fmt::format("{:.{}f}", value, decimals);
  if (text.starts_with('-') && text.find_first_of("123456789") == std::string::npos) text.erase(0, 1);
  return with_true_minus(text);
}

int decimals_for(double uncertainty) {
  if (!(uncertainty > 0)) return 2;
  return std::clamp(static_cast<int>(std::ceil(-std::log10(uncertainty) + 0.3)), 0, 6);
}

double rounded_to(double value, int digits) {
  return number_in(fmt::format("{:.{}g}", value, digits)).value_or(value);
}

std::optional<double> number_in(std::string_view text) {
  double value = 0;
  const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
  return code == std::errc() && end != text.data() ? std::optional(value) : std::nullopt;
}

std::string short_number(double value, int digits) {
  if (!std::isfinite(value)) return "–";
  return with_true_minus(fmt::format("{:.{}g}", value, digits));
}

std::string unit_name(const std::string& unit) {
  return unit == "um" ? "µm" : unit == "us" ? "µs" : unit;
}

}  // namespace fexel
