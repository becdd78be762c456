#pragma once
/// The pictures: one, or A and B side by side with linked pan, zoom and pointer.
#include <QWidget>

#include "app/picture_view.h"

class QButtonGroup;
class QLabel;

namespace fexel {

class ViewArea : public QWidget {
  Q_OBJECT
 public:
  enum class Mode { one, side_by_side };
  explicit ViewArea(Document& document, QWidget* parent = nullptr);
  PictureView* view_a() const { return a_; }
  PictureView* view_b() const { return b_; }
  /// The one that has the focus, or is shown alone.
  PictureView* active() const;
  void set_mode(Mode mode);
  Mode mode() const { return mode_; }
  void fit();
  void actual_pixels();
  void show_other(bool other);
  void flip();

 private:
  void link(PictureView* from);
  void show_zoom();
  Document& document_;
  PictureView* a_;
  PictureView* b_;
  QButtonGroup* modes_;
  QLabel* zoom_;
  Mode mode_ = Mode::side_by_side;
  bool one_shows_b_ = true;
};

}  // namespace fexel
