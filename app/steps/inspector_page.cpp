#include "app/steps/inspector_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/edit.h"

namespace fexel {

InspectorPage::InspectorPage(Document& document, const QString& picture, const QString& title)
    : document_(document), title_(title) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(18, 14, 10, 14);
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

InspectorPage::InspectorPage(Document& document, const char* step_word)
    : InspectorPage(document, ui_of(std::string(step_word)).pictogram(), step_title(step_word)) {
  show_switch();
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

QString InspectorPage::said() const {
  return check_ ? check_->text() : QString();
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

QSize InspectorPage::minimumSizeHint() const {
  return sizePolicy().verticalPolicy() == QSizePolicy::Ignored ? QSize(0, 0) : QWidget::minimumSizeHint();
}

void InspectorPage::change(const QString& text, const StepKind& kind, const QString& merge) {
  const int index = document_.selected_step();
  if (index < 0) return;
  Chain chain = document_.chain();
  chain.steps[static_cast<std::size_t>(index)].kind = kind;
  document_.edit_chain(text, chain, merge);
}

}  // namespace fexel
