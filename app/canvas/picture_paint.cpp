/// What a picture view paints: the picture, what lies over it, and the other view's pointer.
#include <Eigen/LU>

#include "app/canvas/canvas_overlay.h"
#include "app/canvas/picture_view.h"
#include "app/pipeline/tile.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "quality/uncertainty.h"

namespace fexel {
namespace {

constexpr double loupe_zoom = 8;
constexpr double values_zoom = 24;
constexpr int loupe_radius = 56;

}  // namespace

void PictureView::redraw() {
  layer_stale_ = true;
  update();
}

void PictureView::paint_layer() {
  layer_stale_ = false;
  const double ratio = this->ratio();
  const QSize pixels = (QSizeF(size()) * ratio).toSize();
  if (layer_.size() != pixels) layer_ = QImage(pixels, QImage::Format_RGB32);
  layer_.setDevicePixelRatio(ratio);
  QPainter painter(&layer_);
  painter.fillRect(rect(), theme().surround);
  if (!document_.source()) {
    painter.setPen(Qt::white);
    painter.setFont(text_font(11));
    painter.drawText(rect(), Qt::AlignCenter, tr("Open a picture (Ctrl+O), or drop one here."));
    return;
  }
  paint_picture(painter);
  painter.setRenderHint(QPainter::Antialiasing);
  paint_over(painter);
}

QRectF PictureView::cross() const {
  const auto& pointer = document_.pointer();
  if (!document_.source() || !pointer || pointer->station == station() || shows_kept()) return {};
  const Carried c = carry(document_.layout(), pointer->point, pointer->station, station());
  if (c.status == CarryStatus::beyond_horizon) return {};
  const QPointF at = to_widget(point_of(c.point));
  if (!rect().contains(at.toPoint())) return {};
  return {at - QPointF(9, 9), QSizeF(18, 18)};
}

void PictureView::move_cross() {
  for (const QRectF& part : {painted_cross_, cross()})
    if (!part.isEmpty()) update(part.adjusted(-4, -4, 4, 4).toAlignedRect());
}

void PictureView::focusInEvent(QFocusEvent*) {
  redraw();
}

void PictureView::focusOutEvent(QFocusEvent*) {
  redraw();
}

void PictureView::paintEvent(QPaintEvent*) {
  if (layer_stale_ || layer_.size() != (QSizeF(size()) * ratio()).toSize()) paint_layer();
  QPainter painter(this);
  painter.drawImage(QPointF(0, 0), layer_);
  // The other view's pointer lies above all else, so that following it costs next to nothing.
  painted_cross_ = cross();
  if (!painted_cross_.isEmpty()) {
    painter.setRenderHint(QPainter::Antialiasing);
    overlay::cross(painter, painted_cross_.center(), 9, overlay::flag_colour(is_b_));
  }
  if (!image_.image.isNull() && announced_ != image_.revision) {
    announced_ = image_.revision;
    Q_EMIT shown(image_.revision);
  }
}

void PictureView::paint_picture(QPainter& painter) {
  const Station& s = shown_station();
  const QRectF frame(to_widget({0, 0}), to_widget({double(s.size.width), double(s.size.height)}));
  const QRectF visible = frame & QRectF(rect());
  painter.fillRect(visible, overlay::hatch());
  if (image_.image.isNull()) return;
  QPointF corner = to_widget({image_.left, image_.top});
  const double side = image_.step * zoom_, ratio = this->ratio();
  const bool copied = std::abs(side * ratio - 1) < 1e-6;
  // Two views of one place that differ in the last digit alone never differ by a pixel.
  if (copied)
    corner = QPointF(std::floor(corner.x() * ratio + 0.5 + 1e-4), std::floor(corner.y() * ratio + 0.5 + 1e-4)) / ratio;
  painter.save();
  painter.setClipRect(visible);
  // From 1:1 to 8x smoothly, beyond it as squares; a picture that is one to one with the screen is copied.
  painter.setRenderHint(QPainter::SmoothPixmapTransform, side < 8 && !copied);
  painter.drawImage(QRectF(corner, QSizeF(image_.image.width() * side, image_.image.height() * side)), image_.image);
  painter.restore();
  paint_values(painter, visible);
}

/// Past 24x a grid between the pixels, and in each, where they fit, the samples as they would be written.
void PictureView::paint_values(QPainter& painter, const QRectF& visible) {
  if (zoom_ < values_zoom || !image_.samples) return;
  const Image& samples = *image_.samples;
  const auto first_x = static_cast<int>(std::floor(to_station(visible.topLeft()).x())),
             last_x = static_cast<int>(std::ceil(to_station(visible.bottomRight()).x())),
             first_y = static_cast<int>(std::floor(to_station(visible.topLeft()).y())),
             last_y = static_cast<int>(std::ceil(to_station(visible.bottomRight()).y()));
  painter.setPen(QPen(QColor(128, 128, 128, 110), 1));
  for (int x = first_x; x <= last_x; ++x) {
    const double at = to_widget({double(x), 0}).x();
    painter.drawLine(QPointF(at, visible.top()), QPointF(at, visible.bottom()));
  }
  for (int y = first_y; y <= last_y; ++y) {
    const double at = to_widget({0, double(y)}).y();
    painter.drawLine(QPointF(visible.left(), at), QPointF(visible.right(), at));
  }
  QFont font = text_font(8);
  painter.setFont(font);
  const QFontMetrics metrics(font);
  const int bands = std::min(samples.bands(), 4);
  const int left = static_cast<int>(image_.left), top = static_cast<int>(image_.top);
  for (int y = std::max(first_y, top); y < std::min(last_y, top + samples.height()); ++y)
    for (int x = std::max(first_x, left); x < std::min(last_x, left + samples.width()); ++x) {
      if (!samples.valid(x - left, y - top)) continue;
      QStringList lines;
      visit_depth(samples.depth(), [&](auto sample) {
        for (int band = 0; band < bands; ++band)
          lines << text_of(
              short_number(static_cast<double>(samples.row<decltype(sample)>(band, y - top)[x - left]), 5));
      });
      int wide = 0;
      for (const QString& line : lines) wide = std::max(wide, metrics.horizontalAdvance(line));
      if (wide + 4 > zoom_ || bands * metrics.height() + 2 > zoom_) continue;
      painter.setPen(qGray(image_.image.pixel(x - left, y - top)) > 128 ? Qt::black : Qt::white);
      painter.drawText(QRectF(to_widget({double(x), double(y)}), QSizeF(zoom_, zoom_)), Qt::AlignCenter,
                       lines.join("\n"));
    }
}

QRectF PictureView::paint_legend(QPainter& painter, QPointF corner) {
  const QString says =
      kept_ ? (mix_is_carried() ? tr("A is kept, and carried to B's place") : tr("A is kept, and shown as it lies"))
      : mix_is_carried() ? tr("A carried to B's place by the chain")
                         : tr("A as it lies, pixel on pixel");
  const QColor grey(128, 128, 128);
  if (mix_ == Mix::tint)
    return overlay::legend(painter, corner,
                           {{{0, QColor(40, 128, 215)}, {0.5, grey}, {1, QColor(215, 128, 40)}},
                            tr("A brighter"),
                            tr("alike"),
                            tr("B brighter"),
                            says});
  const Image& base = document_.source()->pixels->base();
  const double full = range_ ? range_->second - range_->first : base.depth() == Depth::f32 ? 1 : base.largest() + 1;
  const std::string range = short_number(full * difference_range, 5);
  return overlay::legend(painter, corner,
                         {{{0, Qt::black}, {0.5, grey}, {1, Qt::white}},
                          text_of("\u2212" + range),
                          tr("0, B \u2212 A in grey levels"),
                          text_of("+" + range),
                          says});
}

void PictureView::paint_kept(QPainter& painter) {
  overlay::rulers(painter, size(), to_widget({0, 0}), zoom_, kept_->shown().pixel);
  overlay::badge(painter, {overlay::ruler_thickness + 6.0, overlay::ruler_thickness + 6.0}, "A",
                 tr("kept: %1").arg(kept_->name), overlay::colour_a);
  if (!hasFocus() || detail_ != 1) return;  // a figure has no keyboard
  painter.setPen(QPen(theme().teal, 2));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
}

void PictureView::paint_step(QPainter& painter) {
  const Layout& layout = document_.layout();
  const int step = document_.selected_step(), here = station();
  if (step < 0) return;
  const bool before = here <= step;
  const bool wrong = layout.stations[static_cast<std::size_t>(step) + 1].problem.has_value();
  const QColor colour = wrong ? overlay::colour_wrong : overlay::flag_colour(is_b_);
  const Map there = map_between(layout, before ? step : step + 1, here);
  const StepFigure figure =
      before ? figure_of(document_.chain().steps[static_cast<std::size_t>(step)].kind, input_of_step(layout, step))
             : result_figure(step);
  for (const StepLine& line : figure.lines) {
    QPolygonF points;
    for (const Point p : line.points)
      if (const auto at = there.forward(p)) points << to_widget(point_of(*at));
    if (points.size() < 2) continue;
    overlay::line(painter, points, colour, true, line.closed && points.size() == static_cast<int>(line.points.size()));
    if (!line.arrow) continue;
    const QPointF tip = points.back(), back = points[points.size() - 2];
    const double length = std::hypot(tip.x() - back.x(), tip.y() - back.y());
    if (length < 1e-6) continue;
    const QPointF along = (tip - back) / length, aside(-along.y(), along.x());
    overlay::line(painter, {tip - 11 * along + 6 * aside, tip, tip - 11 * along - 6 * aside}, colour, false, false);
  }
}

double PictureView::paint_still_moving(QPainter& painter) {
  constexpr double longest = 36, least = 5;  // px on the screen
  const Document::StillMoving* still = document_.still_moving();
  if (!still || still->field.sound == 0 || station() < still->station) return 0;
  const Map there = map_between(document_.layout(), still->station, station());
  const Point far = still->field.farthest.moved;
  const double most = std::max(1e-6, std::hypot(far.x, far.y)) * zoom_;
  const double enlarged = std::max(1.0, overlay::round_step(0.5 * longest / most));
  for (const ResidualShift& shift : still->field.shifts) {
    const auto from = there.forward(shift.at);
    if (!from) continue;
    const Size size = document_.layout().stations[static_cast<std::size_t>(station())].size;
    if (from->x < 0 || from->y < 0 || from->x > size.width || from->y > size.height) continue;  // cropped away
    const QPointF at = to_widget(point_of(*from));
    if (!shift.sound) {
      // Too flat or too unlike to say.
      painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
      painter.setBrush(QColor(0x23, 0x28, 0x2B, 120));
      painter.drawEllipse(at, 2, 2);
      continue;
    }
    const QPointF by = point_of(enlarged * shift.moved) * zoom_;
    const double length = std::hypot(by.x(), by.y());
    const QPointF tip = at + by;
    if (length < least) {
      // Hardly any: a dot, and the little there is.
      painter.setPen(QPen(overlay::colour_b, 1.6));
      painter.setBrush(Qt::NoBrush);
      painter.drawLine(at - by / 2, at + by / 2);
      painter.drawPoint(at);
      continue;
    }
    const QPointF along = by / length, aside(-along.y(), along.x());
    const double head = std::min(6.0, 0.5 * length);
    QPainterPath path;
    path.moveTo(at);
    path.lineTo(tip);
    path.moveTo(tip - head * along + 0.6 * head * aside);
    path.lineTo(tip);
    path.lineTo(tip - head * along - 0.6 * head * aside);
    overlay::lines(painter, path, overlay::colour_b, false);
  }
  return enlarged;
}

void PictureView::paint_masks(QPainter& painter) {
  const Layout& layout = document_.layout();
  const Map there = map_between(layout, 0, station());
  const auto& masks = document_.chain().masks;
  for (std::size_t i = 0; i < masks.size(); ++i) {
    const Mask& mask = masks[i];
    if (!mask.frames.empty() && std::ranges::find(mask.frames, document_.frame() + 1) == mask.frames.end()) continue;
    QPainterPath path;
    for (const auto& outline : outlines_of(mask)) {
      QPolygonF points;
      for (const Point p : outline)
        if (const auto at = there.forward(p)) points << to_widget(point_of(*at));
      if (points.size() == static_cast<int>(outline.size())) {
        path.addPolygon(points);
        path.closeSubpath();
      }
    }
    if (path.isEmpty()) continue;
    const bool only = mask.use == Mask::Use::only, chosen = static_cast<int>(i) == document_.selected_mask();
    // Strokes over what is left out, none over what is kept to: told apart without colour.
    if (!only) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(QBrush(QColor(0x23, 0x28, 0x2B, 150), Qt::BDiagPattern));
      painter.drawPath(path);
      painter.setBrush(QColor(255, 255, 255, 50));
      painter.drawPath(path);
    }
    overlay::lines(painter, path, chosen ? overlay::colour_active : QColor(0x23282B), !chosen);
    if (only && chosen) overlay::label(painter, path.boundingRect().center(), tr("only here"), overlay::colour_active);
  }
}

