#pragma once
/// Figures and charts of a report: what the window's own views and charts show, drawn unseen, in the light look.
#include <QWidget>
#include <functional>
#include <vector>

#include "app/report/report.h"

class QAbstractItemView;
class QCustomPlot;
class QTableView;

namespace fexel {

class Document;

/// Lets the event loop run until `done`, or for a minute; whether it came.
bool wait_until(const std::function<bool()>& done);
/// Shows a widget without a place on the screen, for what is drawn only where it is shown.
void show_unseen(QWidget& widget, QSize size);

/// The station of a flag with all that lies over it, as large as fits a page.
ReportFigure figure_of_station(Document& document, bool b, const std::optional<std::pair<double, double>>& range,
                               const QString& caption);
/// A chart of the window's, taken out of `owner`, which lives as long as the chart; in the colours of paper.
ReportChart chart_of(const QString& caption, std::shared_ptr<QWidget> owner, QCustomPlot* plot, double height_mm = 60);
/// A window's table as it is shown: columns that it hides are left out.
ReportTable table_as_shown(const QString& caption, const QTableView& view);
/// Names and values, without heads.
ReportTable facts_table(const std::vector<std::pair<QString, QString>>& facts);

}  // namespace fexel
