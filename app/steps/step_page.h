#pragma once
/// What the pages of steps are made of: rows that are bound to a part of a step once, and show and change it from then
/// on.
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>

#include "app/steps/inspector_page.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {

/// A number for a sentence or a tile.
inline QString plain(double value, int digits = 5) {
  return number_shown(short_number(value, digits));
}
inline QString no_number(const QString& word) {
  return QObject::tr("“%1” is no number.").arg(word);
}

/// A page for steps of one kind. What is bound is shown by refresh(); says() ends the page.
template <class Kind>
class StepPage : public InspectorPage {
 public:
  explicit StepPage(Document& document) : InspectorPage(document, Kind::word) {}

  void refresh() override {
    InspectorPage::refresh();
    const Kind* now = step<Kind>();
    if (!now) return;
    for (const auto& show : shown_) show(*now);
    if (show_problem()) return;
    check(says(*now, input(), made()));
  }

 protected:
  /// What the step did, in a sentence or two with its numbers.
  virtual QString says(const Kind& step, const StepInput& input, const Station& made) = 0;

  StepInput input() const { return input_of_step(document().layout(), document().selected_step()); }
  /// Ends the page: the place of what is wrong, and what the step did.
  void finish() {
    add_problem();
    add_check();
  }
  void head(const QString& title) {
    column()->addWidget(fields::section(title));
    grid_ = nullptr;
  }
  void show_with(std::function<void(const Kind&)> body) { shown_.push_back(std::move(body)); }

  template <class Change>
  void take(Change body) {
    const Kind* now = step<Kind>();
    if (!now) return;
    Kind next = *now;
    body(next);
    if (!(next == *now)) change(step_title(Kind::word).toLower(), next);
  }

  /// A row with a label; rows that follow each other stand in one grid.
  void row(const QString& label, QWidget* field, QWidget* beside = nullptr) {
    if (!grid_) {
      grid_ = new QGridLayout;
      grid_->setVerticalSpacing(4);
      grid_->setColumnStretch(1, 1);
      column()->addLayout(grid_);
    }
    const int at = grid_->rowCount();
    auto* text = fields::label_for(label, field);
    text->setMinimumWidth(84);
    grid_->addWidget(text, at, 0);
    grid_->addWidget(field, at, 1, 1, beside ? 1 : 2);
    if (beside) grid_->addWidget(beside, at, 2);
    labels_[field] = text;
  }
  /// Shows or hides a row with its label.
  void show_row(QWidget* field, bool on) {
    field->setVisible(on);
    if (const auto at = labels_.find(field); at != labels_.end()) at->second->setVisible(on);
  }

  /// A number; `get` reads it from a step, `set` puts it into one.
  template <class Get, class Set>
  fields::Number* number(const QString& label, double low, double high, int decimals, const QString& unit, Get get,
                         Set set, fields::Number* made = nullptr) {
    auto* field = made ? made : new fields::Number(label, low, high, decimals, unit);
    row(label, field);
    show_with([field, get](const Kind& k) { field->show_value(static_cast<double>(get(k))); });
    connect(field, &QDoubleSpinBox::valueChanged, this, [this, set](double v) { take([&](Kind& k) { set(k, v); }); });
    return field;
  }
  template <class Get, class Set>
  fields::Number* angle(const QString& label, Get get, Set set) {
    return number(label, -1e6, 1e6, 4, {}, get, set, new fields::Angle(label));
  }
  template <class Get, class Set>
  fields::Segments* segments(const QString& name, const QStringList& words, Get get, Set set) {
    auto* field = new fields::Segments(name, words);
    column()->addWidget(field);
    grid_ = nullptr;
    show_with([field, get](const Kind& k) { field->show_current(static_cast<int>(get(k))); });
    connect(field, &fields::Segments::chosen, this, [this, set](int i) { take([&](Kind& k) { set(k, i); }); });
    return field;
  }
  template <class Get, class Set>
  QComboBox* choice(const QString& label, const QStringList& words, Get get, Set set) {
    auto* field = new QComboBox;
    field->setAccessibleName(label);
    field->addItems(words);
    row(label, field);
    show_with([field, get](const Kind& k) { field->setCurrentIndex(static_cast<int>(get(k))); });
    connect(field, &QComboBox::activated, this, [this, set](int i) { take([&](Kind& k) { set(k, i); }); });
    return field;
  }
  /// A centre that is the picture's middle unless it is set: x, y, and a word that puts it back there.
  template <class Member>
  void centre(Member member) {
    for (const int axis : {0, 1})
      number(
          axis == 0 ? tr("centre x") : tr("centre y"), -largest_side, largest_side, 2, tr("px"),
          [this, member, axis](const Kind& k) {
            const Point p = (k.*member).value_or(input().size.middle());
            return axis == 0 ? p.x : p.y;
          },
          [this, member, axis](Kind& k, double v) {
            Point p = (k.*member).value_or(input().size.middle());
            (axis == 0 ? p.x : p.y) = v;
            k.*member = p;
          });
    auto* middle = new QPushButton(tr("The picture's middle"));
    middle->setAccessibleName(middle->text());
    column()->addWidget(middle);
    grid_ = nullptr;
    show_with([middle, member](const Kind& k) { middle->setVisible((k.*member).has_value()); });
    connect(middle, &QPushButton::clicked, this, [this, member] { take([&](Kind& k) { (k.*member).reset(); }); });
  }
  /// Width and height of the frame, the station's own unless they are set.
  void frame_size() {
    for (const bool across : {true, false})
      number(
          across ? tr("width") : tr("height"), 1, largest_side, 0, tr("px"),
          [this, across](const Kind& k) {
            return across ? k.width.value_or(input().size.width) : k.height.value_or(input().size.height);
          },
          [across](Kind& k, double v) { (across ? k.width : k.height) = static_cast<int>(v); });
  }
  /// How large the output is: the station's `extent`.
  void output_size(const std::vector<Extent>& extents) {
    head(tr("Output size"));
    QStringList words;
    for (const Extent extent : extents) words << tr(extent_words()[static_cast<std::size_t>(extent)].c_str());
    segments(
        tr("Output size"), words,
        [extents](const Kind& k) { return std::ranges::find(extents, k.extent) - extents.begin(); },
        [extents](Kind& k, int i) { k.extent = extents[static_cast<std::size_t>(i)]; });
  }
  QPushButton* button(const QString& text, std::function<void()> body) {
    auto* made = new QPushButton(text);
    made->setAccessibleName(text);
    column()->addWidget(made);
    grid_ = nullptr;
    connect(made, &QPushButton::clicked, this, [body = std::move(body)] { body(); });
    return made;
  }

  static QString size_of(Size s) { return tr("%1 × %2 px").arg(s.width).arg(s.height); }
  static QString how(const Station& made) {
    return made.exact ? tr("Pixels are moved bit for bit.")
                      : tr("Pixels are resampled, with all geometry of the chain, once.");
  }

 private:
  std::vector<std::function<void(const Kind&)>> shown_;
  std::map<QWidget*, QWidget*> labels_;
  QGridLayout* grid_ = nullptr;
};

}  // namespace fexel
