#include "app/steps/plane_drawing.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include "app/ui/theme.h"

namespace fexel {

PlaneDrawing::PlaneDrawing() {
  setFixedHeight(120);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::OpenHandCursor);
  setAccessibleName(tr("The plane in space"));
  setAccessibleDescription(tr("Drag to turn it; the arrow keys turn it by one degree"));
}

void PlaneDrawing::show_plane(const Eigen::Matrix3d& rotation, double distance, double aspect) {
  rotation_ = rotation;
  distance_ = distance;
  aspect_ = aspect;
  update();
}

void PlaneDrawing::paintEvent(QPaintEvent*) {
  const Theme& t = theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(hasFocus() ? t.teal : t.line, 1));
  painter.setBrush(t.field);
  painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
  const double high = 0.62 * height(), scale = high / std::max(aspect_, 0.6);
  const auto place = [&](double x, double y) {  // of a plane 1 wide, y up
    const Eigen::Vector3d p = rotation_ * Eigen::Vector3d(x, y, 0);
    const double nearer = distance_ > 0 ? 1 / std::max(0.2, 1 - p.z() / distance_) : 1;
    return QPointF(width() / 2.0 + scale * p.x() * nearer, height() / 2.0 - scale * p.y() * nearer);
  };
  const double h = aspect_ / 2;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(t.line, 1, Qt::DashLine));
  painter.drawRect(QRectF(width() / 2.0 - scale / 2, height() / 2.0 - scale * h, scale, 2 * scale * h));
  painter.setPen(QPen(t.teal, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.setBrush(rotation_(2, 2) > 0 ? t.teal_soft : t.line);
  painter.drawPolygon(QPolygonF({place(-0.5, h), place(0.5, h), place(0.5, -h), place(-0.5, -h)}));
  // A letter tells front from back, and up from down.
  QPainterPath letter;
  letter.moveTo(place(-0.12, -0.5 * h));
  letter.lineTo(place(-0.12, 0.5 * h));
  letter.lineTo(place(0.14, 0.5 * h));
  letter.moveTo(place(-0.12, 0.05 * h));
  letter.lineTo(place(0.08, 0.05 * h));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(t.ink, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.drawPath(letter);
}

void PlaneDrawing::mousePressEvent(QMouseEvent* event) {
  last_ = event->position();
  setCursor(Qt::ClosedHandCursor);
  Q_EMIT held(true);
}

void PlaneDrawing::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return;
  const QPointF by = event->position() - last_;
  last_ = event->position();
  // The side under the hand follows it: down brings the top nearer, to the right takes the right side away.
  Q_EMIT turned(0.5 * by.y(), 0.5 * by.x());
}

void PlaneDrawing::mouseReleaseEvent(QMouseEvent*) {
  setCursor(Qt::OpenHandCursor);
  Q_EMIT held(false);
}

void PlaneDrawing::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Left:
      return Q_EMIT turned(0, -1);
    case Qt::Key_Right:
      return Q_EMIT turned(0, 1);
    case Qt::Key_Up:
      return Q_EMIT turned(-1, 0);
    case Qt::Key_Down:
      return Q_EMIT turned(1, 0);
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace fexel
