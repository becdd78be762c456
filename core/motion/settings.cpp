#include "motion/settings.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int least_size = 9, largest_size = 201, most_step = 1000;
constexpr std::size_t most_corners = 1000, most_rules = 32;

const std::vector<std::string>& measure_words() {
  static const std::vector<std::string> words{"small", "green-lagrange"};
  return words;
}
template <class Enum>
Enum chosen(const std::vector<std::string>& words, const std::string& word) {
  return static_cast<Enum>(std::ranges::find(words, word) - words.begin());
}

std::vector<Point> points_of(const Json& list, const std::string& path) {
  if (!list.is_array() || list.size() < 3 || list.size() > most_corners)
    JsonReader::refuse(list, path, "a list of at least three points");
  std::vector<Point> out;
  for (std::size_t i = 0; i < list.size(); ++i)
    out.push_back(JsonReader::point(list[i], fmt::format("{}/{}", path, i)));
  return out;
}
Json json_of(const std::vector<Point>& points) {
  Json out = Json::array();
  for (const Point p : points) out.push_back({p.x, p.y});
  return out;
}

CleanRule rule_of(const Json& value, const std::string& path) {
  const JsonReader in(value, path, {"rule", "limit", "outline"});
  CleanRule out;
  out.kind = chosen<CleanRule::Kind>(clean_words(), in.choice("rule", clean_words()));
  if (out.kind == CleanRule::Kind::limits)
    out.outline = points_of(in.at("outline"), in.path("outline"));
  else
    out.limit = in.number("limit", 0, 1e6);
  return out;
}

void read_subset_size(const JsonReader& in, SubsetSettings& subset) {
  if (in.has("size")) subset.size = in.whole("size", least_size, largest_size);
  if (subset.size % 2 == 0)
    JsonReader::refuse(in.at("size"), in.path("size"), "an odd number: a subset has a pixel in its middle");
}

void read_windows(const JsonReader& in, WindowSettings& window) {
  if (in.has("size")) {
    window.sizes.clear();
    for (const double size : in.numbers("size")) {
      if (!(size == std::floor(size) && std::abs(size) < 1e6))
        JsonReader::refuse(in.at("size"), in.path("size"), "even numbers of px, from large to small");
      window.sizes.push_back(static_cast<int>(size));
    }
  }
  if (in.has("passes")) window.passes = in.whole("passes", 0, 20);
  if (in.has("robust")) window.robust = in.truth("robust");
  if (in.has("ensemble")) window.ensemble = in.truth("ensemble");
  try {
    check_windows(window);
  } catch (const Error& error) {
    throw call_error(error.message(), in.path("size"), error.remedy());
  }
}

}  // namespace

const std::vector<std::string>& motion_method_words() {
  static const std::vector<std::string> words{"subset", "window"};
  return words;
}

const std::vector<std::string>& motion_against_words() {
  static const std::vector<std::string> words{"first", "neighbour", "pairs"};
  return words;
}

const std::vector<std::string>& motion_keys() {
  static const std::vector<std::string> keys{"method",         "spacing", "size",   "reach",   "back", "against",
                                             "region",         "prepare", "renew",  "clean",   "fill", "strain",
                                             "strain_measure", "passes",  "robust", "ensemble"};
  return keys;
}

void read_motion(JsonReader& in, MotionSettings& s) {
  if (in.has("method"))
    s.method = chosen<MotionMethod>(motion_method_words(), in.choice("method", motion_method_words()));
  if (in.has("spacing")) {
    const std::vector<double> steps = in.numbers("spacing");
    if (steps.size() > 2) JsonReader::refuse(in.at("spacing"), in.path("spacing"), "one whole number, or two");
    for (const double step : steps)
      if (!(step >= 1 && step <= most_step && step == std::floor(step)))
        JsonReader::refuse(in.at("spacing"), in.path("spacing"), fmt::format("whole numbers from 1 to {}", most_step));
    s.step_x = static_cast<int>(steps.front());
    s.step_y = static_cast<int>(steps.back());
  }
  if (s.method == MotionMethod::window)
    read_windows(in, s.window);
  else
    read_subset_size(in, s.subset);
  if (in.has("reach")) s.subset.reach = in.number("reach", 1, 1e4);
  if (in.has("back")) s.subset.back = in.truth("back");
  if (in.has("against"))
    s.against = chosen<MotionAgainst>(motion_against_words(), in.choice("against", motion_against_words()));
  if (in.has("region")) s.region = points_of(in.at("region"), in.path("region"));
  if (in.has("prepare")) {
    const JsonReader prepare(in.at("prepare"), in.path("prepare"),
                             {"high_pass", "local_contrast", "smoothing", "background", "apart"});
    if (prepare.has("background"))
      s.prepare.background =
          chosen<MotionBackground>(motion_background_words(), prepare.choice("background", motion_background_words()));
    if (prepare.has("apart")) s.prepare.apart = prepare.truth("apart");
    if (prepare.has("high_pass")) s.prepare.high_pass = prepare.number("high_pass", 0.5, 1000);
    if (prepare.has("local_contrast")) s.prepare.local_contrast = prepare.number("local_contrast", 4, 1000);
    if (prepare.has("smoothing")) s.prepare.smoothing = prepare.number("smoothing", 0.1, 20);
  }
  if (in.has("renew")) s.renew = in.truth("renew");
  if (in.has("clean")) {
    const Json& rules = in.array("clean");
    if (rules.size() > most_rules)
      JsonReader::refuse(rules, in.path("clean"), fmt::format("at most {} rules", most_rules));
    for (std::size_t i = 0; i < rules.size(); ++i)
      s.clean.push_back(rule_of(rules[i], fmt::format("{}/{}", in.path("clean"), i)));
  }
  if (in.has("fill")) s.fill = in.truth("fill");
  if (in.has("strain")) {
    s.strain = in.whole("strain", 3, 101);
    if (*s.strain % 2 == 0) JsonReader::refuse(in.at("strain"), in.path("strain"), "an odd number of points");
  }
  if (in.has("strain_measure"))
    s.measure = chosen<StrainMeasure>(measure_words(), in.choice("strain_measure", measure_words()));
}

