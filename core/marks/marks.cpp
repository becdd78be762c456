#include "marks/marks.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"

namespace fexel {
namespace {

constexpr double far = 1e7;
constexpr std::size_t many_points = 10000, many_names = 1000;

/// The words of an enumeration, in its order.
template <class Value>
Value choice_of(const JsonReader& in, const char* key, const std::vector<std::string>& words) {
  const std::string word = in.choice(key, words);
  return static_cast<Value>(std::ranges::find(words, word) - words.begin());
}
const std::vector<std::string>& directions() {
  static const std::vector<std::string> words{"across", "down", "both"};
  return words;
}
const std::vector<std::string>& shapes() {
  static const std::vector<std::string> words{"rectangle", "ellipse", "polygon"};
  return words;
}
const std::vector<std::string>& shown() {
  static const std::vector<std::string> words{"frame", "time", "both"};
  return words;
}
template <class Value>
const std::string& word_in(const std::vector<std::string>& words, Value value) {
  return words[static_cast<std::size_t>(value)];
}

std::string read_line(const JsonReader& in, const char* key) {
  std::string text = in.text(key);
  // Letters of several bytes count once; what no page can show would break an SVG.
  const auto letters = std::ranges::count_if(text, [](char c) { return (c & 0xc0) != 0x80; });
  const bool control = std::ranges::any_of(text, [](unsigned char c) { return c < 32 && c != '\n' && c != '\t'; });
  if (static_cast<std::size_t>(letters) > longest_mark_text || control)
    JsonReader::refuse(in.at(key), in.path(key),
                       fmt::format("a text of up to {} letters, without control characters", longest_mark_text));
  return text;
}

void read_place(const JsonReader& in, MarkPlace& place) {
  if (!in.has("place")) return;
  if (in.at("place").is_array())
    place.at = JsonReader::point(in.at("place"), in.path("place"));
  else
    place = place_named(in.choice("place", place_words()));
}
void write_place(Json& out, const MarkPlace& place) {
  if (place.at)
    out["place"] = {place.at->x, place.at->y};
  else
    out["place"] = place_words()[static_cast<std::size_t>(3 * place.row + place.column)];
}

void read_station(const JsonReader& in, int& station) {
  if (in.has("station")) station = in.whole("station", 0, 100000);
}

std::vector<Point> read_points(const JsonReader& in, std::size_t least, std::size_t most) {
  const Json& list = in.array("points");
  if (list.size() < least || list.size() > most)
    JsonReader::refuse(list, in.path("points"),
                       least == most ? fmt::format("{} points", least) : fmt::format("{} to {} points", least, most));
  std::vector<Point> out;
  for (std::size_t i = 0; i < list.size(); ++i)
    out.push_back(JsonReader::point(list[i], fmt::format("{}/{}", in.path("points"), i)));
  return out;
}

void read(const JsonReader& in, ScaleBarMark& bar) {
  if (in.has("unit")) bar.unit = in.choice("unit", length_units());
  if (in.has("length")) {
    bar.length = in.number("length", 1e-9, 1e12);
    if (bar.unit.empty()) in.at("unit");  // a length has a unit
  }
  read_place(in, bar.place);
  if (in.has("direction")) bar.direction = choice_of<ScaleBarMark::Direction>(in, "direction", directions());
  if (in.has("label")) bar.label = in.truth("label");
}
void write(Json& out, const ScaleBarMark& bar) {
  if (bar.length) out["length"] = *bar.length;
  if (!bar.unit.empty()) out["unit"] = bar.unit;
  write_place(out, bar.place);
  if (bar.direction != ScaleBarMark::Direction::across) out["direction"] = word_in(directions(), bar.direction);
  if (!bar.label) out["label"] = false;
}

void read(const JsonReader& in, TextMark& text) {
  text.text = read_line(in, "text");
  read_place(in, text.place);
}
void write(Json& out, const TextMark& text) {
  out["text"] = text.text;
  write_place(out, text.place);
}

void write_points(Json& out, std::span<const Point> points, int station, const std::string& text) {
  out["points"] = Json::array();
  for (const Point p : points) out["points"].push_back({p.x, p.y});
  if (station >= 0) out["station"] = station;
  if (!text.empty()) out["text"] = text;
}

void read(const JsonReader& in, ArrowMark& arrow) {
  const std::vector<Point> points = read_points(in, 2, 2);
  arrow.points = {points[0], points[1]};
  read_station(in, arrow.station);
  if (in.has("text")) arrow.text = read_line(in, "text");
}
void write(Json& out, const ArrowMark& arrow) {
  write_points(out, arrow.points, arrow.station, arrow.text);
}

void read(const JsonReader& in, OutlineMark& outline) {
  outline.shape = choice_of<OutlineMark::Shape>(in, "shape", shapes());
  const bool polygon = outline.shape == OutlineMark::Shape::polygon;
  outline.points = read_points(in, polygon ? 3 : 2, polygon ? many_points : 2);
  read_station(in, outline.station);
  if (in.has("text")) outline.text = read_line(in, "text");
}
void write(Json& out, const OutlineMark& outline) {
  out["shape"] = word_in(shapes(), outline.shape);
  write_points(out, outline.points, outline.station, outline.text);
}

void read(const JsonReader& in, InsetMark& inset) {
  inset.x = in.number("x", -far, far);
  inset.y = in.number("y", -far, far);
  inset.width = in.number("width", 1, far);
  inset.height = in.number("height", 1, far);
  if (in.has("zoom")) inset.zoom = in.number("zoom", 1, 100);
  read_place(in, inset.place);
}
void write(Json& out, const InsetMark& inset) {
  out["x"] = inset.x;
  out["y"] = inset.y;
  out["width"] = inset.width;
  out["height"] = inset.height;
  out["zoom"] = inset.zoom;
  write_place(out, inset.place);
}

void read(const JsonReader& in, TimeMark& time) {
  if (in.has("show")) time.show = choice_of<TimeMark::Show>(in, "show", shown());
  if (in.has("decimals")) time.decimals = in.whole("decimals", 0, 9);
  read_place(in, time.place);
}
void write(Json& out, const TimeMark& time) {
  out["show"] = word_in(shown(), time.show);
  out["decimals"] = time.decimals;
  write_place(out, time.place);
}

void read(const JsonReader& in, MeasurementsMark& mark) {
  if (in.has("names")) {
    const Json& names = in.array("names");
    if (names.size() > many_names) JsonReader::refuse(names, in.path("names"), "up to 1000 names");
    for (std::size_t i = 0; i < names.size(); ++i) {
      if (!names[i].is_string())
        JsonReader::refuse(names[i], fmt::format("{}/{}", in.path("names"), i), "the name of a measurement");
      mark.names.push_back(names[i].get<std::string>());
    }
  }
  if (in.has("values")) mark.values = in.truth("values");
}
void write(Json& out, const MeasurementsMark& mark) {
  if (!mark.names.empty()) out["names"] = mark.names;
  if (!mark.values) out["values"] = false;
}

template <class Kind>
bool read_as(const Json& value, const std::string& path, const std::string& word, Mark& mark) {
  if (word != Kind::word) return false;
  std::vector<std::string> allowed{"mark", "style"};
  allowed.insert(allowed.end(), Kind::keys.begin(), Kind::keys.end());
  const JsonReader in(value, path, allowed);
  Kind kind;
  read(in, kind);
  mark.kind = kind;
  if (in.has("style")) mark.style = read_style(in.at("style"), in.path("style"), false);
  return true;
}
template <std::size_t... I>
bool read_any(const Json& value, const std::string& path, const std::string& word, Mark& mark,
              std::index_sequence<I...>) {
  return (read_as<std::variant_alternative_t<I, MarkKind>>(value, path, word, mark) || ...);
}
template <std::size_t... I>
std::vector<std::string> all_words(std::index_sequence<I...>) {
  return {std::variant_alternative_t<I, MarkKind>::word...};
}
constexpr auto every_kind = std::make_index_sequence<std::variant_size_v<MarkKind>>{};

}  // namespace

const std::vector<std::string>& place_words() {
  static const std::vector<std::string> words{"top-left", "top",         "top-right", "left",        "middle",
                                              "right",    "bottom-left", "bottom",    "bottom-right"};
  return words;
}

MarkPlace place_named(const std::string& word) {
  const auto at = std::ranges::find(place_words(), word) - place_words().begin();
  return {static_cast<int>(at % 3), static_cast<int>(at / 3), {}};
}

const char* word_of(const MarkKind& kind) {
  return std::visit([](const auto& k) { return k.word; }, kind);
}

std::vector<std::string> mark_words() {
  return all_words(every_kind);
}

MarkPlace* place_of(MarkKind& kind) {
  return std::visit(
      [](auto& k) -> MarkPlace* {
        if constexpr (requires { k.place; })
          return &k.place;
        else
          return nullptr;
      },
      kind);
}

std::vector<Point*> points_of(MarkKind& kind) {
  return std::visit(
      [](auto& k) {
        std::vector<Point*> out;
        if constexpr (requires { k.points; })
          for (Point& p : k.points) out.push_back(&p);
        return out;
      },
      kind);
}

int* station_of(MarkKind& kind) {
  return std::visit(
      [](auto& k) -> int* {
        if constexpr (requires { k.station; })
          return &k.station;
        else
          return nullptr;
      },
      kind);
}

Mark read_mark(const Json& value, const std::string& path) {
  if (!value.is_object()) JsonReader::refuse(value, path, "a mark, an object with the key \"mark\"");
  if (!value.contains("mark"))
    throw call_error("The key \"mark\" is missing.", path + "/mark", "Give " + either_of(mark_words()) + ".");
  const Json& word = value.at("mark");
  Mark mark;
  if (!word.is_string() || !read_any(value, path, word.get<std::string>(), mark, every_kind))
    JsonReader::refuse(word, path + "/mark", either_of(mark_words()));
  return mark;
}

Json mark_json(const Mark& mark) {
  Json out;
  out["mark"] = word_of(mark.kind);
  std::visit([&](const auto& kind) { write(out, kind); }, mark.kind);
  if (!mark.style.empty()) out["style"] = style_json(mark.style);
  return out;
}

}  // namespace fexel
