/// The window in a person's hands: keys after every field and button, numbers that are typed over, menus, what stays in
/// its place.
#include <catch2/catch.hpp>

#include <QProcess>

#include "app/canvas/drawing.h"
#include "app/canvas/picture_view.h"
#include "app/document/renderer.h"
#include "app/pipeline/step_palette.h"
#include "app/pipeline/tile.h"
#include "demo/demo.h"
#include "tests/window/desk.h"
#include "text/json.h"

using namespace fexel;

namespace {

/// The pages that there are: the source's, each step's, the result's.
std::vector<std::string> all_pages() {
  std::vector<std::string> out{"source"};
  for (const StepUi* ui : step_uis()) out.emplace_back(ui->word());
  out.emplace_back("result");
  return out;
}

void show_page(test::Desk& desk, const std::string& page) {
  if (page == "source") return desk.document().select_tile(0);
  if (page == "result") return desk.document().select_tile(desk.document().tiles() - 1);
  desk.document().insert_step(page, static_cast<int>(desk.document().chain().steps.size()));
  QTest::qWait(20);
}

template <class Widget>
std::vector<QPointer<Widget>> fields_of(test::Desk& desk) {
  std::vector<QPointer<Widget>> out;
  for (Widget* widget : desk.window.inspector().findChildren<Widget*>())
    if (widget->isVisible() && widget->isEnabled() && !widget->accessibleName().isEmpty()) out.push_back(widget);
  return out;
}

/// Keys that are the window's wherever the keyboard is, and whether each of them did what its menu says.
class Keys {
 public:
  explicit Keys(test::Desk& desk) : desk_(desk) {
    const std::pair<const char*, QKeySequence> keys[] = {{"Add a step…", QKeySequence(Qt::Key_Insert)},
                                                         {"Length along a known length", QKeySequence(Qt::Key_G)},
                                                         {"Fit", QKeySequence(Qt::Key_Home)},
                                                         {"1:1", QKeySequence(Qt::Key_End)},
                                                         {"Next frame", QKeySequence(Qt::Key_PageDown)},
                                                         {"Previous frame", QKeySequence(Qt::Key_PageUp)}};
    for (const auto& [text, key] : keys) {
      // Steps may be called as a key's entry is; they have none.
      for (QAction* action : desk.window.findChildren<QAction*>())
        if (QString(action->text()).remove('&') == text && action->shortcut() == key) actions_.push_back(action);
      INFO(text);
      REQUIRE_FALSE(actions_.empty());
      REQUIRE(actions_.back()->shortcut() == key);
    }
  }
  /// The names of those that did not act.
  QStringList dead() {
    QStringList out;
    for (QAction* action : actions_) {
      QSignalSpy acted(action, &QAction::triggered);
      press(action->shortcut()[0]);
      if (acted.count() != 1) out << action->text();
      if (desk_.window.palette_sheet().isVisible()) desk_.window.palette_sheet().hide();
    }
    QTest::keyClick(target(), Qt::Key_Escape);  // the measurement that was begun
    const int page = desk_.document().state().selected;
    QSignalSpy written(test::action(desk_, "Write out the result"), &QAction::triggered);
    press(QKeyCombination(Qt::ControlModifier, Qt::Key_E));
    if (written.count() != 1) out << "Write out the result";
    desk_.wait();
    desk_.document().select_tile(page);
    QTest::qWait(1);
    QAction* undo = undo_action();
    if (!undo->isEnabled()) return out;
    QSignalSpy undone(undo, &QAction::triggered);
    press(undo->shortcut()[0]);
    if (undone.count() != 1) out << undo->text();
    desk_.document().undo_stack().redo();
    return out;
  }

