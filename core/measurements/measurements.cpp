#include "measurements/measurements.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

template <std::size_t... I>
std::vector<std::string> words_of(std::index_sequence<I...>) {
  return {std::variant_alternative_t<I, MeasurementKind>::word...};
}

constexpr auto every_kind = std::make_index_sequence<std::variant_size_v<MeasurementKind>>{};

std::string number_of_points(std::size_t count) {
  static const char* const numbers[] = {"no", "one", "two", "three", "four"};
  return fmt::format("{} point{}", count < std::size(numbers) ? numbers[count] : std::to_string(count),
                     count == 1 ? "" : "s");
}

template <class Kind>
void read_as(const Json& value, const std::string& path, Measurement& out) {
  std::vector<std::string> keys{"measure", "name", "station", "points", "picking"};
  keys.insert(keys.end(), Kind::keys.begin(), Kind::keys.end());
  JsonReader in(value, path, keys);
  Kind kind;
  if (in.has("name")) out.name = in.text("name");
  out.station = in.whole("station", 0, 100000);
  const Json& points = in.array("points");
  if (points.size() < Kind::least_points || points.size() > Kind::most_points)
    JsonReader::refuse(points, in.path("points"),
                       Kind::least_points == Kind::most_points ? number_of_points(Kind::least_points)
                       : Kind::most_points == many_points
                           ? number_of_points(Kind::least_points) + " or more"
                           : fmt::format("{} or {} points", Kind::least_points, Kind::most_points));
  for (std::size_t i = 0; i < points.size(); ++i)
    out.points.push_back(JsonReader::point(points[i], fmt::format("{}/{}", in.path("points"), i)));
  out.picking.assign(points.size(), picking_by_hand);
  if (in.has("picking")) {
    const Json& list = in.array("picking");
    if (list.size() != points.size()) JsonReader::refuse(list, in.path("picking"), "a number for each of the points");
    for (std::size_t i = 0; i < list.size(); ++i)
      out.picking[i] = JsonReader::number(list[i], fmt::format("{}/{}", in.path("picking"), i), 1e-6, 1e6);
  }
  read_measurement(in, kind);
  out.kind = kind;
}

template <std::size_t... I>
bool read_any(const Json& value, const std::string& path, const std::string& word, Measurement& out,
              std::index_sequence<I...>) {
  const auto one = [&]<class Kind>(std::type_identity<Kind>) {
    if (word != Kind::word) return false;
    read_as<Kind>(value, path, out);
    return true;
  };
  return (one(std::type_identity<std::variant_alternative_t<I, MeasurementKind>>{}) || ...);
}

}  // namespace

Measurement length_measurement(std::string name, int station, Point from, Point to, std::optional<double> expected,
                               std::string unit) {
  return {LengthMeasurement{expected, std::move(unit)},
          std::move(name),
          station,
          {from, to},
          {picking_by_hand, picking_by_hand}};
}

const char* word_of(const MeasurementKind& kind) {
  return std::visit([](const auto& k) { return k.word; }, kind);
}

std::vector<std::string> measurement_words() {
  return words_of(every_kind);
}

std::pair<std::size_t, std::size_t> points_of(const MeasurementKind& kind) {
  return std::visit([](const auto& k) { return std::pair(k.least_points, k.most_points); }, kind);
}

std::vector<Point> outline_of(const Measurement& measurement) {
  return std::visit([&](const auto& k) { return outline_of(k, std::span<const Point>(measurement.points)); },
                    measurement.kind);
}

std::vector<OutlinePart> drawn_of(const MeasurementKind& kind, std::span<const Point> outline) {
  return std::visit([&](const auto& k) { return drawn_of(k, outline); }, kind);
}

std::optional<std::string> problem_of(const Measurement& measurement) {
  return std::visit([&](const auto& k) { return problem_of(k, std::span<const Point>(measurement.points)); },
                    measurement.kind);
}

std::vector<Detail> details_of(const MeasurementKind& kind, const MeasurementInput& input) {
  return std::visit([&](const auto& k) { return details_of(k, input); }, kind);
}

bool reads_pixels(const MeasurementKind& kind) {
  return std::visit(
      []<class Kind>(const Kind&) {
        return requires {
          Kind::reads_pixels;
        };
      },
      kind);
}

std::vector<Detail> sampled_of(const MeasurementKind& kind, const MeasurementInput& input, const Image& image) {
  return std::visit([&](const auto& k) { return sampled_of(k, input, image); }, kind);
}

std::optional<Quantity> value_of(const MeasurementKind& kind, const MeasurementInput& input) {
  return std::visit([&](const auto& k) { return value_of(k, input); }, kind);
}

std::optional<Quantity> expected_of(const MeasurementKind& kind) {
  return std::visit([](const auto& k) { return expected_of(k); }, kind);
}

void set_expected(MeasurementKind& kind, const std::optional<Quantity>& expected) {
  std::visit([&](auto& k) { set_expected(k, expected); }, kind);
}

Measurement read_measurement(const Json& value, const std::string& path) {
  const std::string wanted = either_of(measurement_words());
  if (!value.is_object()) JsonReader::refuse(value, path, "a measurement, an object with the key \"measure\"");
  if (!value.contains("measure"))
    throw call_error("The key \"measure\" is missing.", path + "/measure", "Give " + wanted + ".");
  const Json& word = value.at("measure");
  if (!word.is_string()) JsonReader::refuse(word, path + "/measure", wanted);
  Measurement out;
  if (!read_any(value, path, word.get<std::string>(), out, every_kind))
    JsonReader::refuse(word, path + "/measure", wanted);
  return out;
}

Json write_measurement(const Measurement& measurement) {
  Json out{{"measure", word_of(measurement.kind)}, {"name", measurement.name}, {"station", measurement.station}};
  for (const Point p : measurement.points) out["points"].push_back({p.x, p.y});
  std::visit([&](const auto& kind) { write_measurement(out, kind); }, measurement.kind);
  if (std::ranges::any_of(measurement.picking, [](double sigma) { return sigma != picking_by_hand; }))
    out["picking"] = measurement.picking;
  return out;
}

}  // namespace fexel
