#include <fmt/format.h>

#include "base/error.h"
#include "chain/calibrations.h"
#include "chain/chain.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr double any_number = 1e12;

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
  for (const auto& [old, now] : renamed_steps())
    if (name == old)
      throw call_error(fmt::format("The step \"{}\" has a new name.", name), path + "/step", "Write " + now + ".");
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
  if (in.has("edge")) out.edge = *border_mode_named(in.choice("edge", words(border_mode_names())));
  if (in.has("antialias")) out.antialias = in.truth("antialias");
  if (in.has("fill")) out.fill = in.numbers("fill");
  return out;
}

}  // namespace

Calibration read_calibration(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"name", "pixel_size", "unit", "uncertainty", "lens", "made", "size", "method"});
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
  if (in.has("method")) out.method = in.text("method");
  if (in.has("size")) {
    const Json& made_for = in.array("size");
    if (made_for.size() != 2) JsonReader::refuse(made_for, in.path("size"), "two numbers, width and height in pixels");
    const auto side = [&](std::size_t i, const char* name) {
      const double value = JsonReader::number(made_for[i], in.path("size") + name, 1, 1e9);
      if (value != std::floor(value)) JsonReader::refuse(made_for[i], in.path("size") + name, "a whole number");
      return static_cast<int>(value);
    };
    out.size = Size{side(0, "/0"), side(1, "/1")};
  }
  return out;
}

namespace {

TimeStep read_time_step(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"value", "unit"});
  return {in.number("value", 1e-12, any_number), in.choice("unit", time_units())};
}

Axes read_axes(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"origin", "station", "value", "x", "y", "turn"});
  Axes out;
  out.origin = JsonReader::point(in.at("origin"), in.path("origin"));
  if (in.has("station")) out.station = in.whole("station", 0, 100000);
  if (in.has("value")) out.value = JsonReader::point(in.at("value"), in.path("value"));
  if (in.has("x")) out.right = in.choice("x", {"right", "left"}) == "right";
  if (in.has("y")) out.up = in.choice("y", {"up", "down"}) == "up";
  if (in.has("turn")) out.turn = in.degrees("turn", -360, 360);
  return out;
}

Mask read_mask(const Json& value, const std::string& path) {
  JsonReader any(
      value, path,
      {"name", "shape", "use", "frames", "x", "y", "width", "height", "centre", "radius", "inner", "outer", "points"});
  Mask mask;
  const std::string shape = any.choice("shape", {"rectangle", "circle", "ring", "polygon"});
  std::vector<std::string> keys{"name", "shape", "use", "frames"};
  const auto reader = [&](const std::vector<std::string>& more) {
    keys.insert(keys.end(), more.begin(), more.end());
    return JsonReader(value, path, keys);
  };
  constexpr double far = 1e7, least = 0.01;
  if (shape == "rectangle") {
    const JsonReader in = reader({"x", "y", "width", "height"});
    const Point corner{in.number("x", -far, far), in.number("y", -far, far)};
    mask.points = {corner, corner + Point{in.number("width", least, far), in.number("height", least, far)}};
  } else if (shape == "polygon") {
    mask.shape = Mask::Shape::polygon;
    const JsonReader in = reader({"points"});
    const Json& points = in.array("points");
    if (points.size() < 3 || points.size() > 10000) JsonReader::refuse(points, in.path("points"), "3 to 10000 points");
    for (std::size_t i = 0; i < points.size(); ++i)
      mask.points.push_back(JsonReader::point(points[i], fmt::format("{}/{}", in.path("points"), i)));
  } else {
    const bool ring = shape == "ring";
    mask.shape = ring ? Mask::Shape::ring : Mask::Shape::circle;
    const JsonReader in = ring ? reader({"centre", "inner", "outer"}) : reader({"centre", "radius"});
    mask.points = {JsonReader::point(in.at("centre"), in.path("centre"))};
    mask.radius = in.number(ring ? "outer" : "radius", least, far);
    if (ring) mask.inner = in.number("inner", 0, far);
    if (ring && mask.inner >= mask.radius)
      JsonReader::refuse(in.at("inner"), in.path("inner"), "a radius that is smaller than the outer one");
  }
  if (any.has("name")) mask.name = any.text("name");
  if (any.has("use"))
    mask.use = any.choice("use", {"leave-out", "only"}) == "only" ? Mask::Use::only : Mask::Use::leave_out;
  if (!any.has("frames")) return mask;
  const Json& frames = any.at("frames");
  if (frames.is_string() && frames.get<std::string>() == "all") return mask;
  const auto refuse = [&] { JsonReader::refuse(frames, any.path("frames"), "\"all\", or numbers of frames from 1"); };
  if (!frames.is_array() || frames.empty() || frames.size() > 100000) refuse();
  for (const Json& frame : frames) {
    if (!frame.is_number_integer() || frame.get<std::int64_t>() < 1 || frame.get<std::int64_t>() > 10000000) refuse();
    mask.frames.push_back(frame.get<int>());
  }
  return mask;
}

