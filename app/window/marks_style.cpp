/// The part of the page of marks that says how they look, and the library of styles.
#include <QFontDatabase>

#include "app/ui/text.h"
#include "app/window/marks_page.h"
#include "report/styles.h"

namespace fexel {
namespace {

const QStringList& colours() {
  static const QStringList list{"auto", "#000000", "#ffffff", "#0e6b68", "#a3610f", "#a63a2b", "#3f4fa3"};
  return list;
}
QStringList colour_titles() {
  return {QObject::tr("by the ground"), QObject::tr("black"), QObject::tr("white"), QObject::tr("teal"),
          QObject::tr("amber"),         QObject::tr("brick"), QObject::tr("indigo")};
}

}  // namespace

template <class Change>
void MarksPage::restyle(Change body) {
  Chain chain = document().chain();
  body(chain.mark_style);
  if (!(chain.mark_style == document().chain().mark_style))
    document().edit_chain(tr("the marks' style"), chain, QString("style field %1").arg(quintptr(sender())));
}

void MarksPage::set_style(const MarkStyle& style) {
  restyle([&](MarkStyle& now) { now = style; });
}

void MarksPage::build_style() {
  column()->addWidget(fields::section(tr("Style of all marks")));
  grid_ = new QGridLayout;
  grid_->setVerticalSpacing(4);
  grid_->setColumnStretch(1, 1);
  column()->addLayout(grid_);
  const auto number = [this](const QString& label, const QString& name, double low, double high, const QString& unit,
                             std::optional<double> MarkStyle::*part) {
    auto* field = new fields::Number(name, low, high, 2, unit);
    row(label, field);
    connect(field, &QDoubleSpinBox::valueChanged, this, [this, part](double v) {
      // A page coarser than that has no dots of its own.
      if (part == &MarkStyle::dpi && v > 0) v = std::max(v, least_dpi);
      restyle([&](MarkStyle& style) { style.*part = v; });
    });
    return field;
  };
  width_ = number(tr("printed width"), tr("Width of the printed picture"), 5, 2000, tr("mm"), &MarkStyle::width);
  dpi_ = number(tr("resolution"), tr("Dots per inch of the copy"), 0, 2400, tr("dpi"), &MarkStyle::dpi);
  dpi_->setSpecialValueText(tr("the picture's own pixels"));
  text_size_ = number(tr("text"), tr("Size of text"), 2, 100, tr("pt"), &MarkStyle::text_size);
  bar_ = number(tr("bar"), tr("Thickness of bars"), 0.2, 40, tr("pt"), &MarkStyle::bar_thickness);
  line_width_ = number(tr("lines"), tr("Width of lines"), 0.1, 20, tr("pt"), &MarkStyle::line_width);
  const auto list = [this](const QString& label, const QString& name, const QStringList& titles,
                           const QStringList& words, std::optional<std::string> MarkStyle::*part) {
    auto* field = new QComboBox;
    field->setAccessibleName(name);
    for (qsizetype i = 0; i < titles.size(); ++i) field->addItem(titles[i], words[i]);
    row(label, field);
    connect(field, &QComboBox::activated, this, [this, field, part](int i) {
      restyle([&](MarkStyle& style) { style.*part = field->itemData(i).toString().toStdString(); });
    });
    return field;
  };
  colour_ = list(tr("colour"), tr("Colour of marks"), colour_titles(), colours(), &MarkStyle::colour);
  QStringList backing_titles{tr("where it is needed"), tr("none")}, backings{"auto", "none"};
  backing_titles += colour_titles().mid(1);
  backings += colours().mid(1);
  backing_ = list(tr("backing"), tr("Backing of text"), backing_titles, backings, &MarkStyle::backing);
  const QStringList families = QFontDatabase::families();
  font_ = list(tr("font"), tr("Font of text"), families, families, &MarkStyle::font);
  font_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  ends_ = new fields::Segments(tr("Ends of bars"), {tr("plain"), tr("ticks")});
  row(tr("bar's ends"), ends_);
  connect(ends_, &fields::Segments::chosen, this,
          [this](int i) { restyle([&](MarkStyle& style) { style.ends = i == 1 ? "ticks" : "plain"; }); });
  style_ = new QComboBox;
  style_->setAccessibleName(tr("Styles in the library"));
  row(tr("saved styles"), style_);
  connect(style_, &QComboBox::activated, this, [this](int i) {
    if (i == 0) return restyle([](MarkStyle& style) { style = {}; });
    try {
      const MarkStyle kept = style_named(style_->itemText(i).toStdString());
      restyle([&](MarkStyle& style) { style = kept; });
      set_default_style(style_->itemText(i).toStdString());
      fields::say(style_said_, tr("Taken over; the next picture begins with “%1”, too.").arg(style_->itemText(i)));
    } catch (const Error& error) {
      fields::say(style_said_, text_of(error), true);
    }
  });
  auto* keeping = new QHBoxLayout;
  name_ = new QLineEdit;
  name_->setAccessibleName(tr("Name of the style"));
  name_->setPlaceholderText(tr("name, such as the paper"));
  keep_ = new QPushButton(tr("Keep"));
  keep_->setAccessibleName(tr("Keep this style in the library"));
  keeping->addWidget(name_, 1);
  keeping->addWidget(keep_);
  column()->addLayout(keeping);
  style_said_ = fields::sentence(tr("What the library of styles says"));
  column()->addWidget(style_said_);
  connect(name_, &QLineEdit::textChanged, this, [this] { keep_->setEnabled(!name_->text().trimmed().isEmpty()); });
  const auto keep = [this] {
    const std::string name = name_->text().trimmed().toStdString();
    if (name.empty()) return;
    try {
      keep_style(this->document().chain().mark_style, name);
      set_default_style(name);
      name_->clear();
      fields::say(style_said_, tr("Kept as “%1”; new pictures begin with it.").arg(text_of(name)));
    } catch (const Error& error) {
      fields::say(style_said_, text_of(error), true);
    }
    load_styles();
    show_style();
  };
  connect(keep_, &QPushButton::clicked, this, keep);
  connect(name_, &QLineEdit::returnPressed, this, keep);
}

void MarksPage::load_styles() {
  kept_.clear();
  style_->clear();
  style_->addItem(tr("usual"));
  for (const std::string& name : styles_in_library()) {
    try {
      kept_.emplace_back(name, style_named(name));
      style_->addItem(text_of(name));
    } catch (const Error&) {
      // A broken file is none to choose.
    }
  }
}

void MarksPage::showEvent(QShowEvent* event) {
  // Another window may have kept one.
  load_styles();
  show_style();
  InspectorPage::showEvent(event);
}

void MarksPage::show_style() {
  const MarkStyle& style = document().chain().mark_style;
  const MarkLook look = look_of(style);
  width_->show_value(look.width);
  dpi_->show_value(look.dpi);
  text_size_->show_value(look.text_size);
  bar_->show_value(look.bar_thickness);
  line_width_->show_value(look.line_width);
  const auto show = [](QComboBox* list, const std::string& word) {
    int at = list->findData(text_of(word));
    if (at < 0) {
      list->addItem(text_of(word), text_of(word));
      at = list->count() - 1;
    }
    list->setCurrentIndex(at);
  };
  show(colour_, look.colour);
  show(backing_, look.backing);
  show(font_, look.font);
  ends_->show_current(look.ends == "ticks" ? 1 : 0);
  int chosen = style.empty() ? 0 : -1;
  for (std::size_t i = 0; i < kept_.size() && chosen < 0; ++i)
    if (kept_[i].second == style) chosen = static_cast<int>(i) + 1;
  style_->setCurrentIndex(chosen);
  keep_->setEnabled(!name_->text().trimmed().isEmpty());
}

}  // namespace fexel
