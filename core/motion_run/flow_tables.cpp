#include "motion_run/flow_tables.h"

#include <fmt/format.h>

#include <cmath>
#include <iterator>

namespace fexel {

FlowUnits flow_units(const MotionUnits& units, int steps) {
  const double time = units.time ? units.time->value * std::max(1, steps) : 1;
  const Point pixel = units.pixel ? Point{units.pixel->x, units.pixel->y} : Point{1, 1};
  return {pixel.x / time, pixel.y / time, units.time ? units.unit() + "/" + units.time->unit : units.unit()};
}

FlowAt on_axes(const FlowAt& p, const MotionUnits& units, const FlowUnits& to_unit) {
  // Where x and y of the axes lead, in the picture's own directions.
  const Point a = units.axes ? units.axes->along : Point{1, 0}, b = units.axes ? units.axes->across : Point{0, 1};
  const auto vector = [&](Point v) {
    const Point real{v.x * to_unit.across, v.y * to_unit.down};
    return Point{real.x * a.x + real.y * a.y, real.x * b.x + real.y * b.y};
  };
  const double xx = std::pow(p.rms.x * to_unit.across, 2), yy = std::pow(p.rms.y * to_unit.down, 2),
               xy = p.shear * to_unit.across * to_unit.down;
  const auto product = [](double cxx, double cyy, double cxy, Point u, Point v) {
    return u.x * v.x * cxx + u.y * v.y * cyy + (u.x * v.y + u.y * v.x) * cxy;
  };
  FlowAt out = p;
  out.mean = vector(p.mean);
  out.median = vector(p.median);
  out.rms = {std::sqrt(std::max(0.0, product(xx, yy, xy, a, a))), std::sqrt(std::max(0.0, product(xx, yy, xy, b, b)))};
  out.shear = product(xx, yy, xy, a, b);
  out.spread_uncertainties();
  const double sx = std::pow(p.stated.x * to_unit.across, 2), sy = std::pow(p.stated.y * to_unit.down, 2);
  out.stated = {std::sqrt(product(sx, sy, 0, a, a)), std::sqrt(product(sx, sy, 0, b, b))};
  return out;
}

std::string flow_csv(const FlowStatistics& flow, const MotionUnits& units, double shift) {
  const MotionField mean = flow.mean();
  const auto all = flow.points();
  const FlowUnits to_unit = flow_units(units, mean.frame - mean.from);
  fmt::memory_buffer out;
  const auto to = std::back_inserter(out);
  fmt::format_to(to,
                 "x,y,n,mean_x,mean_y,median_x,median_y,rms_x,rms_y,shear_xy,mean_uncertainty_x,mean_uncertainty_y,"
                 "rms_uncertainty_x,rms_uncertainty_y,shear_uncertainty,stated_x,stated_y,unit,x_real,y_real,"
                 "length_unit\n");
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (mean.grid.used[i] == 0) continue;
    const FlowAt& p = all[i];
    const Point at = mean.grid.at(i);
    fmt::format_to(to, "{:.9g},{:.9g},{},", at.x + shift, at.y + shift, p.n);
    if (p.n > 1) {
      const FlowAt here = on_axes(p, units, to_unit);
      fmt::format_to(to, "{:.9g},{:.9g},{:.9g},{:.9g},{:.6g},{:.6g},{:.6g},", here.mean.x, here.mean.y, here.median.x,
                     here.median.y, here.rms.x, here.rms.y, here.shear);
      fmt::format_to(to, "{:.4g},{:.4g},{:.4g},{:.4g},{:.4g},{:.4g},{:.4g},", here.mean_uncertainty.x,
                     here.mean_uncertainty.y, here.rms_uncertainty.x, here.rms_uncertainty.y, here.shear_uncertainty,
                     here.stated.x, here.stated.y);
    } else {
      fmt::format_to(to, ",,,,,,,,,,,,,,");
    }
    fmt::format_to(to, "{},", to_unit.unit);
    if (units.pixel) {
      const Point real = units.coordinates(at);
      fmt::format_to(to, "{:.9g},{:.9g},{}\n", real.x, real.y, units.pixel->unit);
    } else {
      fmt::format_to(to, ",,\n");
    }
  }
  return fmt::to_string(out);
}

}  // namespace fexel