 private:
  QWidget* target() const {
    QWidget* focus = QApplication::focusWidget();
    return focus ? focus : &desk_.window;
  }
  void press(QKeyCombination key) const {
    QTest::keyClick(target(), key.key(), key.keyboardModifiers());
    QTest::qWait(1);
  }
  QAction* undo_action() const {
    for (QAction* action : desk_.window.findChildren<QAction*>())
      if (action->shortcut() == QKeySequence(QKeySequence::Undo)) return action;
    FAIL("nothing undoes");
    return nullptr;
  }
  test::Desk& desk_;
  std::vector<QAction*> actions_;
};

QMenu* open_menu() {
  QMenu* menu = nullptr;
  REQUIRE(QTest::qWaitFor([&] { return (menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) != nullptr; },
                          2000));
  return menu;
}

void choose_in(test::Desk& desk, QMenu* menu, const QString& text) {
  for (QAction* action : menu->actions())
    if (QString(action->text()).remove('&') == text) {
      REQUIRE(action->isEnabled());
      // As a click does: the menu is gone, and the window has the keyboard, before what was chosen happens.
      menu->setAttribute(Qt::WA_DeleteOnClose, false);
      menu->close();
      QTest::qWait(50);
      desk.front();
      action->trigger();
      menu->deleteLater();
      QTest::qWait(20);
      return;
    }
  QStringList texts;
  for (QAction* action : menu->actions()) texts << action->text();
  FAIL("no entry " << text.toStdString() << " among " << texts.join(", ").toStdString());
}

void right_click(QWidget* widget, QPoint at) {
  QContextMenuEvent event(QContextMenuEvent::Mouse, at, widget->mapToGlobal(at));
  QApplication::sendEvent(widget, &event);
}

}  // namespace

TEST_CASE("after Return in every field of every page the window's keys act", "[window][use]") {
  for (const std::string& page : all_pages()) {
    test::Desk desk;
    show_page(desk, page);
    desk.wait();
    Keys keys(desk);
    int tried = 0;
    for (const auto& field : fields_of<QWidget>(desk)) {
      if (!field || !field->isVisible() || !field->isEnabled()) continue;
      auto* spin = qobject_cast<QAbstractSpinBox*>(field.data());
      auto* line = qobject_cast<QLineEdit*>(field.data());
      if (line && qobject_cast<QAbstractSpinBox*>(line->parent())) continue;
      if (!spin && !line) continue;
      const QString name = field->accessibleName();
      INFO(page << ": " << name.toStdString());
      field->setFocus();
      if (spin) {
        spin->selectAll();
        QTest::keyClicks(field, "3");
      }
      QTest::keyClick(field, Qt::Key_Return);
      desk.wait();
      QTest::qWait(5);
      const QStringList dead = keys.dead();
      INFO("dead: " << dead.join(", ").toStdString());
      CHECK(dead.isEmpty());
      ++tried;
    }
    INFO(page);
    // Pages that turn or mirror have buttons alone.
    if (page == "result" || page == "rectify" || page == "rotate") CHECK(tried > 0);
  }
}

TEST_CASE("after a click on every button of every page the window's keys act", "[window][use]") {
  // These ask for a file.
  const QStringList dialogs{"Choose the file to write", "Apply the transforms to another stack…"};
  for (const std::string& page : all_pages()) {
    test::Desk desk;
    show_page(desk, page);
    desk.wait();
    Keys keys(desk);
    for (const auto& button : fields_of<QAbstractButton>(desk)) {
      if (!button || !button->isVisible() || !button->isEnabled()) continue;
      const QString name = button->accessibleName();
      if (dialogs.contains(name)) continue;
      INFO(page << ": " << name.toStdString());
      QTest::mouseClick(button, Qt::LeftButton);
      desk.wait();
      CHECK(QTest::qWaitFor([&] { return !button || button->isEnabled() || !button->isVisible(); }, 10000));
      const QStringList dead = keys.dead();
      INFO("dead: " << dead.join(", ").toStdString());
      CHECK(dead.isEmpty());
      desk.window.views().set_mode(ViewArea::Mode::side_by_side);
    }
  }
}

TEST_CASE("in every number a double click takes all of it, and Escape puts it back", "[window][use]") {
  int tried = 0;
  for (const std::string& page : all_pages()) {
    test::Desk desk;
    show_page(desk, page);
    desk.wait();
    for (const auto& spin : fields_of<QDoubleSpinBox>(desk)) {
      if (!spin || !spin->isVisible() || !spin->isEnabled()) continue;
      INFO(page << ": " << spin->accessibleName().toStdString());
      const double before = spin->value();
      const QString text = spin->text();
      auto* line = spin->findChild<QLineEdit*>();
      REQUIRE(line);
      spin->setFocus();
      QTest::mouseDClick(line, Qt::LeftButton, {}, QPoint(line->width() / 2, line->height() / 2));
      // All but the unit, which stays.
      CHECK(text.startsWith(line->selectedText()));
      CHECK(line->selectedText().size() >= text.size() - spin->suffix().size());
      QTest::keyClicks(spin, "1.7");
      QTest::keyClick(spin, Qt::Key_Escape);
      QTest::qWait(2);
      CHECK(spin->value() == before);
      CHECK(spin->text() == text);
      ++tried;
    }
  }
  CHECK(tried > 40);
}