SourceReference read_source(const Json& value, const std::string& path) {
  JsonReader in(value, path, {"path", "sha256", "skip", "alpha"});
  SourceReference source{in.text("path"), {}};
  if (in.has("sha256")) source.sha256 = in.text("sha256");
  if (in.has("alpha")) source.alpha_band = in.choice("alpha", {"mask", "band"}) == "band";
  if (in.has("skip")) {
    const Json& pages = in.array("skip");
    for (std::size_t i = 0; i < pages.size(); ++i) {
      const std::string place = in.path("skip") + "/" + std::to_string(i);
      const double page = JsonReader::number(pages[i], place, 1, 1e6);
      if (page != std::floor(page)) JsonReader::refuse(pages[i], place, "the number of a page, from 1");
      source.skip.push_back(static_cast<int>(page));
    }
  }
  return source;
}

}  // namespace

Chain parse_chain(const std::string& text) {
  const Json value = parse_json(text);
  if (value.is_object() && value.contains("probes"))
    throw call_error("The key \"probes\" has a new name.", "/probes",
                     "Write \"measurements\", and in each {\"measure\": \"length\"} for {\"probe\": \"gauge\"}.");
  JsonReader in(value, "",
                {"fexel", "sources", "calibration", "axes", "time_step", "pairs", "masks", "resample", "steps",
                 "measurements", "mark_style", "marks"});
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
  if (in.has("axes")) chain.axes = read_axes(in.at("axes"), in.path("axes"));
  if (in.has("time_step")) chain.time_step = read_time_step(in.at("time_step"), in.path("time_step"));
  if (in.has("pairs")) {
    const std::string word = in.choice("pairs", {"names", "order", "none"});
    chain.pairing = word == "order" ? Pairing::order : word == "none" ? Pairing::none : Pairing::names;
  }
  each("masks", [&](const Json& v, const std::string& path) { chain.masks.push_back(read_mask(v, path)); });
  if (in.has("resample")) chain.resampling = read_resampling(in.at("resample"), in.path("resample"));
  each("steps", [&](const Json& v, const std::string& path) { chain.steps.push_back(read_one(v, path)); });
  if (chain.axes && chain.axes->station > static_cast<int>(chain.steps.size()))
    JsonReader::refuse(in.at("axes").at("station"), in.path("axes") + "/station",
                       fmt::format("a station from 0 (the source) to {}", chain.steps.size()));
  each("measurements", [&](const Json& v, const std::string& path) {
    const int last = static_cast<int>(chain.steps.size());
    int station = 0;
    if (v.is_object() && v.contains("measure") && v.at("measure") == "motion") {
      if (!chain.motions.empty())
        throw call_error("This is a second movement.", path,
                         "A chain holds one; keep the other in a chain of its own.");
      chain.motions.push_back(read_motion_probe(v, path));
      station = chain.motions.back().station;
    } else {
      chain.measurements.push_back(read_measurement(v, path));
      station = chain.measurements.back().station;
    }
    if (station > last)
      JsonReader::refuse(v.at("station"), path + "/station", fmt::format("a station from 0 (the source) to {}", last));
  });
  if (in.has("mark_style")) chain.mark_style = read_style(in.at("mark_style"), in.path("mark_style"), true);
  each("marks", [&](const Json& v, const std::string& path) {
    chain.marks.push_back(read_mark(v, path));
    const int last = static_cast<int>(chain.steps.size());
    if (const int* station = station_of(chain.marks.back().kind); station && *station > last)
      JsonReader::refuse(v.at("station"), path + "/station", fmt::format("a station from 0 (the source) to {}", last));
  });
  return chain;
}

std::vector<std::string*> files_of_steps(Chain& chain) {
  std::vector<std::string*> out;
  for (Step& step : chain.steps) {
    if (auto* fit = std::get_if<FitStep>(&step.kind); fit && fit->reference) out.push_back(&fit->reference->file);
    if (auto* off = std::get_if<BackgroundStep>(&step.kind); off && !off->file.empty()) out.push_back(&off->file);
  }
  return out;
}

Chain without_folders(Chain chain) {
  for (std::string* file : files_of_steps(chain)) *file = std::filesystem::path(*file).filename().string();
  return chain;
}

Chain load_chain(const std::string& path) {
  std::string text;
  try {
    text = read_text(path == "-" ? "/dev/stdin" : path);
  } catch (const Error& error) {
    // Without its chain a call is wrong, whatever it names besides.
    throw call_error(error.message(), path, error.remedy());
  }
  try {
    Chain chain = parse_chain(text);
    // What a chain lies beside is said from its own folder.
    const std::filesystem::path folder =
        path == "-" ? std::filesystem::current_path() : std::filesystem::absolute(path).parent_path();
    for (std::string* file : files_of_steps(chain)) *file = (folder / *file).lexically_normal().string();
    return chain;
  } catch (const Error& error) {
    throw error.at(path + ": " + error.where());
  }
}

}  // namespace fexel
