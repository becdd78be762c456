#pragma once
/// The sheet of steps: pictograms in the order of the work, with a search field.
#include <QFrame>

class QLabel;
class QLineEdit;
class QListWidget;

namespace fexel {

class StepPalette : public QFrame {
  Q_OBJECT
 public:
  explicit StepPalette(QWidget* parent = nullptr);
  void open_at(QPoint global, int index);

 Q_SIGNALS:
  void chosen(const QString& word, int index);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void filter(const QString& text);
  void choose();
  QLineEdit* search_;
  QListWidget* list_;
  QLabel* nothing_;
  int index_ = 0;
};

}  // namespace fexel
