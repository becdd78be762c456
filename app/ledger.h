#pragma once
/// The table and chart below the pictures.
#include <QWidget>

#include "app/frames_ledger.h"
#include "app/gauge_model.h"

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

 Q_SIGNALS:
  void gauge_wanted();
  void frame_wanted(int index);

 private:
  void refresh();
  Document& document_;
  GaugeModel* model_;
  QTableView* table_;
  QLabel* summary_;
  QPushButton* fold_;
  QWidget* body_;
  FramesLedger* frames_;
  QStackedLayout* stack_;
  QLabel* title_;
  std::vector<QWidget*> of_gauges_;
};

}  // namespace fexel
