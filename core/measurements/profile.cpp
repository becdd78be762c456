#include "measurements/profile.h"

#include <cmath>

#include "measure/profile.h"
#include "text/reader.h"

namespace fexel {

std::optional<Quantity> value_of(const ProfileMeasurement&, const MeasurementInput& input) {
  const std::vector<Point> points = in_units(input);
  return Quantity{distance(points[0], points[1]), unit_of(input)};
}

std::vector<Point> outline_of(const ProfileMeasurement& profile, std::span<const Point> points) {
  const Point middle = 0.5 * (points[0] + points[1]), along = points[1] - points[0];
  const double length = distance(points[0], points[1]);
  const Point half = length > 0 ? profile.width / 2 / length * Point{-along.y, along.x} : Point{};
  return {points[0], points[1], middle - half, middle + half};
}

std::optional<std::string> problem_of(const ProfileMeasurement&, std::span<const Point> points) {
  if (distance(points[0], points[1]) >= 1) return std::nullopt;
  return "It is shorter than a pixel: move its ends apart.";
}

std::vector<Detail> sampled_of(const ProfileMeasurement&, const MeasurementInput& input, const Image& image) {
  const auto profile =
      profile_along(image, input.points[0], input.points[1], distance(input.points[2], input.points[3]));
  if (!profile) return {};
  const std::vector<ProfileEdge> edges = edges_on(*profile);
  std::vector<Detail> out{{"edges", {static_cast<double>(edges.size()), ""}}};
  if (edges.empty()) return out;
  // A place of the profile in the unit of the pixel size along it.
  const std::vector<Point> ends = in_units(input);
  const double scale = distance(ends[0], ends[1]) / distance(input.points[0], input.points[1]);
  const std::string unit = unit_of(input);
  if (edges.size() > 1) {
    const auto [first, last] = strongest_two(edges);
    out.push_back({"width", {scale * (last.place - first.place), unit}});
    out.push_back({"width_sigma", {scale * std::hypot(first.sigma, last.sigma), unit}});
    out.push_back({"first", {scale * first.place, unit}});
    out.push_back({"last", {scale * last.place, unit}});
  }
  const ProfileEdge& sharpest = *std::ranges::min_element(edges, {}, &ProfileEdge::blur);
  constexpr double ten_to_ninety = 2.5631;  // standard deviations
  out.push_back({"edge_width", {scale * ten_to_ninety * sharpest.blur, unit}});
  out.push_back(
      {"contrast",
       {std::ranges::max(edges, {}, [](const ProfileEdge& e) { return std::abs(e.contrast); }).contrast, ""}});
  return out;
}

void read_measurement(JsonReader& in, ProfileMeasurement& profile) {
  if (in.has("width")) profile.width = in.number("width", 0, 1e5);
}

void write_measurement(Json& out, const ProfileMeasurement& profile) {
  out["width"] = profile.width;
}

std::vector<OutlinePart> drawn_of(const ProfileMeasurement&, std::span<const Point> outline) {
  return {{{outline[0], outline[1]}, false}, {{outline[2], outline[3]}, false}};
}

}  // namespace fexel
