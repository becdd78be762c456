#pragma once
/// Samples along a line.
#include "measurements/measurement_base.h"

namespace fexel {

/// Samples along a line, averaged over a width; its value is its length, and what stands on it comes from
/// the pixels.
struct ProfileMeasurement {
  static constexpr const char* word = "profile";
  static constexpr std::array keys{"width"};
  static constexpr std::size_t least_points = 2, most_points = 2;
  double width = 1;  ///< across the line, in pixels of its station
  static constexpr bool reads_pixels = true;
  bool operator==(const ProfileMeasurement&) const = default;
};

std::optional<Quantity> value_of(const ProfileMeasurement& profile, const MeasurementInput& input);
/// The two ends, and the two ends of the width in the middle.
std::vector<Point> outline_of(const ProfileMeasurement& profile, std::span<const Point> points);
std::optional<std::string> problem_of(const ProfileMeasurement& profile, std::span<const Point> points);
/// "edges": how many stand out; of the two strongest "width", its "width_sigma", and "first" and "last", their places
/// from the beginning; "edge_width", the 10 to 90 % width of the sharper one; "contrast" of the stronger one.
std::vector<Detail> sampled_of(const ProfileMeasurement& profile, const MeasurementInput& input, const Image& image);
void read_measurement(JsonReader& in, ProfileMeasurement& profile);
void write_measurement(nlohmann::ordered_json& out, const ProfileMeasurement& profile);
/// The line, and its width across the middle.
std::vector<OutlinePart> drawn_of(const ProfileMeasurement& profile, std::span<const Point> outline);

}  // namespace fexel
