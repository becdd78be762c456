#pragma once
/// The movement as charts: the course of points and lengths over the frames, the scatter of the two components with
/// limits drawn by hand, a histogram of what is shown.
#include <QWidget>

#include "app/document/document.h"

class QComboBox;
class QCustomPlot;

namespace fexel {

class MotionLedger : public QWidget {
  Q_OBJECT
 public:
  enum class View { over_time, profile, scatter, histogram };
  explicit MotionLedger(Document& document, QWidget* parent = nullptr);
  QString summary() const;
  /// What is charted, as a table.
  QString csv() const;
  void show_view(View view);
  QCustomPlot* plot() const { return plot_; }

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void draw_over_time();
  void draw_profile();
  void draw_scatter();
  void draw_histogram();
  /// A course: frames, and a value of each that has one.
  struct Course {
    QString name;
    QVector<double> at, value;
  };
  std::vector<Course> courses() const;
  bool in_pairs() const;
  QString time_title() const;
  double time_of(int frame) const;
  void limit_to(const QRectF& area);
  Document& document_;
  QComboBox* view_;
  QCustomPlot* plot_;
};

}  // namespace fexel
