/// Path: the way along points.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class PathUi : public MeasurementUiOf<PathMeasurement> {
 public:
  PathUi()
      : MeasurementUiOf({QObject::tr("Path"), QObject::tr("&Path along points"),
                         QObject::tr("Click along the way, three points or more. Return or a double click ends, "
                                     "Backspace takes one back, Escape leaves it."),
                         QObject::tr("path %1")},
                        Qt::Key_W) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::line(painter, points, colour, false, false);
  }
};

}  // namespace

const MeasurementUi& path_measurement_ui() {
  return made_in_language<PathUi>();
}

}  // namespace fexel
