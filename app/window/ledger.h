#pragma once
/// The table and chart below the pictures.
#include <QWidget>

#include "app/measurements/measurement_model.h"
#include "app/sequence/frames_ledger.h"

class QLabel;
class QPushButton;
class QStackedLayout;
class QTableView;

namespace fexel {

class Ledger : public QWidget {
  Q_OBJECT
 public:
  explicit Ledger(Document& document, QWidget* parent = nullptr);
  QTableView* table() const { return table_; }
  FramesLedger* frames() const { return frames_; }
  void set_folded(bool folded);
  bool folded() const;
  /// Opens a cell of a measurement's row for typing, unfolding the table.
  void edit_measurement(int measurement, int column);
  /// The table that is shown, as CSV to the clipboard.
  void copy_table();

 Q_SIGNALS:
  void length_wanted();
  void menu_wanted(int measurement, QPoint global);  ///< -1 where no measurement is
  void frame_wanted(int index);

 protected:
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();
  /// What the uncertainties take the ends to be placed to, and where they could be placed better.
  QString assumed() const;
  Document& document_;
  MeasurementModel* model_;
  QTableView* table_;
  QLabel* summary_;
  QWidget* chart_;
  QPushButton* fold_;
  QWidget* body_;
  FramesLedger* frames_;
  QStackedLayout* stack_;
  QLabel* title_;
  std::vector<QWidget*> of_measurements_;
};

}  // namespace fexel
