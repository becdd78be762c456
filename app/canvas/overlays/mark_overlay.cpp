/// Marks over the result, painted by what paints them on files. The selected one can be dragged.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/document/marks_layer.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class MarkOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const MarkDrawing* drawing = document_.marks_layer().drawing();
    if (!drawing || !shown()) return;
    const double ratio = painter.device()->devicePixelRatioF() * painter.transform().m11();
    const QSize size = (QSizeF(view_.size()) * ratio).toSize();
    if (size.isEmpty()) return;
    QImage layer(size, QImage::Format_ARGB32_Premultiplied);
    layer.fill(Qt::transparent);
    const QPointF origin = view_.to_widget({0, 0}) * ratio;
    paint_over(*drawing, layer.bits(), size.width(), size.height(), static_cast<int>(layer.bytesPerLine()),
               view_.zoom() * ratio / document_.marks_layer().scale(), {origin.x(), origin.y()});
    painter.drawImage(QRectF(QPointF(), QSizeF(view_.size())), layer);
  }

  void add_handles(std::vector<Handle>& handles) const override {
    const MarkDrawing* drawing = document_.marks_layer().drawing();
    // Where marks are edited: elsewhere they would take what is meant for measurements.
    if (!drawing || !shown() || !document_.session().copy_page()) return;
    const auto& marks = document_.chain().marks;
    for (std::size_t m = 0; m < marks.size() && m < drawing->boxes.size(); ++m) {
      MarkKind kind = marks[m].kind;
      if (const auto points = points_of(kind); !points.empty()) {
        const int* station = station_of(kind);
        for (std::size_t i = 0; i < points.size(); ++i)
          if (const auto at = here(*points[i], station && *station >= 0 ? *station : document_.layout().last()))
            handles.push_back({Handle::Kind::mark, static_cast<int>(m), static_cast<int>(i), *at});
      } else if (const Rect& box = drawing->boxes[m]; place_of(kind) && box.width > 0) {
        handles.push_back({Handle::Kind::mark, static_cast<int>(m), 0, corner_of(box)});
      }
    }
  }
  bool owns(const Handle& handle) const override { return handle.kind == Handle::Kind::mark; }
  void paint_handle(QPainter& painter, const Handle& handle, bool chosen, QPointF middle) const override {
    if (handle.owner == document_.session().mark())
      drawing::handle(painter, view_.to_widget(handle.at), {}, drawing::colour_active, chosen, middle);
  }
  void select(const Handle& handle) override { document_.session().select_mark(handle.owner); }

  void move(const Handle& handle, QPointF to) override {
    Mark mark = document_.chain().marks[static_cast<std::size_t>(handle.owner)];
    if (MarkPlace* place = place_of(mark.kind)) {
      const MarkDrawing* drawing = document_.marks_layer().drawing();
      if (!drawing || handle.owner >= static_cast<int>(drawing->boxes.size())) return;
      const Rect& box = drawing->boxes[static_cast<std::size_t>(handle.owner)];
      const double scale = document_.marks_layer().scale();
      place->at = point_of(to) + (0.5 / scale) * Point{box.width, box.height};
    } else {
      const auto points = points_of(mark.kind);
      const int* station = station_of(mark.kind);
      const auto at = there(to, station && *station >= 0 ? *station : document_.layout().last());
      if (!at || handle.index >= static_cast<int>(points.size())) return;
      *points[static_cast<std::size_t>(handle.index)] = *at;
    }
    document_.change_mark(handle.owner, mark, QString("mark%1/%2").arg(handle.owner).arg(handle.index));
  }
  bool remove(const Handle& handle) override {
    document_.remove_mark(handle.owner);
    return true;
  }
  std::optional<Remark> remark() const override {
    const MarkDrawing* drawing = document_.marks_layer().drawing();
    if (!drawing || !shown()) return std::nullopt;
    for (const std::string& problem : drawing->problems)
      if (!problem.empty()) return Remark{text_of(problem), drawing::colour_wrong};
    return std::nullopt;
  }

 private:
  bool shown() const {
    return document_.session().marks_shown() && view_.station() == document_.layout().last() &&
           (view_.is_b() || document_.station_a() != 0);
  }
  /// A block is dragged by its corner, beside what it says.
  QPointF corner_of(const Rect& box) const {
    const double scale = document_.marks_layer().scale();
    return {box.x / scale, box.y / scale};
  }
};

}  // namespace

std::unique_ptr<Overlay> make_mark_overlay(PictureView& view) {
  return std::make_unique<MarkOverlay>(view);
}

}  // namespace fexel
