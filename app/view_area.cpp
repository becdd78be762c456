#include "app/view_area.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSplitter>
#include <QVBoxLayout>

#include "app/theme.h"

namespace fexel {

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
      {tr("Side by side"), tr("A and B side by side, with linked pan and zoom")}};
  for (int i = 0; i < 2; ++i) {
    auto* button = new QPushButton(modes[i].first);
    button->setCheckable(true);
    button->setProperty("mode", true);
    button->setAccessibleName(tr("View: %1").arg(modes[i].first));
    button->setToolTip(modes[i].second);
    modes_->addButton(button, i);
    row->addWidget(button);
  }
  row->addStretch(1);
  zoom_ = new QLabel;
  zoom_->setAccessibleName(tr("Zoom"));
  row->addWidget(zoom_);
  column->addWidget(bar);
  auto* splitter = new QSplitter(Qt::Horizontal);
  splitter->setHandleWidth(2);
  a_ = new PictureView(document, false);
  b_ = new PictureView(document, true);
  splitter->addWidget(a_);
  splitter->addWidget(b_);
  splitter->setChildrenCollapsible(false);
  column->addWidget(splitter, 1);
  connect(modes_, &QButtonGroup::idClicked, this,
          [this](int id) { set_mode(id == 0 ? Mode::one : Mode::side_by_side); });
  for (PictureView* view : {a_, b_}) {
    connect(view, &PictureView::looked, this, [this](PictureView* from) {
      link(from);
      show_zoom();
    });
    connect(view, &PictureView::other_wanted, this, &ViewArea::show_other);
    connect(view, &PictureView::badge_clicked, this, &ViewArea::flip);
    connect(view, &PictureView::shown, this, &ViewArea::show_zoom);
  }
  set_mode(Mode::side_by_side);
}

PictureView* ViewArea::active() const {
  if (mode_ == Mode::one) return b_;
  return b_->hasFocus() ? b_ : a_;
}

void ViewArea::set_mode(Mode mode) {
  mode_ = mode;
  modes_->button(mode == Mode::one ? 0 : 1)->setChecked(true);
  a_->setVisible(mode == Mode::side_by_side);
  b_->set_is_b(mode == Mode::side_by_side || one_shows_b_);
  b_->refresh();
  a_->refresh();
}

void ViewArea::show_other(bool other) {
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
  if (mode_ != Mode::side_by_side) return;
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
    return QString("%1 %%2").arg(QString::fromStdString(short_number(100 * view->zoom() * devicePixelRatioF(), 3)),
                                 view->is_fitted() ? tr(" fit") : QString());
  };
  QString text = mode_ == Mode::one ? percent(b_) : tr("A %1 · B %2").arg(percent(a_), percent(b_));
  zoom_->setText(document_.source() ? text : QString());
}

}  // namespace fexel
