#include "marks/style.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"

namespace fexel {
namespace {

/// A number of a style: its key, where it is, and its range.
struct NumberKey {
  const char* key;
  std::optional<double> MarkStyle::*set;
  double MarkLook::*look;
  double low, high;
  bool page = false;
};
constexpr NumberKey number_keys[] = {
    {"text_size", &MarkStyle::text_size, &MarkLook::text_size, 2, 100},
    {"line_width", &MarkStyle::line_width, &MarkLook::line_width, 0.1, 20},
    {"bar_thickness", &MarkStyle::bar_thickness, &MarkLook::bar_thickness, 0.2, 40},
    {"margin", &MarkStyle::margin, &MarkLook::margin, 0, 200},
    {"width", &MarkStyle::width, &MarkLook::width, 5, 2000, true},
    {"dpi", &MarkStyle::dpi, &MarkLook::dpi, 0, 2400, true},
};

struct WordKey {
  const char* key;
  std::optional<std::string> MarkStyle::*set;
  std::string MarkLook::*look;
  std::vector<std::string> words;
  bool colour = false;
};
const std::vector<WordKey>& word_keys() {
  static const std::vector<WordKey> keys = {
      {"font", &MarkStyle::font, &MarkLook::font, {}},
      {"colour", &MarkStyle::colour, &MarkLook::colour, {"auto"}, true},
      {"backing", &MarkStyle::backing, &MarkLook::backing, {"auto", "none"}, true},
      {"ends", &MarkStyle::ends, &MarkLook::ends, {"plain", "ticks"}},
  };
  return keys;
}

double linear(double v) {
  return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
}

}  // namespace

std::optional<Colour> colour_of(const std::string& text) {
  if (text.size() != 7 || text[0] != '#') return std::nullopt;
  Colour out;
  double* parts[] = {&out.red, &out.green, &out.blue};
  for (std::size_t i = 0; i < 3; ++i) {
    int value = 0;
    for (std::size_t j = 1 + 2 * i; j < 3 + 2 * i; ++j) {
      const char c = text[j];
      const int digit = c >= '0' && c <= '9'   ? c - '0'
                        : c >= 'a' && c <= 'f' ? c - 'a' + 10
                        : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                               : -1;
      if (digit < 0) return std::nullopt;
      value = 16 * value + digit;
    }
    *parts[i] = value / 255.0;
  }
  return out;
}

std::string text_of_colour(const Colour& colour) {
  const auto byte = [](double v) { return static_cast<int>(std::lround(255 * std::clamp(v, 0.0, 1.0))); };
  return fmt::format("#{:02x}{:02x}{:02x}", byte(colour.red), byte(colour.green), byte(colour.blue));
}

double luminance(const Colour& colour) {
  return 0.2126 * linear(colour.red) + 0.7152 * linear(colour.green) + 0.0722 * linear(colour.blue);
}

double contrast_ratio(double a, double b) {
  return (std::max(a, b) + 0.05) / (std::min(a, b) + 0.05);
}

MarkLook look_of(const MarkStyle& common, const MarkStyle& own) {
  MarkLook out;
  for (const MarkStyle* style : {&common, &own}) {
    for (const NumberKey& key : number_keys)
      if (const auto& value = style->*key.set; value && (style == &common || !key.page)) out.*key.look = *value;
    for (const WordKey& key : word_keys())
      if (const auto& value = style->*key.set) out.*key.look = *value;
  }
  return out;
}

MarkStyle read_style(const Json& value, const std::string& path, bool page) {
  std::vector<std::string> allowed;
  for (const WordKey& key : word_keys()) allowed.emplace_back(key.key);
  for (const NumberKey& key : number_keys)
    if (page || !key.page) allowed.emplace_back(key.key);
  const JsonReader in(value, path, allowed);
  MarkStyle out;
  for (const NumberKey& key : number_keys)
    if (in.has(key.key)) out.*key.set = in.number(key.key, key.low, key.high);
  for (const WordKey& key : word_keys()) {
    if (!in.has(key.key)) continue;
    const std::string word = in.text(key.key);
    const bool known = std::ranges::find(key.words, word) != key.words.end() || (key.colour && colour_of(word));
    const bool font = key.words.empty() && !word.empty() && word.size() < 100 &&
                      std::ranges::none_of(word, [](unsigned char c) { return c < 32; });
    if (!known && !font)
      JsonReader::refuse(in.at(key.key), in.path(key.key),
                         key.words.empty() ? "the name of a font"
                         : key.colour      ? either_of(key.words) + ", or a colour as #1a6b68"
                                           : either_of(key.words));
    out.*key.set = word;
  }
  if (out.dpi && *out.dpi > 0 && *out.dpi < least_dpi)
    JsonReader::refuse(in.at("dpi"), in.path("dpi"), "20 to 2400, or 0 for the picture's own pixels");
  return out;
}

Json style_json(const MarkStyle& style) {
  Json out = Json::object();
  for (const WordKey& key : word_keys())
    if (const auto& value = style.*key.set) out[key.key] = *value;
  for (const NumberKey& key : number_keys)
    if (const auto& value = style.*key.set) out[key.key] = *value;
  return out;
}

double pixels_per_point(const MarkLook& look, double copy_width) {
  return copy_width / (look.width / 25.4 * 72);
}

double copy_scale(const MarkStyle& common, Size result) {
  const MarkLook look = look_of(common);
  return look.dpi > 0 ? std::max(1.0, std::round(look.width / 25.4 * look.dpi)) / result.width : 1;
}

}  // namespace fexel
