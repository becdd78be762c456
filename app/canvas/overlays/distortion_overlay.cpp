/// A map of what the rectification costs, and the warning where scale varies over the view.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "quality/uncertainty.h"

namespace fexel {
namespace {

class DistortionOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    legend_.reset();
    const auto& layer = view_.distortion_layer();
    if (!layer) return;
    const Size size = view_.shown_station().size;
    const QRectF covered(view_.to_widget({0, 0}), view_.to_widget({double(size.width), double(size.height)}));
    legend_ = layer->paint(painter, covered & QRectF(view_.rect()), [this](QPointF w) { return view_.to_station(w); });
    for (const Point p : layer->helpful()) {
      const QPointF at = view_.to_widget(point_of(p));
      drawing::cross(painter, at, 8, drawing::colour_active);
      const QString text = QObject::tr("a pair here helps");
      const double half = drawing::label_box({0, 0}, text).width() / 2 + 2;
      const QPointF beside(std::clamp(at.x(), half, std::max(half, view_.width() - half)), at.y() - 20);
      drawing::label(painter, beside, text, drawing::colour_active);
    }
  }
  std::optional<Remark> remark() const override {
    if (view_.no_distortion().isEmpty()) return std::nullopt;
    return Remark{view_.no_distortion(), drawing::colour_wrong};
  }
  std::optional<drawing::Legend> legend() const override { return legend_; }

 private:
  std::optional<drawing::Legend> legend_;
};

class ScaleOverlay : public Overlay {
 public:
  using Overlay::Overlay;
  void paint(QPainter&) override {}
  std::optional<Remark> remark() const override {
    const auto varies = scale_variation(document_.chain(), document_.layout(), view_.station());
    if (!varies || *varies <= 0.001) return std::nullopt;
    return Remark{QObject::tr("Scale varies %1 % over the rectangle in this view")
                      .arg(number_shown(number_text(100 * *varies, *varies < 0.02 ? 1 : 0))),
                  drawing::colour_wrong};
  }
};

}  // namespace

std::unique_ptr<Overlay> make_distortion_overlay(PictureView& view) {
  return std::make_unique<DistortionOverlay>(view);
}

std::unique_ptr<Overlay> make_scale_overlay(PictureView& view) {
  return std::make_unique<ScaleOverlay>(view);
}

}  // namespace fexel
