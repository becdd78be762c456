#include "app/window/marks_page.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>

#include "app/document/marks_layer.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "report/styles.h"

namespace fexel {
namespace {

QString title_of(const MarkKind& kind) {
  const std::map<std::string, QString> titles{{"scale-bar", QObject::tr("scale bar")},
                                              {"text", QObject::tr("text")},
                                              {"arrow", QObject::tr("arrow")},
                                              {"outline", QObject::tr("outline")},
                                              {"inset", QObject::tr("inset")},
                                              {"time", QObject::tr("frame, time")},
                                              {"measurements", QObject::tr("measurements")}};
  return titles.at(word_of(kind));
}

QStringList place_titles() {
  return {QObject::tr("top left"),    QObject::tr("top"),    QObject::tr("top right"),
          QObject::tr("left"),        QObject::tr("middle"), QObject::tr("right"),
          QObject::tr("bottom left"), QObject::tr("bottom"), QObject::tr("bottom right")};
}

/// What a mark is called in the list.
QString called(const Mark& mark) {
  MarkKind kind = mark.kind;
  QString out = title_of(kind);
  if (const auto* text = std::get_if<TextMark>(&kind)) out += ": " + text_of(text->text).section('\n', 0, 0);
  if (const auto* bar = std::get_if<ScaleBarMark>(&kind); bar && bar->length)
    out += QString(" %1 %2").arg(number_shown(short_number(*bar->length, 6)), unit_text(bar->unit));
  if (const MarkPlace* place = place_of(kind))
    out += place->at ? QObject::tr(", placed by hand") : ", " + place_titles()[3 * place->row + place->column];
  return out;
}

}  // namespace

MarksPage::MarksPage(Document& document) : InspectorPage(document, "result", tr("Copy with marks")) {
  which_ = new fields::Segments(tr("What is written"), {tr("the data"), tr("a copy with marks")});
  column()->addWidget(which_);
  connect(which_, &fields::Segments::chosen, this,
          [this](int i) { this->document().session().show_copy_page(i == 1); });
  build_marks();
  build_fields();
  build_style();
  build_file();
  connect(&document.marks_layer(), &MarksLayer::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void MarksPage::build_marks() {
  column()->addWidget(fields::section(tr("Add")));
  auto* add_grid = new QGridLayout;
  add_grid->setSpacing(4);
  const std::pair<QString, const char*> kinds[] = {
      {tr("Scale bar"), ScaleBarMark::word},       {tr("Text"), TextMark::word},    {tr("Arrow…"), ArrowMark::word},
      {tr("Outline…"), OutlineMark::word},         {tr("Inset…"), InsetMark::word}, {tr("Frame, time"), TimeMark::word},
      {tr("Measurements"), MeasurementsMark::word}};
  int at = 0;
  for (const auto& [title, word] : kinds) {
    auto* button = new QPushButton(title);
    button->setAccessibleName(tr("Add: %1").arg(title));
    connect(button, &QPushButton::clicked, this, [this, word = word] { add(word); });
    add_grid->addWidget(button, at / 3, at % 3, 1, at == 6 ? 3 : 1);
    ++at;
  }
  column()->addLayout(add_grid);
  column()->addWidget(fields::section(tr("Marks")));
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Marks"));
  column()->addWidget(list_);
  fields::on_delete(list_, [this] { this->document().remove_mark(this->document().session().mark()); });
  connect(list_, &QListWidget::currentRowChanged, this, [this](int index) {
    if (index >= 0) this->document().session().select_mark(index);
  });
  problem_ = fields::sentence(tr("Why the mark is not drawn"));
  column()->addWidget(problem_);
  shown_ = new QCheckBox(tr("show them over the picture"));
  shown_->setAccessibleName(shown_->text());
  column()->addWidget(shown_);
  connect(shown_, &QCheckBox::clicked, this, [this](bool on) { this->document().session().show_marks(on); });
}

void MarksPage::row(const QString& label, QWidget* field) {
  const int at = grid_->rowCount();
  auto* text = fields::label_for(label, field);
  text->setMinimumWidth(84);
  grid_->addWidget(text, at, 0);
  grid_->addWidget(field, at, 1);
  labels_[field] = text;
}

void MarksPage::show_row(QWidget* field, bool on) {
  field->setVisible(on);
  if (const auto at = labels_.find(field); at != labels_.end()) at->second->setVisible(on);
}

template <class Change>
void MarksPage::take(Change body) {
  const Mark* now = selected();
  if (!now) return;
  Mark next = *now;
  body(next.kind);
  // What is changed in one field is one change for undo.
  document().change_mark(document().session().mark(), next, QString("mark field %1").arg(quintptr(sender())));
}

void MarksPage::build_fields() {
  grid_ = new QGridLayout;
  grid_->setVerticalSpacing(4);
  grid_->setColumnStretch(1, 1);
  column()->addLayout(grid_);
  round_ = new QCheckBox(tr("choose a round length"));
  round_->setAccessibleName(round_->text());
  row({}, round_);
  connect(round_, &QCheckBox::clicked, this, [this](bool on) {
    const auto& pixel = document().layout().result().pixel;
    const Size size = document().layout().result().size;
    take([&](MarkKind& kind) {
      auto& bar = std::get<ScaleBarMark>(kind);
      const RoundLength now = pixel ? round_length(size.width * pixel->x / 5, pixel->unit) : RoundLength{1, "mm"};
      bar.length = on ? std::nullopt : std::optional(now.value);
      bar.unit = on ? std::string() : now.unit;
    });
  });
  length_ = new fields::Number(tr("Length of the bar"), 1e-9, 1e9, 6);
  row(tr("length"), length_);
  unit_ = fields::units(tr("Unit of the bar"), length_units());
  row(tr("unit"), unit_);
  connect(length_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { take([&](MarkKind& kind) { std::get<ScaleBarMark>(kind).length = v; }); });
  connect(unit_, &QComboBox::activated, this, [this](int i) {
    take([&](MarkKind& kind) { std::get<ScaleBarMark>(kind).unit = length_units()[static_cast<std::size_t>(i)]; });
  });
  direction_ = new fields::Segments(tr("Direction of the bar"), {tr("across"), tr("down"), tr("both")});
  row(tr("direction"), direction_);
  connect(direction_, &fields::Segments::chosen, this, [this](int i) {
    take([&](MarkKind& kind) { std::get<ScaleBarMark>(kind).direction = static_cast<ScaleBarMark::Direction>(i); });
  });
  label_ = new QCheckBox(tr("with its length"));
  label_->setAccessibleName(label_->text());
  row({}, label_);
  connect(label_, &QCheckBox::clicked, this,
          [this](bool on) { take([&](MarkKind& kind) { std::get<ScaleBarMark>(kind).label = on; }); });
  text_ = new QPlainTextEdit;
  text_->setAccessibleName(tr("Text of the mark"));
  text_->setTabChangesFocus(true);
  text_->setFixedHeight(56);
  row(tr("text"), text_);
  connect(text_, &QPlainTextEdit::textChanged, this, [this] {
    // As many letters as a chain file takes.
    const std::string words = text_->toPlainText().left(static_cast<qsizetype>(longest_mark_text)).toStdString();
    take([&](MarkKind& kind) {
      std::visit(
          [&](auto& k) {
            if constexpr (requires { k.text; }) k.text = words;
          },
          kind);
    });
  });
  shape_ = new fields::Segments(tr("Shape of the outline"), {tr("rectangle"), tr("ellipse")});
  row(tr("shape"), shape_);
  connect(shape_, &fields::Segments::chosen, this, [this](int i) {
    take([&](MarkKind& kind) { std::get<OutlineMark>(kind).shape = static_cast<OutlineMark::Shape>(i); });
  });
  zoom_ = new fields::Number(tr("Enlargement of the inset"), 1, 100, 2, tr("times"));
  row(tr("enlarged"), zoom_);
  connect(zoom_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { take([&](MarkKind& kind) { std::get<InsetMark>(kind).zoom = v; }); });
  time_ = new fields::Segments(tr("What is said of the frame"), {tr("frame"), tr("time"), tr("both")});
  row(tr("shows"), time_);
  connect(time_, &fields::Segments::chosen, this, [this](int i) {
    take([&](MarkKind& kind) { std::get<TimeMark>(kind).show = static_cast<TimeMark::Show>(i); });
  });
  decimals_ = new fields::Number(tr("Decimals of the time"), 0, 9, 0);
  row(tr("decimals"), decimals_);
  connect(decimals_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { take([&](MarkKind& kind) { std::get<TimeMark>(kind).decimals = static_cast<int>(v); }); });
  values_ = new QCheckBox(tr("with their values"));
  values_->setAccessibleName(values_->text());
  row({}, values_);
  connect(values_, &QCheckBox::clicked, this,
          [this](bool on) { take([&](MarkKind& kind) { std::get<MeasurementsMark>(kind).values = on; }); });
  place_ = new QComboBox;
  place_->setAccessibleName(tr("Place of the mark"));
  place_->addItems(place_titles());
  place_->addItem(tr("where it was dragged"));
  row(tr("place"), place_);
  connect(place_, &QComboBox::activated, this, [this](int i) {
    if (i < 9) take([&](MarkKind& kind) { *place_of(kind) = {i % 3, i / 3, {}}; });
  });
  remove_ = new QPushButton(tr("Remove this mark"));
  remove_->setAccessibleName(remove_->text());
  column()->addWidget(remove_);
  connect(remove_, &QPushButton::clicked, this,
          [this] { this->document().remove_mark(this->document().session().mark()); });
}

void MarksPage::build_file() {
  column()->addWidget(fields::section(tr("Where to")));
  path_ = new QLineEdit;
  path_->setAccessibleName(tr("File of the copy"));
  path_->setToolTip(
      tr("Its ending says the format: .png, .tif, .jpg with the marks drawn in; .svg and .pdf with text "
         "and lines that can be edited"));
  column()->addWidget(path_);
  auto* buttons = new QHBoxLayout;
  auto* browse = new QPushButton(tr("Choose…"));
  browse->setAccessibleName(tr("Choose the file of the copy"));
  write_ = new QPushButton(tr("Write the copy"));
  write_->setAccessibleName(write_->text());
  write_->setProperty("primary", true);
  buttons->addWidget(browse);
  buttons->addWidget(write_, 1);
  column()->addLayout(buttons);
  replace_ = new QPushButton(tr("Replace the existing copy"));
  replace_->setAccessibleName(replace_->text());
  replace_->setEnabled(false);
  column()->addWidget(replace_);
  said_ = fields::sentence(tr("What came of the copy"));
  column()->addWidget(said_);
  connect(browse, &QPushButton::clicked, this, &MarksPage::choose_file);
  connect(write_, &QPushButton::clicked, this, [this] { write(path_->text().trimmed(), false); });
  connect(path_, &QLineEdit::returnPressed, this, [this] { write(path_->text().trimmed(), false); });
  connect(replace_, &QPushButton::clicked, this, [this] { write(path_->text().trimmed(), true); });
  connect(path_, &QLineEdit::textChanged, this, [this] { replace_->setEnabled(false); });
  add_check();
}

const Mark* MarksPage::selected() const {
  const int at = document().session().mark();
  return at < 0 || at >= static_cast<int>(document().chain().marks.size())
             ? nullptr
             : &document().chain().marks[static_cast<std::size_t>(at)];
}

void MarksPage::put(MarkKind kind) {
  // The first mark of a picture brings the style that the person keeps as usual.
  if (document().chain().marks.empty() && document().chain().mark_style.empty())
    if (const auto usual = default_style()) {
      try {
        const MarkStyle kept = style_named(*usual);
        set_style(kept);
      } catch (const Error&) {
        // It is gone or broken: the usual look then.
      }
    }
  document().session().show_marks(true);
  document().add_mark({std::move(kind), {}});
}

void MarksPage::add(const std::string& word) {
  if (!document().source()) return;
  document().select_tile(document().tiles() - 1);
  document().session().show_copy_page(true);
  const int last = document().layout().last();
  if (word == ScaleBarMark::word) return put(ScaleBarMark{});
  if (word == TextMark::word) {
    put(TextMark{tr("Caption").toStdString()});
    text_->setFocus();
    text_->selectAll();
    return;
  }
  if (word == TimeMark::word) return put(TimeMark{});
  if (word == MeasurementsMark::word) return put(MeasurementsMark{});
  if (word == ArrowMark::word)
    return ask_line(tr("Drag from the arrow's tail to what it points at"), [this, last](Point a, Point b) {
      put(ArrowMark{{a, b}, last, {}});
    });
  if (word == OutlineMark::word)
    return ask_line(tr("Drag from corner to corner of what is outlined"), [this, last](Point a, Point b) {
      put(OutlineMark{OutlineMark::Shape::rectangle, {a, b}, last, {}});
    });
  ask_line(tr("Drag from corner to corner of the part that is enlarged"), [this](Point a, Point b) {
    const Size size = this->document().layout().result().size;
    const double left = std::clamp(std::min(a.x, b.x), 0.0, size.width - 1.0),
                 top = std::clamp(std::min(a.y, b.y), 0.0, size.height - 1.0),
                 right = std::clamp(std::max(a.x, b.x), left + 1, double(size.width)),
                 bottom = std::clamp(std::max(a.y, b.y), top + 1, double(size.height));
    // A third of the picture, in whole steps.
    const double zoom = std::clamp(
        std::floor(std::min(size.width / 3.0 / (right - left), size.height / 2.0 / (bottom - top))), 1.0, 20.0);
    put(InsetMark{left, top, right - left, bottom - top, zoom});
  });
}

void MarksPage::choose_file() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Copy with marks"), path_->text(),
                                                    tr("Pictures (*.png *.tif *.jpg);;Vectors (*.svg *.pdf)"), nullptr,
                                                    QFileDialog::DontConfirmOverwrite);
  if (!path.isEmpty()) path_->setText(path);
}

void MarksPage::write(const QString& path, bool replace) {
  if (!document().source() || writing_.running()) return;
  if (path.isEmpty()) return fields::say(said_, tr("Give the file a name."), true);
  const std::filesystem::path file = QFileInfo(path).absoluteFilePath().toStdString();
  const auto format = copy_format_of_name(file);
  if (!format)
    return fields::say(said_, tr("The name's ending does not say what to write: use .png, .tif, .jpg, .svg or .pdf."),
                       true);
  std::error_code code;
  if (!replace && std::filesystem::exists(file, code)) {
    replace_->setEnabled(std::filesystem::is_regular_file(file, code));
    return fields::say(said_, tr("This file is there already. Choose another name, or replace it."), true);
  }
  try {
    document().layout().require_sound();
  } catch (const Error& error) {
    return fields::say(said_, text_of(error), true);
  }
  fields::say(said_, tr("Writing…"));
  writing_.start(
      {},
      [this, result = document().marks_layer().result(), file, format, replace,
       keep = document().protected_paths()](const Job& job) -> Background::Finish {
        std::error_code ignored;
        std::filesystem::create_directories(file.parent_path(), ignored);
        write_marked_copy(result, file, *format, replace, keep, job);
        return [this, file] {
          replace_->setEnabled(false);
          fields::say(said_, tr("Written: %1.").arg(QString::fromStdString(file.string())));
        };
      },
      [this](const Error& error) { fields::say(said_, text_of(error), true); });
}

void MarksPage::refresh() {
  InspectorPage::refresh();
  which_->show_current(1);
  shown_->setChecked(document().session().marks_shown());
  const auto& marks = document().chain().marks;
  const MarkDrawing* drawing = document().marks_layer().drawing();
  {
    const QSignalBlocker quiet(list_);
    while (list_->count() > static_cast<int>(marks.size())) delete list_->takeItem(list_->count() - 1);
    for (int i = 0; i < static_cast<int>(marks.size()); ++i) {
      const QString text = called(marks[static_cast<std::size_t>(i)]);
      if (i >= list_->count()) list_->addItem(text);
      if (list_->item(i)->text() != text) list_->item(i)->setText(text);
    }
    list_->setCurrentRow(document().session().mark());
  }
  constexpr int max_rows = 6;
  list_->setFixedHeight(std::max(list_->sizeHintForRow(0), 16) * std::clamp(list_->count(), 1, max_rows) +
                        2 * list_->frameWidth() + 2);
  list_->setVisible(!marks.empty());
  shown_->setVisible(!marks.empty());
  const Mark* mark = selected();
  const auto at = static_cast<std::size_t>(document().session().mark());
  const std::string problem = mark && drawing && at < drawing->problems.size() ? drawing->problems[at] : std::string();
  fields::say(
      problem_,
      marks.empty() ? tr("None yet. Marks are drawn on a copy: the data keep their samples.") : text_of(problem),
      !problem.empty());
  problem_->setVisible(marks.empty() || !problem.empty());
  const std::set<QWidget*> wanted = mark ? show_fields(*mark) : std::set<QWidget*>();
  // A field that is hidden for a moment would lose the keyboard.
  for (QWidget* field : std::initializer_list<QWidget*>{round_, length_, unit_, direction_, label_, text_, shape_,
                                                        zoom_, time_, decimals_, values_, place_})
    show_row(field, wanted.contains(field));
  remove_->setVisible(mark != nullptr);
  show_style();
  show_file();
}

std::set<QWidget*> MarksPage::show_fields(const Mark& mark) {
  std::set<QWidget*> on;
  MarkKind kind = mark.kind;
  if (const MarkPlace* place = place_of(kind)) {
    on.insert(place_);
    place_->setCurrentIndex(place->at ? 9 : 3 * place->row + place->column);
  }
  if (const auto* bar = std::get_if<ScaleBarMark>(&kind)) {
    on.insert({round_, direction_, label_});
    if (bar->length) on.insert({length_, unit_});
    round_->setChecked(!bar->length);
    label_->setChecked(bar->label);
    direction_->show_current(static_cast<int>(bar->direction));
    if (bar->length) length_->show_value(*bar->length);
    const auto& units = length_units();
    unit_->setCurrentIndex(static_cast<int>(std::ranges::find(units, bar->unit) - units.begin()));
  }
  const auto words = std::visit(
      [](const auto& k) -> std::optional<std::string> {
        if constexpr (requires { k.text; })
          return k.text;
        else
          return std::nullopt;
      },
      kind);
  if (words) {
    on.insert(text_);
    if (text_->toPlainText() != text_of(*words)) {
      const QSignalBlocker quiet(text_);
      text_->setPlainText(text_of(*words));
    }
  }
  if (const auto* outline = std::get_if<OutlineMark>(&kind); outline && outline->shape != OutlineMark::Shape::polygon) {
    on.insert(shape_);
    shape_->show_current(static_cast<int>(outline->shape));
  }
  if (const auto* inset = std::get_if<InsetMark>(&kind)) {
    on.insert(zoom_);
    zoom_->show_value(inset->zoom);
  }
  if (const auto* time = std::get_if<TimeMark>(&kind)) {
    on.insert(time_);
    if (time->show != TimeMark::Show::frame) on.insert(decimals_);
    time_->show_current(static_cast<int>(time->show));
    decimals_->show_value(time->decimals);
  }
  if (const auto* values = std::get_if<MeasurementsMark>(&kind)) {
    on.insert(values_);
    values_->setChecked(values->values);
  }
  return on;
}

void MarksPage::show_file() {
  const OpenSource* source = document().source();
  write_->setEnabled(source && !document().chain().marks.empty());
  if (!source) return check(tr("No picture is open."));
  const QFileInfo file(source->path);
  const QString number = source->frames.size() > 1 ? QString("-%1").arg(document().frame() + 1) : QString();
  const QString suggested =
      results_folder(file.absolutePath()) + "/" + file.completeBaseName() + number + "-marked.png";
  if (path_->text().isEmpty() || path_->text() == suggested_) path_->setText(suggested);
  suggested_ = suggested;
  const Size size = document().layout().result().size;
  const double scale = copy_scale(document().chain().mark_style, size);
  const MarkLook look = look_of(document().chain().mark_style);
  check(tr("The copy has %1 × %2 px and is printed %3 × %4 mm large. The data are written on the other page, without "
           "marks.")
            .arg(std::lround(size.width * scale))
            .arg(std::lround(size.height * scale))
            .arg(number_shown(short_number(look.width, 4)),
                 number_shown(short_number(look.width * size.height / size.width, 4))));
}

}  // namespace fexel
