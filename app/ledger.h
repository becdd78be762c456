#pragma once
/// The table and chart below the pictures.
#include <QWidget>

#include "app/gauge_model.h"

class QLabel;
class QTableView;

namespace fexel {

class Ledger : public QWidget {
  Q_OBJECT
 public:
  explicit Ledger(Document& document, QWidget* parent = nullptr);
  QTableView* table() const { return table_; }
  void set_folded(bool folded);
  bool folded() const;

 Q_SIGNALS:
  void gauge_wanted();

 private:
  void refresh();
  Document& document_;
  GaugeModel* model_;
  QTableView* table_;
  QLabel* summary_;
  QWidget* body_;
};

}  // namespace fexel
