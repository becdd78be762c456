#include "text/reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <numbers>

#include "base/error.h"
#include "base/printable.h"
#include "base/units.h"

namespace fexel {
namespace {

constexpr double any_number = 1e12;

std::string shown(const Json& value) {
  std::string text = to_text(value);
  if (text.size() > 60) text = text.substr(0, 57) + "...";
  return text;
}

}  // namespace

std::string either_of(const std::vector<std::string>& words) {
  std::string text;
  for (std::size_t i = 0; i < words.size(); ++i)
    text += (i == 0 ? "" : i + 1 == words.size() ? " or " : ", ") + words[i];
  return text;
}

JsonReader::JsonReader(const Json& value, std::string path, std::vector<std::string> keys)
    : value_(value), path_(std::move(path)) {
  if (!value.is_object()) refuse(value, path_.empty() ? "/" : path_, "an object");
  for (const auto& [key, ignored] : value.items())
    if (std::ranges::find(keys, key) == keys.end())
      throw call_error(
          fmt::format("The key \"{}\" is not known here (its value is {}).", printable(key, 60), shown(ignored)),
          path_ + "/" + printable(key, 60), "Use " + either_of(keys) + ".");
}

const Json& JsonReader::at(const std::string& key) const {
  if (!value_.contains(key))
    throw call_error(fmt::format("The key \"{}\" is missing.", key), path(key),
                     "Add it; docs/chain.md says what it means.");
  return value_.at(key);
}

void JsonReader::refuse(const Json& value, const std::string& path, const std::string& accepted) {
  throw call_error(fmt::format("{} cannot be used here.", shown(value)), path, "Give " + accepted + ".");
}

double JsonReader::number(const Json& value, const std::string& path, double low, double high) {
  if (!value.is_number()) refuse(value, path, "a number");
  const double v = value.get<double>();
  if (!(v >= low && v <= high))
    refuse(value, path, fmt::format("a number from {} to {}", short_number(low), short_number(high)));
  return v;
}

double JsonReader::number(const std::string& key, double low, double high) const {
  return number(at(key), path(key), low, high);
}

double JsonReader::degrees(const std::string& key, double low, double high) const {
  if (!at(key).is_string()) return number(key, low, high);
  const std::string text = at(key).get<std::string>();
  double value = 0;
  const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
  std::string_view unit(end, static_cast<std::size_t>(text.data() + text.size() - end));
  while (unit.starts_with(' ')) unit.remove_prefix(1);
  const double made = value * 180 / std::numbers::pi;
  if (code != std::errc() || unit != "rad" || !(made >= low && made <= high))
    refuse(at(key), path(key), "a number of degrees, or radians as \"0.5 rad\"");
  return made;
}

int JsonReader::whole(const std::string& key, int low, int high) const {
  const double v = at(key).is_number() ? at(key).get<double>() : 0.5;
  if (!(v >= low && v <= high) || v != std::floor(v))
    refuse(at(key), path(key), fmt::format("a whole number from {} to {}", low, high));
  return static_cast<int>(v);
}

std::string JsonReader::text(const std::string& key) const {
  if (!at(key).is_string()) refuse(at(key), path(key), "a text in quotes");
  return at(key).get<std::string>();
}

bool JsonReader::truth(const std::string& key) const {
  if (!at(key).is_boolean()) refuse(at(key), path(key), "true or false");
  return at(key).get<bool>();
}

std::string JsonReader::choice(const std::string& key, const std::vector<std::string>& words) const {
  const Json& value = at(key);
  if (!value.is_string() || std::ranges::find(words, value.get<std::string>()) == words.end())
    refuse(value, path(key), either_of(words));
  return value.get<std::string>();
}

const Json& JsonReader::array(const std::string& key) const {
  if (!at(key).is_array()) refuse(at(key), path(key), "a list");
  return at(key);
}

std::vector<double> JsonReader::numbers(const std::string& key) const {
  const Json& value = at(key);
  if (!value.is_array()) return {number(value, path(key), -any_number, any_number)};
  if (value.empty()) refuse(value, path(key), "a number, or one number a band");
  std::vector<double> out;
  for (std::size_t i = 0; i < value.size(); ++i)
    out.push_back(number(value[i], fmt::format("{}/{}", path(key), i), -any_number, any_number));
  return out;
}

Point JsonReader::point(const Json& value, const std::string& path) {
  if (!value.is_array() || value.size() != 2) refuse(value, path, "a point, [x, y] in pixels");
  return {number(value[0], path + "/0", -any_number, any_number),
          number(value[1], path + "/1", -any_number, any_number)};
}

}  // namespace fexel