TEST_CASE("a place that was found from afar is less sure, and said so", "[window][use]") {
  test::Desk desk;
  desk.window.views().set_mode(ViewArea::Mode::one);
  PictureView* view = desk.b();
  const auto lay = [&](double zoom) {
    view->look_at({400, 300}, zoom);
    view->setFocus();
    QTest::keyClick(view, Qt::Key_G);
    desk.drag(view, view->to_widget({300, 300}), view->to_widget({500, 300}));
    return desk.document().chain().measurements.back();
  };
  const Measurement far = lay(0.25), near = lay(2);
  CHECK(far.picking == std::vector{2.0, 2.0});  // half a pixel of the screen, 4 px of the source wide
  CHECK(near.picking == std::vector{0.5, 0.5});
  const auto& readings = desk.document().readings(0);
  CHECK(*readings[0].uncertainty == Approx(2 * std::sqrt(2)).epsilon(1e-6));
  CHECK(*readings[1].uncertainty == Approx(0.5 * std::sqrt(2)).epsilon(1e-6));
  const auto said = [&] { return desk.named<QLabel>("Measurements in short")->text(); };
  CHECK(said().contains("0.5 to 2 px"));
  CHECK(said().contains("zoom in to place the points of “length 1” better"));
  // Placed again from near, both ends are as sure.
  desk.document().session().select_measurement(0);
  view->look_at({300, 300}, 2);
  desk.drag(view, view->to_widget({far.points[0].x, far.points[0].y}), view->to_widget({300, 300}));
  view->look_at({500, 300}, 2);
  desk.drag(view, view->to_widget({far.points[1].x, far.points[1].y}), view->to_widget({500, 300}));
  CHECK(desk.document().chain().measurements[0].picking == std::vector{0.5, 0.5});
  CHECK_FALSE(said().contains("zoom in"));
}

TEST_CASE("a corner that was dragged from afar is less sure than one from near", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.document().set_flag(false, 0);
  PictureView* view = desk.a();
  view->look_at({400, 300}, 0.25);
  desk.drag(view, view->to_widget(test::q(test::photo_corners[0])),
            view->to_widget(test::q(test::photo_corners[0]) + QPointF(8, 4)));
  CHECK(desk.rectify().picking[0] == 2);
  CHECK(desk.rectify().picking[1] == 0.5);
  const std::string text = write_chain(desk.document().chain());
  CHECK(parse_chain(text) == desk.document().chain());
}

TEST_CASE("buttons of the result's page keep their places, and replacing is another button", "[window][use]") {
  test::Desk desk;
  desk.document().select_tile(desk.document().tiles() - 1);
  QTest::qWait(50);
  auto* write = desk.named<QPushButton>("Write out");
  auto* replace = desk.named<QPushButton>("Replace the existing file");
  const auto places = [&] {
    return std::pair(write->mapTo(&desk.window, QPoint()), replace->mapTo(&desk.window, QPoint()));
  };
  const auto before = places();
  CHECK_FALSE(replace->isEnabled());
  const QPoint at = write->mapTo(&desk.window, write->rect().center());
  const auto click_there = [&] {
    QWidget* under = desk.window.childAt(at);
    REQUIRE(under == write);
    QTest::mouseClick(under, Qt::LeftButton);
    desk.wait();
    QTest::qWait(50);
  };
  click_there();
  CHECK(places() == before);
  const auto path = desk.window.inspector().result_page()->path().toStdString();
  REQUIRE(std::filesystem::exists(path));
  const std::string first = checksum(path);
  write_text(path, "something of mine", true);
  click_there();
  CHECK(places() == before);
  CHECK(replace->isEnabled());
  click_there();  // once more at the same place: still nothing is replaced
  CHECK(read_text(path) == "something of mine");
  QTest::mouseClick(replace, Qt::LeftButton);
  desk.wait();
  CHECK(checksum(path) == first);
  CHECK_FALSE(replace->isEnabled());
  // The source is never offered.
  desk.window.inspector().result_page()->set_path(QString::fromStdString(desk.photo));
  click_there();
  CHECK_FALSE(replace->isEnabled());
}

