#include "app/window/ledger.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QStackedLayout>
#include <QTableView>
#include <QVBoxLayout>

#include "app/document/motion_layer.h"
#include "app/measurements/measurement_chart.h"
#include "app/measurements/selected_reading.h"
#include "app/pairs/reference.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {

Ledger::Ledger(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setAutoFillBackground(true);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 6, 12, 6);
  column->setSpacing(2);
  auto* head = new QHBoxLayout;
  title_ = new QLabel(tr("Measurements"));
  title_->setFont(text_font(9.5, true));
  summary_ = new QLabel;
  summary_->setAccessibleName(tr("Measurements in short"));
  head->addWidget(title_);
  head->addSpacing(8);
  head->addWidget(summary_);
  head->addStretch(1);
  auto* add = fields::word_button(tr("add"));
  auto* remove = fields::word_button(tr("remove"));
  auto* snap = fields::word_button(tr("snap to edges"));
  snap->setToolTip(tr("Move the points of the selected measurement to the edges and corners near them (Q)"));
  auto* load = fields::word_button(tr("load set…"));
  auto* save = fields::word_button(tr("save set…"));
  load->setToolTip(tr("Lay the measurements of a file, or of a chain, on this picture"));
  save->setToolTip(tr("Keep these measurements as a set for other pictures"));
  auto* copy = fields::word_button(tr("copy as CSV"));
  fold_ = fields::word_button(tr("fold"));
  for (auto* button : {add, remove, snap, load, save, copy, fold_}) head->addWidget(button);
  column->addLayout(head);
  snap_ = snap;
  load_ = load;
  save_ = save;
  copy_ = copy;
  add_ = add;
  remove_ = remove;
  body_ = new QWidget;
  stack_ = new QStackedLayout(body_);
  auto* measurements = new QWidget;
  row_ = new QHBoxLayout(measurements);
  auto* row = row_;
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(12);
  model_ = new MeasurementModel(document, this);
  table_ = fields::table(tr("Measurements"), model_, 23);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->horizontalHeader()->setSectionResizeMode(MeasurementModel::name, QHeaderView::ResizeToContents);
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                          QAbstractItemView::AnyKeyPressed);
  row->addWidget(table_, 3);
  chart_ = new QWidget;
  charts_ = new QStackedLayout(chart_);
  charts_->addWidget(new MeasurementChart(document));
  selected_ = new SelectedReading(document);
  charts_->addWidget(selected_);
  row->addWidget(chart_, 1);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  frames_ = new FramesLedger(document);
  stack_->addWidget(measurements);
  stack_->addWidget(frames_);
  pairs_ = new PairsLedger(document);
  stack_->addWidget(pairs_);
  motion_ = new MotionLedger(document);
  stack_->addWidget(motion_);
  // Its own words alone: the table of measurements may not have followed the document yet.
  connect(&document_.motion_layer(), &MotionLayer::changed, this, [this] {
    if (stack_->currentWidget() == motion_) fields::say(summary_, motion_->summary());
  });
  column->addWidget(body_, 1);
  connect(frames_, &FramesLedger::frame_wanted, this, &Ledger::frame_wanted);
  connect(add, &QPushButton::clicked, this, [this] {
    if (stack_->currentWidget() == pairs_)
      pairs_->add_pair();
    else
      Q_EMIT length_wanted();
  });
  connect(remove, &QPushButton::clicked, this, [this] {
    if (stack_->currentWidget() == pairs_)
      pairs_->remove_selected();
    else
      remove_selected();
  });
  fields::on_delete(table_, [this] { remove_selected(); });
  connect(model_, &MeasurementModel::refused, summary_,
          [this](const QString& why) { fields::say(summary_, why, true); });
  connect(copy, &QPushButton::clicked, this, &Ledger::copy_table);
  connect(snap, &QPushButton::clicked, this, &Ledger::snap_wanted);
  connect(load, &QPushButton::clicked, this, &Ledger::load_wanted);
  connect(save, &QPushButton::clicked, this, &Ledger::save_wanted);
  table_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(table_, &QWidget::customContextMenuRequested, this, [this](QPoint at) {
    const QModelIndex index = table_->indexAt(at);
    if (index.isValid()) document_.session().select_measurement(index.row());
    Q_EMIT menu_wanted(index.isValid() ? index.row() : -1, table_->viewport()->mapToGlobal(at));
  });
  connect(fold_, &QPushButton::clicked, this, [this] { set_folded(!folded()); });
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &Ledger::refresh);
  connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& current) {
    if (current.isValid()) document_.session().select_measurement(current.row());
  });
  connect(&document_, &Document::selection_changed, this, &Ledger::refresh);
  connect(&document_, &Document::changed, this, &Ledger::refresh);
  refresh();
}

