#include <fmt/format.h>

#include "chain/chain.h"
#include "chain/reader.h"
#include "files/picture.h"

namespace fexel {
namespace {

constexpr double any_number = 1e12;

/// Follows the text to know the path of whatever cannot be read.
class PathKeeper : public nlohmann::json_sax<Json> {
 public:
  bool null() override { return value(); }
  bool boolean(bool) override { return value(); }
  bool number_integer(number_integer_t) override { return value(); }
  bool number_unsigned(number_unsigned_t) override { return value(); }
  bool number_float(number_float_t, const string_t&) override { return value(); }
  bool string(string_t&) override { return value(); }
  bool binary(binary_t&) override { return value(); }
  bool start_object(std::size_t) override { return open(false); }
  bool start_array(std::size_t) override { return open(true); }
  bool end_object() override { return close(); }
  bool end_array() override { return close(); }
  bool key(string_t& name) override {
    Level& level = levels_.back();
    level.key = name;
    if (!level.seen.insert(name).second)
      throw call_error(fmt::format("The key \"{}\" is given twice.", name), path(), "Keep one of them.");
    return true;
  }
  bool parse_error(std::size_t position, const std::string& token, const nlohmann::detail::exception& error) override {
    if (error.id == 406)
      throw call_error(fmt::format("{} is not a finite number.", token), path(),
                       "Give a number between −1e12 and 1e12.");
    throw call_error(
        fmt::format("The text is not JSON: at byte {} something else was expected (near \"{}\").", position, token),
        path().empty() ? "/" : path(), "Give a JSON object as docs/chain.md describes.");
  }

 private:
  struct Level {
    bool array = false;
    std::size_t index = 0;
    std::string key;
    std::set<std::string> seen;
  };
  bool value() {
    if (!levels_.empty()) ++levels_.back().index;
    return true;
  }
  bool open(bool array) {
    if (levels_.size() > 64)
      throw call_error("The text is nested too deeply.", path(), "A chain needs at most eight levels.");
    levels_.push_back({array, 0, {}, {}});
    return true;
  }
  bool close() {
    levels_.pop_back();
    return value();
  }
  std::string path() const {
    std::string text;
    for (const Level& level : levels_) {
      if (level.array)
        text += fmt::format("/{}", level.index);
      else if (!level.key.empty())
        text += "/" + level.key;
    }
    return text;
  }
  std::vector<Level> levels_;
};

std::string shown(const Json& value) {
  std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
  if (text.size() > 60) text = text.substr(0, 57) + "...";
  return text;
}

template <class Kind>
bool read_as(const Json& value, const std::string& path, const std::string& word, Step& step) {
  if (word != Kind::word) return false;
  std::vector<std::string> allowed = {"step", "on", "name"};
  allowed.insert(allowed.end(), Kind::keys.begin(), Kind::keys.end());
  JsonReader in(value, path, allowed);
  Kind kind;
  read_step(in, kind);
  step.kind = kind;
  if (in.has("on")) step.on = in.truth("on");
  if (in.has("name")) step.name = in.text("name");
  return true;
}

template <std::size_t... I>
bool read_any(const Json& value, const std::string& path, const std::string& word, Step& step,
              std::index_sequence<I...>) {
  return (read_as<std::variant_alternative_t<I, StepKind>>(value, path, word, step) || ...);
}

Step read_one(const Json& value, const std::string& path) {
  if (!value.is_object()) JsonReader::refuse(value, path, "a step, an object with the key \"step\"");
  if (!value.contains("step"))
    throw call_error("The key \"step\" is missing.", path + "/step", "Give " + either_of(step_words()) + ".");
  const Json& word = value.at("step");
  if (!word.is_string()) JsonReader::refuse(word, path + "/step", either_of(step_words()));
  const auto name = word.get<std::string>();
  Step step;
  if (read_any(value, path, name, step, std::make_index_sequence<std::variant_size_v<StepKind>>{})) return step;
  throw call_error(fmt::format("There is no step \"{}\".", name), path + "/step",
                   "Use " + either_of(step_words()) + ".");
}

Resampling read_resampling(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"kernel", "edge", "fill", "antialias"});
  Resampling out;
  const auto words = [](const std::vector<std::string_view>& names) {
    return std::vector<std::string>(names.begin(), names.end());
  };
  if (in.has("kernel")) out.kernel = *kernel_named(in.choice("kernel", words(kernel_names())));
  if (in.has("edge")) out.edge = *edge_named(in.choice("edge", words(edge_names())));
  if (in.has("antialias")) out.antialias = in.truth("antialias");
  if (in.has("fill")) out.fill = in.numbers("fill");
  return out;
}