TEST_CASE("one picture on both sides has one scale", "[window][use]") {
  test::Desk desk;
  ViewArea& views = desk.window.views();
  const auto zoom = [&] { return desk.named<QLabel>("Zoom")->text(); };
  views.fit();
  QTest::qWait(20);
  CHECK(desk.a()->zoom() == desk.b()->zoom());
  CHECK_FALSE(zoom().contains("A "));
  views.set_mode(ViewArea::Mode::one);
  desk.b()->look_at({200, 150}, 3);
  Q_EMIT desk.b()->looked(desk.b());
  views.set_mode(ViewArea::Mode::side_by_side);
  QTest::qWait(20);
  CHECK(desk.a()->zoom() == Approx(3));
  CHECK(desk.b()->zoom() == Approx(3));
  CHECK(std::hypot(desk.a()->centre().x() - 200, desk.a()->centre().y() - 150) < 1);
  CHECK(zoom().contains("300"));
  CHECK_FALSE(zoom().contains("A "));
}

TEST_CASE("in the view of one picture the shown station has its handles", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.document().set_flag(false, 0);
  desk.window.views().set_mode(ViewArea::Mode::one);
  CHECK(desk.b()->handles().empty());  // of the result, which the corners made
  desk.window.views().flip();
  CHECK(desk.b()->handles().size() == 4);
  desk.window.views().flip();
  desk.window.views().show_other(true);
  CHECK(desk.b()->handles().size() == 4);
  desk.window.views().show_other(false);
  desk.document().set_flag(true, 0);
  QTest::qWait(20);
  CHECK(desk.b()->handles().size() == 4);
}

TEST_CASE("a right click offers what can be done there", "[window][use]") {
  test::Desk desk;
  Document& document = desk.document();
  const auto at = [&](PictureView* view, Point p) { return view->to_widget(test::q(p)).toPoint(); };
  SECTION("on a picture") {
    right_click(desk.a(), at(desk.a(), {400, 300}));
    choose_in(desk, open_menu(), "Copy the position");
    const QStringList words = QApplication::clipboard()->text().split('\t');
    REQUIRE(words.size() == 2);
    CHECK(std::abs(words[0].toDouble() - 400) < 2);
    CHECK(std::abs(words[1].toDouble() - 300) < 2);
    right_click(desk.a(), at(desk.a(), {400, 300}));
    choose_in(desk, open_menu(), "1:1");
    CHECK(desk.a()->zoom() == Approx(1));
  }
  SECTION("on a length, on the picture and in the table") {
    Chain chain = document.chain();
    chain.measurements = {length_measurement("bar", 0, {200, 200}, {500, 200}, {}, "mm"),
                          length_measurement("rod", 0, {200, 400}, {500, 400}, {}, "mm")};
    document.edit_chain("lengths", chain);
    QTest::qWait(20);
    right_click(desk.a(), at(desk.a(), {300, 400}));
    CHECK(document.session().measurement() == 1);
    choose_in(desk, open_menu(), "Say its true length");
    QTableView* table = desk.window.ledger().table();
    auto* editor = table->findChild<QLineEdit*>();
    REQUIRE(editor);
    CHECK(editor->isVisible());
    CHECK(editor->hasFocus());
    QTest::keyClicks(editor, "75 mm");
    QTest::keyClick(editor, Qt::Key_Return);
    QTest::qWait(20);
    CHECK(std::get<LengthMeasurement>(document.chain().measurements[1].kind).expected == 75);
    const QPoint row = table->visualRect(table->model()->index(0, 1)).center();
    Q_EMIT table->customContextMenuRequested(row);
    choose_in(desk, open_menu(), "Remove it");
    REQUIRE(document.chain().measurements.size() == 1);
    CHECK(document.chain().measurements[0].name == "rod");
  }
  SECTION("on a tile") {
    document.insert_step("mirror", 0);
    QTest::qWait(20);
    Tile* tile = desk.window.rail().tiles()[1];
    right_click(tile, tile->rect().center());
    choose_in(desk, open_menu(), "Switch off");
    CHECK_FALSE(document.chain().steps[0].on);
    tile = desk.window.rail().tiles()[1];
    right_click(tile, tile->rect().center());
    choose_in(desk, open_menu(), "Remove the step");
    CHECK(document.chain().steps.empty());
  }
  SECTION("on a frame") {
    std::vector<Image> pages;
    for (unsigned i = 1; i <= 3; ++i) pages.push_back(test::noise(60, 40, 1, Depth::u8, i));
    write_pictures(desk.scratch / "stack.tif", pages, {});
    desk.open((desk.scratch / "stack.tif").string());
    QListWidget* list = desk.named<QListWidget>("Frames");
    Q_EMIT list->customContextMenuRequested(list->visualItemRect(list->item(1)).center());
    choose_in(desk, open_menu(), "Leave this frame out");
    CHECK(left_out(document.chain(), document.frames()) == std::vector<bool>{false, true, false});
    document.insert_step("align", 0);
    QTest::qWait(50);
    QTableView* table = desk.window.ledger().frames()->table();
    Q_EMIT table->customContextMenuRequested(table->visualRect(table->model()->index(1, 0)).center());
    choose_in(desk, open_menu(), "Take this frame in");
    CHECK(left_out(document.chain(), document.frames()) == std::vector<bool>{false, false, false});
  }
}

