#pragma once
/// What the search found for each frame: a table, and its drift as a chart.
#include <QAbstractTableModel>
#include <QWidget>

#include "app/document/document.h"

class QCPItemText;
class QCustomPlot;
class QTableView;

namespace fexel {

class FramesModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { name, shift_x, shift_y, turn, scale, score, uncertainty, status, columns };
  explicit FramesModel(Document& document, QObject* parent = nullptr);
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  QString csv() const;

 private:
  std::optional<double> number(const FoundFrame& found, int column) const;
  Document& document_;
  int rows_ = 0;
};

class FramesLedger : public QWidget {
  Q_OBJECT
 public:
  explicit FramesLedger(Document& document, QWidget* parent = nullptr);
  QTableView* table() const { return table_; }
  QCustomPlot* plot() const { return plot_; }
  QString csv() const { return model_->csv(); }
  /// How many matched, in short.
  QString summary() const;

 Q_SIGNALS:
  void frame_wanted(int index);
  void menu_wanted(int index, QPoint global);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void refresh();
  Document& document_;
  FramesModel* model_;
  QTableView* table_;
  QCustomPlot* plot_;
  QCPItemText* ends_[2];
};

}  // namespace fexel