void PictureView::paint_hand(QPainter& painter, QPointF at) const {
  const Layout& layout = document_.layout();
  const Map& map = layout.stations[static_cast<std::size_t>(station())].from_source;
  if (!map.planar()) return;
  const auto j = map.jacobian(document_.shape().size.middle());
  if (!j) return;
  const double scale = std::sqrt(std::abs(j->determinant()));
  if (!(scale > 1e-9)) return;
  const Matrix2 m = *j / scale;
  // A picture that lies nearly as it came needs no mark.
  if (m.determinant() > 0 && m(0, 0) > 0.7 && m(1, 1) > 0.7) return;
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(255, 255, 255, 235));
  painter.drawRoundedRect(QRectF(at, QSizeF(20, 20)), 3, 3);
  QPainterPath letter;
  letter.moveTo(-3.5, 6);
  letter.lineTo(-3.5, -6);
  letter.lineTo(4, -6);
  letter.moveTo(-3.5, -0.5);
  letter.lineTo(2, -0.5);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(m.determinant() < 0 ? overlay::colour_wrong : overlay::colour_active, 2, Qt::SolidLine,
                      Qt::RoundCap, Qt::RoundJoin));
  // Qt's rows are our columns.
  const QTransform lay(m(0, 0), m(1, 0), m(0, 1), m(1, 1), at.x() + 10, at.y() + 10);
  painter.drawPath(lay.map(letter));
}

