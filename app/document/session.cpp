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

void Session::keep_within(int measurements, int masks) {
  if (measurement_ >= measurements) measurement_ = -1;
  if (mask_ >= masks) mask_ = -1;
}

void Session::set_residuals(Residuals residuals, quint64 revision) {
  residuals_ = std::make_shared<const Residuals>(std::move(residuals));
  residuals_of_ = revision;
  Q_EMIT residuals_changed();
}

void Session::reset() {
  measurement_ = mask_ = -1;
  pointer_.reset();
  residuals_.reset();
}

}  // namespace fexel
