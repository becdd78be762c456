/// What hands do beside the pages: keys and the wheel, dropping files, leaving, and what the menus bring.
#include <catch2/catch.hpp>

#include "app/canvas/overlays/mask_handles.h"
#include "app/pipeline/step_palette.h"
#include "app/pipeline/tile.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

void drop(QWidget* on, const QStringList& files) {
  QMimeData data;
  QList<QUrl> urls;
  for (const QString& file : files) urls << QUrl::fromLocalFile(file);
  data.setUrls(urls);
  const QPoint middle = on->rect().center();
  QDragEnterEvent enter(middle, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(on, &enter);
  REQUIRE(enter.isAccepted());
  QDropEvent event(middle, Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(on, &event);
}
QPointF corner(test::Desk& desk, int index) {
  for (const Handle& h : desk.a()->handles())
    if (h.kind == Handle::Kind::step && h.index == index) return desk.a()->to_widget(h.at);
  FAIL("no corner " << index);
  return {};
}

}  // namespace

TEST_CASE("keys move and zoom the picture, a little or a lot", "[hands]") {
  test::Desk desk;
  PictureView* view = desk.a();
  view->setFocus();
  view->look_at({400, 300}, 2);
  QTest::keyClick(view, Qt::Key_Right);
  CHECK(view->centre().x() == Approx(420).margin(0.51));  // 40 of the screen's pixels
  QTest::keyClick(view, Qt::Key_Up, Qt::ControlModifier);
  CHECK(view->centre().y() == Approx(200).margin(0.51));  // five times as many
  QTest::keyClick(view, Qt::Key_Left);
  QTest::keyClick(view, Qt::Key_Down, Qt::ControlModifier);
  CHECK(view->centre().x() == Approx(400).margin(0.51));
  CHECK(view->centre().y() == Approx(300).margin(0.51));
  action(desk, "Zoom in")->trigger();
  CHECK(view->zoom() == Approx(2.5));
  action(desk, "Zoom out")->trigger();
  action(desk, "Zoom out")->trigger();
  CHECK(view->zoom() == Approx(1.6));
  // However often it is asked, a picture is never lost from sight nor a pixel larger than the window.
  for (int i = 0; i < 80; ++i) action(desk, "Zoom out")->trigger();
  CHECK(view->zoom() * 800 > 16);
  for (int i = 0; i < 120; ++i) action(desk, "Zoom in")->trigger();
  CHECK(view->zoom() <= 256);
}

TEST_CASE("when the page that had the keyboard is gone, the picture has it, and no field takes what is typed",
          "[hands]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "3");
  REQUIRE(desk.named<QAbstractSpinBox>("angle")->hasFocus());
  desk.document().remove_selected_step();
  CHECK(desk.window.views().active()->hasFocus());
  const Chain before = desk.document().chain();
  QTest::keyClicks(QApplication::focusWidget(), "7");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  CHECK(desk.document().chain() == before);
}

TEST_CASE("with the space bar held the picture is carried, also from a handle", "[hands]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  PictureView* view = desk.a();
  view->setFocus();
  const Quad before = desk.rectify().corners;
  const QPointF centre = view->centre();
  QTest::keyPress(view, Qt::Key_Space);
  desk.drag(view, corner(desk, 0), corner(desk, 0) + QPointF(30, 20));
  QTest::keyRelease(view, Qt::Key_Space);
  CHECK(desk.rectify().corners == before);
  CHECK((view->centre() - centre + QPointF(30, 20) / view->zoom()).manhattanLength() < 1.5 / view->zoom());
  desk.drag(view, corner(desk, 0), corner(desk, 0) + QPointF(30, 20));
  CHECK_FALSE(desk.rectify().corners == before);
}

TEST_CASE("Escape puts back what is in the hand, and leaves earlier work alone", "[hands]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  PictureView* view = desk.a();
  const QPointF start = corner(desk, 0);
  desk.drag(view, start, start + QPointF(10, 0));
  QTest::keyClick(view, Qt::Key_Right);  // one more pixel, by key
  const Quad placed = desk.rectify().corners;
  const QPointF from = corner(desk, 0);
  QTest::mousePress(view, Qt::LeftButton, {}, from.toPoint());
  for (int i = 1; i <= 4; ++i) QTest::mouseMove(view, (from + QPointF(20, 15) * i).toPoint());
  CHECK_FALSE(desk.rectify().corners == placed);
  QTest::keyClick(view, Qt::Key_Escape);
  CHECK(desk.rectify().corners == placed);
  CHECK_FALSE(desk.document().session().dragging());
  QTest::mouseMove(view, (from + QPointF(100, 90)).toPoint());
  QTest::mouseRelease(view, Qt::LeftButton, {}, (from + QPointF(100, 90)).toPoint());
  CHECK(desk.rectify().corners == placed);
  // A hand that has moved nothing yet takes nothing back.
  QTest::mousePress(view, Qt::LeftButton, {}, from.toPoint());
  QTest::keyClick(view, Qt::Key_Escape);
  QTest::mouseRelease(view, Qt::LeftButton, {}, from.toPoint());
  CHECK(desk.rectify().corners == placed);

  // A measurement that was begun is left.
  QTest::keyClick(view, Qt::Key_G);
  QTest::keyClick(view, Qt::Key_Escape);
  desk.drag(view, view->to_widget({300, 300}), view->to_widget({360, 300}));
  CHECK(desk.document().chain().measurements.empty());
}

TEST_CASE("files that are dropped are opened: one as a picture, several or a folder as a sequence", "[hands]") {
  test::Desk desk;
  const auto folder = desk.scratch / "shots";
  std::filesystem::create_directory(folder);
  QStringList shots;
  for (int i = 0; i < 3; ++i) {
    std::vector<Image> pages;
    pages.push_back(test::noise(64, 48, 1, Depth::u8));
    const auto path = folder / ("shot-" + std::to_string(i) + ".png");
    write_pictures(path, pages, {Format::png, {}, false, {}});
    shots << QString::fromStdString(path.string());
  }
  drop(&desk.window, {shots[1]});
  desk.wait();
  CHECK(desk.document().source()->path == shots[1]);
  CHECK(desk.document().layout().stations[0].size == Size{64, 48});
  drop(&desk.window, shots);
  desk.wait();
  CHECK(desk.document().frames().size() == 3);
  desk.open(desk.photo);
  drop(&desk.window, {QString::fromStdString(folder.string())});
  desk.wait();
  CHECK(desk.document().frames().size() == 3);
}

TEST_CASE("unsaved work is asked about before it is left, and can be kept, saved or left", "[hands]") {
  test::Desk desk;
  add<RotateStep>(desk);
  test::answer_next("Stay");
  CHECK_FALSE(desk.window.close());
  CHECK(desk.window.isVisible());
  const Chain work = desk.document().chain();
  // The same question stands before another file.
  const QString other = QString::fromStdString((desk.scratch / "other.png").string());
  test::make_photo(other.toStdString());
  test::answer_next("Stay");
  drop(&desk.window, {other});
  CHECK(desk.document().chain() == work);
  // Saved where it was before, and gone on from there without a question.
  const QString chain = QString::fromStdString((desk.scratch / "work.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  add<MirrorStep>(desk);
  CHECK(desk.window.isWindowModified());
  test::answer_next("Save");
  drop(&desk.window, {other});
  desk.wait();
  CHECK(desk.document().source()->path == other);
  CHECK(parse_chain(read_text(chain.toStdString())).steps.size() == 2);
  add<RotateStep>(desk);
  test::answer_next("Leave without saving");
  CHECK(desk.window.close());
  CHECK_FALSE(desk.window.isVisible());
}

TEST_CASE("recent files are in the menu, the newest first, and those that are gone cannot be chosen", "[hands]") {
  test::Desk desk;
  const auto named = (desk.scratch / "nuts & bolts.png").string(), gone = (desk.scratch / "gone.png").string();
  test::make_photo(named);
  test::make_photo(gone);
  desk.open(gone);
  desk.open(named);
  std::filesystem::remove(gone);
  QMenu* file = nullptr;
  for (QMenu* menu : desk.window.menuBar()->findChildren<QMenu*>())
    if (menu->title() == "&File") file = menu;
  REQUIRE(file);
  Q_EMIT file->aboutToShow();
  QMenu* recent = nullptr;
  for (QMenu* menu : file->findChildren<QMenu*>())
    if (menu->title() == "Open &recent") recent = menu;
  REQUIRE(recent);
  REQUIRE(recent->actions().size() == 3);
  CHECK(recent->actions()[0]->text().startsWith("nuts && bolts.png"));
  CHECK(recent->actions()[1]->text().startsWith("gone.png"));
  CHECK_FALSE(recent->actions()[1]->isEnabled());
  CHECK(recent->actions()[2]->text().startsWith("photo.png"));
  recent->actions()[2]->trigger();
  desk.wait();
  CHECK(desk.document().source()->path.toStdString() == desk.photo);
}

TEST_CASE("the sheet of keys tells all that menus and hands know", "[hands]") {
  test::Desk desk;
  action(desk, "Keys")->trigger();
  QDialog* sheet = nullptr;
  for (QDialog* dialog : desk.window.findChildren<QDialog*>())
    if (dialog->windowTitle() == "Keys") sheet = dialog;
  REQUIRE(sheet);
  REQUIRE(sheet->isVisible());
  QStringList words;
  for (const QLabel* label : sheet->findChildren<QLabel*>()) words << label->text();
  const QString all = words.join("\n");
  for (const char* word : {"Ctrl+Z", "Undo", "F2", "Rename the step", "PgDown", "Next frame", "Tab, arrows", "Escape",
                           "1:1", "Proof sheet", "hold to pan", "zoom at the pointer"}) {
    INFO(word);
    CHECK(all.contains(word));
  }
  // All of it is on the screen.
  CHECK(sheet->height() <= 700);
  CHECK(sheet->width() <= 1200);
  sheet->close();
}

TEST_CASE("the proof sheet is panned and zoomed by keys and the wheel, all of its pictures at once", "[hands]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "7");
  ProofSheet* sheet = test::open_proof_sheet(desk);
  REQUIRE(sheet->cells().size() > 2);
  const auto spot = [&] { return sheet->caption().join(" ").section("px of the source", 0, 0); };
  const auto zoom = [&] { return sheet->caption().join(" ").section("Shown: ", 1); };
  ProofCell* cell = sheet->cells()[1];
  cell->setFocus();
  const QString there = spot(), small = zoom();
  QTest::keyClick(cell, Qt::Key_Right);
  CHECK(spot() != there);
  QTest::keyClick(cell, Qt::Key_Left);
  CHECK(spot() == there);
  QTest::keyClick(cell, Qt::Key_Down);
  const QString below = spot();
  CHECK(below != there);
  QTest::keyClick(cell, Qt::Key_Up);
  CHECK(spot() == there);
  QTest::keyClick(cell, Qt::Key_Plus);
  CHECK(zoom() != small);
  QTest::keyClick(cell, Qt::Key_Minus);
  CHECK(zoom() == small);
  const QPointF middle = QRectF(cell->rect()).center();
  QWheelEvent wheel(middle, cell->mapToGlobal(middle), {}, {0, 120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
  QApplication::sendEvent(cell, &wheel);
  CHECK(zoom() != small);
  const Chain before = desk.document().chain();
  QTest::keyClick(sheet, Qt::Key_Escape);
  CHECK_FALSE(sheet->isVisible());
  CHECK(desk.document().chain() == before);
}

TEST_CASE("the ledger is folded by its word or a key, and its table copied with any name", "[hands]") {
  test::Desk desk;
  Chain chain = desk.document().chain();
  chain.measurements.push_back(length_measurement("board, \"left\"", 0, {100, 100}, {400, 500}, 50, "cm"));
  desk.document().edit_chain("length", chain);
  Ledger* ledger = desk.window.findChild<Ledger*>();
  QTest::mouseClick(desk.named<QPushButton>("fold"), Qt::LeftButton);
  CHECK(ledger->folded());
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_L);
  CHECK_FALSE(ledger->folded());
  QTest::keyClick(desk.a(), Qt::Key_L);
  CHECK(ledger->folded());
  QTest::mouseClick(desk.named<QPushButton>("unfold"), Qt::LeftButton);
  CHECK_FALSE(ledger->folded());
  QTest::mouseClick(desk.named<QPushButton>("copy as CSV"), Qt::LeftButton);
  const QStringList lines = QApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
  REQUIRE(lines.size() == 2);
  CHECK(lines[0].startsWith("name,length_a_px,length_b_px,expected_cm,error_b_cm,"));
  // 300 by 400 px, and half a metre.
  CHECK(lines[1].startsWith("\"board, \"\"left\"\"\",500,500,50,"));
}

TEST_CASE("an expected length takes its unit, and what is none is said beside the table", "[hands]") {
  test::Desk desk;
  Chain chain = desk.document().chain();
  chain.measurements.push_back(length_measurement("board", 0, {100, 100}, {400, 500}, 1234.5678, "mm"));
  desk.document().edit_chain("length", chain);
  auto* model = desk.window.findChild<Ledger*>()->table()->model();
  const QModelIndex cell = model->index(0, MeasurementModel::expected);
  // Read over and left as it is, it stays what it was.
  CHECK(model->setData(cell, model->data(cell, Qt::EditRole), Qt::EditRole));
  CHECK(std::get<LengthMeasurement>(desk.document().chain().measurements[0].kind).expected ==
        Approx(1234.5678).epsilon(1e-12));
  const std::tuple<QString, double, std::string> taken[] = {{"80", 80, "mm"},
                                                            {"12,5 cm", 12.5, "cm"},
                                                            {"0.5m", 0.5, "m"},
                                                            {QString("750 ") + QChar(0xb5) + "m", 750, "um"},
                                                            {"4 in", 4, "in"}};
  for (const auto& [text, value, unit] : taken) {
    INFO(text.toStdString());
    CHECK(model->setData(cell, text, Qt::EditRole));
    CHECK(std::get<LengthMeasurement>(desk.document().chain().measurements[0].kind).expected == Approx(value));
    CHECK(std::get<LengthMeasurement>(desk.document().chain().measurements[0].kind).unit == unit);
  }
  CHECK(
      model->data(cell, Qt::DisplayRole).toString().startsWith("4"));  // where B has no unit, in the measurement's own
  CHECK(model->headerData(MeasurementModel::expected, Qt::Horizontal, Qt::DisplayRole).toString() == "expected, in");
  const Chain before = desk.document().chain();
  for (const char* text : {"-3", "0", "wide", "4 miles", "1e300", "."}) {
    INFO(text);
    CHECK_FALSE(model->setData(cell, text, Qt::EditRole));
    CHECK(desk.document().chain() == before);
    CHECK(desk.named<QLabel>("Measurements in short")->text().contains("is no length above zero"));
  }
  CHECK(model->setData(cell, "", Qt::EditRole));
  CHECK_FALSE(std::get<LengthMeasurement>(desk.document().chain().measurements[0].kind).expected);
  CHECK(desk.named<QLabel>("Measurements in short")->text() == "1 · ± for points placed to 0.5 px");
}

TEST_CASE("the display range is taken from the picture, all but half a percent at either end", "[hands]") {
  test::Desk desk;
  // Levels 20 to 219, one column each, and a few outliers.
  Image ramp(400, 300, 1, Depth::u8);
  for (int y = 0; y < 300; ++y)
    for (int x = 0; x < 400; ++x) ramp.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(20 + x / 2);
  ramp.row<std::uint8_t>(0, 10)[10] = 255;
  ramp.row<std::uint8_t>(0, 200)[300] = 0;
  const auto path = (desk.scratch / "ramp.png").string();
  std::vector<Image> pages;
  pages.push_back(std::move(ramp));
  write_pictures(path, pages, {Format::png, {}, false, {}});
  desk.open(path);
  QTest::mouseClick(desk.named<QAbstractButton>("Display range: Full range"), Qt::LeftButton);
  QTest::mouseClick(desk.named<QPushButton>("From the picture"), Qt::LeftButton);
  CHECK(desk.named<QDoubleSpinBox>("Shown as black")->value() == Approx(21).margin(1));
  CHECK(desk.named<QDoubleSpinBox>("Shown as white")->value() == Approx(218).margin(1));
  desk.type("Shown as black", "230");
  CHECK(desk.named<QLabel>("What the range does")->text().contains("White is to be more than black"));
  desk.type("Shown as black", "100");
  CHECK(desk.named<QLabel>("What the range does")->text().contains("never the data"));
  QTest::mouseClick(desk.named<QPushButton>("Full range of the depth"), Qt::LeftButton);
  CHECK(desk.named<QDoubleSpinBox>("Shown as white")->value() == 255);
}

TEST_CASE("masks of every shape go where hands pull them, and never turn inside out", "[hands]") {
  const auto box = [](double x0, double y0, double x1, double y1) {
    Mask mask;
    mask.points = {{x0, y0}, {x1, y1}};
    return mask;
  };
  // Each corner of a rectangle moves its own two sides; the middle moves all.
  CHECK(with_handle_at(box(10, 20, 30, 50), 0, {5, 6}).points == std::vector<Point>{{5, 6}, {30, 50}});
  CHECK(with_handle_at(box(10, 20, 30, 50), 1, {35, 6}).points == std::vector<Point>{{10, 6}, {35, 50}});
  CHECK(with_handle_at(box(10, 20, 30, 50), 2, {35, 60}).points == std::vector<Point>{{10, 20}, {35, 60}});
  CHECK(with_handle_at(box(10, 20, 30, 50), 3, {5, 60}).points == std::vector<Point>{{5, 20}, {30, 60}});
  CHECK(with_handle_at(box(10, 20, 30, 50), 4, {21, 36}).points == std::vector<Point>{{11, 21}, {31, 51}});
  for (int corner = 0; corner < 4; ++corner) {
    const Mask pulled = with_handle_at(box(10, 20, 30, 50), corner, corner == 0 ? Point{99, 99} : Point{-99, -99});
    CHECK(pulled.points[0].x < pulled.points[1].x);
    CHECK(pulled.points[0].y < pulled.points[1].y);
  }
  Mask ring;
  ring.shape = Mask::Shape::ring;
  ring.points = {{50, 50}};
  ring.radius = 20, ring.inner = 10;
  CHECK(with_handle_at(ring, 0, {60, 40}).points[0] == Point{60, 40});
  CHECK(with_handle_at(ring, 1, {50, 80}).radius == 30);
  CHECK(with_handle_at(ring, 2, {50, 44}).inner == 6);
  CHECK(with_handle_at(ring, 1, {50, 52}).radius > with_handle_at(ring, 1, {50, 52}).inner);
  CHECK(with_handle_at(ring, 2, {50, 99}).inner < 20);
  Mask polygon;
  polygon.shape = Mask::Shape::polygon;
  polygon.points = {{0, 0}, {30, 0}, {0, 30}};
  CHECK(with_handle_at(polygon, 1, {40, 5}).points == std::vector<Point>{{0, 0}, {40, 5}, {0, 30}});
  CHECK(with_handle_at(polygon, 3, {11, 12}).points == std::vector<Point>{{1, 2}, {31, 2}, {1, 32}});
}

TEST_CASE("the rail and the palette are walked by arrow keys", "[hands]") {
  test::Desk desk;
  add<RotateStep>(desk);
  add<MirrorStep>(desk);
  Rail* rail = desk.window.findChild<Rail*>();
  desk.document().select_tile(0);
  rail->findChildren<Tile*>().front()->setFocus();
  const auto press = [](Qt::Key key) { QTest::keyClick(QApplication::focusWidget(), key); };
  for (const int selected : {1, 2, 3, 3}) {  // there is nothing behind the result
    press(Qt::Key_Right);
    CHECK(desk.document().state().selected == selected);
  }
  press(Qt::Key_Left);
  CHECK(desk.document().state().selected == 2);
  press(Qt::Key_Left);
  CHECK(desk.document().state().selected == 1);

  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Insert);
  auto* palette = desk.window.findChild<StepPalette*>();
  REQUIRE(palette);
  REQUIRE(palette->isVisible());
  auto* list = palette->findChild<QListWidget*>();
  QWidget* field = palette->findChild<QLineEdit*>();
  const int first = list->currentRow();
  QTest::keyClick(field, Qt::Key_Down);
  CHECK(list->currentRow() > first);
  QTest::keyClick(field, Qt::Key_Up);
  CHECK(list->currentRow() == first);
  QTest::keyClick(field, Qt::Key_Up);  // there is nothing above the first
  CHECK(list->currentRow() == first);
  QTest::keyClicks(field, "crop");
  QTest::keyClick(field, Qt::Key_Return);
  REQUIRE(desk.document().chain().steps.size() == 3);
  CHECK(std::holds_alternative<CropStep>(desk.document().chain().steps[1].kind));
}

TEST_CASE("Return gives the keyboard back to the picture, and keys of the menus act wherever it was", "[window]") {
  test::Desk desk;
  desk.document().insert_step("rotate", 0);
  desk.document().select_tile(1);
  desk.type("angle", "7");
  QTest::qWait(20);
  CHECK(desk.a()->hasFocus());
  const auto turn = [&] { return std::get<RotateStep>(desk.document().chain().steps.at(0).kind).degrees; };
  CHECK(turn() == 7);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Z, Qt::ControlModifier);
  CHECK(turn() != 7);
  // After a click on a button.
  QTest::mouseClick(desk.named<QPushButton>("Output size: keep"), Qt::LeftButton);
  desk.a()->fit();
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_End);
  CHECK(desk.a()->zoom() == Approx(1));
}

TEST_CASE("a double click selects a whole number, and Escape puts it back", "[window]") {
  test::Desk desk;
  desk.document().insert_step("rotate", 0);
  Chain chain = desk.document().chain();
  std::get<RotateStep>(chain.steps[0].kind).degrees = 2.7702;
  desk.document().edit_chain("rotate", chain);
  desk.document().select_tile(1);
  auto* field = desk.named<QDoubleSpinBox>("angle");
  auto* line = field->findChild<QLineEdit*>();
  QTest::mouseDClick(line, Qt::LeftButton, {}, {12, line->height() / 2});
  QTest::keyClicks(line, "1.7");
  CHECK(field->text().startsWith("1.7"));
  QTest::keyClick(field, Qt::Key_Escape);
  CHECK(field->text().startsWith("2.77"));
  QTest::qWait(20);
  CHECK(desk.a()->hasFocus());
  CHECK(std::get<RotateStep>(desk.document().chain().steps.at(0).kind).degrees == 2.7702);
}
