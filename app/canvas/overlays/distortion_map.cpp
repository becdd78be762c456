#include "app/canvas/overlays/distortion_map.h"

#include <QPainter>
#include <functional>

#include "app/canvas/drawing.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

constexpr int cell = 12;    // screen pixels that one computed value stands for
constexpr int cover = 150;  // of 255: how much of the picture the map hides

}  // namespace

QColor scale_colour(double share) {
  // Stations of the scale in CIELAB: L, a, b.
  constexpr double stops[][3] = {{30, 12, -38}, {60, -26, -6}, {90, -4, 62}};
  const double t = std::clamp(share, 0.0, 1.0) * 2;
  const int i = t < 1 ? 0 : 1;
  double lab[3];
  for (int k = 0; k < 3; ++k) lab[k] = stops[i][k] + (t - i) * (stops[i + 1][k] - stops[i][k]);
  const double fy = (lab[0] + 16) / 116, fx = fy + lab[1] / 500, fz = fy - lab[2] / 200;
  const auto back = [](double f) { return f > 6.0 / 29 ? f * f * f : 3 * 36.0 / 841 * (f - 4.0 / 29); };
  const double x = 0.9505 * back(fx), y = back(fy), z = 1.089 * back(fz);
  const auto screen = [](double v) {
    const double c = std::clamp(v, 0.0, 1.0);
    return static_cast<float>(c <= 0.0031308 ? 12.92 * c : 1.055 * std::pow(c, 1 / 2.4) - 0.055);
  };
  return QColor::fromRgbF(screen(3.2406 * x - 1.5372 * y - 0.4986 * z), screen(-0.9689 * x + 1.8758 * y + 0.0415 * z),
                          screen(0.0557 * x - 0.204 * y + 1.057 * z));
}

std::optional<DistortionLayer> DistortionLayer::of(DistortionMap map, const Document& document, int station,
                                                   QString* why) {
  if (map == DistortionMap::none || !document.source()) return std::nullopt;
  DistortionLayer out;
  out.map_ = map;
  out.layout_ = document.layout();
  out.station_ = station;
  const Station& s = out.layout_.stations[static_cast<std::size_t>(station)];
  out.size_ = s.size;
  if (s.pixel) out.pixel_ = std::sqrt(s.pixel->x * s.pixel->y);
  out.unit_ = s.pixel ? unit_text(s.pixel->unit) : QObject::tr("px");
  switch (map) {
    case DistortionMap::detail:
      out.unit_ = QObject::tr("px");
      out.says_ = QObject::tr("source pixels behind a pixel here");
      break;
    case DistortionMap::picking:
      out.picking_ = PickingUncertainty::of(document.chain(), document.shape(), out.layout_, station);
      if (!out.picking_) {
        *why = QObject::tr("No rectangle was picked before this station.");
        return std::nullopt;
      }
      out.says_ = QObject::tr("movement when corners are picked 1 px off");
      break;
    case DistortionMap::pairs: {
      const auto& steps = document.chain().steps;
      int at = document.selected_step();
      if (at < 0 || !std::holds_alternative<FitStep>(steps[static_cast<std::size_t>(at)].kind))
        at = static_cast<int>(
            std::ranges::find_if(
                steps, [](const Step& step) { return step.on && std::holds_alternative<FitStep>(step.kind); }) -
            steps.begin());
      if (at >= static_cast<int>(steps.size()) || out.layout_.stations[static_cast<std::size_t>(at) + 1].problem) {
        *why = QObject::tr("No control points say a transform here.");
        return std::nullopt;
      }
      const auto& step = std::get<FitStep>(steps[static_cast<std::size_t>(at)].kind);
      if (step.model == Model::thin_plate) {
        *why = QObject::tr("How well a spline is known between its pairs nobody can tell from the pairs alone.");
        return std::nullopt;
      }
      const Fit fit = fit_of(step);
      const std::vector<PointPair> pairs = pairs_in_pixels(step);
      out.coverage_ = std::make_shared<const Coverage>(step.model, pairs, fit, uncertainty_of_pairs(step, fit));
      out.to_pairs_ = map_between(out.layout_, station, at);
      const Size from = out.layout_.stations[static_cast<std::size_t>(at)].size;
      // Where the result shows what the source shows.
      const Size result = out.layout_.stations[static_cast<std::size_t>(at) + 1].size;
      const auto on_both = [&](Point p) {
        const auto to = fit.map.forward(p);
        return to && to->x >= 0 && to->y >= 0 && to->x <= result.width && to->y <= result.height;
      };
      for (const Point p : helpful_places(step.model, pairs, fit, from.width, from.height, 2, on_both))
        if (const auto here = map_between(out.layout_, at, station).forward(p)) out.helpful_.push_back(*here);
      const auto& made = out.layout_.stations[static_cast<std::size_t>(at) + 1].pixel;
      out.pixel_ = made ? std::sqrt(made->x * made->y) : 1;
      out.unit_ = made ? unit_text(made->unit) : QObject::tr("px");
      out.says_ = QObject::tr("± of a carried point; hatched where no pairs are around");
      break;
    }
    default: {
      out.camera_ = plane_camera(document.chain(), out.layout_, station);
      if (!out.camera_) {
        *why = QObject::tr("The view is too frontal, or nothing is rectified: the camera's place cannot be told.");
        return std::nullopt;
      }
      const double longer = 100 * out.camera_->reads_longer(1);
      out.says_ = s.pixel ? QObject::tr("shift of a thing 1 %1 off the plane; it reads %2 % longer")
                                .arg(out.unit_, number_shown(short_number(longer, 2)))
                          : QObject::tr("shift of a thing off the plane by 1 % of the rectangle's height");
      break;
    }
  }
  return out;
}

