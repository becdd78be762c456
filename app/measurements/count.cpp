/// Count: places of one class.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class CountUi : public MeasurementUiOf<CountMeasurement> {
 public:
  CountUi()
      : MeasurementUiOf(
            {QObject::tr("Count"), QObject::tr("Coun&t places"),
             QObject::tr("Click on each thing that counts. Return or a double click ends, Backspace takes one back."),
             QObject::tr("count %1")},
            Qt::Key_T) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    for (const QPointF& p : points) {
      drawing::cross(painter, p, 4, colour);
      drawing::line(painter, {p + QPointF(-5, -5), p + QPointF(5, -5), p + QPointF(5, 5), p + QPointF(-5, 5)}, colour,
                    false, true);
    }
  }
  QLineF label_line(const QPolygonF& points) const override { return {points.front(), points.front() + QPointF(1, 0)}; }
};

}  // namespace

const MeasurementUi& count_measurement_ui() {
  return made_in_language<CountUi>();
}

}  // namespace fexel
