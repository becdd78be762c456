#include "app/pipeline/rail.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>

#include "app/ui/theme.h"

namespace fexel {
namespace {

/// The link between two tiles: plain where pixels are moved bit for bit, wavy where they are resampled.
class Link : public QWidget {
 public:
  Link(bool wavy, QWidget* parent) : QWidget(parent), wavy_(wavy) {
    setFixedSize(26, 40);
    setToolTip(wavy ? QObject::tr("resampled (once, with all geometry of the chain)")
                    : QObject::tr("moved bit for bit"));
    setAccessibleName(toolTip());
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme().teal, 1.6));
    const double y = height() / 2.0;
    QPainterPath path(QPointF(1, y));
    if (wavy_) {
      path.cubicTo(7, y - 9, 8, y - 9, 13, y);
      path.cubicTo(18, y + 9, 19, y + 9, 25, y);
    } else {
      path.lineTo(25, y);
    }
    painter.drawPath(path);
  }

 private:
  bool wavy_;
};

}  // namespace

Rail::Rail(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setFixedHeight(104);
  setAutoFillBackground(true);
  setAccessibleName(tr("Rail: the chain of steps"));
  scroll_ = new QScrollArea(this);
  scroll_->setWidgetResizable(true);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAsNeeded);
  scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setFocusPolicy(Qt::NoFocus);
  scroll_->installEventFilter(this);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  row->addWidget(scroll_, 1);
  connect(&document_, &Document::opened, this, &Rail::rebuild);
  connect(&document_, &Document::changed, this, &Rail::refresh);
  connect(&document_, &Document::selection_changed, this, &Rail::refresh);
  connect(&document_, &Document::selection_changed, this, [this] {
    for (Tile* tile : tiles_) tile->refresh_coordinates();
  });
  connect(&document_.session(), &Session::pointer_moved, this, [this] {
    for (Tile* tile : tiles_) tile->refresh_coordinates();
  });
  rebuild();
}

void Rail::refresh() {
  // Links may change with any edit; tiles are only made anew when their number changes.
  QString shape;
  for (const Station& s : document_.layout().stations) shape += s.exact ? '-' : '~';
  if (static_cast<int>(tiles_.size()) != document_.tiles() || strip_->objectName() != shape) {
    rebuild();
    return;
  }
  for (Tile* tile : tiles_) tile->refresh();
  show_selected();
}

