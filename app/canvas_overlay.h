#pragma once
/// What is drawn over pictures: outlines, handles, labels, rulers, at the screen's resolution with a contrasting
/// outline.
#include <QPainter>
#include <optional>

#include "base/units.h"

namespace fexel::overlay {

/// A line 2 px wide in `colour` with a white halo.
void line(QPainter& painter, const QPolygonF& points, const QColor& colour, bool dashed, bool closed);
/// A ring with a centre dot and a number beside it, away from `middle`; filled when selected.
void handle(QPainter& painter, QPointF at, const QString& text, const QColor& colour, bool selected, QPointF middle);
/// Text on white, centred at `at`.
void label(QPainter& painter, QPointF at, const QString& text, const QColor& colour);
/// A label whose left end is at `left_middle`.
void sentence(QPainter& painter, QPointF left_middle, const QString& text, const QColor& colour);
/// A lettered flag and a name in the corner of a picture; returns its rectangle.
QRectF badge(QPainter& painter, QPointF top_left, const QString& letter, const QString& name, const QColor& colour);
/// Rulers along the top and left edge. `origin` is where station 0, 0 lies in the widget, `zoom` widget px per station
/// px.
void rulers(QPainter& painter, QSizeF widget, QPointF origin, double zoom, const std::optional<PixelSize>& pixel);
inline constexpr int ruler_thickness = 18;
/// The fine hatch that marks empty area.
QBrush hatch();
/// Round steps 1, 2, 5 x 10^n that take at least `least`.
double round_step(double least);

}  // namespace fexel::overlay
