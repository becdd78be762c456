#include "app/pairs/pairs_ledger.h"

#include <QComboBox>
#include <QHeaderView>
#include <QSortFilterProxyModel>
#include <QStackedLayout>
#include <QTableWidget>
#include <set>

#include "app/document/follow.h"
#include "app/pairs/reference.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

void tidy(QTableView* table, const QString& name) {
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
  pairs_ = new PairsModel(document, this);
  sorted_ = new QSortFilterProxyModel(this);
  sorted_->setSourceModel(pairs_);
  sorted_->setSortRole(PairsModel::sort_role);
  table_ = new QTableView;
  table_->setModel(sorted_);
  tidy(table_, tr("Pairs"));
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Interactive);
  table_->horizontalHeader()->setMinimumSectionSize(30);
  for (int column = 0; column < PairsModel::columns; ++column) {
    const bool target = column == PairsModel::to_x || column == PairsModel::to_y;
    const int width = column == PairsModel::name ? 64 : column == PairsModel::use ? 46 : target ? 64 : 50;
    table_->horizontalHeader()->resizeSection(column, width);
  }
  table_->setSortingEnabled(true);
  table_->sortByColumn(PairsModel::name, Qt::AscendingOrder);
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
  connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& current) {
    if (!current.isValid() || filling_) return;
    const int pair = pair_of_row(current.row());
    document_.session().select_pair(pair);
    Q_EMIT pair_wanted(pair);
  });
  connect(models_, &QTableWidget::cellClicked, this, [this](int at) { choose_model(at); });
  connect(models_, &QTableWidget::cellActivated, this, [this](int at) { choose_model(at); });
  connect(view_, &QComboBox::activated, this, &PairsLedger::show_beside);
  follow_changes(document_, this, 100, [this] { refresh(); });
  connect(&document_, &Document::selection_changed, this, &PairsLedger::refresh);
  connect(&document_.session(), &Session::pair_selected, this, &PairsLedger::select_row);
  connect(&document_.pairs_review(), &PairsReview::changed, this, &PairsLedger::show_models);
}

void PairsLedger::show_beside(int which) {
  view_->setCurrentIndex(which);
  charts_->setCurrentIndex(which == 0 ? 0 : 1);
  show_models();
  show_chart();
}

int PairsLedger::pair_of_row(int row) const {
  return sorted_->mapToSource(sorted_->index(row, 0)).row();
}

void PairsLedger::select_row() {
  const int pair = document_.session().pair();
  if (pair < 0 || pair >= pairs_->rowCount()) return table_->clearSelection();
  const QModelIndex at = sorted_->mapFromSource(pairs_->index(pair, std::max(0, table_->currentIndex().column())));
  if (at.row() == table_->currentIndex().row() && table_->selectionModel()->isRowSelected(at.row())) return;
  filling_ = true;
  table_->setCurrentIndex(at);
  filling_ = false;
}

void PairsLedger::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void PairsLedger::refresh() {
  const FitStep* now = selected_fit(document_);
  if (!now || !isVisible() || pairs_->step() == *now) return;
  filling_ = true;
  pairs_->refresh();
  filling_ = false;
  // Heads are whole, in every language.
  for (int column = 0; column < PairsModel::columns; ++column) {
    const QString head = pairs_->headerData(column, Qt::Horizontal, Qt::DisplayRole).toString();
    const bool place = column == PairsModel::from_x || column == PairsModel::from_y;
    const QFontMetrics metrics = table_->horizontalHeader()->fontMetrics();
    const int wide = std::max(metrics.horizontalAdvance(head), place ? metrics.horizontalAdvance("1234.56") : 0) + 14;
    if (table_->horizontalHeader()->sectionSize(column) < wide) table_->horizontalHeader()->resizeSection(column, wide);
  }
  select_row();
  show_models();
  show_chart();
}

void PairsLedger::show_models() {
  const auto& step = pairs_->step();
  if (!step || view_->currentIndex() != 0) return;
  const PairsFindings* found = document_.pairs_review().findings(*step);
  if (!found) {
    // The numbers of other pairs are not those of these.
    for (int i = 0; i < models_->rowCount(); ++i)
      for (const int k : {1, 2}) models_->item(i, k)->setText(QStringLiteral("…"));
    return;
  }
  const std::vector<ModelTried>& tried = found->tried;
  const auto suggested = suggested_model(tried);
  models_->setHorizontalHeaderLabels({tr("model"), tr("RMS, px"), tr("left out, px"), tr("")});
  models_->setRowCount(static_cast<int>(tried.size()));
  double least = std::numeric_limits<double>::infinity();
  for (const ModelTried& one : tried)
    if (one.fit) least = std::min(least, one.criterion);
  for (int i = 0; i < models_->rowCount(); ++i) {
    const ModelTried& one = tried[static_cast<std::size_t>(i)];
    const bool overs = one.fit && one.fit->freedom > 0;
    const auto [verdict, reason] = verdict_of(one, suggested, least);
    const QString cells[] = {core_word(name_of(one.model)),
                             overs ? number_shown(number_text(one.fit->rms, 2)) : QStringLiteral("–"),
                             overs ? number_shown(number_text(one.left_out_rms, 2)) : QStringLiteral("–"), verdict};
    for (int k = 0; k < 4; ++k) {
      auto* item = new QTableWidgetItem(cells[k]);
      if (k == 1 || k == 2) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (one.model == step->model) item->setFont(text_font(8.5, true));
      if (suggested == one.model) item->setForeground(theme().teal);
      item->setToolTip(reason);
      item->setData(Qt::UserRole, text_of(name_of(one.model)));
      models_->setItem(i, k, item);
    }
    if (one.model == step->model) {
      models_->selectRow(i);
      models_->scrollToItem(models_->item(i, 0), QAbstractItemView::PositionAtCenter);
    }
  }
}

