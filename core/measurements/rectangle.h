#pragma once
/// An upright rectangle.
#include "measurements/measurement_base.h"

namespace fexel {

/// A rectangle that is upright at its own station, from two opposite corners; its value is the area.
struct RectangleMeasurement {
  static constexpr const char* word = "rectangle";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 2, most_points = 2;
  static constexpr bool reads_pixels = true;
  bool operator==(const RectangleMeasurement&) const = default;
};

std::optional<Quantity> value_of(const RectangleMeasurement& rectangle, const MeasurementInput& input);
/// Sides are straight here; other stations may bend them.
std::vector<Point> outline_of(const RectangleMeasurement& rectangle, std::span<const Point> points);
std::vector<OutlinePart> drawn_of(const RectangleMeasurement& rectangle, std::span<const Point> outline);
std::optional<std::string> problem_of(const RectangleMeasurement& rectangle, std::span<const Point> points);
/// "perimeter", "centroid_x", "centroid_y".
std::vector<Detail> details_of(const RectangleMeasurement& rectangle, const MeasurementInput& input);
/// "n" (pixels), "mean", "median", "deviation", "min", "max", "sum" of the samples inside, and "covered": the share of
/// the area that has samples.
std::vector<Detail> sampled_of(const RectangleMeasurement& rectangle, const MeasurementInput& input,
                               const Image& image);

}  // namespace fexel
