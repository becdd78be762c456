/// Rectangle: area and samples.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class RectangleUi : public MeasurementUiOf<RectangleMeasurement> {
 public:
  RectangleUi()
      : MeasurementUiOf(
            {QObject::tr("Rectangle"), QObject::tr("&Rectangle, its area and samples"),
             QObject::tr("Drag from one corner to the opposite one. Return lays one in the middle, Escape leaves it."),
             QObject::tr("area %1")},
            Qt::Key_R) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    const QPointF a = points[0], b = points[1];
    drawing::line(painter, {a, {b.x(), a.y()}, b, {a.x(), b.y()}}, colour, false, true);
  }
};

}  // namespace

const MeasurementUi& rectangle_measurement_ui() {
  return made_in_language<RectangleUi>();
}

}  // namespace fexel
