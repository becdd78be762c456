/// What pictures show instead of stations: a snapshot that is kept, or the reference of a fit step.
#include <QFileInfo>
#include <QPushButton>
#include <QTime>

#include "app/canvas/view_area.h"
#include "app/pairs/placing.h"
#include "app/pairs/reference.h"

namespace fexel {

void ViewArea::keep(bool on) {
  snapshot_.reset();
  if (on && document_.source()) {
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->layout = document_.layout();
    snapshot->resampling = document_.chain().resampling;
    snapshot->station = document_.station_b();
    snapshot->source = document_.source()->pixels;
    snapshot->pictures = document_.pictures();
    snapshot->name = snapshot->station == 0 ? QFileInfo(document_.source()->path).fileName()
                     : snapshot->station == snapshot->layout.last()
                         ? tr("result at %1").arg(QTime::currentTime().toString("hh:mm"))
                         : tr("step %1 at %2").arg(snapshot->station).arg(QTime::currentTime().toString("hh:mm"));
    snapshot_ = std::move(snapshot);
  }
  keep_->setChecked(snapshot_ != nullptr);
  show_snapshots();
  if (both()) link(b_);
  show_zoom();
}

void ViewArea::show_snapshots() {
  const auto& shown = reference_ ? reference_ : snapshot_;
  a_->set_snapshot(shown);
  b_->set_snapshot(shown);
}

void ViewArea::arrange_reference() {
  using View = Session::ReferenceView;
  const View wanted = document_.session().reference_view();
  const auto open = wanted == View::off ? std::nullopt : open_reference(document_);
  const bool in_b = wanted == View::place;
  const bool same = reference_ && open && reference_->source == open->picture->pixels && reference_->in_b == in_b &&
                    reference_->reference->step == open->step && reference_->reference->scale == open->scale;
  if (same || (!reference_ && !open)) return;
  const bool fresh = open && (!reference_ || reference_->in_b != in_b || reference_->source != open->picture->pixels);
  reference_ = open ? snapshot_of(*open, in_b) : nullptr;
  if (fresh) {
    if (in_b) set_mode(Mode::side_by_side);
  }
  show_snapshots();
  if (fresh) fit();
  if (fresh && in_b) place_pairs();
  if (!in_b || !reference_) {
    placing_->end();
    a_->end_asking();
    b_->end_asking();
  }
}

void ViewArea::place_pairs() {
  if (reference_ && reference_->in_b) placing_->begin();
}

void ViewArea::show_pair(int index) {
  const auto open = open_reference(document_);
  if (!open || index < 0 || index >= static_cast<int>(open->fit->pairs.size())) return;
  const PointPair& pair = open->fit->pairs[static_cast<std::size_t>(index)];
  const Point to = 1 / (open->fit->pixel_size.value_or(1) * open->scale) * pair.to;
  for (PictureView* view : {a_, b_}) {
    const auto at = view->reference() ? std::optional(to)
                                      : map_between(document_.layout(), open->step, view->station()).forward(pair.from);
    if (at && !view->rect().adjusted(40, 40, -40, -40).contains(view->to_widget(point_of(*at)).toPoint()))
      view->look_at(point_of(*at), view->zoom());
  }
}

}  // namespace fexel