void PictureView::paint_gauges(QPainter& painter, const QColor& colour) const {
  const int here = station();
  // Labels keep clear of handles, of the badge, and of each other.
  std::vector<QRectF> taken{QRectF(overlay::ruler_thickness, overlay::ruler_thickness, 150, 30)};
  for (const Handle& handle : handles_) {
    constexpr double half = 11;
    const bool drawn = handle.kind != Handle::Kind::gauge_end || handle.owner == document_.selected_gauge();
    if (drawn) taken.emplace_back(to_widget(handle.at) - QPointF(half, half), QSizeF(2 * half, 2 * half));
  }
  const QRectF room = QRectF(rect()).adjusted(overlay::ruler_thickness, overlay::ruler_thickness, -2, -2);
  for (int g = 0; g < static_cast<int>(document_.chain().gauges.size()); ++g) {
    const auto line = gauge_line(g);
    if (!line) continue;
    const QLineF shown(to_widget(line->p1()), to_widget(line->p2()));
    overlay::gauge(painter, shown.p1(), shown.p2(), colour);
    const GaugeReading& reading = document_.readings(here)[static_cast<std::size_t>(g)];
    if (!reading.length) continue;
    const int decimals = reading.uncertainty ? decimals_for(*reading.uncertainty) : 1;
    const QString text = text_of(number_text(reading.length->value, decimals)) + " " + unit_text(reading.length->unit);
    const QPointF at = overlay::free_place(shown, text, room, taken);
    overlay::label(painter, at, text, colour);
    taken.push_back(overlay::label_box(at, text));
  }
}

