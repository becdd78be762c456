#pragma once
/// What is at hand while a document is open, and is neither saved nor undone: pointer, drag, what is selected in lists,
/// and what was measured of the frame that is shown.
#include <QObject>
#include <memory>
#include <optional>

#include "align/residual.h"
#include "geometry/map.h"

namespace fexel {

class Session : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;

  /// A point of a station under the pointer.
  struct Pointer {
    int station;
    Point point;
  };
  const std::optional<Pointer>& pointer() const { return pointer_; }
  void set_pointer(std::optional<Pointer> pointer);
  /// A handle is being dragged; views may draw faster and coarser.
  bool dragging() const { return dragging_; }
  void set_dragging(bool dragging);

  /// The selected measurement and mask; -1 for none.
  int measurement() const { return measurement_; }
  int mask() const { return mask_; }
  void select_measurement(int index);
  void select_mask(int index);
  /// Drops selections that no longer exist.
  void keep_within(int measurements, int masks);

  /// What still moves in the shown frame at the station behind the align step.
  struct Residuals {
    int station;
    ResidualField field;
  };
  /// Null where none were measured of this revision of the document.
  const Residuals* residuals(quint64 revision) const { return residuals_of_ == revision ? residuals_.get() : nullptr; }
  void set_residuals(Residuals residuals, quint64 revision);

  /// Forgets everything, for another document.
  void reset();

 Q_SIGNALS:
  void pointer_moved();
  void dragging_changed();
  void selection_changed();
  void residuals_changed();

 private:
  std::optional<Pointer> pointer_;
  bool dragging_ = false;
  int measurement_ = -1, mask_ = -1;
  std::shared_ptr<const Residuals> residuals_;
  quint64 residuals_of_ = 0;
};

}  // namespace fexel
