#pragma once
/// A polygon.
#include "measurements/measurement_base.h"

namespace fexel {

/// A polygon whose sides do not cross; its value is the area.
struct PolygonMeasurement {
  static constexpr const char* word = "polygon";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 3, most_points = many_points;
  static constexpr bool reads_pixels = true;
  bool operator==(const PolygonMeasurement&) const = default;
};

std::optional<Quantity> value_of(const PolygonMeasurement& polygon, const MeasurementInput& input);
/// Sides are straight here; other stations may bend them.
std::vector<Point> outline_of(const PolygonMeasurement& polygon, std::span<const Point> points);
std::vector<OutlinePart> drawn_of(const PolygonMeasurement& polygon, std::span<const Point> outline);
std::optional<std::string> problem_of(const PolygonMeasurement& polygon, std::span<const Point> points);
/// "perimeter", "centroid_x", "centroid_y".
std::vector<Detail> details_of(const PolygonMeasurement& polygon, const MeasurementInput& input);
/// "n" (pixels), "mean", "median", "deviation", "min", "max", "sum" of the samples inside, and "covered": the share of
/// the area that has samples.
std::vector<Detail> sampled_of(const PolygonMeasurement& polygon, const MeasurementInput& input, const Image& image);

}  // namespace fexel
