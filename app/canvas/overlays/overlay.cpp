#include "app/canvas/overlays/overlay.h"

#include "app/canvas/picture_view.h"

namespace fexel {

Overlay::Overlay(PictureView& view) : view_(view), document_(view.document()) {}

std::optional<QPointF> Overlay::here(Point p, int station) const {
  const Carried c = carry(document_.layout(), p, station, view_.station());
  if (c.status == CarryStatus::beyond_horizon) return std::nullopt;
  return point_of(c.point);
}

std::optional<Point> Overlay::there(QPointF p, int station) const {
  const Carried c = carry(document_.layout(), point_of(p), view_.station(), station);
  if (c.status == CarryStatus::beyond_horizon) return std::nullopt;
  return c.point;
}

}  // namespace fexel
