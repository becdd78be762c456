#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QDir>
#include <QFileInfo>
#include <QLineEdit>
#include <QRegularExpression>

#include "app/compare/round_trip_spot.h"
#include "app/pipeline/tile.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/inspector.h"
#include "app/window/main_window.h"
#include "chain/evaluate.h"

namespace fexel {

struct ResultPage::Parts {
  fields::Segments* which;
  QLabel* facts;
  QComboBox* kernel;
  QComboBox* edge;
  QLineEdit* fill;
  QLabel* fill_label;
  QLineEdit* path;
  QPushButton* browse;
  QPushButton* write;
  QPushButton* replace;
  QPushButton* carry;
  QLabel* folder;
  QLabel* unmatched;
  QCheckBox* leave_out;
  QLabel* problem;
  QString shown;  // the name that the person has seen
  RoundTripSpot* loss;
  QLabel* command;
  QPushButton* copy;
  QString suggested;
};

ResultPage::ResultPage(Document& document) : InspectorPage(document, "result", tr("Result")), parts_(new Parts) {
  // Long because it lays the page out, from top to bottom.
  Parts& p = *parts_;
  p.which = new fields::Segments(tr("What is written"), {tr("the data"), tr("a copy with marks")});
  column()->addWidget(p.which);
  connect(p.which, &fields::Segments::chosen, this,
          [this](int i) { this->document().session().show_copy_page(i == 1); });
  column()->addWidget(fields::section(tr("How")));
  auto* grid = new QGridLayout;
  p.kernel = new QComboBox;
  p.kernel->setAccessibleName(tr("Kernel"));
  for (const auto name : kernel_names())
    p.kernel->addItem(QString::fromUtf8(name.data(), static_cast<int>(name.size())));
  p.edge = new QComboBox;
  p.edge->setAccessibleName(tr("BorderMode rule"));
  for (const auto name : border_mode_names())
    p.edge->addItem(QString::fromUtf8(name.data(), static_cast<int>(name.size())));
  grid->addWidget(fields::label_for(tr("kernel"), p.kernel), 0, 0);
  grid->addWidget(p.kernel, 0, 1);
  grid->addWidget(fields::label_for(tr("outside the source"), p.edge), 1, 0);
  grid->addWidget(p.edge, 1, 1);
  p.fill = new QLineEdit;
  p.fill->setAccessibleName(tr("Value outside the source"));
  p.fill->setToolTip(tr("One value, or one for each band, apart by commas"));
  p.fill_label = fields::label_for(tr("filled with"), p.fill);
  grid->addWidget(p.fill_label, 2, 0);
  grid->addWidget(p.fill, 2, 1);
  grid->setColumnStretch(1, 1);
  column()->addLayout(grid);
  connect(p.kernel, &QComboBox::activated, this, [this](int index) {
    Chain chain = this->document().chain();
    chain.resampling.kernel = static_cast<Kernel>(index);
    this->document().edit_chain(tr("kernel"), chain);
  });
  connect(p.edge, &QComboBox::activated, this, [this](int index) {
    Chain chain = this->document().chain();
    chain.resampling.edge = static_cast<BorderMode>(index);
    this->document().edit_chain(tr("border mode"), chain);
  });
  connect(p.fill, &QLineEdit::editingFinished, this, &ResultPage::take_fill);

  column()->addWidget(fields::section(tr("Where to")));
  p.unmatched = fields::sentence(tr("Frames that did not match"));
  column()->addWidget(p.unmatched);
  p.leave_out = new QCheckBox(tr("leave them out of the file"));
  p.leave_out->setAccessibleName(p.leave_out->text());
  column()->addWidget(p.leave_out);
  connect(p.leave_out, &QCheckBox::toggled, this, [this] { refresh(); });
  p.path = new QLineEdit;
  p.path->setAccessibleName(tr("File to write"));
  p.path->setPlaceholderText(tr("file to write"));
  p.path->installEventFilter(this);
  column()->addWidget(p.path);
  auto* row = new QHBoxLayout;
  p.browse = new QPushButton(tr("Choose…"));
  p.browse->setAccessibleName(tr("Choose the file to write"));
  p.write = new QPushButton(tr("Write out"));
  p.write->setAccessibleName(p.write->text());
  p.write->setProperty("primary", true);
  row->addWidget(p.browse);
  row->addWidget(p.write, 1);
  column()->addLayout(row);
  // Buttons keep their places: what is said stands below them.
  p.replace = new QPushButton(tr("Replace the existing file"));
  p.replace->setAccessibleName(p.replace->text());
  p.replace->setEnabled(false);
  column()->addWidget(p.replace);
  connect(p.browse, &QPushButton::clicked, this, &ResultPage::browse_wanted);
  connect(p.write, &QPushButton::clicked, this, [this] { Q_EMIT write_wanted(path(), false); });
  connect(p.path, &QLineEdit::returnPressed, this, [this] { Q_EMIT write_wanted(path(), false); });
  connect(p.replace, &QPushButton::clicked, this, [this] { Q_EMIT write_wanted(path(), true); });
  connect(p.path, &QLineEdit::textChanged, this, [this] {
    show_problem({}, false);
    say_folder();
  });

  p.carry = new QPushButton(tr("Apply the transforms to another stack…"));
  p.carry->setAccessibleName(p.carry->text());
  p.carry->setToolTip(
      tr("Other bands or a copy of the same frames: each gets the transform of the frame with its number"));
  column()->addWidget(p.carry);
  connect(p.carry, &QPushButton::clicked, this, &ResultPage::carry_wanted);
  p.folder = fields::sentence(tr("The folder"));
  column()->addWidget(p.folder);
  p.problem = fields::sentence(tr("What came of writing"));
  column()->addWidget(p.problem);
  column()->addWidget(fields::section(tr("What detail was lost")));
  p.loss = new RoundTripSpot(document);
  column()->addWidget(p.loss);
  column()->addWidget(fields::section(tr("The same for many pictures")));
  p.command = fields::sentence(tr("Command for many pictures"));
  column()->addWidget(p.command);
  p.copy = new QPushButton(tr("Copy the command"));
  p.copy->setAccessibleName(p.copy->text());
  column()->addWidget(p.copy);
  connect(p.copy, &QPushButton::clicked, this, [this] { QApplication::clipboard()->setText(command()); });

  add_check();
}

RoundTripSpot* ResultPage::round_trip_spot() const {
  return parts_->loss;
}

QString ResultPage::path() const {
  return parts_->path->text().trimmed();
}
void ResultPage::set_path(const QString& path) {
  parts_->path->setText(path);
}

void ResultPage::show_problem(const QString& text, bool may_replace) {
  fields::say(parts_->problem, text, true);
  parts_->replace->setEnabled(may_replace);
}

bool ResultPage::eventFilter(QObject* watched, QEvent* event) {
  // A line that is edited would take Ctrl+E for a move to its end.
  if (watched == parts_->path && event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_E && key->modifiers() == Qt::ControlModifier) {
      event->ignore();
      return true;
    }
  }
  return InspectorPage::eventFilter(watched, event);
}