void Ledger::set_folded(bool folded) {
  body_->setVisible(!folded);
  setMaximumHeight(folded ? 36 : QWIDGETSIZE_MAX);
  fold_->setText(folded ? tr("unfold") : tr("fold"));
  fold_->setAccessibleName(fold_->text());
}

bool Ledger::folded() const {
  return body_->isHidden();
}

void Ledger::resizeEvent(QResizeEvent*) {
  fit_heads();
  fit_words();
}

void Ledger::fit_words() {
  // What needs a measurement waits for one; where there is little room, words go that menus have, too.
  const bool of_measurements = stack_->currentIndex() == 0, some = !document_.chain().measurements.empty();
  const bool pairs = stack_->currentWidget() == pairs_;
  add_->setVisible(of_measurements || pairs);
  remove_->setVisible((of_measurements && some) || pairs);
  load_->setVisible(of_measurements);
  copy_->setVisible(some || !of_measurements);
  for (QWidget* word : {snap_, save_}) word->setVisible(of_measurements && some);
  const auto needed = [this] {
    int sum = title_->sizeHint().width() + summary_->sizeHint().width() + 40;
    for (const QWidget* word : {add_, remove_, snap_, load_, save_, copy_, fold_})
      if (!word->isHidden()) sum += word->sizeHint().width() + 6;
    return sum;
  };
  for (QWidget* word : {save_, load_, copy_, snap_})
    if (needed() > width()) word->setVisible(false);
}

void Ledger::fit_heads() {
  // In a narrow window the numbers have the room, and heads that are whole.
  constexpr int narrow = 640;
  chart_->setVisible(width() >= narrow);
  model_->set_short_heads(width() < narrow + (charts_->currentIndex() == 1 ? 450 : 200));
}

void Ledger::copy_table() {
  QApplication::clipboard()->setText(stack_->currentWidget() == frames_   ? frames_->csv()
                                     : stack_->currentWidget() == pairs_  ? pairs_->pairs().csv()
                                     : stack_->currentWidget() == motion_ ? motion_->csv()
                                                                          : model_->csv());
}

void Ledger::edit_measurement(int measurement, int column) {
  set_folded(false);
  document_.session().select_measurement(measurement);
  // When the menu that asked for it has given the keyboard back.
  QMetaObject::invokeMethod(
      this,
      [this, measurement, column] {
        const QModelIndex cell = model_->index(measurement, column);
        table_->setFocus();
        table_->setCurrentIndex(cell);
        table_->edit(cell);
      },
      Qt::QueuedConnection);
}

QString Ledger::assumed() const {
  const auto& measurements = document_.chain().measurements;
  double least = 1e9, most = 0;
  QString coarse;
  for (std::size_t i = 0; i < measurements.size(); ++i) {
    const auto [low, high] = std::ranges::minmax(measurements[i].picking);
    least = std::min(least, low);
    most = std::max(most, high);
    const Reading& reading = document_.readings(document_.station_b())[i];
    // Nearer ends would make it better: they were placed from afar, and are most of its uncertainty.
    if (coarse.isEmpty() && high > 0.5 && reading.uncertainty &&
        reading.part(UncertaintySource::points) > 0.7 * *reading.uncertainty)
      coarse = text_of(measurements[i].name);
  }
  const QString range =
      least == most ? number_shown(short_number(most, 2))
                    : tr("%1 to %2").arg(number_shown(short_number(least, 2)), number_shown(short_number(most, 2)));
  const QString said = tr("± for points placed to %1 px").arg(range);
  return coarse.isEmpty() ? said : tr("%1; zoom in to place the points of “%2” better").arg(said, coarse);
}

