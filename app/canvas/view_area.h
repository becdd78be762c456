#pragma once
/// The pictures: A and B in one of six ways, with linked pan, zoom and pointer.
#include <QTimer>
#include <QWidget>

#include "app/canvas/picture_view.h"

class QButtonGroup;
class QComboBox;
class QFrame;
class QLabel;
class QPushButton;

namespace fexel {

namespace fields {
class Number;
}

class PairPlacing;
class ProofSheet;

/// The line between A and B: dragged, or moved with the arrow keys.
class Divider : public QWidget {
  Q_OBJECT
 public:
  explicit Divider(QWidget* parent);

 Q_SIGNALS:
  void moved(int x);  ///< where its middle is wanted, in the parent

 protected:
  void paintEvent(QPaintEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
};

class ViewArea : public QWidget {
  Q_OBJECT
 public:
  /// curtain: A left of a line and B right of it; blink: by turns; difference and tint: both in one picture.
  enum class Mode { one, side_by_side, curtain, blink, difference, tint };
  explicit ViewArea(Document& document, QWidget* parent = nullptr);
  PictureView* view_a() const { return a_; }
  PictureView* view_b() const { return b_; }
  Divider* divider() const { return divider_; }
  /// What holds the pictures, without the bar.
  QWidget* pictures() const { return stage_; }
  /// The pictures with so many times the screen's pixels, or fewer where that is too many; waits until these are made,
  /// and paints meanwhile. Raises an input error when that takes more than a minute.
  QPixmap drawn(int detail);
  /// The one that has the focus, or is shown alone.
  PictureView* active() const;
  void set_mode(Mode mode);
  Mode mode() const { return mode_; }
  /// A map of what the rectification cost, laid over the pictures.
  void set_distortion_map(DistortionMap map);
  /// Keeps what B shows now as A, whatever is changed or opened after; or lets it go.
  void keep(bool on);
  const std::shared_ptr<const Snapshot>& snapshot() const { return snapshot_; }
  /// Samples that are shown as black and white; nothing for 0 to the picture's largest value. `chosen` says that it was
  /// taken from the samples, by nobody's wish.
  void set_range(std::optional<std::pair<double, double>> range, bool chosen = false);
  const std::optional<std::pair<double, double>>& range() const { return range_; }
  /// Asks for a measurement, a line or points on either picture; what is laid on one is not wanted on the other any
  /// more.
  void ask_for_measurement(const std::string& word);
  void ask_for_line(const QString& hint, int to, const std::function<void(Point, Point)>& take);
  void ask_for_points(const QString& hint, int to, const std::function<void(const std::vector<Point>&)>& take,
                      int count = 0);
  void fit();
  void actual_pixels();
  /// The proof sheet about the pointer, or what B shows in its middle.
  void open_proof_sheet();
  /// The place of the source that is in the middle of the view; nothing where it has none.
  std::optional<Point> source_in_middle() const;
  ProofSheet* proof_sheet() const { return proof_; }
  /// Takes clicks for pairs of control points, where the reference is shown for it.
  void place_pairs();
  PairPlacing& placing() { return *placing_; }
  /// Both pictures show the places of a pair.
  void show_pair(int index);
  void show_other(bool other);
  void flip();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  bool both() const { return mode_ == Mode::side_by_side || mode_ == Mode::curtain || mode_ == Mode::blink; }
  void arrange();
  void fit_bar();
  void blink();
  void link(PictureView* from);
  void ask(const std::function<void(PictureView&)>& one);
  void build_range_sheet();
  void show_range_sheet(bool on);
  /// From the samples of the source, leaving out the darkest and brightest half percent.
  std::optional<std::pair<double, double>> range_of_shown() const;
  /// What a picture is opened with: floating-point samples have no range of their own.
  void choose_range();
  void show_zoom();
  /// The reference of the selected step comes and goes with it.
  void arrange_reference();
  void show_snapshots();
  Document& document_;
  QWidget* stage_;
  PictureView* a_;
  PictureView* b_;
  Divider* divider_;
  ProofSheet* proof_;
  QButtonGroup* modes_;
  QComboBox* distortion_;
  QPushButton* keep_;
  QPushButton* range_button_;
  QFrame* range_sheet_;
  fields::Number* black_;
  fields::Number* white_;
  std::shared_ptr<const Snapshot> snapshot_, reference_;
  PairPlacing* placing_;
  std::optional<std::pair<double, double>> range_;
  QLabel* zoom_;
  QTimer blink_;
  Mode mode_ = Mode::side_by_side;
  double split_ = 0.5, curtain_ = 0.5;  ///< the divider's place, as a share of the width
  bool one_shows_b_ = true;
};

}  // namespace fexel
