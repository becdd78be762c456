#include "app/view_area.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/canvas_overlay.h"
#include "app/text.h"
#include "app/theme.h"

namespace fexel {
namespace {

constexpr int curtain_grip = 12, split_grip = 6;
constexpr int gap = 2;      // between the pictures, side by side
constexpr int least = 160;  // of a picture's width, side by side
constexpr int blink_ms = 600;

std::string percent_text(double percent) {
  return percent < 1000 ? short_number(percent, 3) : number_text(percent, 0);
}

}  // namespace

Divider::Divider(QWidget* parent) : QWidget(parent) {
  setCursor(Qt::SplitHCursor);
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Line between A and B"));
  setAccessibleDescription(tr("The left and right arrow keys move it"));
}

void Divider::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const double middle = width() / 2.0;
  if (width() < curtain_grip) {
    painter.setPen(QPen(hasFocus() ? theme().teal : theme().line, 2));
    painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
    return;
  }
  painter.setPen(QPen(Qt::white, 4));
  painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
  painter.setPen(QPen(hasFocus() ? theme().teal : QColor(0x23282B), 2));
  painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
}

void Divider::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) Q_EMIT moved(mapToParent(event->position().toPoint()).x());
}

void Divider::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Left && event->key() != Qt::Key_Right) {
    QWidget::keyPressEvent(event);
    return;
  }
  const int by = event->modifiers() & Qt::ControlModifier ? 50 : event->modifiers() & Qt::ShiftModifier ? 1 : 10;
  Q_EMIT moved(x() + width() / 2 + (event->key() == Qt::Key_Left ? -by : by));
}

ViewArea::ViewArea(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* bar = new QWidget;
  bar->setFixedHeight(32);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(12, 2, 12, 2);
  modes_ = new QButtonGroup(this);
  const std::pair<QString, QString> modes[] = {
      {tr("One"), tr("One picture; the badge in its corner changes between A and B")},
      {tr("Side by side"), tr("A and B side by side, with linked pan and zoom")},
      {tr("Curtain"), tr("A left of a line that can be dragged, B right of it")},
      {tr("Blink"), tr("A and B by turns; hold X in the other ways of looking")},
      {tr("Difference"), tr("B minus A, in grey levels about a mid grey")},
      {tr("Tint"), tr("A and B in two hues that cancel where they agree")}};
  int id = 0;
  for (const auto& [name, purpose] : modes) {
    auto* button = new QPushButton(name);
    button->setCheckable(true);
    button->setProperty("mode", true);
    button->setAccessibleName(tr("View: %1").arg(name));
    button->setToolTip(purpose);
    modes_->addButton(button, id++);
    row->addWidget(button);
  }
  row->addStretch(1);
  cost_ = new QComboBox;
  cost_->setAccessibleName(tr("Map over the picture"));
  cost_->setToolTip(tr("What the rectification cost, place by place"));
  cost_->addItems({tr("no map"), tr("map: detail"), tr("map: picking error"), tr("map: off the plane")});
  connect(cost_, &QComboBox::activated, this, [this](int row) { set_cost_map(static_cast<CostMap>(row)); });
  row->addWidget(cost_);
  row->addSpacing(8);
  zoom_ = new QLabel;
  zoom_->setAccessibleName(tr("Zoom"));
  row->addWidget(zoom_);
  column->addWidget(bar);
  stage_ = new QWidget;
  stage_->setMinimumSize(2 * least + gap, 120);
  stage_->installEventFilter(this);
  b_ = new PictureView(document, true, stage_);
  a_ = new PictureView(document, false, stage_);
  divider_ = new Divider(stage_);
  column->addWidget(stage_, 1);
  connect(divider_, &Divider::moved, this, [this](int x) {
    const double share = double(x) / std::max(1, stage_->width());
    (mode_ == Mode::curtain ? curtain_ : split_) = std::clamp(share, 0.0, 1.0);
    arrange();
  });
  blink_.setInterval(blink_ms);
  connect(&blink_, &QTimer::timeout, this, &ViewArea::blink);
  connect(modes_, &QButtonGroup::idClicked, this, [this](int chosen) { set_mode(static_cast<Mode>(chosen)); });
  for (PictureView* view : {a_, b_}) {
    connect(view, &PictureView::looked, this, [this](PictureView* from) {
      link(from);
      show_zoom();
    });
    connect(view, &PictureView::other_wanted, this, &ViewArea::show_other);
    connect(view, &PictureView::badge_clicked, this, &ViewArea::flip);
    connect(view, &PictureView::shown, this, &ViewArea::show_zoom);
  }
  setTabOrder(a_, divider_);
  setTabOrder(divider_, b_);
  set_mode(Mode::side_by_side);
}

