#pragma once
/// The pixel size from ruled lines in the picture, and the library of calibrations.
#include <QLineEdit>

#include "app/document/background.h"
#include "app/document/document.h"
#include "app/steps/page_request.h"
#include "app/ui/fields.h"

namespace fexel {

class CalibrationPanel : public QWidget {
  Q_OBJECT
 public:
  explicit CalibrationPanel(Document& document, QWidget* parent = nullptr);
  void refresh();

 Q_SIGNALS:
  /// A line along a ruler is to be drawn on the picture, in the source's coordinates.
  void asked(const fexel::PageRequest& request);

 private:
  void find_lines(Point from, Point to);
  void show_library();
  void take_over();
  void keep();
  void set(const QString& text, const Calibration& calibration);

  Document& document_;
  fields::Number* spacing_;
  QComboBox *unit_, *library_;
  QPushButton *find_, *take_, *keep_, *proposed_;
  std::vector<std::pair<QString, Size>> sizes_;  // of the pictures that those in the library were made for
  QLineEdit* name_;
  QLabel *found_, *said_, *unfit_;
  std::optional<Calibration> of_lines_;  // what the lines gave, for as long as it is in force
  Background search_;                    // the last member: its thread ends before the rest
};

}  // namespace fexel
