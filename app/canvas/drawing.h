#pragma once
/// What is drawn over pictures: outlines, handles, labels, rulers, at the screen's resolution with a contrasting
/// outline.
#include <QLineF>
#include <QPainter>
#include <optional>
#include <vector>

#include "base/units.h"
#include "geometry/axes.h"

namespace fexel::drawing {

/// Colours over pictures: the same in both looks, for their halo and the ground of their labels are white.
inline const QColor colour_a(0x3F4FA3), colour_b(0xA3610F), colour_wrong(0xA63A2B), colour_active(0x0E6B68);
inline const QColor& flag_colour(bool b) {
  return b ? colour_b : colour_a;
}

/// A line 2 px wide in `colour` with a white halo.
void line(QPainter& painter, const QPolygonF& points, const QColor& colour, bool dashed, bool closed);
/// The same for several lines, with one halo.
void lines(QPainter& painter, const QPainterPath& path, const QColor& colour, bool dashed);
/// Two points and the short strokes across their ends.
void length_line(QPainter& painter, QPointF from, QPointF to, const QColor& colour);
/// The head of an arrow from `back` to `tip`.
void arrow_head(QPainter& painter, QPointF back, QPointF tip, const QColor& colour);
/// The place of a line that is nearest to a point.
QPointF nearest_on(QLineF line, QPointF p);
/// A cross that reaches `half` to each side.
void cross(QPainter& painter, QPointF at, double half, const QColor& colour);
/// A ring with a centre dot and a number beside it, away from `middle`; filled when selected.
void handle(QPainter& painter, QPointF at, const QString& text, const QColor& colour, bool selected, QPointF middle);
/// Text on white, centred at `at`.
void label(QPainter& painter, QPointF at, const QString& text, const QColor& colour);
/// What a label covers.
QRectF label_box(QPointF at, const QString& text);
/// A place beside a line for its label, within the room and clear of what is taken, where there is one.
QPointF free_place(QLineF line, const QString& text, const QRectF& room, const std::vector<QRectF>& taken);
/// A sentence on white, broken where it does not fit. `left_middle` is the left end of its last line; further lines
/// stand above it.
void sentence(QPainter& painter, QPointF left_middle, const QString& text, const QColor& colour);
/// A scale of colours with words at its ends and below it, its lower right corner at `corner`. Returns its box.
struct Legend {
  QGradientStops shades;
  QString low, middle, high, says;
};
QRectF legend(QPainter& painter, QPointF corner, const Legend& legend);
/// A lettered flag and a name in the corner of a picture; returns its rectangle.
QRectF badge(QPainter& painter, QPointF top_left, const QString& letter, const QString& name, const QColor& colour);
/// Rulers along the top and left edge. `origin` is where station 0, 0 lies in the widget, `zoom` widget px per station
/// px. With level axes of one's own they count from there; turned ones cannot be shown along the sides.
void rulers(QPainter& painter, QSizeF widget, QPointF origin, double zoom, const std::optional<PixelSize>& pixel,
            const std::optional<AxesHere>& axes = {});
/// How near to a handle a press takes hold of it, in px of the widget.
inline constexpr double handle_reach = 12;
inline constexpr int ruler_thickness = 18;
/// The fine hatch that marks empty area.
QBrush hatch();
/// Round steps 1, 2, 5 x 10^n that take at least `least`.
double round_step(double least);

}  // namespace fexel::drawing
