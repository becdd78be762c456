#pragma once
/// The errors of the gauges at B, each with its uncertainty.
#include <QWidget>

#include "app/document/document.h"

class QCustomPlot;

namespace fexel {

class GaugeChart : public QWidget {
  Q_OBJECT
 public:
  explicit GaugeChart(Document& document, QWidget* parent = nullptr);

 private:
  void refresh();
  Document& document_;
  QCustomPlot* plot_;
};

}  // namespace fexel
