#include "app/report/report_figures.h"

#include <QElapsedTimer>
#include <QEventLoop>
#include <QHeaderView>
#include <QTableView>
#include <QTimer>

#include "app/canvas/picture_view.h"
#include "app/ui/chart.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "marks/lay_out_marks.h"

namespace fexel {

bool wait_until(const std::function<bool()>& done) {
  constexpr int longest = 60000;  // ms
  if (done()) return true;
  QEventLoop waiting;
  QElapsedTimer clock;
  QTimer poll;
  QObject::connect(&poll, &QTimer::timeout, &waiting, [&] {
    if (done() || clock.elapsed() > longest) waiting.quit();
  });
  clock.start();
  poll.start(5);
  waiting.exec(QEventLoop::ExcludeUserInputEvents);
  return done();
}

void show_unseen(QWidget& widget, QSize size) {
  widget.setAttribute(Qt::WA_DontShowOnScreen);
  widget.setAttribute(Qt::WA_ShowWithoutActivating);
  widget.resize(size);
  widget.show();
}

ReportFigure figure_of_station(Document& document, bool b, const std::optional<std::pair<double, double>>& range,
                               const QString& caption) {
  constexpr int width = 660, least = 200, most = 760, edge = 38;  // px of the widget; what rulers and margins take
  constexpr double detail = 3, bar_share = 0.22;
  PictureView view(document, b);
  const Station& station = view.shown_station();
  const double aspect = static_cast<double>(station.size.height) / std::max(1, station.size.width);
  show_unseen(view, {width, std::clamp(static_cast<int>((width - edge) * aspect) + edge, least, most)});
  view.set_range(range);
  view.set_detail(detail);
  view.fit();
  if (!wait_until([&] { return view.settled(); }))
    throw input_error("The picture for the report was not drawn within a minute.", {}, "Try again.");
  ReportFigure out;
  out.caption = caption;
  out.picture = QImage(view.size() * detail, QImage::Format_RGB32);
  out.picture.setDevicePixelRatio(detail);
  out.picture.fill(Qt::white);
  view.render(&out.picture);
  if (station.pixel && station.pixel->square() && station.from_source.planar()) {
    const double px = view.zoom();  // of the widget for one of the station
    const RoundLength length = round_length(bar_share * width / px * station.pixel->x, station.pixel->unit);
    const double pixels = length.value * metres_per(length.unit) / metres_per(station.pixel->unit) / station.pixel->x;
    out.bar = ReportFigure::Bar{
        pixels * px / view.width(),
        QStringLiteral("%1 %2").arg(number_shown(short_number(length.value)), unit_text(length.unit))};
  }
  return out;
}

ReportChart chart_of(const QString& caption, std::shared_ptr<QWidget> owner, QCustomPlot* plot, double height_mm) {
  dress(*plot);
  plot->setBackground(Qt::white);
  return {caption, std::shared_ptr<QCustomPlot>(std::move(owner), plot), height_mm};
}

ReportTable table_as_shown(const QString& caption, const QTableView& view) {
  ReportTable out;
  out.caption = caption;
  const QAbstractItemModel& model = *view.model();
  for (int column = 0; column < model.columnCount(); ++column) {
    if (view.isColumnHidden(column)) continue;
    out.heads << model.headerData(column, Qt::Horizontal, Qt::DisplayRole).toString();
    const auto at = model.rowCount() > 0 ? model.index(0, column).data(Qt::TextAlignmentRole).toInt() : 0;
    out.numbers.push_back((at & Qt::AlignRight) != 0);
  }
  for (int row = 0; row < model.rowCount(); ++row) {
    QStringList cells;
    for (int column = 0; column < model.columnCount(); ++column)
      if (!view.isColumnHidden(column)) cells << model.index(row, column).data(Qt::DisplayRole).toString();
    out.rows.push_back(std::move(cells));
  }
  return out;
}

ReportTable facts_table(const std::vector<std::pair<QString, QString>>& facts) {
  ReportTable out;
  for (const auto& [name, value] : facts)
    if (!value.isEmpty()) out.rows.push_back({name, value});
  out.numbers = {false, false};
  return out;
}

}  // namespace fexel
