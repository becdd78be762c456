/// Point: a place.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class PointUi : public MeasurementUiOf<PointMeasurement> {
 public:
  PointUi()
      : MeasurementUiOf({QObject::tr("Point"), QObject::tr("P&oint, its place and samples"),
                         QObject::tr("Click on the place."), QObject::tr("point %1")},
                        Qt::Key_D) {}
  QString value_text(const Reading& reading) const override {
    if (!reading.value || reading.details.empty()) return QStringLiteral("–");
    const int decimals = reading.uncertainty ? decimals_for(*reading.uncertainty) : 1;
    return QStringLiteral("x %1, y %2 %3")
        .arg(text_of(number_text(reading.value->value, decimals)),
             text_of(number_text(reading.details[0].quantity.value, decimals)), unit_text(reading.value->unit));
  }
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::cross(painter, points[0], 8, colour);
  }
};

}  // namespace

const MeasurementUi& point_measurement_ui() {
  static const PointUi ui;
  return ui;
}

}  // namespace fexel
