#pragma once
/// The pairs of the selected fit step: a table, their residuals as a chart, and the models side by side.
#include <QWidget>

#include "app/document/document.h"
#include "fit/model_choice.h"

class QComboBox;
class QCustomPlot;
class QStackedLayout;
class QTableWidget;

namespace fexel {

class PairsLedger : public QWidget {
  Q_OBJECT
 public:
  enum Column { name, use, from_x, from_y, to_x, to_y, dx, dy, off, left_out, columns };
  explicit PairsLedger(Document& document, QWidget* parent = nullptr);
  QTableWidget* table() const { return table_; }
  QTableWidget* models() const { return models_; }
  /// The table with all columns.
  QString csv() const;
  /// What the pairs come to, in short.
  QString summary() const;
  void add_pair();
  void remove_selected();

 Q_SIGNALS:
  /// A row was chosen: the pictures are to show its places.
  void pair_wanted(int index);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void show_rows();
  void show_models();
  void show_chart();
  void take_cell(int row, int column);
  void choose_model(int row);
  Document& document_;
  QTableWidget* table_;
  QComboBox* view_;
  QStackedLayout* charts_;
  QCustomPlot* plot_;
  QTableWidget* models_;
  std::optional<FitStep> shown_;  // what the table shows
  std::shared_ptr<const Fit> fit_;
  std::vector<std::optional<double>> left_out_;
  std::vector<ModelTried> tried_;
  std::optional<std::vector<PointPair>> tried_of_;
};

}  // namespace fexel
