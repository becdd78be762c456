/// Ellipse: area and samples.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class EllipseUi : public MeasurementUiOf<EllipseMeasurement> {
 public:
  EllipseUi()
      : MeasurementUiOf(
            {QObject::tr("Ellipse"), QObject::tr("&Ellipse, its area and samples"),
             QObject::tr("Click on the middle, on the end of one half axis, and on a point of the rim across from it."),
             QObject::tr("area %1")},
            Qt::Key_E) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    const QLineF axis(points[0], points[1]);
    if (axis.length() == 0) return;
    const QPointF along = axis.p2() - axis.p1(), third = points[2] - points[0];
    const double other = std::abs(along.x() * third.y() - along.y() * third.x()) / axis.length();
    const QPointF across = other / axis.length() * QPointF(-along.y(), along.x());
    QPolygonF around;
    for (int i = 0; i < 180; ++i) {
      const double turn = 2 * std::numbers::pi * i / 180;
      around << points[0] + std::cos(turn) * along + std::sin(turn) * across;
    }
    drawing::line(painter, around, colour, false, true);
    drawing::line(painter, {points[0], points[1]}, colour, true, false);
  }
};

}  // namespace

const MeasurementUi& ellipse_measurement_ui() {
  return made_in_language<EllipseUi>();
}

}  // namespace fexel
