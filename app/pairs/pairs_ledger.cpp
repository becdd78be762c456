#include "app/pairs/pairs_ledger.h"

#include <QComboBox>
#include <QHeaderView>
#include <QStackedLayout>
#include <QTableWidget>
#include <set>

#include "app/document/follow.h"
#include "app/pairs/reference.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr std::size_t judged_at_most = 1000;  // pairs: beyond it the models are tried only when they are shown

/// A cell that sorts by its number.
class NumberCell : public QTableWidgetItem {
 public:
  NumberCell(const QString& text, double value) : QTableWidgetItem(text) { setData(Qt::UserRole, value); }
  bool operator<(const QTableWidgetItem& other) const override {
    return data(Qt::UserRole).toDouble() < other.data(Qt::UserRole).toDouble();
  }
};

void tidy(QTableWidget* table, const QString& name) {
  table->setAccessibleName(name);
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(21);
  table->setFont(text_font(8.5));
  table->setWordWrap(false);
  table->setSelectionBehavior(QAbstractItemView::SelectRows);
  table->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table->setTabKeyNavigation(false);
}

/// What to think of a model, in a word, and why.
std::pair<QString, QString> verdict_of(const ModelTried& one, const std::optional<Model>& suggested, double least) {
  if (!one.fit) return {QObject::tr("not possible"), text_of(one.problem)};
  if (suggested == one.model)
    return {QObject::tr("suggested"), one.criterion > least
                                          ? QObject::tr("A larger model is hardly better than this one.")
                                          : QObject::tr("The pairs speak for this model: the least corrected Akaike "
                                                        "criterion.")};
  if (one.fit->freedom <= 0)
    return {QObject::tr("unchecked"), QObject::tr("It goes through all pairs: nothing checks it.")};
  if (suggested && one.model > *suggested)
    return {QObject::tr("too free"),
            QObject::tr("It has more freedom than the pairs support, and bends between them.")};
  return {QObject::tr("too simple"), QObject::tr("It leaves more of the pairs over than a larger model.")};
}

}  // namespace

PairsLedger::PairsLedger(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(12);
  table_ = new QTableWidget(0, columns);
  tidy(table_, tr("Pairs"));
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Interactive);
  table_->horizontalHeader()->setMinimumSectionSize(30);
  for (int column = 0; column < columns; ++column)
    table_->horizontalHeader()->resizeSection(column, column == name                     ? 70
                                                      : column == use                    ? 46
                                                      : column == to_x || column == to_y ? 64
                                                                                         : 54);
  table_->sortByColumn(name, Qt::AscendingOrder);
  row->addWidget(table_, 5);
  auto* side = new QWidget;
  auto* column = new QVBoxLayout(side);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  view_ = new QComboBox;
  view_->setAccessibleName(tr("Beside the pairs"));
  view_->addItems({tr("models side by side"), tr("residuals in order of entry"), tr("residuals against x"),
                   tr("residuals against y")});
  column->addWidget(view_);
  auto* body = new QWidget;
  charts_ = new QStackedLayout(body);
  models_ = new QTableWidget(0, 4);
  tidy(models_, tr("Models"));
  models_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  models_->setSelectionMode(QAbstractItemView::SingleSelection);
  models_->horizontalHeader()->setStretchLastSection(true);
  plot_ = new QCustomPlot;
  plot_->setAccessibleName(tr("Residuals"));
  charts_->addWidget(models_);
  charts_->addWidget(plot_);
  column->addWidget(body, 1);
  row->addWidget(side, 3);
  fields::on_delete(table_, [this] { remove_selected(); });
  connect(table_, &QTableWidget::cellChanged, this, &PairsLedger::take_cell);
  connect(table_, &QTableWidget::currentCellChanged, this, [this](int at) {
    const QTableWidgetItem* item = at < 0 ? nullptr : table_->item(at, name);
    if (!item) return;
    const int pair = item->data(Qt::UserRole).toInt();
    document_.session().select_pair(pair);
    Q_EMIT pair_wanted(pair);
  });
  connect(models_, &QTableWidget::cellClicked, this, [this](int at) { choose_model(at); });
  connect(models_, &QTableWidget::cellActivated, this, [this](int at) { choose_model(at); });
  connect(view_, &QComboBox::activated, this, [this] {
    charts_->setCurrentIndex(view_->currentIndex() == 0 ? 0 : 1);
    show_models();
    show_chart();
  });
  follow_changes(document_, this, 100, [this] { refresh(); });
  connect(&document_, &Document::selection_changed, this, &PairsLedger::refresh);
  connect(&document_.session(), &Session::pair_selected, this, [this] {
    const int pair = document_.session().pair();
    for (int at = 0; at < table_->rowCount(); ++at)
      if (table_->item(at, name)->data(Qt::UserRole).toInt() == pair && table_->currentRow() != at) {
        const QSignalBlocker quiet(table_);
        table_->setCurrentCell(at, std::max(0, table_->currentColumn()));
      }
  });
}

