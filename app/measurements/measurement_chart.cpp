#include "app/measurements/measurement_chart.h"
#include "app/ui/text.h"

#include "app/document/follow.h"
#include "app/measurements/measurement_model.h"
#include "app/ui/chart.h"
#include "app/ui/theme.h"

namespace fexel {

MeasurementChart::MeasurementChart(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 8, 0);
  plot_ = new QCustomPlot(this);
  plot_->setAccessibleName(tr("Chart of the lengths' errors at B"));
  dress(*plot_);
  plot_->addGraph();
  plot_->graph(0)->setLineStyle(QCPGraph::lsNone);
  plot_->graph(0)->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, theme().b, theme().b, 7));
  auto* bars = new QCPErrorBars(plot_->xAxis, plot_->yAxis);
  bars->setDataPlottable(plot_->graph(0));
  bars->setErrorType(QCPErrorBars::etKeyError);
  bars->setPen(QPen(theme().b, 1.6));
  bars->setWhiskerWidth(0);
  plot_->yAxis->setTickLabels(false);
  plot_->yAxis->setTicks(false);
  plot_->yAxis->grid()->setVisible(false);
  plot_->xAxis->ticker()->setTickCount(4);
  column->addWidget(plot_);
  follow_changes(document_, this, 120, [this] { refresh(); });
  if (document_.source()) refresh();
}

void MeasurementChart::refresh() {
  QVector<double> keys, values, errors;
  const std::string unit = MeasurementModel::unit_of_known(document_);
  double reach = 0;
  const auto& measurements = document_.chain().measurements;
  for (std::size_t i = 0; i < measurements.size(); ++i) {
    const Reading& reading = document_.readings(document_.station_b())[i];
    const auto expected = expected_of(measurements[i].kind);
    if (!reading.error || !reading.value || !expected) continue;
    const double to_unit = metres_per(expected->unit) / metres_per(unit);
    const double sigma = reading.uncertainty ? *length_in({*reading.uncertainty, reading.value->unit}, unit) : 0;
    keys << *reading.error * to_unit;
    values << -static_cast<double>(i);
    errors << sigma;
    reach = std::max(reach, std::abs(*reading.error) * to_unit + sigma);
  }
  if (!(reach > 0)) reach = 0.05;
  plot_->xAxis->setLabel(tr("error at B, %1").arg(unit_text(unit)));
  plot_->setVisible(!keys.isEmpty());
  plot_->graph(0)->setData(keys, values);
  static_cast<QCPErrorBars*>(plot_->plottable(1))->setData(errors);
  plot_->xAxis->setRange(-1.1 * reach, 1.1 * reach);
  plot_->yAxis->setRange(-static_cast<double>(measurements.size()) + 0.4, 0.6);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

}  // namespace fexel
