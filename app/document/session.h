#pragma once
/// What is at hand while a document is open, and is neither saved nor undone: pointer, drag, what is selected in lists,
/// and what was measured of the frame that is shown.
#include <QObject>
#include <memory>
#include <optional>

#include "align/residual.h"
#include "base/units.h"
#include "calibrate/lens_solve.h"
#include "geometry/map.h"
#include "image/pyramid.h"

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
  /// The selected mark; whether marks are drawn over the result; and whether the page of the result is that of a copy
  /// with marks.
  int mark() const { return mark_; }
  void select_mark(int index);
  bool marks_shown() const { return marks_shown_; }
  void show_marks(bool on);
  bool copy_page() const { return copy_page_; }
  void show_copy_page(bool on);
  /// Whether the page of the movement is shown, in place of the selected tile's.
  bool motion_page() const { return motion_page_; }
  void show_motion_page(bool on);
  /// Drops selections that no longer exist.
  void keep_within(int measurements, int masks, int marks);

  /// What still moves in the shown frame at the station behind the align step.
  struct Residuals {
    int station;
    ResidualField field;
  };
  /// Null where none were measured of this revision of the document.
  const Residuals* residuals(quint64 revision) const { return residuals_of_ == revision ? residuals_.get() : nullptr; }
  void set_residuals(Residuals residuals, quint64 revision);

  /// The nodes of a grid that were found in a picture of the source.
  struct Grid {
    std::shared_ptr<const Pyramid> of;
    std::vector<GridNode> nodes;
  };
  /// Null where none were found in this picture.
  const Grid* grid(const Pyramid* shown) const { return grid_ && grid_->of.get() == shown ? grid_.get() : nullptr; }
  void set_grid(Grid grid);

  /// The picture that targets of a fit step are placed on, by the file that the step names.
  struct Reference {
    std::string file;
    std::shared_ptr<const Pyramid> pixels;
    std::optional<PixelSize> pixel;
    std::optional<std::pair<double, double>> range = {};  ///< of floating-point samples, which have none of their own
  };
  /// Null where this file is not open.
  const Reference* reference(const std::string& file) const;
  void set_reference(Reference reference);
  /// off: A and B as ever. place: the source's side in A, the reference in B. compare: the reference in A, the result
  /// in B.
  enum class ReferenceView { off, place, compare };
  ReferenceView reference_view() const { return reference_view_; }
  void show_reference(ReferenceView view);
  /// The selected pair of control points; -1 for none.
  int pair() const { return pair_; }
  void select_pair(int index);

  /// Forgets everything, for another document.
  void reset();

 Q_SIGNALS:
  void pointer_moved();
  void dragging_changed();
  void selection_changed();
  void residuals_changed();
  void reference_changed();
  void placing_wanted();  ///< the reference is shown for placing, and clicks are to place pairs again
  void pair_selected();

 private:
  std::optional<Pointer> pointer_;
  bool dragging_ = false;
  int measurement_ = -1, mask_ = -1, mark_ = -1;
  bool marks_shown_ = true, copy_page_ = false, motion_page_ = false;
  std::shared_ptr<const Grid> grid_;
  std::optional<Reference> reference_;
  ReferenceView reference_view_ = ReferenceView::off;
  int pair_ = -1;
  std::shared_ptr<const Residuals> residuals_;
  quint64 residuals_of_ = 0;
};

}  // namespace fexel