void PairsLedger::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void PairsLedger::refresh() {
  const FitStep* now = selected_fit(document_);
  if (!now || !isVisible()) return;
  if (!shown_ || !(*shown_ == *now)) {
    shown_ = *now;
    fit_ = shown_fit(*now);
    left_out_.assign(now->pairs.size(), std::nullopt);
    // Of a spline this takes as long as a fit, and more: not while a hand drags.
    constexpr std::size_t at_once = 200;
    if (fit_ && (now->model != Model::thin_plate || now->pairs.size() <= at_once))
      left_out_ = leave_one_out(now->model, pairs_in_pixels(*now), *fit_);
    show_rows();
    show_models();
    show_chart();
  }
}

void PairsLedger::show_rows() {
  const QSignalBlocker quiet(table_);
  const FitStep& s = *shown_;
  const QString unit = s.pixel_size ? unit_text(s.unit) : tr("px");
  const int selected = document_.session().pair();
  table_->setSortingEnabled(false);
  QStringList heads{
      tr("name"),   tr("use"),    tr("x, px"),   tr("y, px"),   tr("to x, %1").arg(unit), tr("to y, %1").arg(unit),
      tr("dx, px"), tr("dy, px"), tr("off, px"), tr("left out")};
  table_->setHorizontalHeaderLabels(heads);
  table_->horizontalHeaderItem(left_out)->setToolTip(tr("How far the pair would lie off the fit of all others, in px"));
  table_->setRowCount(static_cast<int>(s.pairs.size()));
  for (int i = 0; i < table_->rowCount(); ++i) {
    const auto k = static_cast<std::size_t>(i);
    const PointPair& pair = s.pairs[k];
    auto* label = new NumberCell(text_of(label_of(s, i)), i);
    label->setFlags(label->flags() | Qt::ItemIsUserCheckable);
    label->setCheckState(pair.use ? Qt::Checked : Qt::Unchecked);
    label->setToolTip(tr("Whether the pair is used"));
    const bool outlier = fit_ && pair.counts() && !(fit_->weights[k] > 0);
    auto* role = new QTableWidgetItem(!pair.use    ? tr("no")
                                      : pair.check ? tr("check")
                                      : outlier    ? tr("outlier")
                                                   : tr("fit"));
    role->setToolTip(!pair.use    ? tr("It is left out")
                     : pair.check ? tr("It is kept out of the fit, and checks it")
                     : outlier    ? tr("It disagrees with the rest, and counts for nothing")
                                  : tr("It counts. Type “check” to keep it out of the fit as a check point"));
    table_->setItem(i, name, label);
    table_->setItem(i, use, role);
    const auto put = [&](int column, std::optional<double> value, int decimals, bool editable) {
      auto* item = value ? new NumberCell(text_of(number_text(*value, decimals)), *value)
                         : static_cast<QTableWidgetItem*>(new NumberCell(QStringLiteral("–"), -1));
      item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (!editable) item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
      if (outlier) item->setForeground(theme().brick);
      table_->setItem(i, column, item);
    };
    const int to_decimals =
        s.pixel_size ? std::clamp(static_cast<int>(std::ceil(-std::log10(*s.pixel_size))) + 1, 0, 9) : 2;
    put(from_x, pair.from.x, 2, true);
    put(from_y, pair.from.y, 2, true);
    put(to_x, pair.to.x, to_decimals, true);
    put(to_y, pair.to.y, to_decimals, true);
    const auto d = fit_ ? std::optional(fit_->residuals[k]) : std::nullopt;
    put(dx, d ? std::optional(d->x) : std::nullopt, 2, false);
    put(dy, d ? std::optional(d->y) : std::nullopt, 2, false);
    put(off, d ? std::optional(std::hypot(d->x, d->y)) : std::nullopt, 2, false);
    put(left_out, left_out_[k], 2, false);
  }
  table_->setSortingEnabled(true);
  for (int at = 0; at < table_->rowCount(); ++at)
    if (table_->item(at, name)->data(Qt::UserRole).toInt() == selected) table_->setCurrentCell(at, 0);
}

