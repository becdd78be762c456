/// Circle: through points on a rim.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"
#include "measure/ring_edge.h"

namespace fexel {
namespace {

class CircleUi : public MeasurementUiOf<CircleMeasurement> {
 public:
  CircleUi()
      : MeasurementUiOf({QObject::tr("Circle"), QObject::tr("&Circle through points on a rim"),
                         QObject::tr("Click points around the rim, three or more. Return or a double click ends, "
                                     "Backspace takes one back, Escape leaves it."),
                         QObject::tr("circle %1")},
                        Qt::Key_C) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    for (const QPointF& p : points) drawing::cross(painter, p, 4, colour);
    std::vector<Point> rim;
    for (const QPointF& p : points) rim.push_back({p.x(), p.y()});
    const auto circle = fit_circle(rim);
    if (!circle) return;
    QPolygonF around;
    for (int i = 0; i < 180; ++i) {
      const double turn = 2 * std::numbers::pi * i / 180;
      around << QPointF(circle->centre.x, circle->centre.y) + circle->radius * QPointF(std::cos(turn), std::sin(turn));
    }
    drawing::line(painter, around, colour, false, true);
    drawing::cross(painter, {circle->centre.x, circle->centre.y}, 6, colour);
  }
};

}  // namespace

const MeasurementUi& circle_measurement_ui() {
  return made_in_language<CircleUi>();
}

}  // namespace fexel
