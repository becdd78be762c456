#include "app/document/session.h"

namespace fexel {

void Session::set_pointer(std::optional<Pointer> pointer) {
  pointer_ = pointer;
  Q_EMIT pointer_moved();
}

void Session::set_dragging(bool dragging) {
  if (dragging == dragging_) return;
  dragging_ = dragging;
  Q_EMIT dragging_changed();
}

void Session::select_measurement(int index) {
  if (index == measurement_) return;
  measurement_ = index;
  Q_EMIT selection_changed();
}

void Session::select_mask(int index) {
  if (index == mask_) return;
  mask_ = index;
  Q_EMIT selection_changed();
}

void Session::select_mark(int index) {
  if (index == mark_) return;
  mark_ = index;
  Q_EMIT selection_changed();
}

void Session::show_marks(bool on) {
  if (on == marks_shown_) return;
  marks_shown_ = on;
  Q_EMIT selection_changed();
}

void Session::show_copy_page(bool on) {
  if (on == copy_page_) return;
  copy_page_ = on;
  Q_EMIT selection_changed();
}

void Session::show_motion_page(bool on) {
  if (on == motion_page_) return;
  motion_page_ = on;
  Q_EMIT selection_changed();
}

void Session::keep_within(int measurements, int masks, int marks) {
  if (mark_ >= marks) mark_ = -1;
  if (measurement_ >= measurements) measurement_ = -1;
  if (mask_ >= masks) mask_ = -1;
}

void Session::set_residuals(Residuals residuals, quint64 revision) {
  residuals_ = std::make_shared<const Residuals>(std::move(residuals));
  residuals_of_ = revision;
  Q_EMIT residuals_changed();
}

void Session::set_grid(Grid grid) {
  grid_ = std::make_shared<const Grid>(std::move(grid));
  Q_EMIT residuals_changed();
}

const Session::Reference* Session::reference(const std::string& file) const {
  return reference_ && reference_->file == file ? &*reference_ : nullptr;
}

void Session::set_reference(Reference reference) {
  reference_ = std::move(reference);
  Q_EMIT reference_changed();
}

void Session::show_reference(ReferenceView view) {
  if (view == reference_view_) {
    if (view == ReferenceView::place) Q_EMIT placing_wanted();
    return;
  }
  reference_view_ = view;
  Q_EMIT reference_changed();
}

void Session::select_pair(int index) {
  if (index == pair_) return;
  pair_ = index;
  Q_EMIT pair_selected();
}

void Session::reset() {
  grid_.reset();
  reference_.reset();
  reference_view_ = ReferenceView::off;
  measurement_ = mask_ = mark_ = pair_ = -1;
  marks_shown_ = true;
  copy_page_ = false;
  motion_page_ = false;
  pointer_.reset();
  residuals_.reset();
}

}  // namespace fexel
