/// The nodes of a grid that was found, numbered along its first row and column, where the source is selected.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"

namespace fexel {
namespace {

class GridOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const OpenSource* source = document_.source();
    const Session::Grid* grid = source ? document_.session().grid(source->pixels.get()) : nullptr;
    if (!grid || document_.state().selected != 0 || view_.station() != 0) return;
    for (const GridNode& n : grid->nodes)
      drawing::cross(painter, view_.to_widget(point_of(n.at - n.shift)), 5, drawing::colour_active);
    for (const GridNode& n : grid->nodes) {
      // Every fifth number, along the two sides where counting begins.
      const bool named = (n.row == 0 && n.column % 5 == 0) || (n.column == 0 && n.row % 5 == 0);
      if (!named) continue;
      const QPointF at = view_.to_widget(point_of(n.at - n.shift)) - QPointF(0, 16);
      drawing::label(painter, at, QString("%1, %2").arg(n.column).arg(n.row), drawing::colour_active);
    }
  }
};

}  // namespace

std::unique_ptr<Overlay> make_grid_overlay(PictureView& view) {
  return std::make_unique<GridOverlay>(view);
}

}  // namespace fexel
