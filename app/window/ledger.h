#pragma once
/// The table and chart below the pictures.
#include <QWidget>

#include "app/measurements/measurement_model.h"
#include "app/motion/motion_ledger.h"
#include "app/pairs/pairs_ledger.h"
#include "app/sequence/frames_ledger.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QStackedLayout;
class QTableView;

namespace fexel {
class SelectedReading;
}

namespace fexel {

class Ledger : public QWidget {
  Q_OBJECT
 public:
  explicit Ledger(Document& document, QWidget* parent = nullptr);
  QTableView* table() const { return table_; }
  FramesLedger* frames() const { return frames_; }
  PairsLedger* pairs() const { return pairs_; }
  MotionLedger* motion() const { return motion_; }
  void set_folded(bool folded);
  bool folded() const;
  /// Opens a cell of a measurement's row for typing, unfolding the table.
  void edit_measurement(int measurement, int column);
  /// The table that is shown, as CSV to the clipboard.
  void copy_table();

 Q_SIGNALS:
  void length_wanted();
  void snap_wanted();
  void load_wanted();
  void save_wanted();
  void menu_wanted(int measurement, QPoint global);  ///< -1 where no measurement is
  void frame_wanted(int index);

 protected:
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();
  void fit_heads();
  /// Shows the words of the head that have a use, and room.
  void fit_words();
  void remove_selected();
  /// What the uncertainties take the ends to be placed to, and where they could be placed better.
  QString assumed() const;
  /// Number, mean, deviation and range of the selected rows; empty for fewer than two.
  QString of_selected() const;
  Document& document_;
  MeasurementModel* model_;
  QTableView* table_;
  QLabel* summary_;
  QWidget* chart_;
  QHBoxLayout* row_;  // of table and chart
  QStackedLayout* charts_;
  SelectedReading* selected_;
  QPushButton* fold_;
  QPushButton *add_, *remove_, *snap_, *load_, *save_, *copy_;
  QWidget* body_;
  FramesLedger* frames_;
  PairsLedger* pairs_;
  MotionLedger* motion_;
  QStackedLayout* stack_;
  QLabel* title_;
};

}  // namespace fexel
