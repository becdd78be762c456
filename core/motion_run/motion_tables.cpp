#include "motion_run/motion_tables.h"

#include <fmt/format.h>

#include <cmath>
#include <iterator>

#include "base/printable.h"
#include "text/csv.h"

namespace fexel {

MotionTable table_of(const MotionSettings& settings, const MotionUnits& units, double shift) {
  const bool flow = settings.method == MotionMethod::window;
  return {shift, settings.strain.has_value(), settings.subset.back && !flow, flow, units.time.has_value()};
}

std::string motion_csv_head(const MotionTable& table) {
  std::string out = "frame,x,y,dx,dy,score,status,x_real,y_real,dx_real,dy_real,unit,uncertainty";
  if (table.back) out += ",back";
  if (table.strain && !table.flow) out += ",exx,eyy,exy,e1,e2,direction_deg,rotation_deg,strain_uncertainty";
  if (table.flow) out += ",vorticity,divergence,shear_rate,derivative_uncertainty,peak_ratio";
  out += ",reason,reference";
  if (table.velocity) out += ",vx,vy,velocity_unit";
  return out + "\n";
}

std::string motion_csv_rows(const MotionResultFrame& result, const MotionUnits& units, const MotionTable& table) {
  fmt::memory_buffer out;
  const auto to = std::back_inserter(out);
  const MotionField& field = result.field;
  const double time = units.time ? units.time->value * std::max(1, field.frame - field.from) : 1;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    if (field.grid.used[i] == 0) continue;
    const MotionPoint& p = field.points[i];
    const Point at = field.grid.at(i);
    fmt::format_to(to, "{},{:.9g},{:.9g},", result.number, at.x + table.shift, at.y + table.shift);
    if (p.has_place())
      fmt::format_to(to, "{:.6f},{:.6f},", p.moved.x, p.moved.y);
    else
      fmt::format_to(to, ",,");
    if (p.score > 0)
      fmt::format_to(to, "{:.5f},", p.score);
    else
      fmt::format_to(to, ",");
    fmt::format_to(to, "{},", name_of(p.status));
    if (units.pixel) {
      const Point real = units.coordinates(at), moved = units.displacement(p.moved);
      fmt::format_to(to, "{:.9g},{:.9g},", real.x, real.y);
      if (p.has_place())
        fmt::format_to(to, "{:.9g},{:.9g},", moved.x, moved.y);
      else
        fmt::format_to(to, ",,");
      fmt::format_to(to, "{},", units.pixel->unit);
    } else {
      fmt::format_to(to, ",,,,,");
    }
    if (p.has_place()) fmt::format_to(to, "{:.6f}", std::max(p.sigma.x, p.sigma.y));
    if (table.back) {
      fmt::format_to(to, ",");
      if (p.back) fmt::format_to(to, "{:.6f}", *p.back);
    }
    if (table.strain && !table.flow) {
      const Strain* s = i < result.strain.size() && result.strain[i] ? &*result.strain[i] : nullptr;
      if (s)
        fmt::format_to(to, ",{:.8f},{:.8f},{:.8f},{:.8f},{:.8f},{:.4f},{:.6f},{:.3g}", s->xx, s->yy, s->xy, s->first,
                       s->second, s->direction, s->rotation, s->sigma);
      else
        fmt::format_to(to, ",,,,,,,,");
    }
    if (table.flow) {
      const Strain* s = i < result.strain.size() && result.strain[i] ? &*result.strain[i] : nullptr;
      if (s)
        fmt::format_to(to, ",{:.8g},{:.8g},{:.8g},{:.3g}", s->vorticity() / time, s->divergence() / time,
                       s->shear_rate() / time, std::sqrt(2.0) * s->sigma / time);
      else
        fmt::format_to(to, ",,,,");
      fmt::format_to(to, ",");
      if (p.peaks > 0) fmt::format_to(to, "{:.3f}", p.peaks);
    }
    fmt::format_to(to, ",{},{}", name_of(p.reason), field.reference + 1);
    if (table.velocity) {
      const Point moved = units.displacement(p.moved);
      if (p.has_place())
        fmt::format_to(to, ",{:.9g},{:.9g}", moved.x / time, moved.y / time);
      else
        fmt::format_to(to, ",,");
      fmt::format_to(to, ",{}/{}", units.unit(), units.time->unit);
    }
    fmt::format_to(to, "\n");
  }
  return fmt::to_string(out);
}

std::string motion_vtk(const MotionResultFrame& result, const MotionUnits& units, const std::string& title, bool flow) {
  const MotionField& field = result.field;
  const MotionGrid& grid = field.grid;
  // The format counts y up; so do axes that say so.
  const double up = units.axes ? 1 : -1;
  fmt::memory_buffer out;
  const auto to = std::back_inserter(out);
  fmt::format_to(to, "# vtk DataFile Version 3.0\n{}, frame {}, {}\nASCII\nDATASET STRUCTURED_GRID\n",
                 printable(title.substr(0, 180)), result.number, units.unit());
  fmt::format_to(to, "DIMENSIONS {} {} 1\nPOINTS {} double\n", grid.columns, grid.rows, grid.count());
  for (std::size_t i = 0; i < grid.count(); ++i) {
    const Point at = units.coordinates(grid.at(i));
    fmt::format_to(to, "{:.9g} {:.9g} 0\n", at.x, up * at.y);
  }
  fmt::format_to(to, "POINT_DATA {}\nVECTORS displacement double\n", grid.count());
  const auto there = [&](std::size_t i) { return grid.used[i] != 0 && field.points[i].has_place(); };
  const auto vectors = [&](double factor) {
    for (std::size_t i = 0; i < grid.count(); ++i) {
      const Point d = there(i) ? factor * units.displacement(field.points[i].moved) : Point{};
      fmt::format_to(to, "{:.9g} {:.9g} 0\n", d.x, up * d.y);
    }
  };
  vectors(1);
  if (units.time) {
    const int steps = std::max(1, field.frame - field.from);
    fmt::format_to(to, "VECTORS velocity double\n");
    vectors(1 / (units.time->value * steps));
  }
  const auto scalars = [&](const char* name, const auto& value) {
    fmt::format_to(to, "SCALARS {} double 1\nLOOKUP_TABLE default\n", name);
    for (std::size_t i = 0; i < grid.count(); ++i) fmt::format_to(to, "{:.9g}\n", there(i) ? value(i) : 0.0);
  };
  fmt::format_to(to, "SCALARS status int 1\nLOOKUP_TABLE default\n");
  for (std::size_t i = 0; i < grid.count(); ++i)
    fmt::format_to(to, "{}\n", grid.used[i] != 0 ? static_cast<int>(field.points[i].status) : 3);
  scalars("uncertainty_px", [&](std::size_t i) { return std::max(field.points[i].sigma.x, field.points[i].sigma.y); });
  if (!result.strain.empty()) {
    const auto strain = [&](const char* name, double Strain::*part) {
      scalars(name, [&](std::size_t i) { return result.strain[i] ? *result.strain[i].*part : 0.0; });
    };
    if (flow) {
      const double time = units.time ? units.time->value * std::max(1, field.frame - field.from) : 1;
      scalars("vorticity", [&](std::size_t i) { return result.strain[i] ? result.strain[i]->vorticity() / time : 0; });
      scalars("divergence",
              [&](std::size_t i) { return result.strain[i] ? result.strain[i]->divergence() / time : 0; });
      return fmt::to_string(out);
    }
    strain("exx", &Strain::xx);
    strain("eyy", &Strain::yy);
    strain("exy", &Strain::xy);
  }
  return fmt::to_string(out);
}

}  // namespace fexel
