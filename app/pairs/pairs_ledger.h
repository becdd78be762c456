#pragma once
/// The pairs of the selected fit step: a table, their residuals as a chart, and the models side by side.
#include <QWidget>

#include "app/pairs/pairs_model.h"

class QComboBox;
class QCustomPlot;
class QSortFilterProxyModel;
class QStackedLayout;
class QTableView;
class QTableWidget;

namespace fexel {

class PairsLedger : public QWidget {
  Q_OBJECT
 public:
  explicit PairsLedger(Document& document, QWidget* parent = nullptr);
  QTableView* table() const { return table_; }
  QCustomPlot* plot() const { return plot_; }
  QTableWidget* models() const { return models_; }
  const PairsModel& pairs() const { return *pairs_; }
  /// What the pairs come to, in short.
  QString summary() const;
  /// What is shown beside the table: 0 the models, then the residuals in order of entry, against x, against y.
  void show_beside(int which);
  void add_pair();
  void remove_selected();

 Q_SIGNALS:
  /// A row was chosen: the pictures are to show its places.
  void pair_wanted(int index);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void select_row();
  void show_models();
  void show_chart();
  void choose_model(int row);
  int pair_of_row(int row) const;
  Document& document_;
  PairsModel* pairs_;
  QSortFilterProxyModel* sorted_;
  QTableView* table_;
  QComboBox* view_;
  QStackedLayout* charts_;
  QCustomPlot* plot_;
  QTableWidget* models_;
  bool filling_ = false;  // rows come and go, and nobody chose one
};

}  // namespace fexel
