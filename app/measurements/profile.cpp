/// Profile: samples along a line.
#include "app/canvas/drawing.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class ProfileUi : public MeasurementUiOf<ProfileMeasurement> {
 public:
  ProfileUi()
      : MeasurementUiOf({QObject::tr("Profile"), QObject::tr("Pro&file along a line"),
                         QObject::tr("Drag along the line. Return lays one in the middle, Escape leaves it."),
                         QObject::tr("profile %1")},
                        Qt::Key_F) {}
  void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const override {
    drawing::line(painter, points, colour, true, false);
    drawing::arrow_head(painter, points[0], points[1], colour);
  }
};

}  // namespace

const MeasurementUi& profile_measurement_ui() {
  return made_in_language<ProfileUi>();
}

}  // namespace fexel
