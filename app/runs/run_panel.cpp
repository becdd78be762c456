#include "app/runs/run_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDropEvent>
#include <QFileDialog>
#include <QHeaderView>
#include <QLineEdit>
#include <QMimeData>
#include <QProgressBar>
#include <QScrollArea>
#include <QTimer>

#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/calibrations.h"

namespace fexel {
namespace {

constexpr int settings_width = 314;
constexpr Format formats[] = {Format::tiff, Format::png, Format::jpeg, Format::pnm, Format::pfm};  // as they are listed

QLineEdit* line(const QString& accessible_name, const QString& hint = {}) {
  auto* out = new QLineEdit;
  out->setAccessibleName(accessible_name);
  out->setPlaceholderText(hint);
  return out;
}

QComboBox* list(const QString& accessible_name, const QStringList& words) {
  auto* out = new QComboBox;
  out->setAccessibleName(accessible_name);
  out->addItems(words);
  return out;
}

QPushButton* button(const QString& text) {
  auto* out = new QPushButton(text);
  out->setAccessibleName(text);
  return out;
}

QString time_text(double seconds) {
  if (seconds < 90) return QObject::tr("%1 s").arg(std::ceil(seconds));
  return QObject::tr("%1 min").arg(std::ceil(seconds / 60));
}

}  // namespace

RunPanel::RunPanel(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Run over many pictures"));
  setAcceptDrops(true);
  soon_ = new QTimer(this);
  soon_->setSingleShot(true);
  soon_->setInterval(250);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  row->addWidget(build_list(), 1);
  row->addWidget(fields::rule(Qt::Vertical));
  settings_ = build_settings();
  row->addWidget(settings_);
  connect(soon_, &QTimer::timeout, this, &RunPanel::read_settings);
  connect(&session_, &RunSession::planned, this, [this] {
    refresh();
    // Not where it shows something new that is wrong.
    if (std::exchange(start_then_, false) && session_.to_look_at() <= looked_at_) session_.start();
    looked_at_ = session_.to_look_at();
  });
  // Rows of a large run change faster than anybody reads.
  tell_ = new QTimer(this);
  tell_->setSingleShot(true);
  tell_->setInterval(40);
  connect(tell_, &QTimer::timeout, this, &RunPanel::refresh_progress);
  const auto tell = [this] {
    if (!tell_->isActive()) tell_->start();
  };
  connect(&session_, &RunSession::row_changed, this, tell);
  connect(&session_, &RunSession::progressed, this, tell);
  connect(&session_, &RunSession::started, this, &RunPanel::refresh);
  connect(&session_, &RunSession::finished, this, &RunPanel::refresh);
  connect(&session_, &RunSession::said, this, [this](const QString& text) { fields::say(notes_, text, true); });
  show_settings();
  refresh();
}

QWidget* RunPanel::build_list() {
  auto* out = new QWidget;
  auto* column = new QVBoxLayout(out);
  column->setContentsMargins(14, 10, 14, 10);
  column->setSpacing(8);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel(tr("Run over many pictures"));
  title->setFont(text_font(11, true));
  chain_ = new QLabel;
  chain_->setAccessibleName(tr("The chain that runs"));
  earlier_ = fields::word_button(tr("go on with an earlier run…"));
  auto* back = fields::word_button(tr("back to the picture"));
  head->addWidget(title);
  head->addWidget(chain_, 1);
  head->addWidget(earlier_);
  head->addWidget(back);
  column->addLayout(head);
  connect(back, &QPushButton::clicked, this, &RunPanel::left);
  connect(earlier_, &QPushButton::clicked, this, [this] {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("The journal of a run"), folder_->text(), tr("Journals (*.run.jsonl)"));
    if (path.isEmpty()) return;
    try {
      session_.open_journal(path.toStdString());
      show_settings();
    } catch (const Error& error) {
      fields::say(notes_, text_of(error), true);
    }
  });
  auto* bar = new QHBoxLayout;
  which_ = new fields::Segments(tr("Pictures that are listed"), {tr("all"), tr("to look at"), tr("done")});
  which_->show_current(0);
  summary_ = new QLabel;
  summary_->setAccessibleName(tr("How many pictures"));
  bar->addWidget(which_);
  bar->addWidget(summary_, 1);
  column->addLayout(bar);
  connect(which_, &fields::Segments::chosen, this, &RunPanel::show_lines);