TEST_CASE("a length is moved by its middle and keeps its length", "[window][use]") {
  test::Desk desk;
  Chain chain = desk.document().chain();
  chain.measurements = {length_measurement("bar", 0, {200, 200}, {500, 240}, {}, "mm")};
  desk.document().edit_chain("length", chain);
  desk.document().session().select_measurement(0);
  desk.window.views().set_mode(ViewArea::Mode::one);
  PictureView* view = desk.b();
  view->look_at({400, 300}, 1);
  desk.drag(view, view->to_widget({350, 220}), view->to_widget({380, 300}));
  const Measurement& moved = desk.document().chain().measurements[0];
  CHECK(distance(moved.points[0], {230, 280}) < 1.5);
  CHECK(distance(moved.points[1], {530, 320}) < 1.5);
  CHECK(distance(moved.points[0], moved.points[1]) == Approx(std::hypot(300, 40)));
  desk.document().undo_stack().undo();
  CHECK(desk.document().chain().measurements[0].points[0] == Point{200, 200});
}

TEST_CASE("with six steps the result's tile and its flag stay in reach", "[window][use]") {
  test::Desk desk;
  for (const char* word : {"rotate", "crop", "resize", "mirror", "translate", "denoise"}) {
    desk.document().insert_step(word, static_cast<int>(desk.document().chain().steps.size()));
    QTest::qWait(20);
    for (Tile* tile : {desk.window.rail().tiles().back(),
                       desk.window.rail().tiles()[static_cast<std::size_t>(desk.document().state().selected)]}) {
      const QRect on_window(tile->mapTo(&desk.window, QPoint()), tile->size());
      INFO(word << " " << on_window.left() << " to " << on_window.right());
      CHECK(desk.window.rect().contains(on_window));
    }
  }
  QTest::mouseClick(desk.window.rail().tiles().back(), Qt::LeftButton);
  CHECK(desk.document().is_result_tile(desk.document().state().selected));
}

TEST_CASE("undo, badges and pages name steps as the window does", "[window][use]") {
  test::Desk desk;
  Document& document = desk.document();
  document.insert_step("local-contrast", 0);
  document.insert_step("translate", 1);
  desk.type("right", "4");
  CHECK(document.undo_stack().undoText() == "translate");
  document.select_tile(1);
  document.remove_selected_step();
  CHECK(document.undo_stack().undoText() == QString("remove %1").arg(step_title("local-contrast").toLower()));
  document.undo_stack().undo();
  document.rename_step(1, "register mark");
  document.select_tile(2);
  QTest::qWait(80);
  CHECK(desk.named<QLabel>("What the page is of")->text() == "register mark (translate)");
  document.remove_selected_step();
  CHECK(document.undo_stack().undoText() == "remove “register mark”");
}

