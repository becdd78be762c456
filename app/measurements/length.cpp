/// Length: the distance between two points.
#include "app/canvas/drawing.h"
#include "app/document/document.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class LengthUi : public MeasurementUiOf<LengthMeasurement> {
 public:
  LengthUi()
      : MeasurementUiOf({QObject::tr("Length"), QObject::tr("&Length along a known length"),
                         QObject::tr("Drag along a known length. Return lays one in the middle, Escape leaves it."),
                         QObject::tr("length %1")},
                        Qt::Key_G) {}
  MeasurementKind begun(const Document& document) const override {
    LengthMeasurement length;
    for (const Station& station : document.layout().stations)
      if (station.pixel) length.unit = station.pixel->unit;
    return length;
  }
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::length_line(painter, points[0], points[1], colour);
  }
};

}  // namespace

const MeasurementUi& length_measurement_ui() {
  return made_in_language<LengthUi>();
}

}  // namespace fexel
