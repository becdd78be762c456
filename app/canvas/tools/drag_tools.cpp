/// Drags of a handle, under a loupe, and of the picture itself.
#include <QPainterPath>

#include "app/canvas/picture_view.h"
#include "app/canvas/tools/tools.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

class HandleTool : public Tool {
 public:
  HandleTool(PictureView& view, QPointF pressed)
      : Tool(view), offset_(view.to_widget(view.selected_handle()->at) - pressed) {}

  State move(QPointF at) override {
    if (const auto handle = view_.selected_handle()) view_.move_handle(*handle, view_.to_station(at + offset_));
    return State::going_on;
  }
  State release() override { return State::done; }
  void finish() override { view_.document().session().set_dragging(false); }

  /// The pixels about the handle, 8 times as large, with its coordinates.
  void paint(QPainter& painter) override {
    constexpr double loupe_zoom = 8;
    constexpr int radius = 56;
    const auto handle = view_.selected_handle();
    const StationImage& loupe = view_.loupe();
    if (!handle || loupe.image.isNull()) return;
    const QPointF at = view_.to_widget(handle->at);
    QPointF place = at + QPointF(radius + 34, -radius - 20);
    if (place.x() + radius > view_.width()) place.setX(at.x() - radius - 34);
    if (place.y() - radius < drawing::ruler_thickness) place.setY(at.y() + radius + 20);
    QPainterPath circle;
    circle.addEllipse(place, radius, radius);
    painter.save();
    painter.setClipPath(circle);
    painter.fillRect(circle.boundingRect(), theme().surround);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, false);
    const QPointF corner = place + (QPointF(loupe.left, loupe.top) - handle->at) * loupe_zoom;
    painter.drawImage(QRectF(corner, QSizeF(loupe.image.size()) * loupe_zoom), loupe.image);
    painter.restore();
    painter.setPen(QPen(Qt::white, 4));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(place, radius, radius);
    painter.setPen(QPen(QColor(0x23282B), 1));
    painter.drawEllipse(place, radius + 2, radius + 2);
    const QColor colour = drawing::flag_colour(view_.is_b());
    drawing::cross(painter, place, 30, colour);
    drawing::label(painter, place + QPointF(0, radius + 2),
                   number_shown("x " + number_text(handle->at.x(), 1) + "  y " + number_text(handle->at.y(), 1)),
                   colour);
  }

 private:
  QPointF offset_;  // from the pointer to the handle
};

class PanTool : public Tool {
 public:
  PanTool(PictureView& view, QPointF pressed) : Tool(view), pressed_(pressed), centre_(view.centre()) {
    view.setCursor(Qt::ClosedHandCursor);
  }
  State move(QPointF at) override {
    view_.look_at(centre_ - (at - pressed_) / view_.zoom(), view_.zoom());
    Q_EMIT view_.looked(&view_);
    return State::going_on;
  }
  State release() override { return State::done; }
  void finish() override { view_.unsetCursor(); }

 private:
  QPointF pressed_, centre_;
};

}  // namespace

std::unique_ptr<Tool> make_handle_tool(PictureView& view, QPointF pressed) {
  return std::make_unique<HandleTool>(view, pressed);
}

std::unique_ptr<Tool> make_pan_tool(PictureView& view, QPointF pressed) {
  return std::make_unique<PanTool>(view, pressed);
}

}  // namespace fexel
