#pragma once
/// An ellipse.
#include "measurements/measurement_base.h"

namespace fexel {

/// An ellipse from its middle, the end of one half axis, and a point as far from that axis as the other one reaches;
/// its value is the area.
struct EllipseMeasurement {
  static constexpr const char* word = "ellipse";
  static constexpr std::array<const char*, 0> keys{};
  static constexpr std::size_t least_points = 3, most_points = 3;
  static constexpr bool reads_pixels = true;
  bool operator==(const EllipseMeasurement&) const = default;
};

std::optional<Quantity> value_of(const EllipseMeasurement& ellipse, const MeasurementInput& input);
/// Sides are straight here; other stations may bend them.
std::vector<Point> outline_of(const EllipseMeasurement& ellipse, std::span<const Point> points);
std::vector<OutlinePart> drawn_of(const EllipseMeasurement& ellipse, std::span<const Point> outline);
std::optional<std::string> problem_of(const EllipseMeasurement& ellipse, std::span<const Point> points);
/// "perimeter", "centroid_x", "centroid_y".
std::vector<Detail> details_of(const EllipseMeasurement& ellipse, const MeasurementInput& input);
/// "n" (pixels), "mean", "median", "deviation", "min", "max", "sum" of the samples inside, and "covered": the share of
/// the area that has samples.
std::vector<Detail> sampled_of(const EllipseMeasurement& ellipse, const MeasurementInput& input, const Image& image);

}  // namespace fexel