  model_ = new RunModel(session_, this);
  table_ = fields::table(tr("Pictures of the run"), model_, 44);
  table_->setIconSize({RunModel::thumbnail_side, 40});
  table_->setWordWrap(true);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
  const int widths[] = {66, 150, 108, 108, 108};
  for (int i = 0; i < 5; ++i) table_->setColumnWidth(i, widths[i]);
  table_->horizontalHeader()->setStretchLastSection(true);
  column->addWidget(table_, 1);
  connect(table_, &QTableView::doubleClicked, this,
          [this](const QModelIndex& index) { Q_EMIT review_wanted(model_->row_of(index.row())); });
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &RunPanel::refresh_progress);

  notes_ = fields::sentence(tr("About the run"));
  column->addWidget(notes_);
  auto* foot = new QHBoxLayout;
  run_ = button(tr("Run"));
  run_->setProperty("primary", true);
  pause_ = button(tr("Pause"));
  cancel_ = button(tr("Cancel the run"));
  progress_ = new QProgressBar;
  progress_->setAccessibleName(tr("Progress of the run"));
  progress_->setRange(0, 1000);
  progress_->setTextVisible(false);
  progress_->setMaximumWidth(160);
  progress_text_ = new QLabel;
  progress_text_->setAccessibleName(tr("How far the run is"));
  review_ = button(tr("Correct this picture…"));
  review_->setToolTip(tr("Opens it with the chain as it runs on it; what you change holds for this picture alone"));
  one_by_one_ = button(tr("One by one…"));
  one_by_one_->setToolTip(tr("Shows one picture after the other with the step's handles; Return accepts and goes on"));
  for (QWidget* w : std::initializer_list<QWidget*>{run_, pause_, cancel_, progress_, progress_text_})
    foot->addWidget(w);
  foot->addStretch(1);
  foot->addWidget(review_);
  foot->addWidget(one_by_one_);
  column->addLayout(foot);
  connect(run_, &QPushButton::clicked, this, [this] {
    if (soon_->isActive()) read_settings();
    // What was typed a moment ago is looked at first.
    start_then_ = session_.planning();
    session_.start();
  });
  connect(pause_, &QPushButton::clicked, this, [this] { session_.set_paused(!session_.paused()); });
  connect(cancel_, &QPushButton::clicked, &session_, &RunSession::cancel);
  connect(review_, &QPushButton::clicked, this,
          [this] { Q_EMIT review_wanted(model_->row_of(table_->currentIndex().row())); });
  connect(one_by_one_, &QPushButton::clicked, this, &RunPanel::one_by_one_wanted);
  return out;
}

void RunPanel::build_pictures(QVBoxLayout* column) {
  column->addWidget(fields::section(tr("Pictures")));
  places_ = fields::sentence(tr("Where the pictures are"));
  column->addWidget(places_);
  auto* row = new QHBoxLayout;
  auto* files = button(tr("Add files…"));
  auto* folder = button(tr("Add folder…"));
  auto* none = button(tr("Clear"));
  for (QPushButton* b : {files, folder, none}) row->addWidget(b);
  column->addLayout(row);
  connect(files, &QPushButton::clicked, this, [this] {
    add_places(QFileDialog::getOpenFileNames(
        this, tr("Pictures"), begin_at_,
        tr("Pictures and films (%1)").arg(picture_patterns()) + ";;" + tr("All files (*)")));
  });
  connect(folder, &QPushButton::clicked, this, [this] {
    const QString path = QFileDialog::getExistingDirectory(this, tr("A folder of pictures"), begin_at_);
    if (!path.isEmpty()) add_places({path});
  });
  connect(none, &QPushButton::clicked, this, [this] {
    RunSettings settings = session_.settings();
    settings.choice.places.clear();
    settings.choice.listed.clear();
    session_.change(settings);
    show_settings();
  });
  auto* grid = new QGridLayout;
  pattern_ = line(tr("Names of files in folders"), tr("all, or such as IMG_*.tif"));
  grid->addWidget(fields::label_for(tr("names"), pattern_), 0, 0);
  grid->addWidget(pattern_, 0, 1);
  grid->setColumnStretch(1, 1);
  column->addLayout(grid);
  subfolders_ = new QCheckBox(tr("folders below them, too"));
  subfolders_->setAccessibleName(subfolders_->text());
  column->addWidget(subfolders_);
}

