#include "app/canvas/drawing.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

#include <QPixmapCache>
#include <algorithm>

#include "app/ui/theme.h"

namespace fexel::drawing {

void lines(QPainter& painter, const QPainterPath& path, const QColor& colour, bool dashed) {
  painter.save();
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255, 217), 5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.drawPath(path);
  QPen pen(colour, 2, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
  if (dashed) pen.setDashPattern({4, 2.5});
  painter.setPen(pen);
  painter.drawPath(path);
  painter.restore();
}

void line(QPainter& painter, const QPolygonF& points, const QColor& colour, bool dashed, bool closed) {
  QPainterPath path;
  path.addPolygon(points);
  if (closed) path.closeSubpath();
  lines(painter, path, colour, dashed);
}

void length_line(QPainter& painter, QPointF from, QPointF to, const QColor& colour) {
  const QPointF d = to - from;
  const QPointF across = QPointF(-d.y(), d.x()) / std::max(1e-9, std::hypot(d.x(), d.y())) * 6;
  QPainterPath path;
  for (const auto& [p, q] : {std::pair{from, to}, {from - across, from + across}, {to - across, to + across}}) {
    path.moveTo(p);
    path.lineTo(q);
  }
  lines(painter, path, colour, false);
}

void arrow_head(QPainter& painter, QPointF back, QPointF tip, const QColor& colour) {
  const double length = std::hypot(tip.x() - back.x(), tip.y() - back.y());
  if (length < 1e-6) return;
  const QPointF along = (tip - back) / length, aside(-along.y(), along.x());
  line(painter, {tip - 11 * along + 6 * aside, tip, tip - 11 * along - 6 * aside}, colour, false, false);
}

QPointF nearest_on(QLineF line, QPointF p) {
  const QPointF d = line.p2() - line.p1();
  const double squared = QPointF::dotProduct(d, d);
  const double t = squared > 1e-9 ? std::clamp(QPointF::dotProduct(p - line.p1(), d) / squared, 0.0, 1.0) : 0;
  return line.p1() + t * d;
}

void cross(QPainter& painter, QPointF at, double half, const QColor& colour) {
  QPainterPath path;
  for (const QPointF& arm : {QPointF(half, 0), QPointF(0, half)}) {
    path.moveTo(at - arm);
    path.lineTo(at + arm);
  }
  lines(painter, path, colour, false);
}

namespace {

/// A haloed number. Outlining glyphs is slow, so each is drawn once and kept.
QPixmap number(const QString& text, const QColor& colour, double ratio) {
  const QString key = QString("number %1 %2 %3").arg(text, colour.name()).arg(ratio);
  QPixmap picture;
  if (QPixmapCache::find(key, &picture)) return picture;
  const QFont font = text_font(10, true);
  const QFontMetricsF metrics(font);
  const QSizeF size(std::ceil(metrics.horizontalAdvance(text)) + 8, std::ceil(metrics.capHeight()) + 8);
  picture = QPixmap((size * ratio).toSize());
  picture.setDevicePixelRatio(ratio);
  picture.fill(Qt::transparent);
  QPainter painter(&picture);
  painter.setRenderHint(QPainter::Antialiasing);
  QPainterPath path;
  path.addText(QPointF(4, 4 + metrics.capHeight()), font, text);
  painter.setPen(QPen(QColor(255, 255, 255, 230), 4));
  painter.drawPath(path);
  painter.setPen(Qt::NoPen);
  painter.setBrush(colour);
  painter.drawPath(path);
  QPixmapCache::insert(key, picture);
  return picture;
}

}  // namespace

void handle(QPainter& painter, QPointF at, const QString& text, const QColor& colour, bool selected, QPointF middle) {
  painter.save();
  painter.setPen(QPen(QColor(255, 255, 255, 217), 5));
  painter.setBrush(Qt::NoBrush);
  painter.drawEllipse(at, 7, 7);
  painter.setPen(QPen(colour, 2));
  painter.setBrush(selected ? QBrush(colour) : QBrush(QColor(255, 255, 255, 60)));
  painter.drawEllipse(at, 7, 7);
  painter.setPen(Qt::NoPen);
  painter.setBrush(selected ? QColor(Qt::white) : colour);
  painter.drawEllipse(at, 2, 2);
  if (!text.isEmpty()) {
    QPointF away = at - middle;
    const double length = std::hypot(away.x(), away.y());
    away = length > 1 ? away / length * 20 : QPointF(0, -20);
    const QPixmap picture = number(text, colour, painter.device()->devicePixelRatioF());
    const QSizeF size = picture.deviceIndependentSize();
    const auto box = [&](QPointF off) { return QRectF(at + off - QPointF(size.width(), size.height()) / 2, size); };
    // Outward, but where that would be cut off.
    const QRectF shown = painter.hasClipping() ? painter.clipBoundingRect() : QRectF(painter.window());
    const QRectF outward = box(away), inward = box(-away);
    const bool turned = !shown.contains(outward) && shown.contains(inward);
    painter.drawPixmap((turned ? inward : outward).topLeft().toPoint(), picture);
  }
  painter.restore();
}

QRectF label_box(QPointF at, const QString& text) {
  const double width = QFontMetricsF(text_font(8.5, true)).horizontalAdvance(text) + 12;
  return {at.x() - width / 2, at.y() - 8.5, width, 17};
}

QPointF free_place(QLineF line, const QString& text, const QRectF& room, const std::vector<QRectF>& taken) {
  const double length = std::max(1e-9, line.length());
  QPointF across(line.dy() / length, -line.dx() / length);
  if (across.y() > 0) across = -across;  // above first
  const QSizeF size = label_box({}, text).size();
  // So far off that the box is clear of the line.
  const double off = 10 + (std::abs(across.x()) * size.width() + std::abs(across.y()) * size.height()) / 2;
  for (const double further : {0.0, 20.0})
    for (const double along : {0.5, 0.25, 0.75, 0.0, 1.0})
      for (const int side : {1, -1}) {
        const QPointF at = line.pointAt(along) + side * (off + further) * across;
        const QRectF box = label_box(at, text);
        if (room.contains(box) &&
            std::ranges::none_of(taken, [&](const QRectF& other) { return other.intersects(box); }))
          return at;
      }
  return line.center() + off * across;
}

void label(QPainter& painter, QPointF at, const QString& text, const QColor& colour) {
  painter.save();
  painter.setFont(text_font(8.5, true));
  const QRectF box = label_box(at, text);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(255, 255, 255, 235));
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(colour);
  painter.drawText(box, Qt::AlignCenter, text);
  painter.restore();
}

