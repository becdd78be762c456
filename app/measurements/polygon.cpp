/// Polygon: area and samples.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class PolygonUi : public MeasurementUiOf<PolygonMeasurement> {
 public:
  PolygonUi()
      : MeasurementUiOf({QObject::tr("Polygon"), QObject::tr("Pol&ygon, its area and samples"),
                         QObject::tr("Click on the corners, three or more. Return or a double click ends, Backspace "
                                     "takes one back, Escape leaves it."),
                         QObject::tr("area %1")},
                        Qt::Key_Y) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::line(painter, points, colour, false, true);
  }
};

}  // namespace

const MeasurementUi& polygon_measurement_ui() {
  return made_in_language<PolygonUi>();
}

}  // namespace fexel
