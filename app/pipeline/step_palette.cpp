#include "app/pipeline/step_palette.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

#include "app/pipeline/tile.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {

StepPalette::StepPalette(QWidget* parent) : QFrame(parent, Qt::Popup) {
  setAccessibleName(tr("Steps to add"));
  setObjectName("palette");
  setStyleSheet(QString("#palette{background:%1;border:1px solid %2;} QListWidget{background:%1;border:none;} "
                        "QListWidget::item{padding:5px;border-radius:4px;}"
                        "QListWidget::item:selected{background:%3;color:%4;}")
                    .arg(theme().panel.name(), theme().line.name(), theme().teal_soft.name(), theme().ink.name()));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(10, 10, 10, 10);
  search_ = new QLineEdit;
  search_->setPlaceholderText(tr("Find a step"));
  search_->setAccessibleName(tr("Find a step"));
  column->addWidget(search_);
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Steps"));
  list_->setIconSize({30, 30});
  column->addWidget(list_, 1);
  nothing_ = fields::sentence(tr("What was found"));
  column->addWidget(nothing_);
  column->addStretch();
  for (const StepUi* ui : step_uis()) {
    QIcon icon;
    for (const QIcon::Mode mode : {QIcon::Normal, QIcon::Selected})
      icon.addPixmap(pictogram(ui->pictogram(), 30, 2), mode);
    auto* item = new QListWidgetItem(icon, ui->texts().title + "\n" + ui->texts().purpose, list_);
    item->setData(Qt::UserRole, text_of(ui->word()));
  }
  setFixedSize(430, 460);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  search_->installEventFilter(this);
  connect(search_, &QLineEdit::textChanged, this, &StepPalette::filter);
  connect(search_, &QLineEdit::returnPressed, this, &StepPalette::choose);
  connect(list_, &QListWidget::itemClicked, this, &StepPalette::choose);
  connect(list_, &QListWidget::itemActivated, this, &StepPalette::choose);
}

void StepPalette::open_at(QPoint global, int index) {
  index_ = index;
  search_->clear();
  filter({});
  move(global);
  show();
  search_->setFocus();
}

void StepPalette::filter(const QString& text) {
  bool any = false;
  for (int i = 0; i < list_->count(); ++i) {
    const bool match = step_answers(*step_uis()[static_cast<std::size_t>(i)], text);
    list_->item(i)->setHidden(!match);
    if (match && !any) list_->setCurrentRow(i);
    any = any || match;
  }
  list_->setVisible(any);
  nothing_->setVisible(!any);
  fields::say(nothing_,
              any ? QString()
                  : tr("No step answers to “%1”. Try another word for it, or clear the field to see them all.")
                        .arg(text.trimmed()));
}

void StepPalette::choose() {
  const QListWidgetItem* item = list_->currentItem();
  if (!item || item->isHidden()) return;
  hide();
  Q_EMIT this->chosen(item->data(Qt::UserRole).toString(), index_);
}

bool StepPalette::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
      for (int row = list_->currentRow(), step = key->key() == Qt::Key_Down ? 1 : -1;
           row >= 0 && row < list_->count();) {
        row += step;
        if (row >= 0 && row < list_->count() && !list_->item(row)->isHidden()) {
          list_->setCurrentRow(row);
          break;
        }
      }
      return true;
    }
  }
  return QFrame::eventFilter(watched, event);
}

}  // namespace fexel