void RunPanel::build_target(QVBoxLayout* column) {
  column->addWidget(fields::section(tr("Where to")));
  auto* grid = new QGridLayout;
  folder_ = line(tr("Folder of the results"));
  auto* choose = button(tr("Choose…"));
  choose->setAccessibleName(tr("Choose the folder of the results"));
  connect(choose, &QPushButton::clicked, this, [this] {
    const QString path = QFileDialog::getExistingDirectory(this, tr("Where results go"), folder_->text());
    if (!path.isEmpty()) folder_->setText(path);
  });
  name_ = line(tr("Name of each result"));
  name_->setToolTip(
      tr("{stem} is the picture's own name, {chain} the chain's, {index} its number in the list, {ext} "
         "the ending"));
  existing_ = list(tr("Results that are there"), {tr("are kept"), tr("are kept if they stand"), tr("are replaced")});
  existing_->setToolTip(
      tr("Those that stand were made by this chain of this picture, as their checksums say; others are made again"));
  grid->addWidget(fields::label_for(tr("folder"), folder_), 0, 0);
  grid->addWidget(folder_, 0, 1);
  grid->addWidget(choose, 0, 2);
  grid->addWidget(fields::label_for(tr("names"), name_), 1, 0);
  grid->addWidget(name_, 1, 1, 1, 2);
  grid->setColumnStretch(1, 1);
  column->addLayout(grid);
  example_ = fields::reserved(fields::sentence(tr("An example of the names")), 2);
  column->addWidget(example_);
  auto* row = new QHBoxLayout;
  row->addWidget(fields::label_for(tr("results that are there"), existing_));
  row->addWidget(existing_, 1);
  column->addLayout(row);
}

void RunPanel::build_how(QVBoxLayout* column) {
  column->addWidget(fields::section(tr("How")));
  auto* grid = new QGridLayout;
  format_ = list(tr("Format"), {tr("as the picture"), "TIFF", "PNG", "JPEG", "PNM", "PFM"});
  depth_ = list(tr("Depth"), {tr("as the picture"), tr("8 bits"), tr("16 bits"), tr("floating point")});
  empty_ = list(tr("Empty pixels"),
                {tr("the chain's fill"), tr("an alpha band"), tr("NaN"), tr("a mask beside the result")});
  quality_ = new fields::Number(tr("Quality of JPEG"), 1, 100, 0);
  compress_ = new QCheckBox(tr("compress TIFF"));
  compress_->setAccessibleName(compress_->text());
  calibration_ = list(tr("Calibration of the run"), {});
  values_ = line(tr("Table of values"), tr("a CSV with a row a file"));
  values_->setToolTip(
      tr("file,/steps/0/degrees,… : values that differ from file to file, by their paths in the chain"));
  auto* choose = button(tr("…"));
  choose->setAccessibleName(tr("Choose the table of values"));
  choose->setFixedWidth(34);
  choose->setStyleSheet("padding-left:0;padding-right:0;");
  connect(choose, &QPushButton::clicked, this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("Values of single files"), begin_at_,
                                                      tr("Tables (*.csv);;All files (*)"));
    if (!path.isEmpty()) values_->setText(path);
  });
  int row = 0;
  const auto add = [&](const QString& text, QWidget* field) {
    grid->addWidget(fields::label_for(text, field), row, 0);
    grid->addWidget(field, row++, 1, 1, 2);
  };
  add(tr("format"), format_);
  add(tr("quality"), quality_);
  add(tr("depth"), depth_);
  add(tr("empty pixels"), empty_);
  add(tr("calibration"), calibration_);
  grid->addWidget(fields::label_for(tr("values"), values_), row, 0);
  grid->addWidget(values_, row, 1);
  grid->addWidget(choose, row, 2);
  grid->setColumnStretch(1, 1);
  column->addLayout(grid);
  column->addWidget(compress_);
}