std::optional<double> DistortionLayer::at(Point p) const {
  if (p.x < 0 || p.y < 0 || p.x > size_.width || p.y > size_.height) return std::nullopt;
  if (map_ == DistortionMap::detail) return source_pixels(layout_, station_, p);
  if (coverage_) {
    const auto from = to_pairs_.forward(p);
    const double sigma = from ? coverage_->uncertainty(*from) : std::numeric_limits<double>::infinity();
    return std::isfinite(sigma) ? std::optional(sigma * pixel_) : std::nullopt;
  }
  if (map_ == DistortionMap::picking) return picking_->movement(p) * pixel_;
  const bool unit = layout_.stations[static_cast<std::size_t>(station_)].pixel.has_value();
  return distance(p, camera_->foot) * camera_->reads_longer(unit ? 1 : 0.01) * pixel_;
}

/// Contours of equal uncertainty, and strokes where the fit extrapolates.
void DistortionLayer::paint_coverage(QPainter& painter, const QRectF& visible, QSize grid,
                                     const std::vector<double>& values, std::pair<double, double> range,
                                     const std::function<QPointF(QPointF)>& to_station) const {
  const auto place = [&](double i, double j) {
    return QPointF(visible.left() + (i + 0.5) * visible.width() / grid.width(),
                   visible.top() + (j + 0.5) * visible.height() / grid.height());
  };
  const auto value = [&](int i, int j) { return values[static_cast<std::size_t>(j * grid.width() + i)]; };
  painter.setPen(QPen(QColor(255, 255, 255, 120), 1));
  for (int j = 0; j < grid.height(); ++j)
    for (int i = 0; i < grid.width(); ++i) {
      const QPointF at = to_station(place(i, j));
      const auto from = to_pairs_.forward({at.x(), at.y()});
      if (std::isnan(value(i, j)) || (from && coverage_->among_pairs(*from))) continue;
      painter.drawLine(place(i - 0.4, j + 0.4), place(i + 0.4, j - 0.4));
    }
  const double step = drawing::round_step((range.second - range.first) / 6);
  QPainterPath contours;
  for (double level = step * std::ceil(range.first / step); step > 0 && level < range.second; level += step)
    for (int j = 0; j + 1 < grid.height(); ++j)
      for (int i = 0; i + 1 < grid.width(); ++i) {
        // Where the level crosses the sides of a cell.
        const int corners[4][2] = {{i, j}, {i + 1, j}, {i + 1, j + 1}, {i, j + 1}};
        QPolygonF ends;
        for (int k = 0; k < 4; ++k) {
          const auto& [x0, y0] = corners[k];
          const auto& [x1, y1] = corners[(k + 1) % 4];
          const double a = value(x0, y0) - level, b = value(x1, y1) - level;
          if (!((a < 0) != (b < 0)) || std::isnan(a) || std::isnan(b)) continue;
          const double t = a / (a - b);
          ends << place(x0 + t * (x1 - x0), y0 + t * (y1 - y0));
        }
        if (ends.size() == 2) {
          contours.moveTo(ends[0]);
          contours.lineTo(ends[1]);
        }
      }
  painter.setRenderHint(QPainter::Antialiasing);
  painter.strokePath(contours, QPen(QColor(20, 24, 40, 200), 1));
}

drawing::Legend DistortionLayer::paint(QPainter& painter, const QRectF& visible,
                                       const std::function<QPointF(QPointF)>& to_station) const {
  const int columns = std::max(2, static_cast<int>(visible.width() / cell)),
            rows = std::max(2, static_cast<int>(visible.height() / cell));
  std::vector<double> values;
  double low = 1e300, high = -1e300;
  for (int j = 0; j < rows; ++j)
    for (int i = 0; i < columns; ++i) {
      const QPointF w(visible.left() + (i + 0.5) * visible.width() / columns,
                      visible.top() + (j + 0.5) * visible.height() / rows);
      const QPointF p = to_station(w);
      const auto value = at({p.x(), p.y()});
      values.push_back(value.value_or(std::nan("")));
      if (!value) continue;
      low = std::min(low, *value);
      high = std::max(high, *value);
    }
  if (!(high >= low)) return {};
  const double span = std::max(high - low, 1e-12 * std::abs(high));
  QImage cells(columns, rows, QImage::Format_ARGB32_Premultiplied);
  for (int j = 0; j < rows; ++j)
    for (int i = 0; i < columns; ++i) {
      const double v = values[static_cast<std::size_t>(j * columns + i)];
      QColor colour = scale_colour((v - low) / span);
      colour.setAlpha(std::isnan(v) ? 0 : cover);
      cells.setPixel(i, j, qPremultiply(colour.rgba()));
    }
  painter.save();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.setClipRect(visible);
  painter.drawImage(visible, cells);
  if (coverage_) paint_coverage(painter, visible, {columns, rows}, values, {low, high}, to_station);
  painter.restore();

  QGradientStops shades;
  for (int i = 0; i <= 16; ++i) shades << QGradientStop(i / 16.0, scale_colour(i / 16.0));
  const auto shown = [&](double v) { return number_shown(short_number(v, 2)) + " " + unit_; };
  return {shades, shown(low), {}, shown(high), says_};
}

}  // namespace fexel
