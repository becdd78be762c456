#include "app/compare/variants_sheet.h"

#include <QHeaderView>
#include <QTableWidget>

#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

QString reference_text(const AlignReference& reference) {
  switch (reference.mode) {
    case ReferenceMode::first:
      return QObject::tr("the first frame");
    case ReferenceMode::neighbour:
      return QObject::tr("the frame before");
    case ReferenceMode::network:
      return QObject::tr("all pairs");
    case ReferenceMode::average:
      return reference.number == 0 ? QObject::tr("the mean of all")
                                   : QObject::tr("the mean of %1").arg(reference.number);
    case ReferenceMode::frame:
      return QObject::tr("frame %1").arg(reference.number);
    case ReferenceMode::picture:
      return text_of(reference.path);
  }
  return {};
}

QString pixels(double v) {
  return number_shown(number_text(v, v < 0.01 ? 4 : v < 1 ? 3 : 2));
}

}  // namespace

VariantsSheet::VariantsSheet(std::vector<AlignVariant> ways, QWidget* parent)
    : QDialog(parent), variants_(std::move(ways)) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Ways to align, compared"));
  auto* column = new QVBoxLayout(this);
  const QStringList heads{
      tr("motion"),          tr("against"), tr("matched"), tr("mean score"), tr("least certain, ± px"),
      tr("still moves, px"), tr("time, s")};
  table_ = new QTableWidget(static_cast<int>(variants_.size()), static_cast<int>(heads.size()));
  table_->setAccessibleName(tr("Ways to align"));
  table_->setHorizontalHeaderLabels(heads);
  table_->verticalHeader()->hide();
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  for (int row = 0; row < table_->rowCount(); ++row) {
    const AlignVariant& way = variants_[static_cast<std::size_t>(row)];
    const QStringList words =
        way.trouble.empty()
            ? QStringList{core_word(name_of(way.step.model)),
                          reference_text(way.step.against),
                          tr("%1 of %2").arg(way.matched).arg(way.step.frames.size()),
                          number_shown(number_text(way.score, 4)),
                          pixels(way.uncertainty_px),
                          pixels(way.still_px),
                          number_shown(number_text(way.seconds, 2))}
            : QStringList{
                  core_word(name_of(way.step.model)), reference_text(way.step.against), tr("none"), {}, {}, {}, {}};
    for (int k = 0; k < words.size(); ++k) {
      auto* item = new QTableWidgetItem(words[k]);
      item->setTextAlignment((k < 2 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
      item->setToolTip(text_of(way.trouble));
      if (!way.trouble.empty()) item->setForeground(theme().brick);
      table_->setItem(row, k, item);
    }
  }
  table_->resizeColumnsToContents();
  table_->setMinimumSize(table_->horizontalHeader()->length() + 24, 30 * std::min(table_->rowCount(), 10) + 34);
  table_->selectRow(0);
  column->addWidget(table_);
  auto* said = fields::sentence(tr("What the numbers mean"));
  fields::say(
      said,
      tr("\"Still moves\" is what the usual window of 64 px in up to six frames is off by after alignment, "
         "noise included: the smaller, the better the way fits what moved. The first row is the way that is set."));
  column->addWidget(said);
  auto* row = new QHBoxLayout;
  auto* take = new QPushButton(tr("Take the selected way"));
  take->setAccessibleName(take->text());
  take->setProperty("primary", true);
  auto* close = new QPushButton(tr("Close"));
  row->addStretch(1);
  row->addWidget(close);
  row->addWidget(take);
  column->addLayout(row);
  const auto choose = [this] {
    const int at = table_->currentRow();
    if (at < 0 || !variants_[static_cast<std::size_t>(at)].trouble.empty()) return;
    Q_EMIT chosen(variants_[static_cast<std::size_t>(at)]);
    accept();
  };
  connect(take, &QPushButton::clicked, this, choose);
  connect(table_, &QTableWidget::doubleClicked, this, choose);
  connect(close, &QPushButton::clicked, this, &QDialog::reject);
}

}  // namespace fexel
