#include "app/window/inspector.h"

#include <QScrollBar>
#include <QStackedLayout>

#include "app/document/follow.h"
#include "app/motion/motion_page.h"
#include "app/steps/step_ui.h"
#include "app/ui/text.h"
#include "app/window/marks_page.h"

namespace fexel {
namespace {

constexpr int least_width = 314, most_width = 400;

}  // namespace

Inspector::Inspector(Document& document, QWidget* parent) : QScrollArea(parent), document_(document) {
  setFixedWidth(least_width);
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFocusPolicy(Qt::NoFocus);
  setAccessibleName(tr("Inspector"));
  auto* inner = new QWidget;
  stack_ = new QStackedLayout(inner);
  setWidget(inner);
  add_page("source", make_source_page(document));
  for (const StepUi* ui : step_uis()) add_page(text_of(ui->word()), ui->page(document));
  result_ = new ResultPage(document);
  add_page("result", result_);
  marks_ = new MarksPage(document);
  add_page("copy", marks_);
  motion_ = new MotionPage(document);
  add_page("motion", motion_);
  follow_changes(document_, this, 50, [this] { choose(); });
  connect(&document_, &Document::selection_changed, this, &Inspector::choose);
  choose();
}

void Inspector::add_page(const QString& kind, InspectorPage* page) {
  pages_[kind] = page;
  connect(page, &InspectorPage::asked, this, &Inspector::asked);
  stack_->addWidget(page);
  // The wheel scrolls the sheet: a field takes it only where a person has gone to it.
  for (QWidget* field : page->findChildren<QWidget*>())
    if (qobject_cast<QAbstractSpinBox*>(field) || qobject_cast<QComboBox*>(field)) {
      field->setFocusPolicy(Qt::StrongFocus);
      field->installEventFilter(this);
    }
}

bool Inspector::eventFilter(QObject* watched, QEvent* event) {
  const auto* field = qobject_cast<QWidget*>(watched);
  const bool takes_wheel = qobject_cast<QAbstractSpinBox*>(watched) || qobject_cast<QComboBox*>(watched);
  if (event->type() == QEvent::Wheel && takes_wheel && !field->hasFocus()) {
    QApplication::sendEvent(viewport(), event);
    return true;
  }
  return QScrollArea::eventFilter(watched, event);
}

void Inspector::choose() {
  QString kind = document_.is_result_tile(document_.state().selected)
                     ? (document_.session().copy_page() ? "copy" : "result")
                     : "source";
  if (const int step = document_.selected_step(); step >= 0)
    kind = word_of(document_.chain().steps[static_cast<std::size_t>(step)].kind);
  if (document_.session().motion_page() && !document_.chain().motions.empty()) kind = "motion";
  bool had_keyboard = false;
  if (InspectorPage* next = pages_.at(kind); next != current_) {
    had_keyboard = current_ && current_->isAncestorOf(QApplication::focusWidget());
    current_ = next;
    verticalScrollBar()->setValue(0);  // another page is read from its top
  }
  // The sheet is as high as what it shows, and not as its highest page.
  for (const auto& [name, page] : pages_)
    page->setSizePolicy(QSizePolicy::Preferred, page == current_ ? QSizePolicy::Preferred : QSizePolicy::Ignored);
  stack_->setCurrentWidget(current_);
  stack_->invalidate();
  // Words of another language, or larger type, may need more room; the panel does not go back and forth.
  constexpr int scroll_bar = 10;
  // Before it is shown its style is not known yet.
  if (isVisible()) setFixedWidth(std::clamp(current_->minimumSizeHint().width() + scroll_bar, width(), most_width));
  widget()->updateGeometry();
  current_->refresh();
  // Else the next page's first field would have it, and what is typed for the picture.
  if (had_keyboard) Q_EMIT keyboard_left();
}

}  // namespace fexel
