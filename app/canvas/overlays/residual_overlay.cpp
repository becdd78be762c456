/// Arrows of what still moves in the shown frame after alignment, enlarged.
#include <QPainterPath>

#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class ResidualOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    enlarged_ = 0;
    constexpr double longest = 36;  // px on the screen
    const Session::Residuals* residuals = document_.session().residuals(document_.revision());
    if (!residuals || residuals->field.sound == 0 || view_.station() < residuals->station) return;
    const Map to_view = map_between(document_.layout(), residuals->station, view_.station());
    const Size size = document_.layout().stations[static_cast<std::size_t>(view_.station())].size;
    const Point far = residuals->field.farthest.moved;
    const double largest = std::max(1e-6, std::hypot(far.x, far.y)) * view_.zoom();
    enlarged_ = std::max(1.0, drawing::round_step(0.5 * longest / largest));
    for (const ResidualShift& shift : residuals->field.shifts) {
      const auto from = to_view.forward(shift.at);
      if (!from) continue;
      if (from->x < 0 || from->y < 0 || from->x > size.width || from->y > size.height) continue;  // cropped away
      paint_one(painter, view_.to_widget(point_of(*from)), shift);
    }
  }
  std::optional<Remark> remark() const override {
    if (!(enlarged_ > 0)) return std::nullopt;
    return Remark{QObject::tr("What still moves, drawn %1 × as long").arg(number_shown(short_number(enlarged_, 3))),
                  drawing::colour_active};
  }

 private:
  void paint_one(QPainter& painter, QPointF at, const ResidualShift& shift) const {
    constexpr double least = 5;  // px on the screen
    if (!shift.sound) {          // too flat or too unlike to say
      painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
      painter.setBrush(QColor(0x23, 0x28, 0x2B, 120));
      painter.drawEllipse(at, 2, 2);
      return;
    }
    const QPointF by = point_of(enlarged_ * shift.moved) * view_.zoom();
    const double length = std::hypot(by.x(), by.y());
    if (length < least) {
      painter.setPen(QPen(drawing::colour_b, 1.6));
      painter.setBrush(Qt::NoBrush);
      painter.drawLine(at - by / 2, at + by / 2);
      painter.drawPoint(at);
      return;
    }
    const QPointF tip = at + by, along = by / length, aside(-along.y(), along.x());
    const double head = std::min(6.0, 0.5 * length);
    QPainterPath path;
    path.moveTo(at);
    path.lineTo(tip);
    path.moveTo(tip - head * along + 0.6 * head * aside);
    path.lineTo(tip);
    path.lineTo(tip - head * along - 0.6 * head * aside);
    drawing::lines(painter, path, drawing::colour_b, false);
  }

  double enlarged_ = 0;  ///< 0 where there are none here
};

}  // namespace

std::unique_ptr<Overlay> make_residual_overlay(PictureView& view) {
  return std::make_unique<ResidualOverlay>(view);
}

}  // namespace fexel
