#include "app/document/marks_layer.h"

#include "app/document/document.h"

namespace fexel {

MarksLayer::MarksLayer(Document& document) : document_(document) {
  connect(&document, &Document::changed, this, &MarksLayer::refresh);
}

void MarksLayer::set_range(std::optional<std::pair<double, double>> range) {
  if (range == range_) return;
  range_ = range;
  refresh();
}

MarkedResult MarksLayer::result() const {
  const OpenSource* source = document_.source();
  auto pictures = document_.pictures()
                      ? document_.pictures()
                      : std::make_shared<const RunPictures>(source->pixels, document_.chain(), document_.layout());
  // As the views show it: floating-point samples from 0 to 1 where no range was chosen.
  const bool real = document_.layout().result().depth == Depth::f32;
  return {document_.chain(), document_.shape(), document_.layout(), std::move(pictures),
          range_ || !real ? range_ : std::pair(0.0, 1.0)};
}

void MarksLayer::refresh() {
  const bool none = !document_.source() || document_.chain().marks.empty() ||
                    std::ranges::any_of(document_.layout().stations, [](const Station& s) { return bool(s.problem); });
  if (none) {
    again_ = false;
    if (std::exchange(drawing_, nullptr)) Q_EMIT changed();
    return;
  }
  // A drag must not starve the drawing: one is finished before the next begins.
  if (work_.running()) {
    again_ = true;
    return;
  }
  again_ = false;
  Chain beneath = document_.chain();
  beneath.marks.clear();
  beneath.mark_style = {};
  beneath.measurements.clear();
  const void* pixels = document_.source()->pixels.get();
  const bool same = under_ && under_->chain == beneath && under_->pixels == pixels &&
                    under_->frame == document_.frame() && under_->range == range_;
  auto under = same ? under_ : nullptr;
  work_.start(
      {},
      [this, result = result(), under, beneath = std::move(beneath), pixels, frame = document_.frame(),
       range = range_](const Job& job) mutable -> Background::Finish {
        if (!under) under = std::make_shared<const Under>(Under{beneath, pixels, frame, range, result.reduced(job)});
        const double scale = result.scale();
        auto drawing = std::make_shared<const MarkDrawing>(result.drawing(scale, under->picture, job));
        return [this, drawing, under, scale] {
          drawing_ = drawing;
          under_ = under;
          scale_ = scale;
          if (document_.chain().marks.empty()) drawing_.reset();
          Q_EMIT changed();
          if (again_) refresh();
        };
      },
      [this](const Error&) {
        drawing_.reset();
        Q_EMIT changed();
        if (again_) refresh();
      });
}

}  // namespace fexel
