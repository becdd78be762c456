/// Masks, where they are at hand: with the source selected, or a step that works on a sequence.
#include <QPainterPath>

#include "app/canvas/overlays/mask_handles.h"
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/steps/step_ui.h"

namespace fexel {
namespace {

class MaskOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    if (!shown()) return;
    const Map to_view = map_between(document_.layout(), 0, view_.station());
    const auto& masks = document_.chain().masks;
    for (std::size_t i = 0; i < masks.size(); ++i) {
      const Mask& mask = masks[i];
      if (!mask.frames.empty() && std::ranges::find(mask.frames, document_.frame() + 1) == mask.frames.end()) continue;
      QPainterPath path;
      for (const auto& outline : outlines_of(mask)) {
        QPolygonF points;
        for (const Point p : outline)
          if (const auto at = to_view.forward(p)) points << view_.to_widget(point_of(*at));
        if (points.size() == static_cast<int>(outline.size())) {
          path.addPolygon(points);
          path.closeSubpath();
        }
      }
      if (path.isEmpty()) continue;
      const bool only = mask.use == Mask::Use::only, chosen = static_cast<int>(i) == document_.session().mask();
      // Strokes over what is left out, none over what is used: told apart without colour.
      if (!only) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(QBrush(QColor(0x23, 0x28, 0x2B, 150), Qt::BDiagPattern));
        painter.drawPath(path);
        painter.setBrush(QColor(255, 255, 255, 50));
        painter.drawPath(path);
      }
      drawing::lines(painter, path, chosen ? drawing::colour_active : QColor(0x23282B), !chosen);
      if (only && chosen)
        drawing::label(painter, path.boundingRect().center(), QObject::tr("only here"), drawing::colour_active);
    }
  }

  void add_handles(std::vector<Handle>& handles) const override {
    const int m = document_.session().mask();
    if (m < 0 || !shown()) return;
    const std::vector<MaskHandle> own = handles_of(document_.chain().masks[static_cast<std::size_t>(m)]);
    for (int i = 0; i < static_cast<int>(own.size()); ++i)
      if (const auto at = here(own[static_cast<std::size_t>(i)].at, 0))
        handles.push_back({Handle::Kind::mask, m, i, *at, own[static_cast<std::size_t>(i)].name});
  }
  bool owns(const Handle& handle) const override { return handle.kind == Handle::Kind::mask; }
  void paint_handle(QPainter& painter, const Handle& handle, bool chosen, QPointF middle) const override {
    drawing::handle(painter, view_.to_widget(handle.at), handle.name, drawing::colour_active, chosen, middle);
  }

  void move(const Handle& handle, QPointF to) override {
    const auto at = there(to, 0);
    if (!at) return;
    const Mask& mask = document_.chain().masks[static_cast<std::size_t>(handle.owner)];
    document_.change_mask(handle.owner, with_handle_at(mask, handle.index, *at),
                          QString("mask%1/%2").arg(handle.owner).arg(handle.index));
  }
  bool remove(const Handle& handle) override {
    Mask mask = document_.chain().masks[static_cast<std::size_t>(handle.owner)];
    const bool corner = mask.shape == Mask::Shape::polygon && handle.index < static_cast<int>(mask.points.size());
    if (corner && mask.points.size() > 3) {
      mask.points.erase(mask.points.begin() + handle.index);
      document_.change_mask(handle.owner, mask);
    } else {
      document_.remove_mask(handle.owner);
    }
    return true;
  }

  /// A new corner on the selected polygon's side, where that runs near.
  bool double_click(QPointF widget) override {
    const int m = document_.session().mask();
    if (m < 0 || !shown()) return false;
    Mask mask = document_.chain().masks[static_cast<std::size_t>(m)];
    const auto count = mask.points.size();
    for (std::size_t i = 0; mask.shape == Mask::Shape::polygon && i < count; ++i) {
      const auto a = here(mask.points[i], 0), b = here(mask.points[(i + 1) % count], 0);
      if (!a || !b) continue;
      const QPointF near = drawing::nearest_on({view_.to_widget(*a), view_.to_widget(*b)}, widget);
      if (QLineF(near, widget).length() > drawing::handle_reach) continue;
      const auto corner = there(view_.to_station(near), 0);
      if (!corner) continue;
      mask.points.insert(mask.points.begin() + static_cast<std::ptrdiff_t>(i) + 1, *corner);
      document_.change_mask(m, mask);
      return true;
    }
    return false;
  }

 private:
  bool shown() const {
    if (document_.state().selected == 0) return true;
    const int step = document_.selected_step();
    return step >= 0 && ui_of(document_.chain().steps[static_cast<std::size_t>(step)].kind).of_sequence();
  }
};

}  // namespace

std::unique_ptr<Overlay> make_mask_overlay(PictureView& view) {
  return std::make_unique<MaskOverlay>(view);
}

}  // namespace fexel
