/// The window in a person's hands: keys after every field and button, numbers that are typed over, menus, what stays in
/// its place.
#include "tests/window/use.h"

namespace fexel::test::use {
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
  // Some ask for a file: the question is closed, as with Escape.
  QTimer closer;
  QObject::connect(&closer, &QTimer::timeout, [] {
    if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) dialog->reject();
  });
  closer.start(50);
  for (const std::string& page : all_pages()) {
    test::Desk desk;
    show_page(desk, page);
    desk.wait();
    Keys keys(desk);
    for (const auto& button : fields_of<QAbstractButton>(desk)) {
      if (!button || !button->isVisible() || !button->isEnabled()) continue;
      const QString name = button->accessibleName();
      INFO(page << ": " << name.toStdString());
      QTest::mouseClick(button, Qt::LeftButton);
      // As a window manager does once a dialog is gone.
      desk.window.activateWindow();
      desk.wait();
      CHECK(QTest::qWaitFor([&] { return !button || button->isEnabled() || !button->isVisible(); }, test::patience));
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

}  // namespace fexel::test::use
