#pragma once
/// The errors of the measurements at B, each with its uncertainty.
#include <QWidget>

#include "app/document/document.h"

class QCustomPlot;

namespace fexel {

class MeasurementChart : public QWidget {
  Q_OBJECT
 public:
  explicit MeasurementChart(Document& document, QWidget* parent = nullptr);

  QCustomPlot* plot() const { return plot_; }

 private:
  void refresh();
  Document& document_;
  QCustomPlot* plot_;
};

}  // namespace fexel