QWidget* RunPanel::build_settings() {
  auto* scroll = new QScrollArea;
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFixedWidth(settings_width);
  auto* page = new QWidget;
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(14, 8, 14, 10);
  column->setSpacing(7);
  page->setMaximumWidth(settings_width);
  build_pictures(column);
  build_target(column);
  build_how(column);
  column->addStretch(1);
  scroll->setWidget(page);
  const auto later = [this] {
    if (!showing_) soon_->start();
  };
  for (QLineEdit* field : {pattern_, folder_, name_, values_}) connect(field, &QLineEdit::textChanged, this, later);
  for (QComboBox* field : {format_, depth_, empty_, calibration_, existing_})
    connect(field, &QComboBox::activated, this, later);
  for (QCheckBox* field : {subfolders_, compress_}) connect(field, &QCheckBox::toggled, this, later);
  connect(quality_, &QDoubleSpinBox::valueChanged, this, later);
  return scroll;
}

void RunPanel::fill_calibrations() {
  const QString now = session_.settings().calibration;
  calibration_->clear();
  calibration_->addItem(tr("the chain's"), QString());
  calibration_->addItem(tr("none"), QStringLiteral("none"));
  for (const LibraryEntry& entry : calibrations_in_library())
    if (entry.calibration) calibration_->addItem(text_of(entry.name), text_of(entry.name));
  const int at = calibration_->findData(now);
  calibration_->setCurrentIndex(std::max(0, at));
}

void RunPanel::show_settings() {
  showing_ = true;
  const RunSettings& settings = session_.settings();
  pattern_->setText(text_of(settings.choice.pattern));
  subfolders_->setChecked(settings.choice.subfolders);
  folder_->setText(settings.folder);
  name_->setText(settings.name);
  values_->setText(settings.values);
  const auto format = settings.format ? std::ranges::find(formats, *settings.format) - std::begin(formats) + 1 : 0;
  format_->setCurrentIndex(static_cast<int>(format));
  depth_->setCurrentIndex(!settings.finish.depth                 ? 0
                          : *settings.finish.depth == Depth::u8  ? 1
                          : *settings.finish.depth == Depth::u16 ? 2
                                                                 : 3);
  empty_->setCurrentIndex(static_cast<int>(settings.finish.empty));
  quality_->show_value(settings.finish.quality);
  compress_->setChecked(settings.compress);
  existing_->setCurrentIndex(static_cast<int>(settings.existing));
  fill_calibrations();
  showing_ = false;
}

void RunPanel::read_settings() {
  soon_->stop();
  RunSettings settings = session_.settings();
  settings.choice.pattern = pattern_->text().toStdString();
  settings.choice.subfolders = subfolders_->isChecked();
  settings.folder = folder_->text().trimmed();
  settings.name = name_->text().trimmed();
  settings.values = values_->text().trimmed();
  settings.format = format_->currentIndex() == 0
                        ? std::nullopt
                        : std::optional(formats[static_cast<std::size_t>(format_->currentIndex() - 1)]);
  constexpr Depth depths[] = {Depth::u8, Depth::u16, Depth::f32};
  settings.finish.depth = depth_->currentIndex() == 0
                              ? std::nullopt
                              : std::optional(depths[static_cast<std::size_t>(depth_->currentIndex() - 1)]);
  settings.finish.empty = static_cast<EmptyAs>(empty_->currentIndex());
  settings.finish.quality = static_cast<int>(quality_->value());
  settings.compress = compress_->isChecked();
  settings.calibration = calibration_->currentData().toString();
  settings.existing = static_cast<RunSettings::Existing>(existing_->currentIndex());
  session_.change(settings);
  refresh();
}

void RunPanel::add_places(const QStringList& places) {
  if (places.isEmpty() || session_.locked()) return;
  begin_at_ = QFileInfo(places.front()).absolutePath();
  RunSettings settings = session_.settings();
  for (const QString& place : places) settings.choice.places.emplace_back(place.toStdString());
  if (settings.folder.isEmpty()) {
    // Beside the pictures, and not among them.
    const QFileInfo first(places.front());
    settings.folder =
        (first.isDir() ? QDir(first.absoluteFilePath()) : first.absoluteDir()).absoluteFilePath("results");
  }
  session_.change(settings);
  show_settings();
  refresh();
}

void RunPanel::show_lines(int which) {
  which_->show_current(which);
  model_->show(static_cast<RunModel::Shown>(which));
  refresh_progress();
}