Calibration read_calibration(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"name", "pixel_size", "unit", "uncertainty", "lens", "made"});
  Calibration out;
  const Json& size = in.array("pixel_size");
  if (size.size() != 2) JsonReader::refuse(size, in.path("pixel_size"), "two numbers, the pixel's width and height");
  out.pixel.x = JsonReader::number(size[0], in.path("pixel_size") + "/0", 1e-12, any_number);
  out.pixel.y = JsonReader::number(size[1], in.path("pixel_size") + "/1", 1e-12, any_number);
  out.pixel.unit = in.choice("unit", length_units());
  if (in.has("name")) out.name = in.text("name");
  if (in.has("uncertainty")) out.uncertainty = in.number("uncertainty", 0, any_number);
  if (in.has("lens")) out.lens = in.text("lens");
  if (in.has("made")) out.made = in.text("made");
  return out;
}

Gauge read_gauge(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"probe", "name", "station", "points", "expected", "unit"});
  in.choice("probe", {"gauge"});
  Gauge gauge;
  if (in.has("name")) gauge.name = in.text("name");
  gauge.station = in.whole("station", 0, 100000);
  const Json& points = in.array("points");
  if (points.size() != 2) JsonReader::refuse(points, in.path("points"), "two points");
  gauge.from = JsonReader::point(points[0], in.path("points") + "/0");
  gauge.to = JsonReader::point(points[1], in.path("points") + "/1");
  if (in.has("expected")) gauge.expected = in.number("expected", 1e-12, any_number);
  if (in.has("unit")) gauge.unit = in.choice("unit", length_units());
  return gauge;
}

SourceReference read_source(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"path", "sha256"});
  SourceReference source{in.text("path"), {}};
  if (in.has("sha256")) source.sha256 = in.text("sha256");
  return source;
}

}  // namespace

std::string either_of(const std::vector<std::string>& words) {
  std::string text;
  for (std::size_t i = 0; i < words.size(); ++i)
    text += (i == 0 ? "" : i + 1 == words.size() ? " or " : ", ") + words[i];
  return text;
}

Json parse_json(const std::string& text) {
  PathKeeper keeper;
  Json::sax_parse(text, &keeper);
  return Json::parse(text);
}

JsonReader::JsonReader(const Json& value, std::string path, std::vector<std::string> keys)
    : value_(value), path_(std::move(path)) {
  if (!value.is_object()) refuse(value, path_.empty() ? "/" : path_, "an object");
  for (const auto& [key, ignored] : value.items())
    if (std::ranges::find(keys, key) == keys.end())
      throw call_error(fmt::format("The key \"{}\" is not known here (its value is {}).", key, shown(ignored)),
                       path_ + "/" + key, "Use " + either_of(keys) + ".");
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

Chain parse_chain(const std::string& text) {
  const Json value = parse_json(text);
  JsonReader in(value, "", {"fexel", "sources", "calibration", "resample", "steps", "probes"});
  in.whole("fexel", 1, 1);
  Chain chain;
  const auto each = [&](const std::string& key, auto&& body) {
    if (!in.has(key)) return;
    const Json& list = in.array(key);
    if (list.size() > 10000)
      throw call_error(fmt::format("The list has {} entries.", list.size()), in.path(key), "At most 10000 are read.");
    for (std::size_t i = 0; i < list.size(); ++i) body(list[i], fmt::format("{}/{}", in.path(key), i));
  };
  each("sources", [&](const Json& v, const std::string& path) { chain.sources.push_back(read_source(v, path)); });
  if (in.has("calibration")) chain.calibration = read_calibration(in.at("calibration"), in.path("calibration"));
  if (in.has("resample")) chain.resampling = read_resampling(in.at("resample"), in.path("resample"));
  each("steps", [&](const Json& v, const std::string& path) { chain.steps.push_back(read_one(v, path)); });
  each("probes", [&](const Json& v, const std::string& path) {
    chain.gauges.push_back(read_gauge(v, path));
    const int last = static_cast<int>(chain.steps.size());
    if (chain.gauges.back().station > last)
      JsonReader::refuse(v.at("station"), path + "/station", fmt::format("a station from 0 (the source) to {}", last));
  });
  return chain;
}

Chain load_chain(const std::string& path) {
  const std::string text = read_text(path);
  try {
    return parse_chain(text);
  } catch (const Error& error) {
    throw error.at(path + ": " + error.where());
  }
}

}  // namespace fexel