void Ledger::remove_selected() {
  std::vector<int> rows;
  for (const QModelIndex& row : table_->selectionModel()->selectedRows()) rows.push_back(row.row());
  if (rows.empty()) rows.push_back(document_.session().measurement());
  document_.remove_measurements(rows);
}

QString Ledger::of_selected() const {
  const QModelIndexList rows = table_->selectionModel()->selectedRows();
  if (rows.size() < 2) return {};
  std::vector<double> values;
  QString unit;
  for (const QModelIndex& row : rows) {
    const auto& readings = document_.readings(document_.station_b());
    if (row.row() >= static_cast<int>(readings.size())) return {};
    const Reading& reading = readings[static_cast<std::size_t>(row.row())];
    if (!reading.value) continue;
    const QString own = unit_text(reading.value->unit);
    if (!values.empty() && own != unit) return tr("%1 selected, of different units").arg(rows.size());
    unit = own;
    values.push_back(reading.value->value);
  }
  if (values.size() < 2) return {};
  double mean = 0, squares = 0;
  for (const double v : values) mean += v / static_cast<double>(values.size());
  for (const double v : values) squares += (v - mean) * (v - mean);
  const double deviation = std::sqrt(squares / static_cast<double>(values.size() - 1));
  const auto [low, high] = std::ranges::minmax(values);
  const int decimals = deviation > 0 ? decimals_for(deviation) : 2;
  const auto text = [&](double v) { return number_shown(number_text(v, decimals)); };
  return tr("%1 selected at B: mean %2, standard deviation %3, %4 to %5 %6")
      .arg(values.size())
      .arg(text(mean), number_shown(short_number(deviation, 2)), text(low), text(high), unit);
}

void Ledger::refresh() {
  // The selected step says what the ledger is of.
  const int step = document_.selected_step();
  const bool frames = step >= 0 && ui_of(document_.chain().steps[static_cast<std::size_t>(step)].kind).of_sequence();
  const bool pairs = selected_fit(document_) != nullptr;
  const bool motion = document_.session().motion_page() && !document_.chain().motions.empty();
  stack_->setCurrentIndex(motion ? 3 : frames ? 1 : pairs ? 2 : 0);
  title_->setText(motion ? tr("Movement") : frames ? tr("Frames") : pairs ? tr("Control points") : tr("Measurements"));
  if (motion || pairs || frames) {
    fields::say(summary_, motion ? motion_->summary() : pairs ? pairs_->summary() : frames_->summary());
    return fit_words();
  }
  // Samples need more room than errors do.
  const bool samples = selected_->wanted();
  charts_->setCurrentIndex(samples ? 1 : 0);
  row_->setStretch(1, samples ? 2 : 1);
  fit_heads();
  const auto count = document_.chain().measurements.size();
  if (const QString together = of_selected(); !together.isEmpty()) {
    fields::say(summary_, together);
    return fit_words();
  }
  fields::say(summary_, count == 0 ? tr("none yet: press G on the picture and drag along a known length")
                                   : tr("%1 · %2").arg(count).arg(assumed()));
  fit_words();
  const int row = document_.session().measurement();
  if (row >= 0 && row < model_->rowCount() && table_->currentIndex().row() != row) {
    const QSignalBlocker quiet(table_->selectionModel());
    table_->setCurrentIndex(model_->index(row, std::max(0, table_->currentIndex().column())));
    table_->viewport()->update();
  }
}

}  // namespace fexel
