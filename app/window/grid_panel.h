#pragma once
/// Perspective and lens from a printed grid in the picture; the lens from all frames that are open.
#include <QLineEdit>

#include "app/document/background.h"
#include "app/document/document.h"
#include "app/ui/fields.h"

namespace fexel {

class GridPanel : public QWidget {
  Q_OBJECT
 public:
  explicit GridPanel(Document& document, QWidget* parent = nullptr);
  void refresh();

 private:
  void find_grid();
  void find_lens();
  void say(const QString& text, bool wrong = false);
  void failed(const Error& error);

  Document& document_;
  fields::Number* pitch_;
  QComboBox* unit_;
  QPushButton *find_, *lens_;
  QWidget* of_sequence_;
  QLineEdit* name_;
  QLabel* said_;
  bool of_frames_ = false;  // what is being looked for
  Background search_;       // the last member: its thread ends before the rest
};

}  // namespace fexel
