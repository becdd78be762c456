#include "quality/uncertainty.h"

#include <Eigen/LU>
#include <algorithm>
#include <random>

namespace fexel {
namespace {

constexpr int draws = 64;  // with random signs, for a variance to an eighth

/// The outline at a station; nothing beyond the horizon there.
std::optional<std::vector<Point>> outline_at(const Layout& layout, const Measurement& measurement, int station) {
  std::vector<Point> carried = outline_of(measurement);
  if (station == measurement.station) return carried;
  for (Point& p : carried) {
    const Carried at = carry(layout, p, measurement.station, station);
    if (at.status == CarryStatus::beyond_horizon) return std::nullopt;
    p = at.point;
  }
  return carried;
}

std::optional<Quantity> value_at(const Layout& layout, const Measurement& measurement, int station) {
  const auto carried = outline_at(layout, measurement, station);
  if (!carried) return std::nullopt;
  const Station& here = layout.stations[static_cast<std::size_t>(station)];
  return value_of(measurement.kind, {*carried, here.pixel, here.axes});
}

/// A chain whose rectify steps keep their size, so that a corner's small move does not change the number of pixels.
Chain with_fixed_sizes(const Chain& chain, const Layout& layout) {
  Chain fixed = chain;
  for (std::size_t i = 0; i < fixed.steps.size(); ++i)
    if (auto* rectify = std::get_if<RectifyStep>(&fixed.steps[i].kind);
        rectify && fixed.steps[i].on && !layout.stations[i + 1].problem && !rectify->pixels && rectify->allow.scale) {
      if (const auto& pixel = layout.stations[i + 1].pixel)
        rectify->pixel_size = pixel->x;
      else
        rectify->pixels = layout.stations[i + 1].size;
    }
  return fixed;
}

}  // namespace

Reading read_at(const Chain& chain, const SourceShape& source, const Layout& layout, const Measurement& measurement,
                int station) {
  Reading out;
  out.problem = problem_of(measurement);
  if (out.problem) return out;
  const auto outline = outline_at(layout, measurement, station);
  if (!outline) {
    out.problem = "A part of it lies beyond the horizon of this picture.";
    return out;
  }
  const Station& here = layout.stations[static_cast<std::size_t>(station)];
  const MeasurementInput input{*outline, here.pixel, here.axes};
  out.value = value_of(measurement.kind, input);
  if (!out.value) return out;
  out.details = details_of(measurement.kind, input);
  if (const auto expected = expected_of(measurement.kind))
    if (const auto in_unit = length_in(*out.value, expected->unit)) out.error = *in_unit - expected->value;
  if (layout.stations[static_cast<std::size_t>(station)].problem) return out;

  std::array<double, uncertainty_sources> variances{};
  const auto add = [&](UncertaintySource part, const std::optional<Quantity>& plus,
                       const std::optional<Quantity>& minus, double sigma) {
    if (plus && minus)
      variances[static_cast<std::size_t>(part)] += std::pow((plus->value - minus->value) / 2 * sigma, 2);
  };
  // Points are placed as finely as the source shows them, whichever station they were laid on.
  const Map to_source = map_between(layout, measurement.station, 0);
  std::vector<Matrix2> steps;  // of a pixel of the source, in x and in y
  for (std::size_t i = 0; i < measurement.points.size(); ++i) {
    const auto jacobian = to_source.jacobian(measurement.points[i]);
    steps.push_back(jacobian ? Matrix2(measurement.picking[i] * jacobian->inverse()) : Matrix2::Zero());
  }
  const auto moved = [&](std::size_t i, int axis, double by, Measurement& changed) {
    changed.points[i] = changed.points[i] + by * Point{steps[i](0, axis), steps[i](1, axis)};
  };
  constexpr std::size_t one_by_one = 40;  // of more points, many at once with random signs
  if (steps.size() <= one_by_one) {
    for (std::size_t i = 0; i < steps.size(); ++i)
      for (int axis = 0; axis < 2; ++axis) {
        Measurement plus = measurement, minus = measurement;
        moved(i, axis, 0.5, plus);
        moved(i, axis, -0.5, minus);
        add(UncertaintySource::points, value_at(layout, plus, station), value_at(layout, minus, station), 2);
      }
  } else if (!std::holds_alternative<CountMeasurement>(measurement.kind)) {
    std::mt19937 random(2);
    for (int draw = 0; draw < draws; ++draw) {
      Measurement plus = measurement, minus = measurement;
      for (std::size_t i = 0; i < steps.size(); ++i)
        for (int axis = 0; axis < 2; ++axis) {
          const double by = random() & 1 ? 0.5 : -0.5;
          moved(i, axis, by, plus);
          moved(i, axis, -by, minus);
        }
      add(UncertaintySource::points, value_at(layout, plus, station), value_at(layout, minus, station),
          2 / std::sqrt(double(draws)));
    }
  }
  const Chain fixed = with_fixed_sizes(chain, layout);
  const auto read = [&](const Chain& changed) { return value_at(lay_out(changed, source), measurement, station); };
  if (chain.calibration && chain.calibration->uncertainty > 0) {
    const auto scaled = [&](double by) {
      Chain changed = fixed;
      PixelSize& pixel = changed.calibration->pixel;
      const double factor = 1 + by * chain.calibration->uncertainty / pixel.x;
      pixel.x *= factor;
      pixel.y *= factor;
      return read(changed);
    };
    add(UncertaintySource::calibration, scaled(1), scaled(-1), 1);
  }
  const auto [low, high] = std::minmax(measurement.station, station);
  for (int i = low; i < high; ++i) {
    const auto at = static_cast<std::size_t>(i);
    if (!chain.steps[at].on) continue;
    if (const auto* rectify = std::get_if<RectifyStep>(&chain.steps[at].kind)) {
      const auto changed_step = [&](auto change) {
        Chain changed = fixed;
        change(std::get<RectifyStep>(changed.steps[at].kind));
        return read(changed);
      };
      const auto vary = [&](UncertaintySource part, auto point, double sigma) {
        for (double Point::*axis : {&Point::x, &Point::y})
          add(part, changed_step([&](RectifyStep& step) { point(step).*axis += sigma; }),
              changed_step([&](RectifyStep& step) { point(step).*axis -= sigma; }), 1);
      };
      for (std::size_t corner = 0; corner < 4; ++corner)
        vary(
            UncertaintySource::corners, [&](RectifyStep& step) -> Point& { return step.corners[corner]; },
            rectify->picking[corner]);
      for (std::size_t k = 0; k < rectify->known.size(); ++k)
        if (rectify->known[k].scale)
          for (const std::size_t which : {std::size_t{0}, std::size_t{1}})
            vary(
                UncertaintySource::known,
                [&](RectifyStep& step) -> Point& { return which == 0 ? step.known[k].from : step.known[k].to; },
                rectify->known[k].picking[which]);
      if (rectify->shape == RectifyStep::Shape::estimated) {
        const auto estimate = rectify_plane(*rectify, input_of_step(layout, i)).estimate;
        const auto with_ratio = [&](double by) {
          return changed_step([&](RectifyStep& step) {
            step.shape = RectifyStep::Shape::ratio;
            step.ratio = estimate->ratio + by * estimate->by_centre;
          });
        };
        if (estimate) add(UncertaintySource::ratio, with_ratio(1), with_ratio(-1), 1);
      }
    } else if (const auto* fit = std::get_if<FitStep>(&chain.steps[at].kind)) {
      const Fit made = fit_of(*fit);
      // In the unit in which `to` is given.
      const double sigma = std::max(picking_in_result(*fit, made), made.noise) * fit->pixel_size.value_or(1);
      // All pairs at once, with random signs: many draws give the variance of what is nearly linear in them.
      // Which pairs are outliers is known; a spline's pairs count as those of the affine map closest to it, which is
      // less; and of many pairs fewer draws do, for each takes longer: the window waits for it.
      const int tried = fit->pairs.size() > 40 ? draws / 4 : draws;
      Chain plain = fixed;
      auto& step = std::get<FitStep>(plain.steps[at].kind);
      step.robust = false;
      for (std::size_t k = 0; k < step.pairs.size(); ++k) step.pairs[k].use = made.weights[k] > 0;
      if (step.model == Model::thin_plate) step.model = Model::affine;
      std::mt19937 random(1);
      for (int draw = 0; draw < tried; ++draw) {
        Chain plus = plain, minus = plain;
        auto &up = std::get<FitStep>(plus.steps[at].kind).pairs, &down = std::get<FitStep>(minus.steps[at].kind).pairs;
        for (std::size_t k = 0; k < up.size(); ++k)
          for (double Point::*axis : {&Point::x, &Point::y}) {
            const double own = made.weights[k] > 0 ? sigma / std::sqrt(made.weights[k]) : sigma;
            const double by = random() & 1 ? own : -own;
            up[k].to.*axis += by;
            down[k].to.*axis -= by;
          }
        add(UncertaintySource::fit, read(plus), read(minus), 1 / std::sqrt(double(tried)));
      }
    }
  }
  double sum = 0;
  for (std::size_t i = 0; i < variances.size(); ++i) {
    out.parts[i] = std::sqrt(variances[i]);
    sum += variances[i];
  }
  out.uncertainty = std::sqrt(sum);
  return out;
}

std::string value_text(const Reading& reading) {
  if (!reading.value) return "–";
  const Quantity& value = *reading.value;
  const int decimals = value.unit.empty() ? 0 : reading.uncertainty ? decimals_for(*reading.uncertainty) : 1;
  const std::string unit = unit_name(value.unit), number = number_text(value.value, decimals);
  return unit.empty() || unit == "°" ? number + unit : number + " " + unit;
}

std::string value_text(const Measurement& measurement, const Reading& reading) {
  if (!reading.value || !std::holds_alternative<PointMeasurement>(measurement.kind) || reading.details.empty())
    return value_text(reading);
  const int decimals = reading.uncertainty ? decimals_for(*reading.uncertainty) : 1;
  return "x " + number_text(reading.value->value, decimals) + ", y " +
         number_text(reading.details.front().quantity.value, decimals) + " " + unit_name(reading.value->unit);
}

std::vector<OutlinePart> drawn_at(const Layout& layout, const Measurement& measurement, int station) {
  const auto outline = outline_at(layout, measurement, station);
  return outline ? drawn_of(measurement.kind, *outline) : std::vector<OutlinePart>();
}

std::vector<Detail> sampled_at(const Layout& layout, const Measurement& measurement, int station, const Image& image) {
  if (problem_of(measurement)) return {};
  const auto outline = outline_at(layout, measurement, station);
  if (!outline) return {};
  return sampled_of(measurement.kind, {*outline, layout.stations[static_cast<std::size_t>(station)].pixel}, image);
}

std::optional<double> scale_variation(const Chain& chain, const Layout& layout, int station) {
  for (std::size_t i = static_cast<std::size_t>(station); i < chain.steps.size(); ++i) {
    if (!std::holds_alternative<RectifyStep>(chain.steps[i].kind) || !chain.steps[i].on ||
        layout.stations[i + 1].problem)
      continue;
    const RectifyPlane plane =
        rectify_plane(std::get<RectifyStep>(chain.steps[i].kind), input_of_step(layout, static_cast<int>(i)));
    const Map back = map_between(layout, static_cast<int>(i), station).after(Map(plane.to_input));
    double smallest = 0, largest = 0;
    constexpr int grid = 16;
    for (int v = 0; v <= grid; ++v)
      for (int u = 0; u <= grid; ++u) {
        const auto j = back.jacobian({plane.width * u / grid, plane.height * v / grid});
        if (!j) return std::nullopt;
        const double scale = std::sqrt(std::abs(j->determinant()));
        smallest = u + v == 0 ? scale : std::min(smallest, scale);
        largest = std::max(largest, scale);
      }
    return (largest - smallest) / ((largest + smallest) / 2);
  }
  return std::nullopt;
}

LengthSummary summarise_lengths(const Chain& chain, const SourceShape& source, const Layout& layout, int station) {
  LengthSummary out;
  double longest = 0, shortest = 0, sum = 0;
  for (const Measurement& measurement : chain.measurements) {
    const auto expected = expected_of(measurement.kind);
    if (!expected) continue;
    const Reading reading = read_at(chain, source, layout, measurement, station);
    if (!reading.value) continue;
    const double share = reading.value->value / expected->value;
    longest = out.count == 0 ? share : std::max(longest, share);
    shortest = out.count == 0 ? share : std::min(shortest, share);
    sum += share;
    ++out.count;
    out.unit = expected->unit;
    if (!reading.error || !reading.uncertainty) continue;
    const double limit = 3 * length_in({*reading.uncertainty, reading.value->unit}, expected->unit).value_or(0);
    out.uncertainty = std::max(out.uncertainty, limit / 3);
    if (std::abs(*reading.error) <= limit) {
      ++out.agree;
      out.largest = std::max(out.largest, std::abs(*reading.error));
    } else if (std::abs(*reading.error) > std::abs(out.worst)) {
      out.worst = *reading.error;
      out.worst_name = measurement.name;
    }
  }
  if (out.count > 0) out.spread = (longest - shortest) / (sum / out.count);
  return out;
}

std::optional<ScaleFromLengths> scale_from_lengths(const Chain& chain, const Layout& layout) {
  const auto& known = layout.stations.front().pixel;
  const double height = known ? known->y / known->x : 1;
  std::vector<MeasuredLength> lengths;
  ScaleFromLengths out;
  for (const Measurement& measurement : chain.measurements) {
    const auto* length = std::get_if<LengthMeasurement>(&measurement.kind);
    if (!length || !length->expected || measurement.station >= static_cast<int>(layout.stations.size())) continue;
    const Carried from = carry(layout, measurement.points[0], measurement.station, 0),
                  to = carry(layout, measurement.points[1], measurement.station, 0);
    if (from.status == CarryStatus::beyond_horizon || to.status == CarryStatus::beyond_horizon) continue;
    if (lengths.empty()) out.pixel.unit = length->unit;
    lengths.push_back({length_between(from.point, to.point, PixelSize{1, height, "mm"}).value,
                       *length->expected * metres_per(length->unit) / metres_per(out.pixel.unit),
                       std::hypot(measurement.picking[0], measurement.picking[1])});
  }
  const auto scale = scale_of(lengths);
  if (!scale) return std::nullopt;
  out.scale = *scale;
  out.pixel.x = scale->per_pixel;
  out.pixel.y = scale->per_pixel * height;
  out.count = static_cast<int>(lengths.size());
  return out;
}

}  // namespace fexel
