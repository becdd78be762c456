#pragma once
/// How charts look.
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wconversion"
#include <qcustomplot.h>
#pragma GCC diagnostic pop

#include "app/ui/language.h"
#include "app/ui/theme.h"

namespace fexel {

/// The chart's ground and axes in the window's colours; painted with the next frame, not in the middle of this one.
inline void dress(QCustomPlot& plot) {
  plot.setFocusPolicy(Qt::NoFocus);
  plot.setLocale(number_locale());
  plot.setPlottingHint(QCP::phImmediateRefresh, false);
  plot.setBackground(theme().panel);
  for (QCPAxis* axis : {plot.xAxis, plot.yAxis}) {
    axis->setTickLabelFont(text_font(8));
    axis->setLabelFont(text_font(8));
    axis->setTickLabelColor(theme().soft_ink);
    axis->setLabelColor(theme().soft_ink);
    axis->setBasePen(QPen(theme().line));
    axis->setTickPen(QPen(theme().line));
    axis->setSubTickPen(Qt::NoPen);
    axis->grid()->setPen(QPen(theme().line, 1));
    axis->grid()->setZeroLinePen(QPen(theme().soft_ink, 1));
  }
}

}  // namespace fexel
