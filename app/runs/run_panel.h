#pragma once
/// The panel of a run over many pictures: what goes in, how it is written, what became of each.
#include <QWidget>

#include "app/runs/run_model.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QTableView;
class QTimer;
class QVBoxLayout;

namespace fexel {

namespace fields {
class Number;
class Segments;
}  // namespace fields

class RunPanel : public QWidget {
  Q_OBJECT
 public:
  explicit RunPanel(QWidget* parent = nullptr);
  RunSession& session() { return session_; }
  RunModel* model() const { return model_; }
  QTableView* table() const { return table_; }
  /// Files and folders, beside those that are there.
  void add_places(const QStringList& places);
  /// Where files are chosen first.
  void begin_at(const QString& folder) { begin_at_ = folder; }

 Q_SIGNALS:
  void left();
  /// One picture is to be corrected in a window.
  void review_wanted(int row);
  /// All that are not made yet, one after the other.
  void one_by_one_wanted();

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QWidget* build_settings();
  QWidget* build_list();
  void build_pictures(QVBoxLayout* column);
  void build_target(QVBoxLayout* column);
  void build_how(QVBoxLayout* column);
  void read_settings();
  void show_settings();
  void fill_calibrations();
  void refresh();
  void refresh_progress();
  void show_lines(int which);
  QString example() const;

  RunSession session_;
  RunModel* model_;
  QTableView* table_;
  QLabel *chain_, *summary_, *notes_, *example_, *progress_text_;
  QLabel* places_;
  QLineEdit *pattern_, *folder_, *name_, *values_;
  QCheckBox *subfolders_, *compress_;
  QComboBox *format_, *depth_, *empty_, *calibration_, *existing_;
  fields::Number* quality_;
  fields::Segments* which_;
  QWidget* settings_;
  QPushButton* earlier_;
  QPushButton *run_, *pause_, *cancel_, *review_, *one_by_one_;
  QProgressBar* progress_;
  QTimer* soon_;  // settings are read once typing has stopped
  QTimer* tell_;
  bool start_then_ = false;  // once the pictures have been looked at
  int looked_at_ = 0;        // that were to be looked at before
  QString begin_at_;
  bool showing_ = false;
};

}  // namespace fexel
