/// The window's menus: the bar, the keys, and what a right click offers on pictures, tiles, table rows and frames.
#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QInputDialog>
#include <QLineEdit>
#include <QSettings>

#include "app/canvas/view_area.h"
#include "app/measurements/measurement_ui.h"
#include "app/pipeline/rail.h"
#include "app/pipeline/step_palette.h"
#include "app/pipeline/tile.h"
#include "app/sequence/frames_column.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/window/inspector.h"
#include "app/window/ledger.h"
#include "app/window/main_window.h"
#include "app/window/marks_page.h"

namespace fexel {

QAction* MainWindow::add_action(QMenu* menu, const QString& text, const QKeySequence& keys,
                                std::function<void()> body) {
  QAction* action = menu->addAction(text);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, [body = std::move(body)] { body(); });
  return action;
}

QAction* MainWindow::add_key(QMenu* menu, const QString& text, const QKeySequence& keys, std::function<void()> body) {
  // Window-wide: a field that is edited takes its own keys first.
  QAction* action = add_action(menu, text, keys, std::move(body));
  need_source_.push_back(action);
  return action;
}

void MainWindow::build_menus() {
  // Long because it lists the menus, in the order of the bar.
  QMenu* file = menuBar()->addMenu(tr("&File"));
  add_action(file, tr("&Open…"), QKeySequence::Open, [this] { ask_open(); });
  add_action(file, tr("Open a folder as a se&quence…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_O),
             [this] { ask_folder(); });
  recent_ = file->addMenu(tr("Open &recent"));
  connect(file, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
  need_source_.push_back(add_action(file, tr("Same steps with &another picture…"),
                                    QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_O), [this] { ask_same_again(); }));
  need_source_.push_back(actions_.figure =
                             add_action(file, tr("Save comparison as &figure…"),
                                        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_E), [this] { ask_figure(); }));
  add_action(file, tr("&Bring back unsaved work"), {}, [this] {
    if (may_leave()) bring_back();
  });
  need_source_.push_back(add_action(file, tr("&Save chain"), QKeySequence::Save, [this] { ask_save(false); }));
  need_source_.push_back(add_action(file, tr("Save chain &as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
                                    [this] { ask_save(true); }));
  file->addSeparator();
  need_source_.push_back(actions_.write = add_action(file, tr("&Write out the result"),
                                                     QKeySequence(Qt::CTRL | Qt::Key_E), [this] { write_or_show(); }));
  need_source_.push_back(
      add_action(file, tr("&Run over many pictures…"), QKeySequence(Qt::CTRL | Qt::Key_R), [this] { show_runs(); }));
  QMenu* report = file->addMenu(tr("Re&port"));
  need_source_.push_back(add_action(report, tr("&Save a report…"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_R),
                                    [this] { ask_report(); }));
  add_action(report, tr("&Choose a template…"), {}, [this] { ask_report_template(); });
  add_action(report, tr("&Without a template"), {}, [this] {
    QSettings("fexel", QCoreApplication::applicationName()).remove(QStringLiteral("report/template"));
    say(tr("Reports are made without a template from now on."));
  });
  need_source_.push_back(add_action(file, tr("Pr&int to scale…"), QKeySequence::Print, [this] { ask_print(); }));
  file->addSeparator();
  add_action(file, tr("&Quit"), QKeySequence::Quit, [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  undo_ = add_action(edit, tr("&Undo"), QKeySequence::Undo, [this] { document_.undo_stack().undo(); });
  redo_ = add_action(edit, tr("&Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z),
                     [this] { document_.undo_stack().redo(); });
  edit->addSeparator();
  need_source_.push_back(add_action(edit, tr("&Copy the picture of B"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_C),
                                    [this] { copy_picture(); }));
  add_action(edit, tr("&Paste a picture"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_V), [this] {
    if (!paste_picture()) say(tr("The clipboard holds no picture. Copy one, then paste it."));
  });

  QMenu* step = menuBar()->addMenu(tr("&Step"));
  actions_.add = add_key(step, tr("&Add a step…"), Qt::Key_Insert, [this] {
    const int selected = document_.selected_step();
    open_palette(selected < 0 ? static_cast<int>(document_.chain().steps.size()) : selected + 1);
  });
  need_step_.push_back(actions_.copy = add_key(step, tr("&Copy the step"), QKeySequence::Copy,
                                               [this] { QApplication::clipboard()->setText(document_.step_text()); }));
  actions_.paste = add_key(step, tr("&Paste steps"), QKeySequence::Paste, [this] {
    if (QApplication::clipboard()->text().isEmpty() && paste_picture()) return;
    try {
      document_.paste_steps(QApplication::clipboard()->text());
      say(QString());
    } catch (const Error& error) {
      say(error);
    }
  });
  need_step_.push_back(actions_.left = add_key(step, tr("Move the step &left"), QKeySequence(Qt::ALT | Qt::Key_Left),
                                               [this] { document_.move_selected_step(-1); }));
  need_step_.push_back(actions_.right = add_key(step, tr("Move the step &right"), QKeySequence(Qt::ALT | Qt::Key_Right),
                                                [this] { document_.move_selected_step(1); }));
  need_step_.push_back(actions_.rename =
                           add_key(step, tr("Re&name the step"), Qt::Key_F2, [this] { rail_->rename_selected(); }));
  actions_.remove = add_key(step, tr("&Remove the step"), Qt::Key_Delete, [this] {
    const auto handle = views_->active()->selected_handle();
    if (views_->active()->hasFocus() && handle && views_->active()->remove_handle(*handle)) return;
    document_.remove_selected_step();
  });
  need_step_.push_back(actions_.remove);
  step->addSeparator();
  for (const StepUi* ui : step_uis())
    need_source_.push_back(add_action(step, ui->texts().title, {}, [this, word = std::string(ui->word())] {
      const int selected = document_.selected_step();
      add_step(word, selected < 0
                         ? (document_.state().selected == 0 ? 0 : static_cast<int>(document_.chain().steps.size()))
                         : selected + 1);
    }));

  QMenu* measure = menuBar()->addMenu(tr("&Measure"));
  for (const MeasurementUi* ui : measurement_uis())
    actions_.measure.push_back(
        add_key(measure, ui->texts().action, ui->key(), [this, ui] { views_->ask_for_measurement(ui->word()); }));

  measure->addSeparator();
  QMenu* axes = measure->addMenu(tr("A&xes of B"));
  add_key(axes, tr("&Origin and x axis by a line…"), {}, [this] {
    views_->ask_for_line(tr("Press on the origin, and drag along the x axis"), document_.station_b(),
                         [this](Point from, Point to) {
                           set_axes(tr("axes"), [&](Axes& a, const Station& here) {
                             const PixelSize pixel = here.pixel.value_or(PixelSize{1, 1, "px"});
                             a.origin = from;
                             a.turn = std::atan2((from.y - to.y) * pixel.y, (to.x - from.x) * pixel.x) * 180 / M_PI;
                             a.right = true;
                           });
                         });
  });
  add_key(axes, tr("Origin in the &lower left corner, y up"), {}, [this] {
    set_axes(tr("axes"), [](Axes& a, const Station& here) {
      a = {{0, double(here.size.height)}, a.station, {}, true, true, 0};
    });
  });
  add_key(axes, tr("Origin in the &middle, y up"), {}, [this] {
    set_axes(tr("axes"), [](Axes& a, const Station& here) { a = {here.size.middle(), a.station, {}, true, true, 0}; });
  });
  add_key(axes, tr("y the other &way"), {},
          [this] { set_axes(tr("axes"), [](Axes& a, const Station&) { a.up = !a.up; }); });
  add_key(axes, tr("x the o&ther way"), {},
          [this] { set_axes(tr("axes"), [](Axes& a, const Station&) { a.right = !a.right; }); });
  add_key(axes, tr("&Values at the origin…"), {}, [this] {
    bool good = false;
    const Point now = document_.chain().axes ? document_.chain().axes->value : Point{};
    const QString text =
        QInputDialog::getText(this, tr("Values at the origin"), tr("x and y, apart by a blank:"), QLineEdit::Normal,
                              QString("%1 %2").arg(now.x, 0, 'g', 9).arg(now.y, 0, 'g', 9), &good);
    QString wrong;
    const auto numbers = fields::numbers_in(text, wrong);
    if (!good) return;
    if (!numbers || numbers->size() != 2) return say(tr("Give two numbers, such as 0 50."));
    set_axes(tr("axes"), [&](Axes& a, const Station&) { a.value = {(*numbers)[0], (*numbers)[1]}; });
  });
  add_key(axes, tr("&None: from the upper left corner"), {}, [this] {
    Chain chain = document_.chain();
    chain.axes.reset();
    if (!(chain == document_.chain())) document_.edit_chain(tr("axes"), chain);
  });
  add_key(measure, tr("S&nap its points to edges and corners"), Qt::Key_Q, [this] { snap_measurement(); });
  need_source_.push_back(add_action(measure, tr("Loa&d a set…"), {}, [this] { ask_load_measurements(); }));
  need_source_.push_back(add_action(measure, tr("&Save as a set…"), {}, [this] { ask_save_measurements(); }));
  need_source_.push_back(add_action(measure, tr("Copy the ta&ble as CSV"), {}, [this] { ledger_->copy_table(); }));

  measure->addSeparator();
  add_key(measure, tr("Mo&vement over the frames…"), Qt::Key_V, [this] { show_motion(); });

  build_frames_menu();
  QMenu* marks = menuBar()->addMenu(tr("Mar&ks"));
  const std::tuple<QString, QKeySequence, const char*> kinds[] = {
      {tr("&Scale bar"), Qt::Key_S, ScaleBarMark::word},
      {tr("&Text"), {}, TextMark::word},
      {tr("&Arrow…"), {}, ArrowMark::word},
      {tr("&Outline…"), {}, OutlineMark::word},
      {tr("&Inset, a part enlarged…"), {}, InsetMark::word},
      {tr("&Frame and time"), {}, TimeMark::word},
      {tr("&Measurements with their values"), {}, MeasurementsMark::word}};
  for (const auto& [text, key, word] : kinds)
    add_key(marks, text, key, [this, word = word] { inspector_->marks_page()->add(word); });
  marks->addSeparator();
  add_key(marks, tr("S&how or hide the marks"), Qt::Key_M,
          [this] { document_.session().show_marks(!document_.session().marks_shown()); });
  add_key(marks, tr("&Copy with marks: style and file"), {}, [this] {
    document_.select_tile(document_.tiles() - 1);
    document_.session().show_copy_page(true);
  });

  QMenu* view = menuBar()->addMenu(tr("&View"));
  actions_.fit = add_key(view, tr("&Fit"), Qt::Key_Home, [this] { views_->fit(); });
  actions_.one_to_one = add_key(view, tr("&1:1"), Qt::Key_End, [this] { views_->actual_pixels(); });
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
  actions_.flag_a =
      add_key(view, tr("Flag &A here"), Qt::Key_A, [this] { document_.set_flag(false, document_.state().selected); });
  actions_.flag_b =
      add_key(view, tr("Flag &B here"), Qt::Key_B, [this] { document_.set_flag(true, document_.state().selected); });
  actions_.keep =
      add_key(view, tr("&Keep what B shows, as A"), Qt::Key_K, [this] { views_->keep(views_->snapshot() == nullptr); });
  add_key(view, tr("Next fra&me"), Qt::Key_PageDown, [this] { show_frame(document_.frame() + 1); });
  add_key(view, tr("Pre&vious frame"), Qt::Key_PageUp, [this] { show_frame(document_.frame() - 1); });
  add_key(view, tr("Pla&y the frames"), Qt::Key_F8, [this] { frames_->play(!frames_->playing()); });
  actions_.proof = add_key(view, tr("&Proof sheet: one spot under every setting"), Qt::Key_P,
                           [this] { views_->open_proof_sheet(); });
  add_key(view, tr("Fold the &ledger"), Qt::Key_L, [this] { ledger_->set_folded(!ledger_->folded()); });
  add_action(view, tr("F&ull screen"), Qt::Key_F11, [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); });

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add_action(help, tr("&Guide"), QKeySequence(Qt::Key_F1), [this] { show_guide(); });
  add_action(help, tr("&Keys"), QKeySequence(Qt::CTRL | Qt::Key_F1), [this] { show_keys(); });
  const std::pair<QString, QString> demos[] = {
      {tr("Open the &demo: a wall seen from aside"), QStringLiteral("wall.fexel.json")},
      {tr("Demo: a scanned &card"), QStringLiteral("card.fexel.json")},
      {tr("Demo: a &roundel"), QStringLiteral("roundel.fexel.json")},
      {tr("Demo: a wall that dries, 1&6 frames"), QStringLiteral("drying.fexel.json")},
      {tr("Demo: a tile that &cracks, 13 frames"), QStringLiteral("crackle.fexel.json")},
      {tr("Demo: slip poured round a post, &8 pairs"), QStringLiteral("slip.fexel.json")},
      {tr("Demo: a film, passing by the &wall"), QStringLiteral("passing.fexel.json")},
      {tr("Demo: five &bands of a wall"), QStringLiteral("bands.fexel.json")},
      {tr("Demo: engraved &lines"), QStringLiteral("line-target.fexel.json")},
      {tr("Demo: a board from five &sides"), QStringLiteral("board.fexel.json")},
      {tr("Demo: an old record and a &plan"), QStringLiteral("survey.fexel.json")}};
  help->addSeparator();
  for (const auto& [name, chain] : demos)
    add_action(help, name, {}, [this, chain = chain] {
      if (may_leave()) open_demo(chain);
    });
  help->addSeparator();
  add_action(help, tr("Co&py diagnosis"), {}, [this] { copy_diagnosis(); });
  add_action(help, tr("&About"), {}, [this] { show_about(); });
}

void MainWindow::show_keys() {
  auto* sheet = new QDialog(this);
  sheet->setAttribute(Qt::WA_DeleteOnClose);
  sheet->setWindowTitle(tr("Keys"));
  // Side by side, so that all of it is on small screens as well.
  constexpr int rows = 22;
  auto* grid = new QGridLayout(sheet);
  grid->setHorizontalSpacing(12);
  int place = 0;
  const auto add = [&](const QString& keys, const QString& what) {
    const int row = place % rows, column = place / rows * 3;
    grid->addWidget(new QLabel("<b>" + keys + "</b>"), row, column);
    grid->addWidget(new QLabel(what), row, column + 1);
    if (column > 0) grid->setColumnMinimumWidth(column - 1, 24);
    ++place;
  };
  for (const QAction* menu : menuBar()->actions())
    for (const QAction* action : menu->menu()->actions())
      if (!action->shortcut().isEmpty())
        add(action->shortcut().toString(QKeySequence::NativeText),
            QString(action->text()).remove('&').section(": ", 0, 0));
  add(tr("Tab, arrows"), tr("next handle; move it by 1 px (Shift 0.1, Ctrl 10)"));
  add(tr("Arrows"), tr("along the rail; without a handle, carry the picture"));
  add(tr("Escape"), tr("put back what is in the hand; leave a length or a line that was begun"));
  add(tr("Space"), tr("hold to pan"));
  add(tr("X"), tr("hold to see the other of A and B (view One)"));
  add(tr("Wheel"), tr("zoom at the pointer"));
  sheet->show();
}

namespace {

/// A menu that goes when it is left. Entries of the bar keep their keys in it.
QMenu* menu_at(QWidget* parent) {
  auto* menu = new QMenu(parent);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  return menu;
}

}  // namespace

void MainWindow::show_picture_menu(PictureView& view, QPoint global) {
  if (!document_.source()) return;
  view.setFocus();
  const QPointF at = view.mapFromGlobal(global);
  const auto handle = view.handle_near(at);
  const int measurement =
      handle && handle->kind == Handle::Kind::measurement ? handle->owner : view.measurement_near(at);
  QMenu* menu = menu_at(this);
  if (measurement >= 0) {
    document_.session().select_measurement(measurement);
    menu->addSection(text_of(document_.chain().measurements[static_cast<std::size_t>(measurement)].name));
    add_measurement_entries(*menu, measurement);
  } else if (handle && handle->kind == Handle::Kind::mark) {
    menu->addAction(tr("Remove the mark"), this, [&view, handle] { view.remove_handle(*handle); });
  } else if (handle && handle->kind == Handle::Kind::mask) {
    menu->addAction(tr("Remove the mask or its corner"), this, [&view, handle] { view.remove_handle(*handle); });
  } else {
    menu->addActions({actions_.measure.begin(), actions_.measure.end()});
    const Point here = point_of(view.to_station(at));
    menu->addAction(tr("Copy the position"), this, [here] {
      QApplication::clipboard()->setText(QString("%1\t%2").arg(here.x, 0, 'f', 2).arg(here.y, 0, 'f', 2));
    });
    menu->addSeparator();
    for (QAction* action : {actions_.fit, actions_.one_to_one, actions_.keep, actions_.proof, actions_.figure})
      menu->addAction(action);
    menu->addSeparator();
    menu->addAction(actions_.add);
    menu->addAction(actions_.write);
  }
  menu->popup(global);
}

void MainWindow::add_measurement_entries(QMenu& menu, int measurement) {
  menu.addAction(tr("Rename it"), this,
                 [this, measurement] { ledger_->edit_measurement(measurement, MeasurementModel::name); });
  menu.addAction(tr("Say its true length"), this,
                 [this, measurement] { ledger_->edit_measurement(measurement, MeasurementModel::expected); });
  menu.addAction(tr("Snap its points to edges and corners"), this, &MainWindow::snap_measurement);
  menu.addAction(tr("Remove it"), this, [this, measurement] { document_.remove_measurement(measurement); });
}

void MainWindow::show_tile_menu(int tile, QPoint global) {
  if (!document_.source()) return;
  document_.select_tile(tile);
  QMenu* menu = menu_at(this);
  const int index = document_.selected_step();
  if (index >= 0) {
    const bool on = document_.chain().steps[static_cast<std::size_t>(index)].on;
    menu->addAction(on ? tr("Switch off") : tr("Switch on"), this, [this, index, on] {
      Chain chain = document_.chain();
      chain.steps[static_cast<std::size_t>(index)].on = !on;
      document_.edit_chain(on ? tr("switch off") : tr("switch on"), chain);
    });
    for (QAction* action : {actions_.rename, actions_.copy, actions_.left, actions_.right, actions_.remove})
      menu->addAction(action);
    menu->addSeparator();
  }
  for (QAction* action : {actions_.flag_a, actions_.flag_b}) menu->addAction(action);
  menu->addSeparator();
  if (document_.is_result_tile(tile))
    menu->addAction(actions_.write);
  else
    menu->addAction(actions_.add);
  menu->addAction(actions_.paste);
  menu->popup(global);
}

void MainWindow::show_ledger_menu(int measurement, QPoint global) {
  QMenu* menu = menu_at(this);
  if (measurement >= 0) add_measurement_entries(*menu, measurement);
  menu->addActions({actions_.measure.begin(), actions_.measure.end()});
  menu->addAction(tr("Copy the table as CSV"), ledger_, &Ledger::copy_table);
  menu->popup(global);
}

void MainWindow::show_frame_menu(int frame, QPoint global) {
  if (frame < 0 || frame >= static_cast<int>(document_.frames().size())) return;
  const auto index = static_cast<std::size_t>(frame);
  QMenu* menu = menu_at(this);
  menu->addAction(tr("Show this frame"), this, [this, frame] { show_frame(frame); });
  const bool out = left_out(document_.chain(), document_.frames())[index];
  menu->addAction(out ? tr("Take this frame in") : tr("Leave this frame out"), this, [this, index, out] {
    document_.edit_chain(out ? tr("take a frame in") : tr("leave a frame out"),
                         with_left_out(document_.chain(), document_.frames(), index, !out));
  });
  menu->addAction(tr("Copy its file name"), this, [this, index] {
    QApplication::clipboard()->setText(QString::fromStdString(document_.frames()[index].path.string()));
  });
  menu->popup(global);
}

}  // namespace fexel
