#include "app/main_window.h"

#include <QFileDialog>
#include <QScreen>
#include <QStandardPaths>

#include "app/fields.h"
#include "app/inspector.h"
#include "app/ledger.h"
#include "app/rail.h"
#include "app/step_palette.h"
#include "app/text.h"
#include "app/theme.h"
#include "app/view_area.h"
#include "chain/evaluate.h"
#include "chain/record.h"
#include "chain/run.h"
#include "demo/demo.h"

namespace fexel {
namespace {

QString text_of(const Error& error) {
  return QString::fromUtf8(error.what());
}

OpenSource read_source(const std::string& path, const Job& job) {
  OpenSource source;
  source.path = QString::fromStdString(path);
  source.info = read_info(path);
  source.pixels = std::make_shared<const Pyramid>(std::make_shared<const Image>(read_picture(path, 1, {}, job)));
  return source;
}

}  // namespace

MainWindow::MainWindow() {
  setObjectName("fexel");
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
  auto* left_column = new QVBoxLayout(left);
  left_column->setContentsMargins(0, 0, 0, 0);
  left_column->setSpacing(0);
  left_column->addWidget(notice_bar_);
  left_column->addWidget(splitter, 1);
  auto* middle = new QWidget;
  auto* middle_row = new QHBoxLayout(middle);
  middle_row->setContentsMargins(0, 0, 0, 0);
  middle_row->setSpacing(0);
  middle_row->addWidget(left, 1);
  middle_row->addWidget(fields::rule(Qt::Vertical));
  middle_row->addWidget(inspector_);
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
  connect(palette_, &StepPalette::chosen, this, [this](const QString& word, int index) {
    document_.insert_step(word.toStdString(), index);
    views_->view_a()->setFocus();
  });
  connect(ledger_, &Ledger::gauge_wanted, this, [this] {
    if (document_.source()) views_->active()->begin_gauge();
  });
  ResultPage* result = inspector_->result_page();
  connect(result, &ResultPage::write_wanted, this, &MainWindow::write_out);
  connect(result, &ResultPage::browse_wanted, this, &MainWindow::ask_write_path);
  connect(&document_, &Document::changed, this, &MainWindow::refresh);
  connect(&document_, &Document::selection_changed, this, &MainWindow::refresh);
  connect(&document_.undo_stack(), &QUndoStack::indexChanged, this, &MainWindow::refresh);
  connect(&document_, &Document::pointer_moved, this, [this] {
    QString text;
    const auto& pointer = document_.pointer();
    if (pointer && document_.source()) {
      const Carried c = carry(document_.layout(), pointer->point, pointer->station, 0);
      const Image& image = document_.source()->pixels->base();
      const int x = static_cast<int>(std::floor(c.point.x)), y = static_cast<int>(std::floor(c.point.y));
      if (c.status == CarryStatus::ok && x >= 0 && y >= 0 && x < image.width() && y < image.height()) {
        QStringList values;
        visit_depth(image.depth(), [&](auto sample) {
          for (int band = 0; band < image.bands(); ++band)
            values << QString::fromStdString(
                short_number(static_cast<double>(image.row<decltype(sample)>(band, y)[x]), 6));
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
  // The widgets read the document, so they go before it.
  delete palette_;
  delete takeCentralWidget();
}

QAction* MainWindow::add_action(QMenu* menu, const QString& text, const QKeySequence& keys,
                                std::function<void()> body) {
  QAction* action = menu->addAction(text);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, [body = std::move(body)] { body(); });
  return action;
}

QAction* MainWindow::add_key(QMenu* menu, const QString& text, const QKeySequence& keys, std::function<void()> body) {
  QAction* action = add_action(menu, text, keys, std::move(body));
  action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
  rail_->addAction(action);
  views_->addAction(action);
  need_source_.push_back(action);
  return action;
}

void MainWindow::build_menus() {
  QMenu* file = menuBar()->addMenu(tr("&File"));
  add_action(file, tr("&Open…"), QKeySequence::Open, [this] { ask_open(); });
  need_source_.push_back(add_action(file, tr("&Save chain"), QKeySequence::Save, [this] { ask_save(false); }));
  need_source_.push_back(add_action(file, tr("Save chain &as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
                                    [this] { ask_save(true); }));
  file->addSeparator();
  need_source_.push_back(add_action(file, tr("&Write out the result"), QKeySequence(Qt::CTRL | Qt::Key_E), [this] {
    document_.select_tile(document_.tiles() - 1);
    write_out(inspector_->result_page()->path(), false);
  }));
  file->addSeparator();
  add_action(file, tr("&Quit"), QKeySequence::Quit, [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  undo_ = add_action(edit, tr("&Undo"), QKeySequence::Undo, [this] { document_.undo_stack().undo(); });
  redo_ = add_action(edit, tr("&Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z),
                     [this] { document_.undo_stack().redo(); });

  QMenu* step = menuBar()->addMenu(tr("&Step"));
  add_key(step, tr("&Add a step…"), Qt::Key_Insert, [this] {
    const int selected = document_.selected_step();
    open_palette(selected < 0 ? static_cast<int>(document_.chain().steps.size()) : selected + 1);
  });
  QAction* remove = add_key(step, tr("&Remove the step"), Qt::Key_Delete, [this] {
    const auto handle = views_->active()->selected_handle();
    if (views_->active()->hasFocus() && handle && handle->kind == Handle::Kind::gauge_end)
      document_.remove_gauge(handle->owner);
    else
      document_.remove_selected_step();
  });
  need_step_.push_back(remove);
  step->addSeparator();
  for (const char* word : {RectifyStep::word, CropStep::word, QuarterStep::word})
    need_source_.push_back(add_action(step, step_title(word), {}, [this, word] {
      const int selected = document_.selected_step();
      document_.insert_step(
          word, selected < 0 ? (document_.state().selected == 0 ? 0 : static_cast<int>(document_.chain().steps.size()))
                             : selected + 1);
    }));

  QMenu* probe = menuBar()->addMenu(tr("&Probe"));
  add_key(probe, tr("&Gauge along a known length"), Qt::Key_G, [this] { views_->active()->begin_gauge(); });

  QMenu* view = menuBar()->addMenu(tr("&View"));
  add_key(view, tr("&Fit"), Qt::Key_Home, [this] { views_->fit(); });
  add_key(view, tr("&1:1"), Qt::Key_End, [this] { views_->actual_pixels(); });
  add_action(view, tr("Zoom &in"), QKeySequence::ZoomIn, [this] {
    PictureView* v = views_->active();
    v->look_at(v->centre(), v->zoom() * 1.25);
    Q_EMIT v->looked(v);
  });
  add_action(view, tr("Zoom &out"), QKeySequence::ZoomOut, [this] {
    PictureView* v = views_->active();
    v->look_at(v->centre(), v->zoom() / 1.25);
    Q_EMIT v->looked(v);
  });
  view->addSeparator();
  const QString modes[] = {tr("&One picture"), tr("&Side by side"), tr("&Curtain"),
                           tr("Bl&ink"),       tr("&Difference"),   tr("&Tint")};
  for (int i = 0; i < 6; ++i)
    add_action(view, modes[i], QKeySequence(Qt::CTRL | static_cast<Qt::Key>(Qt::Key_1 + i)),
               [this, i] { views_->set_mode(static_cast<ViewArea::Mode>(i)); });
  view->addSeparator();
  add_key(view, tr("Flag &A here"), Qt::Key_A, [this] { document_.set_flag(false, document_.state().selected); });
  add_key(view, tr("Flag &B here"), Qt::Key_B, [this] { document_.set_flag(true, document_.state().selected); });
  add_key(view, tr("Fold the &ledger"), Qt::Key_L, [this] { ledger_->set_folded(!ledger_->folded()); });
  add_action(view, tr("F&ull screen"), Qt::Key_F11, [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); });

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add_action(help, tr("&Keys"), QKeySequence::HelpContents, [this] { show_keys(); });
  add_action(help, tr("Open the &demo"), {}, [this] {
    if (may_leave()) open_demo();
  });
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

void MainWindow::say(const QString& text) {
  notice_->setText(text);
  notice_bar_->setVisible(!text.isEmpty());
  notice_bar_->setStyleSheet(
      QString("QWidget{background:%1;} QLabel{color:%2;}").arg(theme().field.name(), theme().brick.name()));
}

void MainWindow::say(const Error& error) {
  if (error.kind() != Error::Kind::cancelled) say(text_of(error));
}

QString MainWindow::notice() const {
  return notice_->text();
}

void MainWindow::open_file(const QString& path) {
  say(QString());
  last_folder_ = QFileInfo(path).absolutePath();
  const std::string file = path.toStdString();
  const bool is_chain = path.endsWith(".json", Qt::CaseInsensitive);
  background_.start(
      tr("opening %1").arg(QFileInfo(path).fileName()),
      [this, file, is_chain, path](const Job& job) -> Background::Finish {
        auto chain = std::make_shared<Chain>();
        std::string picture = file;
        QString note;
        if (is_chain) {
          *chain = load_chain(file);
          if (chain->sources.empty())
            throw call_error("This chain names no picture to open.", file,
                             "Open a picture first, or run the chain with fexel-cli apply.");
          picture = (std::filesystem::path(file).parent_path() / chain->sources[0].path).string();
        }
        auto source = std::make_shared<OpenSource>(read_source(picture, job.part(0, 0.9)));
        if (is_chain && !chain->sources[0].sha256.empty() && checksum(picture, job) != chain->sources[0].sha256)
          note = tr("%1 is not the file that this chain was made with: its checksum differs.")
                     .arg(QString::fromStdString(picture));
        return [this, source, chain, is_chain, path, note] {
          document_.open(std::move(*source), std::move(*chain), is_chain ? path : QString());
          say(note);
          views_->view_a()->setFocus();
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::open_demo() {
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/demo";
  if (demo_is_there(folder.toStdString())) {
    open_file(folder + "/wall.fexel.json");
    return;
  }
  background_.start(
      tr("rendering the demo"),
      [this, folder](const Job& job) -> Background::Finish {
        write_demo(folder.toStdString(), job);
        return [this, folder] { open_file(folder + "/wall.fexel.json"); };
      },
      [this](const Error& error) { say(error); });
}

bool MainWindow::save_chain(const QString& path) {
  if (!document_.source()) return false;
  QString target = path;
  if (!target.endsWith(".json")) target += ".fexel.json";
  try {
    Chain chain = document_.chain();
    const std::filesystem::path source = std::filesystem::absolute(document_.source()->path.toStdString());
    const std::filesystem::path folder = std::filesystem::absolute(target.toStdString()).parent_path();
    const bool same =
        !chain.sources.empty() &&
        std::filesystem::absolute(std::filesystem::path(document_.chain_path().toStdString()).parent_path() /
                                  chain.sources[0].path)
                .lexically_normal() == source.lexically_normal();
    const std::string sum = same && !chain.sources[0].sha256.empty() ? chain.sources[0].sha256 : checksum(source);
    chain.sources = {{source.lexically_relative(folder).string(), sum}};
    WriteOptions checks;
    checks.sources = {source};
    checks.replace = true;
    check_target(target.toStdString(), checks);
    write_text(target.toStdString(), write_chain(chain), true);
  } catch (const Error& error) {
    say(error);
    return false;
  }
  say(QString());
  document_.set_chain_path(target);
  refresh();
  return true;
}

void MainWindow::write_out(const QString& path, bool replace) {
  ResultPage* page = inspector_->result_page();
  if (!document_.source()) return;
  if (background_.running()) {
    page->show_problem(tr("Something else is still running. Wait for it, or cancel it below."), false);
    return;
  }
  if (path.isEmpty()) {
    page->show_problem(tr("Give the file a name."), false);
    return;
  }
  const std::string target = QFileInfo(path).absoluteFilePath().toStdString();
  const auto format = format_of_name(target);
  WriteOptions options;
  Finish finish;
  options.replace = replace;
  options.sources = {document_.source()->path.toStdString()};
  try {
    document_.layout().require_sound();
    if (!format)
      throw call_error("The name's ending does not say what to write.", target, "Use .tif, .png, .pgm, .ppm or .pfm.");
    const FileInfo& info = document_.source()->info;
    if (info.alpha && (*format == Format::tiff || *format == Format::png)) finish.empty = EmptyAs::alpha;
    check_finish(finish, *format, info.bands, info.depth);
    check_target(target, options);
  } catch (const Error& error) {
    std::error_code code;
    WriteOptions replacing = options;
    replacing.replace = true;
    bool may_replace = !replace && std::filesystem::is_regular_file(target, code);
    try {
      check_target(target, replacing);
    } catch (const Error&) {
      may_replace = false;
    }
    page->show_problem(
        QString::fromStdString(error.message()) + " " +
            (may_replace ? tr("Choose another name, or replace it.") : QString::fromStdString(error.remedy())),
        may_replace);
    return;
  }
  options.format = *format;
  options.pixel_size = document_.layout().result().pixel;
  const auto chain = std::make_shared<const Chain>(document_.chain());
  const auto layout = std::make_shared<const Layout>(document_.layout());
  const auto pixels = document_.source()->pixels;
  page->show_problem({}, false);
  background_.start(
      tr("writing %1").arg(QFileInfo(path).fileName()),
      [page, chain, layout, pixels, options, target, finish](const Job& job) -> Background::Finish {
        WarpReport report;
        std::vector<Image> pages;
        WriteOptions how = options;
        how.attached = carried_on(options.sources.front(), pixels->base().bands(), finish);
        Image made = evaluate(*chain, *layout, *pixels, job.part(0, 0.5), &report);
        pages.push_back(finished(std::move(made), finish, report.clamped));
        write_finished(target, pages, how, finish, job.part(0.5, 0.9));
        const int width = pages.front().width(), height = pages.front().height();
        const RunResult outcome{width, height, report.exact, 0, empty_share(pages.front()), report.clamped};
        save_record(record_path(target), options.sources, target, options.format, finish, outcome, *chain, true,
                    job.part(0.9, 1));
        return [page, report, layout, width, height, target] {
          QString text = tr("Written: %1, %2 × %3 px, %4.")
                             .arg(QString::fromStdString(std::filesystem::path(target).filename().string()))
                             .arg(width)
                             .arg(height)
                             .arg(how_made(*layout, layout->last()));
          if (report.empty > 0)
            text +=
                tr(" %1 % of it is empty.")
                    .arg(100.0 * static_cast<double>(report.empty) / (static_cast<double>(width) * height), 0, 'f', 1);
          if (report.clamped > 0) text += tr(" %1 samples were clamped to the depth's range.").arg(report.clamped);
          page->show_written(text);
        };
      },
      [page](const Error& error) {
        if (error.kind() == Error::Kind::cancelled)
          page->show_written(tr("Cancelled; no file was left."));
        else
          page->show_problem(text_of(error), false);
      });
}

void MainWindow::ask_open() {
  const QString path = QFileDialog::getOpenFileName(
      this, tr("Open a picture or a chain"), last_folder_,
      tr("Pictures and chains (*.tif *.tiff *.png *.jpg *.jpeg *.pgm *.ppm *.pnm *.pfm *.json);;All files (*)"));
  if (!path.isEmpty() && may_leave()) open_file(path);
}

void MainWindow::ask_save(bool as) {
  QString path = document_.chain_path();
  if (as || path.isEmpty()) {
    const QFileInfo source(document_.source()->path);
    path = QFileDialog::getSaveFileName(
        this, tr("Save the chain"),
        path.isEmpty() ? source.absolutePath() + "/" + source.completeBaseName() + ".fexel.json" : path,
        tr("Chains (*.fexel.json)"));
  }
  if (!path.isEmpty()) save_chain(path);
}

void MainWindow::ask_write_path() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Where to write the result"), inspector_->result_page()->path(),
                                   tr("TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg);;PNM (*.pgm *.ppm);;PFM (*.pfm)"),
                                   nullptr, QFileDialog::DontConfirmOverwrite);
  if (!path.isEmpty()) inspector_->result_page()->set_path(path);
}

void MainWindow::open_palette(int index) {
  QPushButton* add = rail_->add_button();
  palette_->open_at(add->mapToGlobal(QPoint(0, add->height() + 4)), index);
}

void MainWindow::show_keys() {
  auto* sheet = new QDialog(this);
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setWindowTitle(tr("Keys"));
  auto* grid = new QGridLayout(sheet);
  int row = 0;
  const auto add = [&](const QString& keys, const QString& what) {
    auto* left = new QLabel("<b>" + keys + "</b>");
    grid->addWidget(left, row, 0);
    grid->addWidget(new QLabel(what), row++, 1);
  };
  for (const QAction* menu : menuBar()->actions())
    for (const QAction* action : menu->menu()->actions())
      if (!action->shortcut().isEmpty())
        add(action->shortcut().toString(QKeySequence::NativeText),
            QString(action->text()).remove('&').section(':', 0, 0));
  add(tr("Tab, arrows"), tr("next handle; move it by 1 px (Shift 0.1, Ctrl 10)"));
  add(tr("Space"), tr("hold to pan"));
  add(tr("X"), tr("hold to see the other of A and B (view One)"));
  add(tr("Wheel"), tr("zoom at the pointer"));
  sheet->show();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const auto urls = event->mimeData()->urls();
  if (!urls.isEmpty() && urls.front().isLocalFile() && may_leave()) open_file(urls.front().toLocalFile());
}

void MainWindow::closeEvent(QCloseEvent* event) {
  event->setAccepted(may_leave());
}

bool MainWindow::may_leave() {
  if (document_.clean() || !document_.source()) return true;
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

}  // namespace fexel
