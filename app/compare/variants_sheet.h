#pragma once
/// Ways to align a sequence, side by side: what came of each, and which is taken.
#include <QDialog>

#include "run/align_search.h"

class QTableWidget;

namespace fexel {

class VariantsSheet : public QDialog {
  Q_OBJECT
 public:
  VariantsSheet(std::vector<AlignVariant> ways, QWidget* parent);
  QTableWidget* table() const { return table_; }

 Q_SIGNALS:
  void chosen(const fexel::AlignVariant& way);

 private:
  std::vector<AlignVariant> variants_;
  QTableWidget* table_;
};

}  // namespace fexel