void PairsLedger::show_models() {
  if (!shown_ || view_->currentIndex() != 0 || shown_->pairs.size() > judged_at_most) {
    models_->setRowCount(0);
    return;
  }
  const std::vector<PointPair> pairs = pairs_in_pixels(*shown_);
  if (!tried_of_ || !(*tried_of_ == pairs)) {
    tried_ = try_models(pairs, shown_->robust);
    tried_of_ = pairs;
  }
  const auto suggested = suggested_model(tried_);
  models_->setHorizontalHeaderLabels({tr("model"), tr("RMS, px"), tr("left out, px"), tr("")});
  models_->setRowCount(static_cast<int>(tried_.size()));
  double least = std::numeric_limits<double>::infinity();
  for (const ModelTried& one : tried_)
    if (one.fit) least = std::min(least, one.criterion);
  for (int i = 0; i < models_->rowCount(); ++i) {
    const ModelTried& one = tried_[static_cast<std::size_t>(i)];
    const bool overs = one.fit && one.fit->freedom > 0;
    const auto [verdict, reason] = verdict_of(one, suggested, least);
    const QString cells[] = {text_of(name_of(one.model)),
                             overs ? text_of(number_text(one.fit->rms, 2)) : QStringLiteral("–"),
                             overs ? text_of(number_text(one.left_out_rms, 2)) : QStringLiteral("–"), verdict};
    for (int k = 0; k < 4; ++k) {
      auto* item = new QTableWidgetItem(cells[k]);
      if (k == 1 || k == 2) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (one.model == shown_->model) item->setFont(text_font(8.5, true));
      if (suggested == one.model) item->setForeground(theme().teal);
      item->setToolTip(reason);
      models_->setItem(i, k, item);
    }
    if (one.model == shown_->model) {
      models_->selectRow(i);
      models_->scrollToItem(models_->item(i, 0), QAbstractItemView::PositionAtCenter);
    }
  }
}

void PairsLedger::show_chart() {
  const int kind = view_->currentIndex();
  if (kind == 0 || !shown_) return;
  plot_->clearPlottables();
  plot_->legend->setVisible(true);
  dress(*plot_);
  double low = 0, high = 1, most = 0;
  for (const bool across : {true, false}) {
    QVector<double> x, y;
    for (std::size_t i = 0; fit_ && i < shown_->pairs.size(); ++i) {
      if (!shown_->pairs[i].use || !std::isfinite(fit_->residuals[i].x)) continue;
      x << (kind == 1 ? static_cast<double>(i + 1) : kind == 2 ? shown_->pairs[i].from.x : shown_->pairs[i].from.y);
      y << (across ? fit_->residuals[i].x : fit_->residuals[i].y);
      if (x.size() == 1 && across) low = high = x.front();
      low = std::min(low, x.back());
      high = std::max(high, x.back());
      most = std::max(most, std::abs(y.back()));
    }
    QCPGraph* graph = plot_->addGraph();
    graph->setName(across ? tr("dx") : tr("dy"));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(across ? QCPScatterStyle::ssDisc : QCPScatterStyle::ssSquare,
                                           across ? theme().teal : theme().brick, 6));
    graph->setData(x, y);
  }
  plot_->xAxis->setLabel(kind == 1 ? tr("pair") : kind == 2 ? tr("from x, px") : tr("from y, px"));
  plot_->yAxis->setLabel(tr("fitted − given, px"));
  const double room = std::max(1e-9, 0.05 * (high - low));
  plot_->xAxis->setRange(low - room - 1e-6, high + room + 1e-6);
  plot_->yAxis->setRange(-1.15 * std::max(most, 1e-6), 1.15 * std::max(most, 1e-6));
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void PairsLedger::take_cell(int at, int column) {
  const FitStep* now = selected_fit(document_);
  const QTableWidgetItem* item = table_->item(at, column);
  const int i = table_->item(at, name)->data(Qt::UserRole).toInt();
  if (!now || !item || i >= static_cast<int>(now->pairs.size())) return;
  FitStep next = *now;
  PointPair& pair = next.pairs[static_cast<std::size_t>(i)];
  const QString text = item->text().trimmed();
  if (column == name) {
    pair.use = item->checkState() == Qt::Checked;
    if (text != text_of(label_of(*now, i))) pair.name = text.toStdString();
  } else if (column == use) {
    const QString word = text.toLower();
    if (word == tr("check")) pair.check = pair.use = true;
    if (word == tr("fit")) {
      pair.check = false;
      pair.use = true;
    }
    if (word == tr("no")) pair.use = false;
  } else {
    bool is = false;
    const double value = with_plain_minus(text).toDouble(&is);
    if (is && std::abs(value) <= 1e9) {
      double* places[] = {&pair.from.x, &pair.from.y, &pair.to.x, &pair.to.y};
      *places[column - from_x] = value;
    }
  }
  if (!(next == *now)) change_fit(document_, tr("change a pair"), next);
  shown_.reset();  // what was not taken goes back
  refresh();
}