TEST_CASE("outside the source: filled with what, is said and typed", "[window][use]") {
  test::Desk desk;
  desk.document().select_tile(desk.document().tiles() - 1);
  QTest::qWait(30);
  auto* fill = desk.named<QLineEdit>("Value outside the source");
  CHECK(fill->text() == "0");
  fill->setFocus();
  fill->selectAll();
  QTest::keyClicks(fill, "128");
  QTest::keyClick(fill, Qt::Key_Return);
  CHECK(desk.document().chain().resampling.fill == std::vector<double>{128});
  fill->setText("1, 2");
  Q_EMIT fill->editingFinished();
  CHECK(desk.document().chain().resampling.fill == std::vector<double>{128});
  CHECK(test::said(desk).contains("one for each of 1 bands"));
  auto* edge = desk.named<QComboBox>("BorderMode rule");
  edge->setFocus();
  QTest::keyClicks(edge, "mirror");
  QTest::qWait(20);
  CHECK_FALSE(fill->isVisible());
}

TEST_CASE("proposing again gives the next rectangle", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.document().select_tile(1);
  QTest::qWait(30);
  const auto propose = [&] {
    const Quad before = desk.rectify().corners;
    auto* button = desk.named<QPushButton>("Propose a rectangle");
    QTest::mouseClick(button, Qt::LeftButton);
    REQUIRE(QTest::qWaitFor([&] { return desk.rectify().corners != before; }, 10000));
    return desk.rectify().corners;
  };
  const Quad first = propose();
  // Found in a reduced picture, its corners are less sure than a hand's.
  for (const double sigma : desk.rectify().picking) CHECK(sigma >= 1);
  const Quad second = propose();
  CHECK(first != second);
  for (int i = 0; i < 10 && desk.rectify().corners != first; ++i) propose();
  CHECK(desk.rectify().corners == first);  // after the last one
}

TEST_CASE("two pairs that begin at one place are named, and both pictures keep their handles", "[window][use]") {
  test::Desk desk;
  test::add<FitStep>(desk);
  Chain chain = desk.document().chain();
  auto& fit = std::get<FitStep>(chain.steps[0].kind);
  fit.model = Model::thin_plate;
  fit.pairs = {{{100, 100}, {110, 100}, "", true},
               {{600, 120}, {610, 120}, "", true},
               {{300, 500}, {310, 500}, "well", true},
               {{300, 500}, {330, 520}, "", true}};
  desk.document().edit_chain("fit", chain);
  QTest::qWait(100);
  CHECK(desk.named<QLabel>("What is wrong")->text().contains("Pairs well and 4 begin at the same place"));
  CHECK(desk.a()->handles().size() == 4);
  CHECK(desk.b()->handles().size() == 4);
  // Drawn apart in A, the fit is made again.
  const PictureView* a = desk.a();
  desk.drag(desk.a(), a->to_widget({300, 500}), a->to_widget({280, 480}));
  CHECK_FALSE(desk.document().layout().stations[1].problem);
}

TEST_CASE("the same steps with a smaller picture say whose points lie outside", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  const auto small = desk.scratch / "small.png";
  write_pictures(small, test::one_page(test::noise(400, 300, 1, Depth::u8)), {Format::png, {}, false, {}});
  desk.window.open_file(QString::fromStdString(small.string()), true);
  desk.wait();
  CHECK(desk.window.notice().contains("400 × 300"));
  CHECK(desk.window.notice().contains("step 1, rectify"));
  desk.window.open_file(QString::fromStdString(desk.photo), true);
  desk.wait();
  CHECK_FALSE(desk.window.notice().contains("outside"));
}

TEST_CASE("the proof sheet of a pad with a rule of its own shows that rule's kinds", "[window][use]") {
  test::Desk desk;
  test::add<PadStep>(desk);
  Chain chain = desk.document().chain();
  auto& pad = std::get<PadStep>(chain.steps[0].kind);
  pad = {80, 80, 80, 80, BorderMode::mirror, {}};
  desk.document().edit_chain("pad", chain);
  QTest::qWait(50);
  ProofSheet* sheet = test::open_proof_sheet(desk);
  QTest::mouseClick(desk.named<QPushButton>("Choice: edge rule"), Qt::LeftButton);
  const auto cells = sheet->findChildren<ProofCell*>();
  std::vector<QImage> pictures;
  REQUIRE(QTest::qWaitFor(
      [&] {
        pictures.clear();
        for (ProofCell* cell : sheet->findChildren<ProofCell*>())
          if (cell->isVisible() && !cell->picture().isNull()) pictures.push_back(cell->picture());
        return pictures.size() == 5;
      },
      10000));
  for (std::size_t i = 0; i < pictures.size(); ++i)
    for (std::size_t j = i + 1; j < pictures.size(); ++j) {
      INFO(i << " and " << j);
      CHECK(pictures[i] != pictures[j]);
    }
}

