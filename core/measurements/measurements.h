#pragma once
/// All kinds of measurements. A new one is a pair of files in this folder and a line here.
#include <variant>
#include <vector>

#include "measurements/angle.h"
#include "measurements/circle.h"
#include "measurements/count.h"
#include "measurements/ellipse.h"
#include "measurements/length.h"
#include "measurements/path.h"
#include "measurements/point.h"
#include "measurements/polygon.h"
#include "measurements/profile.h"
#include "measurements/rectangle.h"

namespace fexel {

using MeasurementKind =
    std::variant<LengthMeasurement, PathMeasurement, AngleMeasurement, CircleMeasurement, RectangleMeasurement,
                 EllipseMeasurement, PolygonMeasurement, ProfileMeasurement, PointMeasurement, CountMeasurement>;

/// A measurement on a picture. It belongs to one station, can be read at every other, and changes no pixel.
struct Measurement {
  MeasurementKind kind;
  std::string name;
  int station = 0;
  std::vector<Point> points;    ///< in the coordinates of its station, as many as its kind takes
  std::vector<double> picking;  ///< standard uncertainty of each point, in source pixels
  bool operator==(const Measurement&) const = default;
};

/// A length between two points that were placed by hand, with its true value where that is known.
Measurement length_measurement(std::string name, int station, Point from, Point to, std::optional<double> expected = {},
                               std::string unit = "mm");

/// The word of a kind in chain files.
const char* word_of(const MeasurementKind& kind);
/// The words of all kinds.
std::vector<std::string> measurement_words();
/// How many points a kind has at least and at most.
std::pair<std::size_t, std::size_t> points_of(const MeasurementKind& kind);

/// What of a measurement is carried to other stations, where it is read from.
std::vector<Point> outline_of(const Measurement& measurement);
/// What it looks like at the station that its outline was carried to.
std::vector<OutlinePart> drawn_of(const MeasurementKind& kind, std::span<const Point> outline);
/// Why it cannot be read, in a sentence; nothing where it can.
std::optional<std::string> problem_of(const Measurement& measurement);
/// The value of an outline, which lies in a picture with this pixel size; nothing where it has none.
std::optional<Quantity> value_of(const MeasurementKind& kind, const MeasurementInput& input);
/// What else its geometry says; and what the pixels say that it lies on.
std::vector<Detail> details_of(const MeasurementKind& kind, const MeasurementInput& input);
bool reads_pixels(const MeasurementKind& kind);
std::vector<Detail> sampled_of(const MeasurementKind& kind, const MeasurementInput& input, const Image& image);
/// The true value, where one is known.
std::optional<Quantity> expected_of(const MeasurementKind& kind);

void set_expected(MeasurementKind& kind, const std::optional<Quantity>& expected);

/// Reads a measurement strictly. Raises a call error that names the path in the text.
Measurement read_measurement(const nlohmann::ordered_json& value, const std::string& path);
nlohmann::ordered_json write_measurement(const Measurement& measurement);

}  // namespace fexel