void Rail::rebuild() {
  const bool had_focus =
      strip_ && (strip_->isAncestorOf(QApplication::focusWidget()) || end_->isAncestorOf(QApplication::focusWidget()));
  auto* strip = new QWidget;
  strip->setAutoFillBackground(true);
  QPalette colours = strip->palette();
  colours.setColor(QPalette::Window, theme().paper);
  strip->setPalette(colours);
  strip->setStyleSheet(QString("background: %1;").arg(theme().paper.name()));
  QString shape;
  for (const Station& s : document_.layout().stations) shape += s.exact ? '-' : '~';
  strip->setObjectName(shape);
  auto* row = new QHBoxLayout(strip);
  row->setContentsMargins(12, 4, 2, 2);
  strip->setFixedHeight(Tile::tile_height + 14);
  row->setSpacing(2);
  auto* end = new QWidget;
  auto* last = new QHBoxLayout(end);
  last->setContentsMargins(0, 4, 12, 2);
  end->setFixedHeight(Tile::tile_height + 14);
  last->setSpacing(2);
  tiles_.clear();
  const int count = document_.tiles();
  for (int i = 0; i < count; ++i) {
    if (i == count - 1) {
      add_ = new QPushButton("+", strip);
      add_->setFixedSize(28, 28);
      add_->setStyleSheet(
          QString("QPushButton{border:1px solid "
                  "%1;border-radius:14px;background:%2;color:%3;font-weight:bold;padding:0;min-height:0}"
                  "QPushButton:focus,QPushButton:hover{border:2px solid %3}")
              .arg(theme().line.name(), theme().field.name(), theme().teal.name()));
      add_->setAccessibleName(tr("Add a step"));
      add_->setToolTip(tr("Add a step (Insert)"));
      add_->setEnabled(document_.source() != nullptr);
      connect(add_, &QPushButton::clicked, this, [this] {
        Q_EMIT palette_wanted(add_->mapToGlobal(QPoint(0, add_->height() + 4)),
                              static_cast<int>(document_.chain().steps.size()));
      });
      row->addWidget(add_);
      last->addWidget(new Link(false, end));
    }
    auto* tile = new Tile(document_, i, i == count - 1 ? end : strip);
    connect(tile, &Tile::clicked, this, [this, i] { document_.select_tile(i); });
    connect(tile, &Tile::flag_dropped, this, [this](bool b, int index) { document_.set_flag(b, index); });
    connect(tile, &Tile::renamed, this, [this, i](const QString& name) { document_.rename_step(i - 1, name); });
    connect(tile, &Tile::dragged, this, &Rail::show_place);
    connect(tile, &Tile::dropped, this, [this, i](QPoint global) { put(i - 1, global); });
    connect(tile, &Tile::menu_wanted, this, [this, i](QPoint global) { Q_EMIT menu_wanted(i, global); });
    (i == count - 1 ? last : row)->addWidget(tile);
    tiles_.push_back(tile);
    if (i < count - 1) {
      const bool wavy = i < count - 2 && !document_.layout().stations[static_cast<std::size_t>(i) + 1].exact;
      row->addWidget(new Link(wavy, strip));
    }
  }
  mark_ = new QWidget(strip);
  mark_->setStyleSheet(QString("background:%1;").arg(theme().teal.name()));
  mark_->hide();
  strip_ = strip;
  scroll_->setWidget(strip);
  // As wide as the chain, so that the result follows it; less where there is no room.
  scroll_->setMaximumWidth(strip->sizeHint().width());
  if (end_) end_->deleteLater();  // its tile may be what asked for this
  if (end_) end_->hide();
  end_ = end;
  auto* all = static_cast<QHBoxLayout*>(layout());
  while (all->count() > 1) delete all->takeAt(1);
  all->addWidget(end_, 0, Qt::AlignTop);
  all->addStretch(0);
  end_->show();
  QTimer::singleShot(0, this, &Rail::show_selected);
  if (had_focus) tiles_[static_cast<std::size_t>(std::min(document_.state().selected, count - 1))]->setFocus();
}

void Rail::show_selected() {
  const auto selected = static_cast<std::size_t>(document_.state().selected);
  if (selected + 1 < tiles_.size()) scroll_->ensureWidgetVisible(tiles_[selected], 30, 0);
}

int Rail::place_at(QPoint global) const {
  const int x = strip_->mapFromGlobal(global).x();
  int place = 0;
  for (std::size_t i = 1; i + 1 < tiles_.size(); ++i)
    if (x > tiles_[i]->geometry().center().x()) place = static_cast<int>(i);
  return place;
}

void Rail::show_place(QPoint global) {
  const QRect before = tiles_[static_cast<std::size_t>(place_at(global))]->geometry();
  mark_->setGeometry(before.right() + 12, before.top() + 4, 4, Tile::tile_height);
  mark_->show();
  mark_->raise();
}

void Rail::put(int step, QPoint global) {
  mark_->hide();
  const int place = place_at(global);
  document_.move_step(step, place > step ? place - 1 : place);
}

void Rail::rename_selected() {
  if (document_.selected_step() >= 0) tiles_[static_cast<std::size_t>(document_.state().selected)]->rename();
}

bool Rail::eventFilter(QObject* watched, QEvent* event) {
  // Arrow keys walk along the tiles, where the area would only scroll.
  if (watched == scroll_ && event->type() == QEvent::KeyPress) {
    keyPressEvent(static_cast<QKeyEvent*>(event));
    return true;
  }
  return QWidget::eventFilter(watched, event);
}

void Rail::keyPressEvent(QKeyEvent* event) {
  const int step = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  const int to = document_.state().selected + step;
  if (step != 0 && to >= 0 && to < static_cast<int>(tiles_.size())) {
    document_.select_tile(to);
    tiles_[static_cast<std::size_t>(to)]->setFocus();
    show_selected();
    return;
  }
  QWidget::keyPressEvent(event);
}

}  // namespace fexel
