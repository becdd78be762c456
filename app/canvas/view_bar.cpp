/// The bar over the pictures: what it says of the zoom, and what it leaves out where there is little room.
#include <QButtonGroup>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>

#include "app/canvas/view_area.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

std::string percent_text(double percent) {
  return percent < 1000 ? short_number(percent, 3) : number_text(percent, 0);
}

}  // namespace

/// Where there is little room, the bar says less; menus and keys have it all.
void ViewArea::fit_bar() {
  constexpr int apart = 14;  // px that a part takes beside itself
  const auto say = [this](bool in_short) {
    modes_->button(static_cast<int>(Mode::side_by_side))->setText(in_short ? tr("Side") : tr("Side by side"));
    modes_->button(static_cast<int>(Mode::difference))->setText(in_short ? tr("Diff.") : tr("Difference"));
  };
  // The list of maps is there for rectified pictures only.
  const auto needed = [&](std::initializer_list<const QWidget*> parts) {
    int sum = apart;
    for (const QAbstractButton* mode : modes_->buttons()) sum += mode->sizeHint().width() + 2;
    if (distortion_->isVisibleTo(this)) sum += distortion_->sizeHint().width() + apart;
    for (const QWidget* part : parts) sum += part->sizeHint().width() + apart;
    return sum;
  };
  say(false);
  if (needed({keep_, range_button_, zoom_}) > width()) say(true);
  zoom_->setVisible(needed({keep_, range_button_, zoom_}) <= width());
  keep_->setVisible(needed({keep_, range_button_}) <= width());
  range_button_->setVisible(needed({range_button_}) <= width());
}

void ViewArea::show_zoom() {
  const auto percent = [this](const PictureView* view) {
    return QString("%1 %%2").arg(number_shown(percent_text(100 * view->zoom() * devicePixelRatioF())),
                                 view->is_fitted() ? tr(" fit") : QString());
  };
  const bool alike = !both() || percent(a_) == percent(b_);
  const QString text = alike ? percent(b_) : tr("A %1 · B %2").arg(percent(a_), percent(b_));
  zoom_->setText(document_.source() ? text : QString());
  fit_bar();
}

}  // namespace fexel