void ResultPage::take_fill() {
  QString wrong;
  const auto numbers = fields::numbers_in(parts_->fill->text(), wrong);
  const auto bands = static_cast<std::size_t>(document().shape().bands);
  if (!numbers || numbers->empty() || (numbers->size() != 1 && numbers->size() != bands)) {
    check(!numbers ? tr("“%1” is no number. Give one value, or one for each of %2 bands.").arg(wrong).arg(bands)
                   : tr("Give one value, or one for each of %1 bands.").arg(bands),
          true);
    return;
  }
  Chain chain = document().chain();
  if (chain.resampling.fill == *numbers) return;
  chain.resampling.fill = *numbers;
  document().edit_chain(tr("fill"), chain);
}

QString ResultPage::command() const {
  const QString& chain = document().chain_path();
  if (chain.isEmpty()) return {};
  // As a shell takes any name.
  QString quoted = QFileInfo(chain).absoluteFilePath();
  static const QRegularExpression plain("^[A-Za-z0-9_./+-]+$");
  if (!plain.match(quoted).hasMatch()) quoted = "'" + quoted.replace("'", "'\\''") + "'";
  return QString("fexel-cli apply %1 FOLDER --out results").arg(quoted);
}

void ResultPage::say_folder() {
  Parts& p = *parts_;
  const QFileInfo file(path());
  const bool there = file.absoluteDir().exists();
  fields::say(p.folder, path().isEmpty() ? QString()
                        : there          ? tr("In the folder %1.").arg(file.absolutePath())
                                         : tr("In the folder %1, which is made then.").arg(file.absolutePath()));
}

bool ResultPage::path_was_shown() const {
  return !path().isEmpty() && parts_->shown == path();
}