void sentence(QPainter& painter, QPointF left_middle, const QString& text, const QColor& colour) {
  painter.save();
  painter.setFont(text_font(8.5, true));
  const double room = painter.window().width() - left_middle.x() - 6 - 12;
  QRectF words = QFontMetricsF(painter.font())
                     .boundingRect(QRectF(0, 0, std::max(60.0, room), 1000), Qt::AlignLeft | Qt::TextWordWrap, text);
  // Its last line stands where it would be alone.
  words.moveBottomLeft(left_middle + QPointF(6, 6.5));
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(255, 255, 255, 235));
  painter.drawRoundedRect(words.adjusted(-6, -2, 6, 2), 3, 3);
  painter.setPen(colour);
  painter.drawText(words.adjusted(0, 0, 1, 0), Qt::AlignLeft | Qt::TextWordWrap, text);
  painter.restore();
}

QRectF legend(QPainter& painter, QPointF corner, const Legend& legend) {
  constexpr double least = 200, pad = 10;
  painter.save();
  painter.setFont(text_font(8.5));
  const double words = QFontMetricsF(painter.font()).horizontalAdvance(legend.says);
  const QSizeF size(std::max(least, words) + 2 * pad, 52);
  const QRectF box(corner - QPointF(size.width(), size.height()), size);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(255, 255, 255, 235));
  painter.drawRoundedRect(box, 3, 3);
  const QRectF bar = box.adjusted(pad, 6, -pad, -36);
  QLinearGradient shades(bar.topLeft(), bar.topRight());
  shades.setStops(legend.shades);
  painter.setBrush(shades);
  painter.drawRect(bar);
  painter.setPen(QColor(0x23282B));
  const QRectF line(bar.left(), bar.bottom() + 2, bar.width(), 15);
  painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, legend.low);
  painter.drawText(line, Qt::AlignHCenter | Qt::AlignVCenter, legend.middle);
  painter.drawText(line, Qt::AlignRight | Qt::AlignVCenter, legend.high);
  painter.drawText(line.translated(0, 15), Qt::AlignHCenter | Qt::AlignVCenter, legend.says);
  painter.restore();
  return box;
}