TEST_CASE("floating-point pictures open in the range of their data, sensors in theirs", "[window][use]") {
  test::Desk desk;
  // So large that it is shown reduced: one pixel of many is the brightest.
  Image floats(1600, 1200, 1, Depth::f32);
  for (int y = 0; y < 1200; ++y)
    for (int x = 0; x < 1600; ++x) floats.row<float>(0, y)[x] = static_cast<float>(-20 + x / 40);
  floats.row<float>(0, 700)[900] = 97;
  write_pictures(desk.scratch / "f.tif", test::one_page(std::move(floats)), {});
  desk.open((desk.scratch / "f.tif").string());
  REQUIRE(desk.window.views().range());
  CHECK(desk.window.views().range()->first == -20);
  CHECK(desk.window.views().range()->second == 97);
  CHECK(desk.named<QPushButton>("Display range: Range of the data \u221220 – 97")->isVisible());
  std::string sensor = "P5\n2 1\n1023\n";
  sensor += std::string("\x03\xff\x01\xff", 4);
  write_text(desk.scratch / "s.pgm", sensor, true);
  desk.open((desk.scratch / "s.pgm").string());
  CHECK_FALSE(desk.window.views().range());
  const QImage shown = to_screen(desk.document().source()->pixels->base());
  CHECK(qRed(shown.pixel(0, 0)) == 255);
  CHECK(std::abs(qRed(shown.pixel(1, 0)) - 127) <= 1);
}

TEST_CASE("frames are pairs by order where the source's page says so", "[window][use]") {
  test::Desk desk;
  std::vector<Image> pages;
  for (unsigned i = 1; i <= 4; ++i) pages.push_back(test::noise(60, 40, 1, Depth::u8, i));
  write_pictures(desk.scratch / "stack.tif", pages, {});
  desk.open((desk.scratch / "stack.tif").string());
  desk.document().select_tile(0);
  QTest::qWait(30);
  const auto label = [&](int i) { return desk.named<QListWidget>("Frames")->item(i)->text(); };
  CHECK(label(2).startsWith("3 "));
  auto* pairs = desk.named<QComboBox>("Pairs of frames");
  pairs->setFocus();
  QTest::keyClick(pairs, Qt::Key_Down);
  REQUIRE(desk.document().chain().pairing == Pairing::order);
  REQUIRE(QTest::qWaitFor([&] { return label(2).startsWith("2 a"); }, 3000));
  CHECK(label(3).startsWith("2 b"));
  CHECK(parse_chain(write_chain(desk.document().chain())).pairing == Pairing::order);
  desk.document().undo_stack().undo();
  REQUIRE(QTest::qWaitFor([&] { return label(2).startsWith("3 "); }, 3000));
}

TEST_CASE("labels of lengths keep clear of each other and of handles", "[window][use]") {
  std::vector<QRectF> taken;
  const QRectF room(0, 0, 400, 300);
  // Three measurements that nearly lie on each other.
  for (int i = 0; i < 3; ++i) {
    const QLineF line(100, 150 + 4 * i, 300, 150 + 4 * i);
    const QPointF at = drawing::free_place(line, "123.4 mm", room, taken);
    const QRectF box = drawing::label_box(at, "123.4 mm");
    CHECK(room.contains(box));
    for (const QRectF& other : taken) CHECK_FALSE(other.intersects(box));
    taken.push_back(box);
  }
}