void write_motion(Json& out, const MotionSettings& s) {
  const MotionSettings plain;
  out["method"] = motion_method_words()[static_cast<std::size_t>(s.method)];
  if (s.step_x == s.step_y)
    out["spacing"] = s.step_x;
  else
    out["spacing"] = {s.step_x, s.step_y};
  if (s.method == MotionMethod::window) {
    out["size"] = s.window.sizes;
    if (s.window.passes != plain.window.passes) out["passes"] = s.window.passes;
    if (s.window.robust) out["robust"] = true;
    if (s.window.ensemble) out["ensemble"] = true;
  } else {
    out["size"] = s.subset.size;
  }
  out["against"] = motion_against_words()[static_cast<std::size_t>(s.against)];
  if (s.subset.reach != plain.subset.reach) out["reach"] = s.subset.reach;
  if (s.subset.back) out["back"] = true;
  if (!s.region.empty()) out["region"] = json_of(s.region);
  if (!(s.prepare == MotionPrepare{})) {
    Json prepare = Json::object();
    if (s.prepare.background != MotionBackground::none) {
      prepare["background"] = motion_background_words()[static_cast<std::size_t>(s.prepare.background)];
      if (s.prepare.apart) prepare["apart"] = true;
    }
    if (s.prepare.high_pass > 0) prepare["high_pass"] = s.prepare.high_pass;
    if (s.prepare.local_contrast > 0) prepare["local_contrast"] = s.prepare.local_contrast;
    if (s.prepare.smoothing > 0) prepare["smoothing"] = s.prepare.smoothing;
    out["prepare"] = prepare;
  }
  if (!s.renew) out["renew"] = false;
  for (const CleanRule& rule : s.clean) {
    Json one{{"rule", name_of(rule.kind)}};
    if (rule.kind == CleanRule::Kind::limits)
      one["outline"] = json_of(rule.outline);
    else
      one["limit"] = rule.limit;
    out["clean"].push_back(one);
  }
  if (s.fill) out["fill"] = true;
  if (s.strain) out["strain"] = *s.strain;
  if (s.measure != StrainMeasure::small) out["strain_measure"] = measure_words()[static_cast<std::size_t>(s.measure)];
}

MotionGrid grid_of(const MotionSettings& s, Size size) {
  return s.method == MotionMethod::window ? window_grid(size, s.region, s.step_x, s.step_y, s.window.last())
                                          : grid_over(size, s.region, s.step_x, s.step_y, s.subset.size / 2 + 2);
}

void check_motion(const MotionSettings& s) {
  if (s.method == MotionMethod::window) check_windows(s.window);
  if (s.method == MotionMethod::window && s.window.ensemble && s.against == MotionAgainst::first)
    throw call_error("Against the first frame no two pairs show the same movement.", "/against",
                     "Measure all pairs as one in pairs, or each frame against the one before.");
  if (s.subset.size < least_size || s.subset.size > largest_size || s.subset.size % 2 == 0)
    throw call_error(fmt::format("A subset of {} px is not possible.", s.subset.size), "/size",
                     fmt::format("Give an odd number from {} to {}.", least_size, largest_size));
  if (s.step_x < 1 || s.step_y < 1 || s.step_x > most_step || s.step_y > most_step)
    throw call_error(fmt::format("A spacing of {} x {} px is not possible.", s.step_x, s.step_y), "/spacing",
                     fmt::format("Give whole numbers from 1 to {}.", most_step));
}

}  // namespace fexel