void PairsLedger::choose_model(int row) {
  const FitStep* now = selected_fit(document_);
  if (!now || row < 0 || row >= static_cast<int>(tried_.size())) return;
  FitStep next = *now;
  next.model = tried_[static_cast<std::size_t>(row)].model;
  if (!(next == *now)) change_fit(document_, tr("choose a model"), next);
}

void PairsLedger::add_pair() {
  const FitStep* now = selected_fit(document_);
  if (!now) return;
  FitStep next = *now;
  const Point middle = input_of_step(document_.layout(), document_.selected_step()).size.middle();
  const auto at = fit_ ? fit_->map.forward(middle) : std::optional(middle);
  next.pairs.push_back(
      {middle, next.pixel_size.value_or(1) * at.value_or(middle), std::to_string(next.pairs.size() + 1), true});
  change_fit(document_, tr("add a pair"), next);
}

void PairsLedger::remove_selected() {
  const FitStep* now = selected_fit(document_);
  if (!now) return;
  std::set<int> rows;
  for (const QModelIndex& row : table_->selectionModel()->selectedRows())
    rows.insert(table_->item(row.row(), name)->data(Qt::UserRole).toInt());
  if (rows.empty() && document_.session().pair() >= 0) rows.insert(document_.session().pair());
  FitStep next = *now;
  for (auto at = rows.rbegin(); at != rows.rend(); ++at)
    if (*at < static_cast<int>(next.pairs.size())) next.pairs.erase(next.pairs.begin() + *at);
  if (next == *now) return;
  document_.session().select_pair(-1);
  change_fit(document_, rows.size() == 1 ? tr("remove a pair") : tr("remove pairs"), next);
}

QString PairsLedger::csv() const {
  QString out = QStringLiteral("name,use,check,from_x,from_y,to_x,to_y,dx_px,dy_px,distance_px,leave_one_out_px\n");
  for (std::size_t i = 0; shown_ && i < shown_->pairs.size(); ++i) {
    const PointPair& p = shown_->pairs[i];
    QString label = text_of(label_of(*shown_, static_cast<int>(i)));
    out += QString("\"%1\",%2,%3").arg(label.replace('"', "\"\"")).arg(p.use).arg(p.check);
    for (const double v : {p.from.x, p.from.y, p.to.x, p.to.y}) out += "," + QString::number(v, 'g', 12);
    if (fit_)
      for (const double v :
           {fit_->residuals[i].x, fit_->residuals[i].y, std::hypot(fit_->residuals[i].x, fit_->residuals[i].y)})
        out += "," + QString::number(v, 'g', 12);
    else
      out += ",,,";
    out += left_out_[i] ? "," + QString::number(*left_out_[i], 'g', 12) : QStringLiteral(",");
    out += "\n";
  }
  return out;
}

QString PairsLedger::summary() const {
  const FitStep* now = selected_fit(document_);
  if (!now) return {};
  if (now->pairs.empty()) return tr("none yet: open a reference, and click a point on either picture");
  if (!fit_ || !shown_) return tr("%1 pairs").arg(now->pairs.size());
  QString out = tr("%1 of %2 pairs in the fit, %3 px RMS")
                    .arg(fit_->used)
                    .arg(now->pairs.size())
                    .arg(text_of(number_text(fit_->rms, 2)));
  if (fit_->checks > 0)
    out += tr("; %1 check points, %2 px RMS").arg(fit_->checks).arg(text_of(number_text(fit_->check_rms, 2)));
  return out;
}

}  // namespace fexel