QString RunPanel::example() const {
  for (const RunRow& row : session_.rows())
    if (!row.item.target.path.empty())
      return tr("%1 becomes %2.")
          .arg(text_of(row.input.file.filename().string()),
               text_of(row.item.target.path.lexically_relative(session_.settings().folder.toStdString()).string()));
  return session_.rows().empty() ? tr("Add pictures, and an example stands here.") : QString();
}

void RunPanel::refresh() {
  chain_->setText(
      session_.chain().steps.size() == 1
          ? tr("with the chain %1, 1 step").arg(session_.chain_name())
          : tr("with the chain %1, %2 steps").arg(session_.chain_name()).arg(session_.chain().steps.size()));
  const InputChoice& choice = session_.settings().choice;
  QStringList places;
  for (const auto& place : choice.places) places << text_of(place.string());
  if (!choice.listed.empty()) places << tr("%1 pictures of an earlier run").arg(choice.listed.size());
  if (places.size() > 3) places = QStringList(places.mid(0, 2)) << tr("and %1 more").arg(places.size() - 2);
  fields::say(places_, places.isEmpty() ? tr("None yet. Drop files or folders on this page.") : places.join("\n"));
  fields::say(example_, example());
  fields::say(notes_, session_.trouble().isEmpty() ? session_.notes().join(" ") : session_.trouble(),
              !session_.trouble().isEmpty());
  notes_->setVisible(!notes_->text().isEmpty());
  refresh_progress();
}

void RunPanel::refresh_progress() {
  const bool running = session_.running();
  const int all = static_cast<int>(session_.rows().size()), bad = session_.count(RunRow::State::unfit),
            failed = session_.count(RunRow::State::failed), left = session_.to_run(),
            done = session_.count(RunRow::State::done) + session_.count(RunRow::State::stood);
  QStringList parts;
  parts << (all == 1 ? tr("1 picture") : tr("%1 pictures").arg(all));
  if (done > 0) parts << tr("%1 done").arg(done);
  if (bad > 0) parts << tr("%1 cannot be made").arg(bad);
  if (failed > 0) parts << tr("%1 failed").arg(failed);
  if (const int look = session_.to_look_at(); look > 0) parts << tr("%1 to look at").arg(look);
  summary_->setText(parts.join(" · "));
  run_->setText(left == 1 ? tr("Run 1 picture") : tr("Run %1 pictures").arg(left));
  run_->setEnabled(!session_.locked() && !session_.planning() && left > 0);
  settings_->setEnabled(!session_.locked());
  earlier_->setEnabled(!session_.locked());
  for (QWidget* w : std::initializer_list<QWidget*>{pause_, cancel_, progress_, progress_text_}) w->setVisible(running);
  run_->setVisible(!running);
  pause_->setText(session_.paused() ? tr("Go on") : tr("Pause"));
  progress_->setValue(static_cast<int>(1000 * session_.share()));
  const auto seconds = session_.seconds_left();
  progress_text_->setText(session_.paused() ? tr("held; what is at work is finished")
                          : seconds         ? tr("about %1 left").arg(time_text(*seconds))
                                            : QString());
  const int row = model_->row_of(table_->currentIndex().row());
  const bool readable = row >= 0 && !session_.rows()[static_cast<std::size_t>(row)].item.frames.empty();
  review_->setEnabled(readable && !session_.planning());
  one_by_one_->setEnabled(!session_.locked() && !session_.planning() && session_.trouble().isEmpty() && all > 0);
}

void RunPanel::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls() && !session_.locked()) event->acceptProposedAction();
}

void RunPanel::dropEvent(QDropEvent* event) {
  QStringList places;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) places << url.toLocalFile();
  add_places(places);
}

void RunPanel::keyPressEvent(QKeyEvent* event) {
  const bool confirms = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
  // Both end the typing in a field: the list has the keyboard again.
  if ((confirms || event->key() == Qt::Key_Escape) && settings_->isAncestorOf(focusWidget())) {
    table_->setFocus();
    return;
  }
  if (event->key() == Qt::Key_Escape) return Q_EMIT left();
  if (confirms && table_->hasFocus() && review_->isEnabled())
    return Q_EMIT review_wanted(model_->row_of(table_->currentIndex().row()));
  QWidget::keyPressEvent(event);
}

}  // namespace fexel
