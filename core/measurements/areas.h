#pragma once
/// What rectangles, ellipses and polygons have in common: all are outlines.
#include "measurements/measurement_base.h"

namespace fexel {

/// The sides of a polygon with points between its corners, so that maps that bend them are followed.
std::vector<Point> with_points_between(std::span<const Point> polygon);
std::vector<OutlinePart> closed_outline(std::span<const Point> outline);
/// The area inside of an outline, times a factor.
Quantity area_value(const MeasurementInput& outline, double factor = 1);
std::vector<Detail> area_details(const MeasurementInput& outline);
std::vector<Detail> area_samples(const MeasurementInput& outline, const Image& image);

}  // namespace fexel
