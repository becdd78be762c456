/// Point: a place.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class PointUi : public MeasurementUiOf<PointMeasurement> {
 public:
  PointUi()
      : MeasurementUiOf({QObject::tr("Point"), QObject::tr("P&oint, its place and samples"),
                         QObject::tr("Click on the place."), QObject::tr("point %1")},
                        Qt::Key_D) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::cross(painter, points[0], 8, colour);
  }
};

}  // namespace

const MeasurementUi& point_measurement_ui() {
  return made_in_language<PointUi>();
}

}  // namespace fexel