QRectF badge(QPainter& painter, QPointF top_left, const QString& letter, const QString& name, const QColor& colour) {
  painter.save();
  painter.setFont(text_font(9, true));
  constexpr double longest = 220;
  const QFontMetricsF metrics(text_font(9));
  const QString shown = metrics.elidedText(name, Qt::ElideRight, longest);
  const QRectF box(top_left, QSizeF(metrics.horizontalAdvance(shown) + 38, 20));
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(255, 255, 255, 235));
  painter.drawRoundedRect(box, 3, 3);
  const QRectF square(top_left, QSizeF(20, 20));
  painter.setBrush(colour);
  painter.drawRoundedRect(square, 3, 3);
  painter.setPen(Qt::white);
  painter.drawText(square, Qt::AlignCenter, letter);
  painter.setPen(QColor(0x23282B));
  painter.setFont(text_font(9));
  painter.drawText(box.adjusted(28, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, shown);
  painter.restore();
  return box;
}

double round_step(double least) {
  const double power = std::pow(10.0, std::floor(std::log10(least)));
  for (const double factor : {1.0, 2.0, 5.0})
    if (factor * power >= least * 0.999) return factor * power;
  return 10 * power;
}

void rulers(QPainter& painter, QSizeF widget, QPointF origin, double zoom, const std::optional<PixelSize>& pixel,
            const std::optional<AxesHere>& axes) {
  const Theme& t = theme();
  constexpr double thick = ruler_thickness;
  painter.save();
  painter.setFont(text_font(7.5));
  painter.fillRect(QRectF(0, 0, widget.width(), thick), t.panel);
  painter.fillRect(QRectF(0, 0, thick, widget.height()), t.panel);
  painter.setPen(t.line);
  painter.drawLine(QPointF(thick, thick - 0.5), QPointF(widget.width(), thick - 0.5));
  painter.drawLine(QPointF(thick - 0.5, thick), QPointF(thick - 0.5, widget.height()));
  painter.setPen(t.soft_ink);
  const QFontMetricsF metrics(painter.font());
  const auto along = [&](bool across) {
    const double per_unit = zoom / (pixel ? (across ? pixel->x : pixel->y) : 1.0);  // widget px per unit
    double start = across ? origin.x() : origin.y(), sign = 1;
    if (axes && axes->level()) {
      sign = (across ? axes->along.x : axes->across.y) < 0 ? -1 : 1;
      start += zoom * (across ? axes->origin.x : axes->origin.y) -
               sign * (across ? axes->value.x : axes->value.y) * per_unit;
    }
    const double extent = across ? widget.width() : widget.height();
    const double step = round_step(70 / per_unit);
    const double from = sign * (thick + 2 - start) / per_unit / step, to = sign * (extent - start) / per_unit / step;
    const auto first = static_cast<int>(std::ceil(std::min(from, to)));
    const auto last = static_cast<int>(std::floor(std::max(from, to)));
    for (int i = first; i <= last && last - first < 1000; ++i) {
      const double at = start + sign * i * step * per_unit;
      const QString text = number_shown(short_number(i * step, 6));
      if (across) {
        painter.drawLine(QPointF(at, thick - 5), QPointF(at, thick - 1));
        // The last one stands before its stroke where it would be cut behind it.
        const bool fits = at + 3 + metrics.horizontalAdvance(text) <= widget.width();
        painter.drawText(QRectF(fits ? at + 3 : at - 69, 0, 66, thick - 2),
                         Qt::AlignVCenter | (fits ? Qt::AlignLeft : Qt::AlignRight), text);
      } else {
        painter.drawLine(QPointF(thick - 5, at), QPointF(thick - 1, at));
        painter.save();
        const double length = metrics.horizontalAdvance(text);
        painter.translate(0, at - 3 - length >= thick ? at - 3 : at + 3 + length);
        painter.rotate(-90);
        painter.drawText(QRectF(0, 0, 66, thick - 2), Qt::AlignVCenter | Qt::AlignLeft, text);
        painter.restore();
      }
    }
  };
  along(true);
  along(false);
  painter.fillRect(QRectF(0, 0, thick, thick), t.panel);
  painter.setFont(text_font(7));
  painter.drawText(QRectF(0, 0, thick, thick), Qt::AlignCenter, pixel ? unit_text(pixel->unit) : QStringLiteral("px"));
  painter.restore();
}

QBrush hatch() {
  static const QBrush brush = [] {
    QImage tile(8, 8, QImage::Format_RGB32);
    tile.fill(QColor(0x84, 0x84, 0x84));
    for (int i = 0; i < 8; ++i) tile.setPixelColor(i, 7 - i, QColor(0x9c, 0x9c, 0x9c));
    return QBrush(tile);
  }();
  return brush;
}

}  // namespace fexel::drawing