bool ViewArea::eventFilter(QObject* watched, QEvent* event) {
  if (watched == stage_ && event->type() == QEvent::Resize) arrange();
  return QWidget::eventFilter(watched, event);
}

/// A lies over B; the curtain is A's mask, so that either side of it is a whole picture with its own handles.
void ViewArea::arrange() {
  const QRect all(QPoint(0, 0), stage_->size());
  const int width = all.width();
  int at = 0;
  a_->clearMask();
  if (mode_ == Mode::side_by_side) {
    at = std::clamp(static_cast<int>(split_ * width + 0.5), least, std::max(least, width - least));
    a_->setGeometry(0, 0, at - gap / 2, all.height());
    b_->setGeometry(at + gap / 2, 0, width - at - gap / 2, all.height());
  } else {
    a_->setGeometry(all);
    b_->setGeometry(all);
    if (mode_ == Mode::curtain) {
      at = std::clamp(static_cast<int>(curtain_ * width + 0.5), 0, width);
      a_->setMask(QRegion(0, 0, std::max(1, at), all.height()));
    }
  }
  divider_->setVisible(mode_ == Mode::side_by_side || mode_ == Mode::curtain);
  const int grip = mode_ == Mode::curtain ? curtain_grip : split_grip;
  divider_->setGeometry(at - grip / 2, 0, grip, all.height());
  divider_->raise();
}

PictureView* ViewArea::active() const {
  if (!both()) return b_;
  return b_->hasFocus() ? b_ : a_;
}

void ViewArea::set_mode(Mode mode) {
  mode_ = mode;
  modes_->button(static_cast<int>(mode))->setChecked(true);
  blink_.stop();
  if (mode == Mode::blink) blink_.start();
  a_->setVisible(both());
  b_->set_is_b(mode != Mode::one || one_shows_b_);
  b_->set_badge_right(mode == Mode::curtain);
  arrange();
  b_->set_mix(mode == Mode::difference ? Mix::difference : mode == Mode::tint ? Mix::tint : Mix::none);
  if (mode == Mode::side_by_side && b_->is_fitted()) a_->fit();
  a_->refresh();
  if (mode == Mode::curtain || mode == Mode::blink) link(b_);
  show_zoom();
}

void ViewArea::set_cost_map(CostMap map) {
  cost_->setCurrentIndex(static_cast<int>(map));
  a_->set_cost_map(CostMap::none);
  b_->set_cost_map(map);
}

void ViewArea::blink() {
  if (a_->mask().isEmpty())
    a_->setMask(QRegion(0, 0, 1, 1));
  else
    a_->clearMask();
}

void ViewArea::show_other(bool other) {
  if (mode_ == Mode::curtain) {
    other ? a_->clearMask() : arrange();
    return;
  }
  if (mode_ != Mode::one) return;
  b_->set_is_b(one_shows_b_ != other);
  b_->refresh();
}

void ViewArea::flip() {
  if (mode_ != Mode::one) return;
  one_shows_b_ = !one_shows_b_;
  b_->set_is_b(one_shows_b_);
  b_->refresh();
}

void ViewArea::link(PictureView* from) {
  if (!both()) return;
  PictureView* to = from == a_ ? b_ : a_;
  const Map map = map_between(document_.layout(), from->station(), to->station());
  const Point centre{from->centre().x(), from->centre().y()};
  const auto at = map.forward(centre);
  const auto jacobian = map.jacobian(centre);
  if (!at || !jacobian) return;
  const double scale =
      std::sqrt(std::abs((*jacobian)(0, 0) * (*jacobian)(1, 1) - (*jacobian)(0, 1) * (*jacobian)(1, 0)));
  if (!(scale > 1e-6) || !(scale < 1e6)) return;
  to->look_at({at->x, at->y}, from->zoom() / scale);
}

void ViewArea::fit() {
  a_->fit();
  b_->fit();
  show_zoom();
}

void ViewArea::actual_pixels() {
  PictureView* view = active();
  view->look_at(view->centre(), 1 / devicePixelRatioF());
  link(view);
  show_zoom();
}

void ViewArea::show_zoom() {
  const auto percent = [this](const PictureView* view) {
    return QString("%1 %%2").arg(text_of(percent_text(100 * view->zoom() * devicePixelRatioF())),
                                 view->is_fitted() ? tr(" fit") : QString());
  };
  const QString text = both() ? tr("A %1 · B %2").arg(percent(a_), percent(b_)) : percent(b_);
  zoom_->setText(document_.source() ? text : QString());
}

}  // namespace fexel