TEST_CASE("a demo whose own set is there is opened, and no other is rendered for it", "[window][use]") {
  test::Desk desk;
  const auto folder =
      std::filesystem::path(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString()) / "demo";
  std::filesystem::remove_all(folder);
  std::filesystem::create_directories(folder);
  // A set as rendering leaves it, only smaller.
  write_text(folder / "truth.json", to_text(Json{{"version", demo_version}, {"roundel", Json::object()}}, 2), false);
  write_pictures(folder / "roundel.png", test::one_page(test::noise(40, 30, 3, Depth::u8)),
                 {Format::png, {}, false, {}});
  Chain chain;
  chain.sources.push_back({"roundel.png", {}});
  write_text(folder / "roundel.fexel.json", write_chain(chain), false);
  desk.window.open_demo("roundel.fexel.json");
  desk.wait();
  CHECK(desk.document().source()->info.width == 40);
  std::filesystem::remove_all(folder);
}

TEST_CASE("a length that was asked for is laid on either picture", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.a()->setFocus();
  for (const bool on_b : {true, false}) {
    QTest::keyClick(desk.a(), Qt::Key_G);
    PictureView* view = on_b ? desk.b() : desk.a();
    const QPointF middle(view->width() / 2.0, view->height() / 2.0);
    desk.drag(view, middle - QPointF(60, 0), middle + QPointF(60, 0));
    REQUIRE(desk.document().chain().measurements.size() == (on_b ? 1 : 2));
    CHECK(desk.document().chain().measurements.back().station == view->station());
    // The other one has nothing in the hand any more: a drag moves the picture.
    PictureView* other = on_b ? desk.a() : desk.b();
    const QPointF at(other->width() / 2.0, 60);
    desk.drag(other, at, at + QPointF(30, 30));
    CHECK(desk.document().chain().measurements.size() == (on_b ? 1 : 2));
    desk.window.views().fit();
    desk.a()->setFocus();
  }
}

TEST_CASE("on the rectify page nothing moves when the sides are typed or a rectangle is proposed", "[window][use]") {
  test::Desk desk;
  QTest::keyClick(desk.a(), Qt::Key_Insert);
  QTest::keyClicks(QApplication::focusWidget(), "rectify");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  QTest::qWait(50);
  const auto places = [&] {
    std::vector<QPoint> out;
    for (const char* name : {"Propose a rectangle", "Corners from edges", "Pixel size: all detail"})
      out.push_back(desk.named<QPushButton>(name)->mapTo(&desk.window, QPoint()));
    return out;
  };
  const auto before = places();
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QPushButton>("Propose a rectangle")->isEnabled(); }, 10000));
  QTest::qWait(100);
  CHECK(places() == before);
  desk.type("Width of the real rectangle", "300");
  desk.type("Height of the real rectangle", "200");
  QTest::qWait(100);
  CHECK(std::get<RectifyStep>(desk.document().chain().steps[0].kind).shape == RectifyStep::Shape::sides);
  CHECK(places() == before);
}

TEST_CASE("the command that the result's page names does the same to a folder of scans", "[window][use]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.document().select_tile(desk.document().tiles() - 1);
  QTest::qWait(50);
  CHECK_FALSE(desk.named<QPushButton>("Copy the command")->isEnabled());
  const QString chain = QString::fromStdString((desk.scratch / "it's a chain.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  QTest::qWait(50);
  QTest::mouseClick(desk.named<QPushButton>("Copy the command"), Qt::LeftButton);
  QString command = QApplication::clipboard()->text();
  CHECK(desk.named<QLabel>("Command for many pictures")->text() == command);
  const auto scans = desk.scratch / "scans";
  std::filesystem::create_directory(scans);
  for (int i = 1; i <= 6; ++i) std::filesystem::copy_file(desk.photo, scans / ("scan-" + std::to_string(i) + ".png"));
  command.replace("fexel-cli", FEXEL_CLI).replace("FOLDER", QString::fromStdString(scans.string()));
  QProcess shell;
  shell.setWorkingDirectory(QString::fromStdString(desk.scratch.path().string()));
  shell.start("/bin/sh", {"-c", command});
  REQUIRE(shell.waitForFinished(60000));
  INFO(shell.readAllStandardError().toStdString());
  CHECK(shell.exitCode() == 0);
  desk.window.write_out(QString::fromStdString((desk.scratch / "own.png").string()), false);
  desk.wait();
  for (int i = 1; i <= 6; ++i)
    CHECK(
        test::same_samples(read_picture(desk.scratch / "results" / ("scan-" + std::to_string(i) + "-it's a chain.png")),
                           read_picture(desk.scratch / "own.png")));
}