void PairsLedger::show_chart() {
  const int kind = view_->currentIndex();
  const auto& step = pairs_->step();
  const Fit* fit = pairs_->fit();
  if (kind == 0 || !step) return;
  plot_->clearPlottables();
  plot_->legend->setVisible(true);
  dress(*plot_);
  double low = 0, high = 1, most = 0;
  // Pairs that count for nothing may lie far beyond: they stand at the edge, so that the others can be told apart.
  const auto counts = [&](std::size_t i) { return !(step->pairs[i].counts() && !(fit->weights[i] > 0)); };
  for (std::size_t i = 0; fit && i < step->pairs.size(); ++i)
    if (step->pairs[i].use && std::isfinite(fit->residuals[i].x) && counts(i))
      most = std::max({most, std::abs(fit->residuals[i].x), std::abs(fit->residuals[i].y)});
  most = std::max(most, 1e-6);
  QVector<double> beyond_x, beyond_y;
  for (const bool across : {true, false}) {
    QVector<double> x, y;
    bool first = true;
    for (std::size_t i = 0; fit && i < step->pairs.size(); ++i) {
      if (!step->pairs[i].use || !std::isfinite(fit->residuals[i].x)) continue;
      x << (kind == 1 ? static_cast<double>(i + 1) : kind == 2 ? step->pairs[i].from.x : step->pairs[i].from.y);
      y << (across ? fit->residuals[i].x : fit->residuals[i].y);
      if (first && across) low = high = x.back();
      first = false;
      low = std::min(low, x.back());
      high = std::max(high, x.back());
      if (std::abs(y.back()) > 1.1 * most) {
        beyond_x << x.back();
        beyond_y << std::copysign(1.1 * most, y.back());
        x.removeLast();
        y.removeLast();
      }
    }
    QCPGraph* graph = plot_->addGraph();
    graph->setName(across ? tr("dx") : tr("dy"));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(across ? QCPScatterStyle::ssDisc : QCPScatterStyle::ssSquare,
                                           across ? theme().teal : theme().brick, 6));
    graph->setData(x, y);
  }
  if (!beyond_x.isEmpty()) {
    QCPGraph* graph = plot_->addGraph();
    graph->setName(tr("outlier, beyond"));
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangle, theme().ink, 7));
    graph->setData(beyond_x, beyond_y);
  }
  const auto whole = QSharedPointer<QCPAxisTickerFixed>::create();
  whole->setTickStep(std::max(1.0, std::ceil(static_cast<double>(step->pairs.size()) / 10)));
  plot_->xAxis->setTicker(kind == 1 ? whole : QSharedPointer<QCPAxisTicker>::create());
  plot_->xAxis->setLabel(kind == 1 ? tr("pair") : kind == 2 ? tr("from x, px") : tr("from y, px"));
  plot_->yAxis->setLabel(tr("fitted − given, px"));
  const double room = std::max(1e-9, 0.05 * (high - low));
  plot_->xAxis->setRange(low - room - 1e-6, high + room + 1e-6);
  plot_->yAxis->setRange(-1.2 * most, 1.2 * most);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void PairsLedger::choose_model(int row) {
  const FitStep* now = selected_fit(document_);
  const auto model =
      row < 0 ? std::nullopt : model_named(models_->item(row, 0)->data(Qt::UserRole).toString().toStdString());
  if (!now || !model) return;
  FitStep next = *now;
  next.model = *model;
  if (!(next == *now)) change_fit(document_, tr("choose a model"), next);
}

void PairsLedger::add_pair() {
  const FitStep* now = selected_fit(document_);
  if (!now) return;
  FitStep next = *now;
  const Point middle = input_of_step(document_.layout(), document_.selected_step()).size.middle();
  const Fit* fit = pairs_->fit();
  const auto at = fit ? fit->map.forward(middle) : std::optional(middle);
  next.pairs.push_back(
      {middle, next.pixel_size.value_or(1) * at.value_or(middle), std::to_string(next.pairs.size() + 1), true});
  change_fit(document_, tr("add a pair"), next);
}

void PairsLedger::remove_selected() {
  const FitStep* now = selected_fit(document_);
  if (!now) return;
  std::set<int> rows;
  for (const QModelIndex& row : table_->selectionModel()->selectedRows()) rows.insert(pair_of_row(row.row()));
  if (rows.empty() && document_.session().pair() >= 0) rows.insert(document_.session().pair());
  FitStep next = *now;
  for (auto at = rows.rbegin(); at != rows.rend(); ++at)
    if (*at < static_cast<int>(next.pairs.size())) next.pairs.erase(next.pairs.begin() + *at);
  if (next == *now) return;
  document_.session().select_pair(-1);
  change_fit(document_, rows.size() == 1 ? tr("remove a pair") : tr("remove pairs"), next);
}

QString PairsLedger::summary() const {
  const FitStep* now = selected_fit(document_);
  if (!now) return {};
  const Fit* fit = pairs_->fit();
  if (now->pairs.empty()) return tr("none yet: open a reference, and click a point on either picture");
  if (!fit || pairs_->step() != *now) return tr("%1 pairs").arg(now->pairs.size());
  QString out = tr("%1 of %2 pairs in the fit, %3 px RMS")
                    .arg(fit->used)
                    .arg(now->pairs.size())
                    .arg(number_shown(number_text(fit->rms, 2)));
  if (fit->checks > 0)
    out += tr("; %1 check points, %2 px RMS").arg(fit->checks).arg(number_shown(number_text(fit->check_rms, 2)));
  return out;
}

}  // namespace fexel