void PictureView::paint_over(QPainter& painter) {
  if (shows_kept()) {
    paint_kept(painter);
    return;
  }
  const Chain& chain = document_.chain();
  const Layout& layout = document_.layout();
  const int here = station();
  const Station& s = layout.stations[static_cast<std::size_t>(here)];
  const QColor colour = overlay::flag_colour(is_b_);

  overlay::Legend cost_legend;
  if (const auto& cost = cost_layer()) {
    const QRectF covered(to_widget({0, 0}), to_widget({double(s.size.width), double(s.size.height)}));
    cost_legend = cost->paint(painter, covered & QRectF(rect()), [this](QPointF w) { return to_station(w); });
  }

  const double enlarged = paint_still_moving(painter);
  if (shows_masks()) paint_masks(painter);
  paint_step(painter);
  paint_gauges(painter, colour);
  QPointF middle;
  int corners = 0;
  for (const Handle& h : handles_)
    if (h.of_step()) {
      middle += to_widget(h.at);
      ++corners;
    }
  if (corners > 0) middle /= corners;
  for (const Handle& h : handles_) {
    const bool chosen = selected_ && *selected_ == h;
    if (h.of_step())
      overlay::handle(painter, to_widget(h.at), h.name, colour, chosen && hasFocus(), middle);
    else if (h.kind == Handle::Kind::mask)
      overlay::handle(painter, to_widget(h.at), h.name, overlay::colour_active, chosen && hasFocus(), middle);
    else if (h.owner == document_.selected_gauge())
      overlay::handle(painter, to_widget(h.at), {}, colour, chosen && hasFocus(), middle);
  }
  if (take_corners_ && !corners_.isEmpty()) {
    QPolygonF points;
    for (const QPointF& p : corners_) points << to_widget(p);
    for (const QPointF& p : points) overlay::cross(painter, p, 5, colour);
    points << hover_;
    overlay::line(painter, points, colour, true, false);
  }
  if (laying_gauge_ && drag_ == Drag::gauge)
    overlay::line(painter, {to_widget(gauge_start_), to_widget(gauge_end_)}, colour, true, false);

  overlay::rulers(painter, size(), to_widget({0, 0}), zoom_, s.pixel);
  const int tile = is_b_ ? document_.state().flag_b : document_.state().flag_a;
  QString name = tile_title(document_, tile);
  if (here > 0 && !document_.is_result_tile(tile)) name = tr("after %1 %2").arg(here).arg(name);
  if (s.problem) name += tr(" (not made)");
  const double badge_left = badge_right_ ? width() - 110.0 : overlay::ruler_thickness + 6.0;
  const QRectF badge =
      overlay::badge(painter, {badge_left, overlay::ruler_thickness + 6.0}, is_b_ ? "B" : "A", name, colour);
  paint_hand(painter, badge_right_ ? QPointF(badge.left() - 26, badge.top()) : badge.topRight() + QPointF(6, 0));
  const double bottom = height() - 16.0;
  if (laying_gauge_) {
    overlay::sentence(painter, {overlay::ruler_thickness + 6.0, bottom},
                      !line_hint_.isEmpty()
                          ? line_hint_
                          : tr("Drag along a known length. Return lays one in the middle, Escape leaves it."),
                      overlay::colour_active);
  } else if (enlarged > 0) {
    overlay::sentence(painter, {overlay::ruler_thickness + 6.0, bottom},
                      tr("What still moves, drawn %1 × as long").arg(text_of(short_number(enlarged, 3))),
                      overlay::colour_active);
  } else if (!no_cost_.isEmpty()) {
    overlay::sentence(painter, {overlay::ruler_thickness + 6.0, bottom}, no_cost_, overlay::colour_wrong);
  } else if (const auto varies = scale_variation(chain, layout, here); varies && *varies > 0.001) {
    overlay::sentence(painter, {overlay::ruler_thickness + 6.0, bottom},
                      tr("Scale varies %1 % over the rectangle in this view")
                          .arg(text_of(number_text(100 * *varies, *varies < 0.02 ? 1 : 0))),
                      overlay::colour_wrong);
  }

  QPointF corner(width() - 10.0, height() - 10.0);
  if (mix_ != Mix::none) corner.setY(paint_legend(painter, corner).top() - 6);
  if (!cost_legend.says.isEmpty()) overlay::legend(painter, corner, cost_legend);

  if (drag_ == Drag::handle && selected_ && !loupe_.image.isNull()) {
    const QPointF at = to_widget(selected_->at);
    QPointF place = at + QPointF(loupe_radius + 34, -loupe_radius - 20);
    if (place.x() + loupe_radius > width()) place.setX(at.x() - loupe_radius - 34);
    if (place.y() - loupe_radius < overlay::ruler_thickness) place.setY(at.y() + loupe_radius + 20);
    QPainterPath circle;
    circle.addEllipse(place, loupe_radius, loupe_radius);
    painter.save();
    painter.setClipPath(circle);
    painter.fillRect(circle.boundingRect(), theme().surround);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, false);
    const QPointF corner = place + (QPointF(loupe_.left, loupe_.top) - selected_->at) * loupe_zoom;
    painter.drawImage(QRectF(corner, QSizeF(loupe_.image.size()) * loupe_zoom), loupe_.image);
    painter.restore();
    painter.setPen(QPen(Qt::white, 4));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(place, loupe_radius, loupe_radius);
    painter.setPen(QPen(QColor(0x23282B), 1));
    painter.drawEllipse(place, loupe_radius + 2, loupe_radius + 2);
    overlay::cross(painter, place, 30, colour);
    overlay::label(painter, place + QPointF(0, loupe_radius + 2),
                   text_of("x " + number_text(selected_->at.x(), 1) + "  y " + number_text(selected_->at.y(), 1)),
                   colour);
  }
  if (hasFocus()) {
    painter.setPen(QPen(theme().teal, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
  }
}

}  // namespace fexel
