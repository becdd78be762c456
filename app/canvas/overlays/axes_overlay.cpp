/// Axes of one's own: the origin, and the directions in which x and y grow.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"

namespace fexel {
namespace {

class AxesOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const auto& axes = document_.layout().stations[static_cast<std::size_t>(view_.station())].axes;
    if (!axes || !document_.source()) return;
    constexpr double length = 56;  // px on the screen
    const QPointF origin = view_.to_widget(point_of(axes->origin));
    const std::pair<Point, QString> arms[] = {{axes->along, QStringLiteral("x")}, {axes->across, QStringLiteral("y")}};
    for (const auto& [direction, name] : arms) {
      // Directions are in units; pixels need not be square.
      QPointF arm(direction.x / axes->pixel.x, direction.y / axes->pixel.y);
      arm *= length / std::hypot(arm.x(), arm.y());
      drawing::line(painter, {origin, origin + arm}, drawing::colour_active, false, false);
      drawing::arrow_head(painter, origin, origin + arm, drawing::colour_active);
      drawing::label(painter, origin + 1.25 * arm, name, drawing::colour_active);
    }
    drawing::cross(painter, origin, 6, drawing::colour_active);
  }
};

}  // namespace

std::unique_ptr<Overlay> make_axes_overlay(PictureView& view) {
  return std::make_unique<AxesOverlay>(view);
}

}  // namespace fexel
