#include "app/window/main_window.h"
#include "app/document/motion_layer.h"
#include "app/ui/language.h"

#include <QFileDialog>
#include <QLineEdit>
#include <QPointer>
#include <QScreen>
#include <QStackedLayout>
#include <QStandardPaths>

#include "app/canvas/view_area.h"
#include "app/compare/proof_sheet.h"
#include "app/compare/round_trip_spot.h"
#include "app/pipeline/rail.h"
#include "app/pipeline/step_palette.h"
#include "app/runs/run_panel.h"
#include "app/runs/run_review.h"
#include "app/sequence/frames_column.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "app/window/inspector.h"
#include "app/window/ledger.h"
#include "base/log.h"

namespace fexel {
MainWindow::MainWindow(const QString& unsaved_folder)
    : autosave_(document_, unsaved_folder.isEmpty()
                               ? QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/unsaved"
                               : unsaved_folder) {
  setObjectName("fexel");
  qApp->installEventFilter(this);
  use_yielding_workers();
  setWindowIcon(QIcon(":/art/fexel.svg"));
  setAcceptDrops(true);
  const QSize room = screen()->availableSize() - QSize(4, 28);  // for the frame that the desktop puts round it
  resize(QSize(1280, 800).boundedTo(room));
  setMinimumSize(900, 600);

  rail_ = new Rail(document_);
  rail_->setStyleSheet(QString("background:%1;").arg(theme().paper.name()));
  views_ = new ViewArea(document_);
  ledger_ = new Ledger(document_);
  inspector_ = new Inspector(document_);
  frames_ = new FramesColumn(document_);
  palette_ = new StepPalette(this);

  notice_bar_ = new QWidget;
  auto* notice_row = new QHBoxLayout(notice_bar_);
  notice_row->setContentsMargins(14, 4, 8, 4);
  notice_ = fields::sentence(tr("Message"));
  auto* dismiss = fields::word_button(tr("dismiss"));
  notice_row->addWidget(notice_, 1);
  notice_row->addWidget(dismiss);
  connect(dismiss, &QPushButton::clicked, this, [this] { say(QString()); });

  auto* splitter = new QSplitter(Qt::Vertical);
  splitter->addWidget(views_);
  splitter->addWidget(ledger_);
  splitter->setStretchFactor(0, 3);
  splitter->setStretchFactor(1, 1);
  splitter->setSizes({500, 170});
  splitter->setHandleWidth(2);
  splitter->setChildrenCollapsible(false);

  auto* left = new QWidget;
  left_column_ = new QVBoxLayout(left);
  left_column_->setContentsMargins(0, 0, 0, 0);
  left_column_->setSpacing(0);
  left_column_->addWidget(notice_bar_);
  left_column_->addWidget(splitter, 1);
  auto* pictures = new QWidget;
  auto* middle_row = new QHBoxLayout(pictures);
  middle_row->setContentsMargins(0, 0, 0, 0);
  middle_row->setSpacing(0);
  middle_row->addWidget(frames_);
  middle_row->addWidget(left, 1);
  middle_row->addWidget(fields::rule(Qt::Vertical));
  middle_row->addWidget(inspector_);
  auto* middle = new QWidget;
  middle_ = new QStackedLayout(middle);
  middle_->setContentsMargins(0, 0, 0, 0);
  middle_->addWidget(pictures);
  auto* all = new QWidget;
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(rail_);
  column->addWidget(fields::rule(Qt::Horizontal));
  column->addWidget(middle, 1);
  setCentralWidget(all);

  build_menus();
  build_status();
  say(QString());

  connect(rail_, &Rail::palette_wanted, this, [this](QPoint at, int index) { palette_->open_at(at, index); });
  connect(palette_, &StepPalette::chosen, this,
          [this](const QString& word, int index) { add_step(word.toStdString(), index); });
  connect(views_->proof_sheet(), &ProofSheet::figure_wanted, this, &MainWindow::ask_figure);
  connect(inspector_, &Inspector::asked, this, &MainWindow::answer);
  connect(rail_, &Rail::menu_wanted, this, &MainWindow::show_tile_menu);
  for (PictureView* picture : {views_->view_a(), views_->view_b()})
    connect(picture, &PictureView::menu_wanted, this,
            [this, picture](QPoint global) { show_picture_menu(*picture, global); });
  connect(ledger_, &Ledger::menu_wanted, this, &MainWindow::show_ledger_menu);
  connect(frames_, &FramesColumn::menu_wanted, this, &MainWindow::show_frame_menu);
  connect(ledger_->pairs(), &PairsLedger::pair_wanted, views_, &ViewArea::show_pair);
  connect(&document_.motion_layer(), &MotionLayer::said, this, [this](const QString& text) { say(text); });
  connect(&document_, &Document::opened, this, [this] { missing_reference_.clear(); });
  connect(&document_, &Document::changed, this, &MainWindow::read_missing_reference);
  connect(&document_, &Document::selection_changed, this, &MainWindow::read_missing_reference);
  connect(ledger_->frames(), &FramesLedger::menu_wanted, this, &MainWindow::show_frame_menu);
  connect(inspector_, &Inspector::keyboard_left, this, [this] { views_->active()->setFocus(); });
  connect(inspector_->result_page(), &ResultPage::carry_wanted, this, &MainWindow::ask_carry);
  connect(frames_, &FramesColumn::frame_wanted, this, &MainWindow::show_frame);
  connect(ledger_, &Ledger::frame_wanted, this, &MainWindow::show_frame);
  connect(&document_, &Document::opened, this, [this] {
    reading_.cancel();
    shown_frames_.clear();
  });
  connect(ledger_, &Ledger::length_wanted, this, [this] {
    if (document_.source()) views_->ask_for_measurement(LengthMeasurement::word);
  });
  connect(ledger_, &Ledger::snap_wanted, this, &MainWindow::snap_measurement);
  connect(ledger_, &Ledger::load_wanted, this, &MainWindow::ask_load_measurements);
  connect(ledger_, &Ledger::save_wanted, this, &MainWindow::ask_save_measurements);
  ResultPage* result = inspector_->result_page();
  result->round_trip_spot()->set_place([this] { return views_->source_in_middle(); });
  connect(result, &ResultPage::write_wanted, this, &MainWindow::write_out);
  connect(result, &ResultPage::browse_wanted, this, &MainWindow::ask_write_path);
  connect(&document_, &Document::changed, this, &MainWindow::refresh);
  connect(&document_, &Document::selection_changed, this, &MainWindow::refresh);
  connect(&document_.undo_stack(), &QUndoStack::indexChanged, this, &MainWindow::refresh);
  connect(&document_.session(), &Session::pointer_moved, this, [this] {
    QString text;
    const auto& pointer = document_.session().pointer();
    if (pointer && document_.source()) {
      const Carried c = carry(document_.layout(), pointer->point, pointer->station, 0);
      const Image& image = document_.source()->pixels->base();
      const int x = static_cast<int>(std::floor(c.point.x)), y = static_cast<int>(std::floor(c.point.y));
      if (c.status == CarryStatus::ok && x >= 0 && y >= 0 && x < image.width() && y < image.height()) {
        QStringList values;
        visit_depth(image.depth(), [&](auto sample) {
          for (int band = 0; band < image.bands(); ++band)
            values << number_shown(short_number(static_cast<double>(image.row<decltype(sample)>(band, y)[x]), 6));
        });
        text = (image.bands() == 3 ? tr("R %1  G %2  B %3").arg(values[0], values[1], values[2]) : values.join("  ")) +
               tr("  in the source");
      } else {
        text = tr("empty");
      }
    }
    value_->setText(text);
  });
  refresh();
}

MainWindow::~MainWindow() {
  disconnect(&document_, nullptr, this, nullptr);
  disconnect(&document_.undo_stack(), nullptr, this, nullptr);
  background_.cancel();
  reading_.cancel();
  review_.reset();
  // The widgets read the document, so they go before it.
  delete palette_;
  delete takeCentralWidget();
}

void MainWindow::build_status() {
  statusBar()->setSizeGripEnabled(false);
  value_ = new QLabel;
  value_->setAccessibleName(tr("Value under the pointer"));
  value_->setMinimumWidth(230);
  calibration_ = new QLabel;
  calibration_->setAccessibleName(tr("Calibration"));
  kept_ = new QLabel;
  kept_->setAccessibleName(tr("Whether the chain is saved"));
  task_ = new QLabel;
  task_->setAccessibleName(tr("Running task"));
  progress_ = new QProgressBar;
  progress_->setAccessibleName(tr("Progress"));
  progress_->setRange(0, 1000);
  progress_->setTextVisible(false);
  cancel_ = fields::word_button(tr("cancel"));
  for (QLabel* label : {value_, calibration_, kept_}) {
    label->setContentsMargins(8, 0, 16, 0);
    statusBar()->addWidget(label);
  }
  statusBar()->addPermanentWidget(task_);
  statusBar()->addPermanentWidget(progress_);
  statusBar()->addPermanentWidget(cancel_);
  for (QWidget* w : std::initializer_list<QWidget*>{progress_, cancel_}) w->hide();
  connect(cancel_, &QPushButton::clicked, this, [this] { background_.cancel(); });
  auto* clock = new QElapsedTimer;
  connect(this, &QObject::destroyed, [clock] { delete clock; });
  connect(&background_, &Background::started, this, [this, clock](const QString& what) {
    clock->start();
    task_->setText(what);
    progress_->setValue(0);
    progress_->show();
    cancel_->show();
  });
  connect(&background_, &Background::progressed, this, [this, clock](double share) {
    progress_->setValue(static_cast<int>(share * 1000));
    const double elapsed = static_cast<double>(clock->elapsed()) / 1000;
    if (elapsed > 0.5 && share > 0.02)
      progress_->setToolTip(
          tr("%1 %, about %2 s left").arg(static_cast<int>(100 * share)).arg(std::ceil(elapsed / share * (1 - share))));
  });
  connect(&background_, &Background::finished, this, [this] {
    task_->clear();
    progress_->hide();
    cancel_->hide();
  });
}

void MainWindow::refresh() {
  const OpenSource* source = document_.source();
  const QString name = !document_.chain_path().isEmpty() ? QFileInfo(document_.chain_path()).fileName()
                       : source                          ? QFileInfo(source->path).fileName()
                                                         : QString();
  setWindowTitle(name.isEmpty() ? QStringLiteral("Fexel") : name + "[*] · Fexel");
  setWindowModified(!document_.clean());
  undo_->setEnabled(document_.undo_stack().canUndo());
  redo_->setEnabled(document_.undo_stack().canRedo());
  undo_->setText(document_.undo_stack().canUndo() ? tr("&Undo: %1").arg(document_.undo_stack().undoText())
                                                  : tr("&Undo"));
  redo_->setText(document_.undo_stack().canRedo() ? tr("&Redo: %1").arg(document_.undo_stack().redoText())
                                                  : tr("&Redo"));
  for (QAction* action : need_source_) action->setEnabled(source != nullptr);
  for (QAction* action : need_step_) action->setEnabled(document_.selected_step() >= 0);
  if (!source) {
    calibration_->clear();
    kept_->clear();
    return;
  }
  const auto& pixel = document_.layout().result().pixel;
  calibration_->setText(pixel ? tr("result: %1").arg(size_text(document_.layout().result()))
                              : tr("result: pixel size not known"));
  kept_->setText(document_.clean() ? QString() : tr("chain not saved"));
}

bool MainWindow::busy() {
  if (background_.running()) say(tr("Something else is still running. Wait for it, or cancel it below."));
  return background_.running();
}

void MainWindow::say(const QString& text) {
  notice_->setText(text);
  notice_bar_->setVisible(!text.isEmpty());
  notice_bar_->setStyleSheet(
      QString("QWidget{background:%1;} QLabel{color:%2;}").arg(theme().field.name(), theme().brick.name()));
}

void MainWindow::say(const Error& error) {
  if (error.kind() == Error::Kind::cancelled) return;
  log_error(error.what());
  say(text_of(error));
}

QString MainWindow::notice() const {
  return notice_->text();
}

void MainWindow::add_step(const std::string& word, int index) {
  middle_->setCurrentIndex(0);
  document_.session().show_motion_page(false);  // the new step's page comes
  document_.insert_step(word, index);
  inspector_->step_added();
  views_->view_a()->setFocus();
}

void MainWindow::open_palette(int index) {
  QPushButton* add = rail_->add_button();
  palette_->open_at(add->mapToGlobal(QPoint(0, add->height() + 4)), index);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList files;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  if (files.isEmpty()) return;
  if (runs_ && runs_->isVisible()) return runs_->add_places(files);
  if (!may_leave()) return;
  if (files.size() == 1 && !QFileInfo(files.front()).isDir())
    open_file(files.front());
  else
    open_several(files);
}

void MainWindow::closeEvent(QCloseEvent* event) {
  event->setAccepted(may_stop_run() && may_leave());
  if (event->isAccepted()) review_.reset();
  if (event->isAccepted()) autosave_.forget();
}

bool MainWindow::may_leave() {
  if (document_.clean() || !document_.source() || companion_) return true;
  // Nothing can be undone behind a closed chain, so here a question is asked.
  QMessageBox question(QMessageBox::NoIcon, tr("Fexel"), tr("The chain has changes that are not saved."),
                       QMessageBox::NoButton, this);
  QPushButton* save = question.addButton(tr("Save"), QMessageBox::AcceptRole);
  QPushButton* leave = question.addButton(tr("Leave without saving"), QMessageBox::DestructiveRole);
  question.addButton(tr("Stay"), QMessageBox::RejectRole);
  question.exec();
  if (question.clickedButton() != save) return question.clickedButton() == leave;
  ask_save(false);
  return document_.clean();
}

void MainWindow::write_or_show() {
  ResultPage* page = inspector_->result_page();
  const bool shown = page->isVisible() || page->path_was_shown();
  document_.select_tile(document_.tiles() - 1);
  document_.session().show_copy_page(false);
  if (shown) return write_out(page->path(), false);
  page->show_path();
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
  // Lists and tables keep the keys by which they are gone through and edited.
  if (event->type() == QEvent::ShortcutOverride) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    const bool ends = key == Qt::Key_Home || key == Qt::Key_End;
    // Letters go to the word of a list that begins with them.
    const bool letter =
        key >= Qt::Key_A && key <= Qt::Key_Z && static_cast<QKeyEvent*>(event)->modifiers() == Qt::NoModifier;
    const bool list =
        qobject_cast<QComboBox*>(watched) && (letter || ends || key == Qt::Key_PageUp || key == Qt::Key_PageDown);
    const bool table = qobject_cast<QTableView*>(watched) && (ends || key == Qt::Key_F2);
    // Beside the panel of a run the pictures are hidden: single keys are not theirs.
    const auto* widget = qobject_cast<QWidget*>(watched);
    const bool modified = (static_cast<QKeyEvent*>(event)->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) != 0;
    const bool function = key >= Qt::Key_F1 && key <= Qt::Key_F35;
    const bool panel = widget && runs_ && runs_->isVisible() && !modified && !function &&
                       (widget == runs_ || runs_->isAncestorOf(widget));
    if (list || table || panel) {
      event->accept();
      return true;
    }
  }
  // Return and Escape end the typing in a field of the panel: the keyboard goes back to the picture.
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    auto* widget = qobject_cast<QWidget*>(watched);
    const bool field =
        qobject_cast<QAbstractSpinBox*>(watched) != nullptr ||
        (qobject_cast<QLineEdit*>(watched) != nullptr && qobject_cast<QAbstractSpinBox*>(watched->parent()) == nullptr);
    if (field && (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Escape) && widget->hasFocus() &&
        inspector_->isAncestorOf(widget))
      QMetaObject::invokeMethod(
          this,
          [this, widget = QPointer<QWidget>(widget)] {
            if (widget && widget->hasFocus()) views_->active()->setFocus();
          },
          Qt::QueuedConnection);
  }
  return QMainWindow::eventFilter(watched, event);
}

}  // namespace fexel