void ResultPage::show_path() {
  parts_->shown = path();
  show_problem({}, false);
  fields::say(parts_->problem, tr("Look at the name and the folder, then write: Ctrl+E, or the button."));
  parts_->path->setFocus();
  parts_->path->selectAll();
}

bool ResultPage::leaves_out_unmatched() const {
  return !parts_->leave_out->isHidden() && parts_->leave_out->isChecked();
}

void ResultPage::show_written(const QString& text, bool some_failed) {
  parts_->shown = path();
  say_folder();  // it is there now
  fields::say(parts_->problem, text, some_failed);
  parts_->replace->setEnabled(false);
}

void ResultPage::show_failure(const Error& error) {
  if (error.kind() == Error::Kind::cancelled)
    show_written(tr("Cancelled; no file was left."));
  else
    show_problem(text_of(error), false);
}

void ResultPage::refresh() {
  Parts& p = *parts_;
  p.which->show_current(0);
  const OpenSource* source = document().source();
  const Chain& chain = document().chain();
  p.kernel->setCurrentIndex(static_cast<int>(chain.resampling.kernel));
  p.edge->setCurrentIndex(static_cast<int>(chain.resampling.edge));
  const bool filled = chain.resampling.edge == BorderMode::fill;
  p.fill->setVisible(filled);
  p.fill_label->setVisible(filled);
  QStringList values;
  for (const double value : chain.resampling.fill) values << number_shown(short_number(value, 9));
  p.fill->setText(values.join(between_numbers()));
  if (!source) {
    p.write->setEnabled(false);
    check(tr("No picture is open."));
    return;
  }
  const QFileInfo file(source->path);
  const bool sequence = source->frames.size() > 1;
  p.carry->setVisible(sequence);
  p.path->setToolTip(sequence ? tr("One TIFF with a page for each frame; or a name with {index}, such as "
                                   "frame-{index}.png, for a file each")
                              : QString());
  const QString suggested = results_folder(file.absolutePath()) + "/" + file.completeBaseName() + "-result.tif";
  if (p.path->text().isEmpty() || p.path->text() == p.suggested) p.path->setText(suggested);
  p.suggested = suggested;
  say_folder();
  const std::vector<int> unmatched = document().unmatched_frames();
  QStringList numbers;
  for (const int number : unmatched) numbers << QString::number(number);
  p.unmatched->setVisible(!unmatched.empty());
  p.leave_out->setVisible(!unmatched.empty());
  const int all = document().frames_to_write();
  if (!unmatched.empty())
    fields::say(p.unmatched,
                unmatched.size() == 1
                    ? tr("Frame %1 did not match; it is written where it is, or left out.").arg(numbers.front())
                    : tr("%1 frames did not match (%2); they are written where they are, or left out.")
                          .arg(unmatched.size())
                          .arg(numbers.join(", ")),
                true);
  const int count = all - (leaves_out_unmatched() ? static_cast<int>(unmatched.size()) : 0);
  p.write->setText(count > 1 ? tr("Write %1 frames").arg(count) : tr("Write out"));
  p.write->setAccessibleName(p.write->text());
  const QString words = command();
  p.copy->setEnabled(!words.isEmpty());
  fields::say(p.command, words.isEmpty()
                             ? tr("Save the chain (Ctrl+S); then a command does the same to all pictures of a folder.")
                         : document().clean() ? words
                                              : words + tr("\nIt runs the chain as it was saved last."));
  const Station& result = document().layout().result();
  for (const Station& s : document().layout().stations)
    if (s.problem) {
      check(tr("A step cannot be made: %1 %2")
                .arg(QString::fromStdString(s.problem->message()), QString::fromStdString(s.problem->remedy())),
            true);
      p.write->setEnabled(false);
      return;
    }
  p.write->setEnabled(true);
  const bool exact = is_exact_station(document().layout(), document().layout().last());
  QStringList said;
  said << size_text(result) + ".";
  said << (exact ? tr("Exact: pixels are moved bit for bit.")
           : resamplings(document().layout(), document().layout().last()) == 1 && result.run_start == 0
               ? tr("Resampled once, from the original pixels, %1.").arg(p.kernel->currentText())
               : tr("Made of all pixels in between: %1.")
                     .arg(how_made(document().layout(), document().layout().last())));
  if (result.pixel && !result.pixel->square())
    said << tr("Pixels are not square: lengths in x and y are measured apart.");
  said << (result.pixel ? tr("TIFF, PNG and JPEG carry the pixel size.")
                        : tr("The pixel size is not known, so the file will not carry one."));
  check(said.join(" "));
}

}  // namespace fexel
