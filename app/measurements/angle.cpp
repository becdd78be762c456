/// Angle: between two arms, or two lines.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class AngleUi : public MeasurementUiOf<AngleMeasurement> {
 public:
  AngleUi()
      : MeasurementUiOf({QObject::tr("Angle"), QObject::tr("&Angle at a corner"),
                         QObject::tr("Click on one arm, on the corner, and on the other arm, then Return; or a fourth "
                                     "point for the angle between two lines."),
                         QObject::tr("angle %1")},
                        Qt::Key_N) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    if (points.size() == 4) {
      drawing::line(painter, {points[0], points[1]}, colour, false, false);
      drawing::line(painter, {points[2], points[3]}, colour, false, false);
      return;
    }
    drawing::line(painter, points, colour, false, false);
    // An arc from arm to arm, as far out as the shorter one allows.
    const QLineF one(points[1], points[0]), other(points[1], points[2]);
    const double radius = std::min({28.0, one.length() / 2, other.length() / 2});
    double sweep = one.angleTo(other);
    if (sweep > 180) sweep -= 360;
    QPolygonF arc;
    for (int i = 0; i <= 24; ++i) {
      QLineF ray(points[1], points[1] + QPointF(radius, 0));
      ray.setAngle(one.angle() + sweep * i / 24);
      arc << ray.p2();
    }
    drawing::line(painter, arc, colour, false, false);
  }
  QLineF label_line(const QPolygonF& points) const override { return {points[1], points[points.size() - 2]}; }
};

}  // namespace

const MeasurementUi& angle_measurement_ui() {
  return made_in_language<AngleUi>();
}

}  // namespace fexel
