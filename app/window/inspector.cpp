#include "app/window/inspector.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollBar>
#include <QStackedLayout>
#include <QVBoxLayout>

#include "app/document/follow.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/edit.h"

namespace fexel {

InspectorPage::InspectorPage(Document& document, const QString& picture, const QString& title)
    : document_(document), title_(title) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(18, 14, 18, 14);
  column_->setSpacing(6);
  auto* head = new QHBoxLayout;
  auto* icon = new QLabel;
  icon->setPixmap(pictogram(picture, 26, 2));
  icon->setAccessibleName(title);
  name_ = new QLabel(title);
  name_->setFont(text_font(11, true));
  name_->setWordWrap(true);
  name_->setAccessibleName(tr("What the page is of"));
  head->addWidget(icon);
  head->addSpacing(6);
  head->addWidget(name_, 1);
  switch_ = fields::word_button(tr("on"));
  switch_->setCheckable(true);
  switch_->setChecked(true);
  switch_->setAccessibleName(tr("Step is on"));
  switch_->setToolTip(tr("Switch this step on or off"));
  switch_->hide();
  connect(switch_, &QPushButton::clicked, this, [this](bool on) {
    const int index = document_.selected_step();
    if (index < 0) return;
    Chain chain = document_.chain();
    chain.steps[static_cast<std::size_t>(index)].on = on;
    document_.edit_chain(on ? tr("switch on") : tr("switch off"), chain);
  });
  head->addWidget(switch_);
  column_->addLayout(head);
}

void InspectorPage::show_switch() {
  switch_->show();
}

void InspectorPage::add_problem() {
  problem_ = fields::sentence(tr("What is wrong"));
  column_->addWidget(problem_);
  remedy_ = new QPushButton(tr("Fix it"));
  remedy_->setAccessibleName(remedy_->text());
  remedy_->hide();
  column_->addWidget(remedy_);
  connect(remedy_, &QPushButton::clicked, this, [this] {
    const int index = document_.selected_step();
    if (index < 0) return;
    Chain chain = document_.chain();
    Step& step = chain.steps[static_cast<std::size_t>(index)];
    const auto remedy = remedied(step, input_of_step(document_.layout(), index));
    if (!remedy) return;
    step = remedy->step;
    document_.edit_chain(tr("fix"), chain);
  });
}

bool InspectorPage::show_problem() {
  const auto& problem = made().problem;
  fields::say(problem_, problem ? text_of(problem->message() + " " + problem->remedy()) : QString(), true);
  const int index = document_.selected_step();
  const auto remedy = problem ? remedied(document_.chain().steps[static_cast<std::size_t>(index)],
                                         input_of_step(document_.layout(), index))
                              : std::nullopt;
  remedy_->setVisible(remedy.has_value());
  if (remedy) {
    remedy_->setText(remedy->begun_again ? tr("Begin again with values that work") : tr("Move it into the picture"));
    remedy_->setAccessibleName(remedy_->text());
  }
  if (problem) check(tr("The step is left out until this is fixed."));
  return problem.has_value();
}

void InspectorPage::add_check() {
  column_->addWidget(fields::section(tr("Check")));
  check_ = fields::sentence(tr("Check"));
  column_->addWidget(check_);
  column_->addStretch(1);
}

void InspectorPage::check(const QString& text, bool wrong) {
  fields::say(check_, text, wrong);
}

void InspectorPage::refresh() {
  const int index = document_.selected_step();
  if (index < 0) return;
  const bool on = document_.chain().steps[static_cast<std::size_t>(index)].on;
  switch_->setChecked(on);
  switch_->setText(on ? tr("on") : tr("off"));
  const std::string& own = document_.chain().steps[static_cast<std::size_t>(index)].name;
  name_->setText(own.empty() ? title_ : tr("%1 (%2)").arg(text_of(own), title_.toLower()));
}

int InspectorPage::heightForWidth(int width) const {
  return sizePolicy().verticalPolicy() == QSizePolicy::Ignored ? 0 : QWidget::heightForWidth(width);
}

void InspectorPage::change(const QString& text, const StepKind& kind, const QString& merge) {
  const int index = document_.selected_step();
  if (index < 0) return;
  Chain chain = document_.chain();
  chain.steps[static_cast<std::size_t>(index)].kind = kind;
  document_.edit_chain(text, chain, merge);
}

Inspector::Inspector(Document& document, QWidget* parent) : QScrollArea(parent), document_(document) {
  setFixedWidth(314);
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFocusPolicy(Qt::NoFocus);
  setAccessibleName(tr("Inspector"));
  auto* inner = new QWidget;
  stack_ = new QStackedLayout(inner);
  setWidget(inner);
  add_page("source", make_source_page(document));
  add_page(QuarterStep::word, make_quarter_page(document));
  add_page(MirrorStep::word, make_mirror_page(document));
  add_page(TurnStep::word, make_turn_page(document));
  add_page(ShiftStep::word, make_shift_page(document));
  add_page(CropStep::word, make_crop_page(document));
  add_page(ResizeStep::word, make_resize_page(document));
  add_page(ReduceStep::word, make_reduce_page(document));
  add_page(PadStep::word, make_pad_page(document));
  add_page(TiltStep::word, make_tilt_page(document));
  add_page(MatrixStep::word, make_matrix_page(document));
  add_page(LensStep::word, make_lens_page(document));
  add_page(RectifyStep::word, make_rectify_page(document));
  add_page(FitStep::word, make_fit_page(document));
  add_page(UnwrapStep::word, make_unwrap_page(document));
  add_page(BandsStep::word, make_bands_page(document));
  add_page(ContrastStep::word, make_contrast_page(document));
  add_page(HighpassStep::word, make_highpass_page(document));
  add_page(DenoiseStep::word, make_denoise_page(document));
  add_page(ConvolveStep::word, make_convolve_page(document));
  add_page(AlignStep::word, make_align_page(document));
  result_ = new ResultPage(document);
  add_page("result", result_);
  follow_changes(document_, this, 50, [this] { choose(); });
  connect(&document_, &Document::selection_changed, this, &Inspector::choose);
  choose();
}

void Inspector::add_page(const QString& kind, InspectorPage* page) {
  pages_[kind] = page;
  connect(page, &InspectorPage::line_wanted, this, &Inspector::line_wanted);
  connect(page, &InspectorPage::corners_wanted, this, &Inspector::corners_wanted);
  connect(page, &InspectorPage::search_wanted, this, &Inspector::search_wanted);
  connect(page, &InspectorPage::movement_wanted, this, &Inspector::movement_wanted);
  connect(page, &InspectorPage::ways_wanted, this, &Inspector::ways_wanted);
  connect(page, &InspectorPage::trial_wanted, this, &Inspector::trial_wanted);
  stack_->addWidget(page);
}

void Inspector::choose() {
  QString kind = document_.is_result_tile(document_.state().selected) ? "result" : "source";
  if (const int step = document_.selected_step(); step >= 0)
    kind = word_of(document_.chain().steps[static_cast<std::size_t>(step)].kind);
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
  widget()->updateGeometry();
  current_->refresh();
  // Else the next page's first field would have it, and what is typed for the picture.
  if (had_keyboard) Q_EMIT keyboard_left();
}

}  // namespace fexel
