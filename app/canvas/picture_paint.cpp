/// What a picture view paints: the picture, what lies over it, and the other view's pointer.
#include <Eigen/LU>

#include "app/canvas/drawing.h"
#include "app/canvas/picture_view.h"
#include "app/pipeline/tile.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr double values_zoom = 24;

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
  const auto& pointer = document_.session().pointer();
  if (!document_.source() || !pointer || (shows_snapshot() && !reference())) return {};
  const int here = reference() ? snapshot_->reference->step + 1 : station();
  if (here >= static_cast<int>(document_.layout().stations.size()) || (pointer->station == here)) return {};
  if (reference() && document_.layout().stations[static_cast<std::size_t>(here)].problem) return {};
  const Carried c = carry(document_.layout(), pointer->point, pointer->station, here);
  if (c.status == CarryStatus::beyond_horizon) return {};
  const QPointF at = to_widget(point_of(reference() ? 1 / snapshot_->reference->scale * c.point : c.point));
  if (!rect().contains(at.toPoint())) return {};
  return {at - QPointF(9, 9), QSizeF(18, 18)};
}

void PictureView::move_cross() {
  for (const QRectF& part : {painted_cross_, cross()})
    if (!part.isEmpty()) update(part.adjusted(-4, -4, 4, 4).toAlignedRect());
}

void PictureView::paintEvent(QPaintEvent*) {
  if (layer_stale_ || layer_.size() != (QSizeF(size()) * ratio()).toSize()) paint_layer();
  QPainter painter(this);
  painter.drawImage(QPointF(0, 0), layer_);
  // The other view's pointer lies above all else, so that following it costs next to nothing.
  painted_cross_ = cross();
  if (!painted_cross_.isEmpty()) {
    painter.setRenderHint(QPainter::Antialiasing);
    drawing::cross(painter, painted_cross_.center(), 9, drawing::flag_colour(is_b_));
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
  painter.fillRect(visible, drawing::hatch());
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
          lines << number_shown(
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
  const QString says = snapshot_ && snapshot_->reference ? tr("A is the reference")
                       : snapshot_                       ? (mix_is_carried() ? tr("A is kept, and carried to B's place")
                                                                             : tr("A is kept, and shown as it lies"))
                       : mix_is_carried()                ? tr("A carried to B's place by the chain")
                                                         : tr("A as it lies, pixel on pixel");
  const QColor grey(128, 128, 128);
  if (mix_ == Mix::tint)
    return drawing::legend(painter, corner,
                           {{{0, QColor(40, 128, 215)}, {0.5, grey}, {1, QColor(215, 128, 40)}},
                            tr("A brighter"),
                            tr("alike"),
                            tr("B brighter"),
                            says});
  const Image& base = document_.source()->pixels->base();
  const double full = range_ ? range_->second - range_->first : base.depth() == Depth::f32 ? 1 : base.largest() + 1;
  const std::string range = short_number(full * difference_range, 5);
  return drawing::legend(painter, corner,
                         {{{0, Qt::black}, {0.5, grey}, {1, Qt::white}},
                          number_shown("\u2212" + range),
                          tr("0, B \u2212 A in grey levels"),
                          text_of("+" + range),
                          says});
}

void PictureView::paint_snapshot(QPainter& painter) {
  drawing::rulers(painter, size(), to_widget({0, 0}), zoom_, snapshot_->shown().pixel);
  if (reference()) {
    for (const auto& overlay : overlays_)
      if (overlay->on_reference()) overlay->paint(painter);
    paint_handles(painter);
    if (wanted_) wanted_->paint(painter);
    paint_remark(painter, false);
    if (dragged_) dragged_->paint(painter);
  }
  drawing::badge(painter, {drawing::ruler_thickness + 6.0, drawing::ruler_thickness + 6.0}, is_b_ ? "B" : "A",
                 (reference() ? tr("reference: %1") : tr("kept: %1")).arg(snapshot_->name),
                 drawing::flag_colour(is_b_));
  if (detail_ == 1) paint_focus(painter);  // a figure has no keyboard
}

void PictureView::paint_orientation(QPainter& painter, QPointF at) const {
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
  painter.setPen(QPen(m.determinant() < 0 ? drawing::colour_wrong : drawing::colour_active, 2, Qt::SolidLine,
                      Qt::RoundCap, Qt::RoundJoin));
  // Qt's rows are our columns.
  const QTransform lay(m(0, 0), m(1, 0), m(0, 1), m(1, 1), at.x() + 10, at.y() + 10);
  painter.drawPath(lay.map(letter));
}

void PictureView::paint_handles(QPainter& painter) {
  QPointF middle;
  int corners = 0;
  for (const Handle& h : handles_)
    if (h.of_step()) {
      middle += to_widget(h.at);
      ++corners;
    }
  if (corners > 0) middle /= corners;
  for (const Handle& h : handles_)
    overlay_of(h).paint_handle(painter, h, selected_ && *selected_ == h && hasFocus(), middle);
}

void PictureView::paint_badge(QPainter& painter) {
  const int here = station();
  const int tile = snapshot_ && snapshot_->reference ? here
                   : is_b_                           ? document_.state().flag_b
                                                     : document_.state().flag_a;
  QString name = tile_title(document_, tile);
  if (here > 0 && !document_.is_result_tile(tile)) name = tr("after %1 %2").arg(here).arg(name);
  if (shown_station().problem) name += tr(" (not made)");
  const double left = badge_right_ ? width() - 110.0 : drawing::ruler_thickness + 6.0;
  const QRectF badge = drawing::badge(painter, {left, drawing::ruler_thickness + 6.0}, is_b_ ? "B" : "A", name,
                                      drawing::flag_colour(is_b_));
  paint_orientation(painter, badge_right_ ? QPointF(badge.left() - 26, badge.top()) : badge.topRight() + QPointF(6, 0));
}

void PictureView::paint_remark(QPainter& painter, bool at_top) {
  std::optional<Overlay::Remark> remark;
  if (wanted_) remark = Overlay::Remark{wanted_->hint(), drawing::colour_active};
  for (const auto& overlay : overlays_)
    if (!remark && (!reference() || overlay->on_reference())) remark = overlay->remark();
  if (remark)
    drawing::sentence(painter,
                      {drawing::ruler_thickness + 6.0, at_top ? drawing::ruler_thickness + 44.0 : height() - 16.0},
                      remark->text, remark->colour);
}

void PictureView::paint_focus(QPainter& painter) {
  if (!hasFocus()) return;
  painter.setPen(QPen(theme().teal, 2));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
}

void PictureView::paint_over(QPainter& painter) {
  if (shows_snapshot()) return paint_snapshot(painter);
  for (const auto& overlay : overlays_) overlay->paint(painter);
  paint_handles(painter);
  if (wanted_) wanted_->paint(painter);
  drawing::rulers(painter, size(), to_widget({0, 0}), zoom_, shown_station().pixel, shown_station().axes);
  paint_badge(painter);
  // A legend has the lower edge.
  const bool legends =
      mix_ != Mix::none || std::ranges::any_of(overlays_, [](const auto& o) { return o->legend().has_value(); });
  paint_remark(painter, legends);
  QPointF corner(width() - 10.0, height() - 10.0);
  if (mix_ != Mix::none) corner.setY(paint_legend(painter, corner).top() - 6);
  for (const auto& overlay : overlays_)
    if (const auto legend = overlay->legend()) corner.setY(drawing::legend(painter, corner, *legend).top() - 6);
  if (dragged_) dragged_->paint(painter);
  paint_focus(painter);
}

}  // namespace fexel
