#include "app/window/ledger.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QStackedLayout>
#include <QTableView>
#include <QVBoxLayout>

#include "app/measurements/measurement_chart.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
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
  auto* copy = fields::word_button(tr("copy as CSV"));
  fold_ = fields::word_button(tr("fold"));
  for (auto* button : {add, remove, copy, fold_}) head->addWidget(button);
  column->addLayout(head);
  of_measurements_ = {add, remove};
  body_ = new QWidget;
  stack_ = new QStackedLayout(body_);
  auto* measurements = new QWidget;
  auto* row = new QHBoxLayout(measurements);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(12);
  model_ = new MeasurementModel(document, this);
  table_ = fields::table(tr("Measurements"), model_, 23);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->horizontalHeader()->setSectionResizeMode(MeasurementModel::name, QHeaderView::ResizeToContents);
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                          QAbstractItemView::AnyKeyPressed);
  row->addWidget(table_, 3);
  chart_ = new MeasurementChart(document);
  row->addWidget(chart_, 1);
  frames_ = new FramesLedger(document);
  stack_->addWidget(measurements);
  stack_->addWidget(frames_);
  column->addWidget(body_, 1);
  connect(frames_, &FramesLedger::frame_wanted, this, &Ledger::frame_wanted);
  connect(add, &QPushButton::clicked, this, &Ledger::length_wanted);
  connect(remove, &QPushButton::clicked, this,
          [this] { document_.remove_measurement(document_.session().measurement()); });
  connect(model_, &MeasurementModel::refused, summary_,
          [this](const QString& why) { fields::say(summary_, why, true); });
  connect(copy, &QPushButton::clicked, this, &Ledger::copy_table);
  table_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(table_, &QWidget::customContextMenuRequested, this, [this](QPoint at) {
    const QModelIndex index = table_->indexAt(at);
    if (index.isValid()) document_.session().select_measurement(index.row());
    Q_EMIT menu_wanted(index.isValid() ? index.row() : -1, table_->viewport()->mapToGlobal(at));
  });
  connect(fold_, &QPushButton::clicked, this, [this] { set_folded(!folded()); });
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
  // In a narrow window the numbers have the room, and heads that are whole.
  constexpr int narrow = 640;
  chart_->setVisible(width() >= narrow);
  model_->set_short_heads(width() < narrow + 200);
}

void Ledger::copy_table() {
  QApplication::clipboard()->setText(stack_->currentIndex() == 1 ? frames_->csv() : model_->csv());
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
  const QString range = least == most
                            ? text_of(short_number(most, 2))
                            : tr("%1 to %2").arg(text_of(short_number(least, 2)), text_of(short_number(most, 2)));
  const QString said = tr("± for points placed to %1 px").arg(range);
  return coarse.isEmpty() ? said : tr("%1; zoom in to place the points of “%2” better").arg(said, coarse);
}

void Ledger::refresh() {
  // The selected step says what the ledger is of.
  const int step = document_.selected_step();
  const bool frames = step >= 0 && ui_of(document_.chain().steps[static_cast<std::size_t>(step)].kind).of_sequence();
  stack_->setCurrentIndex(frames ? 1 : 0);
  title_->setText(frames ? tr("Frames") : tr("Measurements"));
  for (QWidget* button : of_measurements_) button->setVisible(!frames);
  if (frames) {
    fields::say(summary_, frames_->summary());
    return;
  }
  const auto count = document_.chain().measurements.size();
  fields::say(summary_, count == 0 ? tr("none yet: press G on the picture and drag along a known length")
                                   : tr("%1 · %2").arg(count).arg(assumed()));
  const int row = document_.session().measurement();
  if (row >= 0 && row < model_->rowCount() && table_->currentIndex().row() != row) {
    const QSignalBlocker quiet(table_->selectionModel());
    table_->setCurrentIndex(model_->index(row, std::max(0, table_->currentIndex().column())));
    table_->viewport()->update();
  }
}

}  // namespace fexel
