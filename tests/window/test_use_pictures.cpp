/// The window in a person's hands: keys after every field and button, numbers that are typed over, menus, what stays in
/// its place.
#include "tests/window/use.h"

namespace fexel::test::use {
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
    REQUIRE(QTest::qWaitFor([&] { return desk.rectify().corners != before; }, test::patience));
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
  QTest::mouseClick(desk.named<QPushButton>("Choice: border mode"), Qt::LeftButton);
  const auto cells = sheet->findChildren<ProofCell*>();
  std::vector<QImage> pictures;
  REQUIRE(QTest::qWaitFor(
      [&] {
        pictures.clear();
        for (ProofCell* cell : sheet->findChildren<ProofCell*>())
          if (cell->isVisible() && !cell->picture().isNull()) pictures.push_back(cell->picture());
        return pictures.size() == 5;
      },
      test::patience));
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
  REQUIRE(QTest::qWaitFor([&] { return label(2).startsWith("2 a"); }, test::patience));
  CHECK(label(3).startsWith("2 b"));
  CHECK(parse_chain(write_chain(desk.document().chain())).pairing == Pairing::order);
  desk.document().undo_stack().undo();
  REQUIRE(QTest::qWaitFor([&] { return label(2).startsWith("3 "); }, test::patience));
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
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QPushButton>("Propose a rectangle")->isEnabled(); }, test::patience));
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
  REQUIRE(shell.waitForFinished(test::patience));
  INFO(shell.readAllStandardError().toStdString());
  CHECK(shell.exitCode() == 0);
  desk.window.write_out(QString::fromStdString((desk.scratch / "own.png").string()), false);
  desk.wait();
  for (int i = 1; i <= 6; ++i)
    CHECK(
        test::same_samples(read_picture(desk.scratch / "results" / ("scan-" + std::to_string(i) + "-it's a chain.png")),
                           read_picture(desk.scratch / "own.png")));
}

}  // namespace fexel::test::use
