#include "tests/window/sequence.h"

namespace fexel::test::sequence {
TEST_CASE("matching is held to a rectangle that is dragged, and the trial says how far to trust it", "[window]") {
  Frames desk(3);
  desk.add_align();
  desk.click("Match only within a rectangle…");
  desk.drag(desk.a(), desk.a()->to_widget({40, 30}), desk.a()->to_widget({240, 180}));
  REQUIRE(desk.align().region);
  CHECK(desk.align().region->x == Approx(40).margin(2));
  CHECK(desk.align().region->width == Approx(200).margin(4));
  // Its corners are handles.
  const auto handles = desk.a()->handles();
  const auto corner =
      std::ranges::find_if(handles, [](const Handle& h) { return h.kind == Handle::Kind::step && h.index == 1; });
  REQUIRE(corner != handles.end());
  desk.drag(desk.a(), desk.a()->to_widget(corner->at), desk.a()->to_widget({300, 220}));
  CHECK(desk.align().region->width == Approx(260).margin(3));
  desk.click("Align all frames");
  CHECK(desk.align().frames[2].matrix(0, 2) == Approx(-8).margin(0.03));
  desk.click("Test the accuracy on this frame");
  const QString said = desk.named<QLabel>("What the trial said")->text();
  CHECK(said.contains("8 times"));
  CHECK(said.contains("came back within 0.0"));
  desk.click("Match on the whole frame");
  CHECK_FALSE(desk.align().region);
}

TEST_CASE("a frame is left out by its tick, and is neither matched nor written", "[window]") {
  Frames desk(4);
  desk.add_align();
  QListWidgetItem* third = desk.list()->item(2);
  REQUIRE(third->checkState() == Qt::Checked);
  // The box stands at the left of the row.
  const QRect row = desk.list()->visualItemRect(third);
  QTest::mouseClick(desk.list()->viewport(), Qt::LeftButton, {}, {row.left() + 10, row.center().y()});
  CHECK(desk.list()->item(2)->checkState() == Qt::Unchecked);
  CHECK(desk.list()->item(2)->text().contains("left out"));
  desk.click("Align all frames");
  CHECK(desk.align().frames[2].status == MatchStatus::failed);
  CHECK(desk.align().frames[2].reason == "It is left out.");
  CHECK(desk.align().frames[3].status == MatchStatus::ok);
  const QString out = QString::fromStdString((desk.scratch / "three.tif").string());
  desk.window.write_out(out, false);
  desk.wait();
  CHECK(read_info(out.toStdString()).frames == 3);
  const QString chain = QString::fromStdString((desk.scratch / "series.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  CHECK(load_chain(chain.toStdString()).sources[2].skip == std::vector<int>{1});
  desk.open(chain.toStdString());
  CHECK(desk.list()->item(2)->checkState() == Qt::Unchecked);
  desk.list()->item(2)->setCheckState(Qt::Checked);
  CHECK_FALSE(desk.list()->item(2)->text().contains("left out"));
  desk.document().undo_stack().undo();
  CHECK(desk.list()->item(2)->checkState() == Qt::Unchecked);
}

TEST_CASE("masks are drawn, moved, typed, undone, saved and loaded, and keep the search from what they cover",
          "[window]") {
  Frames desk(4);
  desk.add_align();
  desk.document().select_tile(0);
  desk.document().set_flag(true, 0);
  PictureView* view = desk.a();
  view->setFocus();
  const auto on = [&](double x, double y) { return view->to_widget({x, y}); };
  const auto press = [&](const QString& name) { QTest::mouseClick(desk.named<QPushButton>(name), Qt::LeftButton); };

  press("Draw: Rectangle");
  desk.drag(view, on(40, 30), on(120, 90));
  REQUIRE(desk.document().chain().masks.size() == 1);
  const double step = 1 / view->zoom();  // a widget's pixel
  CHECK(desk.document().chain().masks[0].points[0].x == Approx(40).margin(step));
  CHECK(desk.document().chain().masks[0].points[1].y == Approx(90).margin(step));
  // Its third corner by hand, then by keys.
  desk.drag(view, on(120, 90), on(160, 110));
  CHECK(desk.document().chain().masks[0].points[1].x == Approx(160).margin(2 * step));
  const double before = desk.document().chain().masks[0].points[1].x;
  QTest::keyClick(view, Qt::Key_Right, Qt::ControlModifier);
  CHECK(desk.document().chain().masks[0].points[1].x == Approx(before + 10));
  desk.type("mask: x", "50");
  CHECK(desk.document().chain().masks[0].points[0].x == 50);
  desk.type("mask: width", "70");
  CHECK(desk.document().chain().masks[0].points[1].x == 120);

  press("Draw: Circle");
  desk.drag(view, on(200, 150), on(230, 150));
  REQUIRE(desk.document().chain().masks.size() == 2);
  CHECK(desk.document().chain().masks[1].radius == Approx(30).margin(2 * step));
  press("Draw: Ring");
  desk.drag(view, on(250, 60), on(290, 60));
  CHECK(desk.document().chain().masks[2].inner == Approx(20).margin(2 * step));

  press("Draw: Polygon");
  for (const Point p : {Point{20, 150}, Point{100, 140}, Point{110, 220}, Point{30, 215}})
    QTest::mouseClick(view, Qt::LeftButton, {}, on(p.x, p.y).toPoint());
  QTest::keyClick(view, Qt::Key_Backspace);
  QTest::keyClick(view, Qt::Key_Return);
  REQUIRE(desk.document().chain().masks.size() == 4);
  CHECK(desk.document().chain().masks[3].points.size() == 3);
  // A double click on a side sets a corner, Delete takes it away.
  QTest::mouseDClick(view, Qt::LeftButton, {}, on(60, 145).toPoint());
  REQUIRE(desk.document().chain().masks[3].points.size() == 4);
  CHECK(desk.document().chain().masks[3].points[1].x == Approx(60).margin(2 * step));
  QTest::mouseClick(view, Qt::LeftButton, {}, on(60, 145).toPoint());
  QTest::keyClick(view, Qt::Key_Delete);
  CHECK(desk.document().chain().masks[3].points.size() == 3);

  // For some frames only; what are none is said.
  auto* frames = desk.named<QLineEdit>("Frames that the mask is for");
  const auto give = [&](const QString& text) {
    frames->setFocus();
    frames->selectAll();
    QTest::keyClicks(frames, text);
    QTest::keyClick(frames, Qt::Key_Return);
  };
  give("1, 3-4");
  CHECK(desk.document().chain().masks[3].frames == std::vector<int>{1, 3, 4});
  give("9");
  CHECK(desk.document().chain().masks[3].frames == std::vector<int>{1, 3, 4});
  CHECK(desk.named<QLabel>("What the masks leave out")->text().contains("no frames of this sequence"));

  // Nothing here is saturated, which is said; looking goes on beside the window.
  press("Suggest glare");
  CHECK(QTest::qWaitFor(
      [&] { return desk.named<QLabel>("What the masks leave out")->text().contains("Nothing in this frame"); },
      test::patience));

  // To a file and back.
  auto* panel = desk.window.findChild<MasksPanel*>();
  REQUIRE(panel);
  const QString path = QString::fromStdString((desk.scratch / "masks.fexel.json").string());
  const auto masks = desk.document().chain().masks;
  panel->save(path, false);
  while (!desk.document().chain().masks.empty()) {
    desk.document().session().select_mask(0);
    press("Remove this mask");
  }
  panel->load(path);
  CHECK(desk.document().chain().masks == masks);
  panel->load(QString::fromStdString(desk.photo));
  CHECK(desk.named<QLabel>("What the masks leave out")->text().contains("photo.png"));

  while (desk.document().undo_stack().canUndo()) desk.document().undo_stack().undo();
  CHECK(desk.document().chain().masks.empty());
}

TEST_CASE("a frame is put by hand, searched from there, and kept when all are searched", "[window]") {
  Frames desk(4);
  desk.add_align();
  desk.click("Align all frames");
  desk.show(2);
  desk.type("moved in x", "-3");
  REQUIRE(desk.align().frames[2].by_hand);
  CHECK(desk.align().frames[2].matrix(0, 2) == Approx(-3).margin(0.01));
  CHECK(desk.align().frames[2].matrix(1, 2) == Approx(6).margin(0.05));
  CHECK(desk.list()->item(2)->text().contains("by hand"));
  // Half a degree about the frame's middle, which stays where it is put.
  desk.type("rotated by", "0.5");
  const auto middle = Map::apply(desk.align().frames[2].matrix, {160, 120});
  CHECK(middle->x == Approx(157).margin(0.02));
  CHECK(std::atan2(desk.align().frames[2].matrix(0, 1), desk.align().frames[2].matrix(0, 0)) ==
        Approx(0.5 * M_PI / 180).margin(1e-4));
  const AlignStep put = desk.align();
  desk.click("Align all frames");
  CHECK(desk.align().frames[2] == put.frames[2]);
  CHECK(desk.align().frames[1].status == MatchStatus::ok);
  CHECK(desk.named<QPushButton>("Try on this frame")->text() == "Search this frame from here");
  desk.click("Try on this frame");
  CHECK_FALSE(desk.align().frames[2].by_hand);
  CHECK(desk.align().frames[2].matrix(0, 2) == Approx(-8).margin(0.02));
  // The text keeps it.
  Chain chain = desk.document().chain();
  std::get<AlignStep>(chain.steps[0].kind) = put;
  CHECK(parse_chain(write_chain(chain)) == chain);
}

TEST_CASE("what still moves is shown for a frame, and goes with the next change", "[window]") {
  Frames desk(3);
  desk.add_align();
  desk.click("Align all frames");
  desk.show(1);
  desk.click("Look for movement in this frame");
  REQUIRE(desk.document().session().residuals(desk.document().revision()));
  CHECK(desk.document().session().residuals(desk.document().revision())->field.usual_px < 0.1);
  CHECK(desk.named<QLabel>("What still moves")->text().contains("None moves by more"));
  // Put two pixels aside, that is what moves.
  desk.type("moved in x", "-2");
  CHECK_FALSE(desk.document().session().residuals(desk.document().revision()));
  desk.click("Look for movement in this frame");
  REQUIRE(desk.document().session().residuals(desk.document().revision()));
  CHECK(desk.document().session().residuals(desk.document().revision())->field.mean.x == Approx(2).margin(0.05));
  CHECK(desk.named<QLabel>("What still moves")->text().contains("move by more than four times"));
  // The reference has nothing to be compared with.
  desk.show(0);
  desk.click("Look for movement in this frame");
  CHECK(desk.window.notice().contains("Choose another frame"));
}

TEST_CASE("ways to align are compared side by side, and one is taken", "[window]") {
  Frames desk(4);
  desk.add_align();
  desk.click("Compare ways to search…");
  auto* sheet = desk.window.findChild<VariantsSheet*>();
  REQUIRE(sheet);
  REQUIRE(sheet->table()->rowCount() == 8);
  int network = -1;
  for (int row = 0; row < 8; ++row) {
    INFO(row << " " << sheet->table()->item(row, 2)->text().toStdString() << " "
             << sheet->table()->item(row, 2)->toolTip().toStdString());
    CHECK(sheet->table()->item(row, 2)->text() == "4 of 4");
    if (sheet->table()->item(row, 1)->text() == "all pairs") network = row;
  }
  REQUIRE(network >= 0);
  sheet->table()->selectRow(network);
  QTest::mouseClick(desk.named<QPushButton>("Take the selected way"), Qt::LeftButton);
  CHECK(text_of_reference(desk.align().against) == "network");
  CHECK(desk.align().frames.size() == 4);
  desk.document().undo_stack().undo();
  CHECK(text_of_reference(desk.align().against) == "first");
}

TEST_CASE("frames play one after the other, those left out passed over, with their times", "[window]") {
  Frames desk(4);
  desk.document().edit_chain("leave out", with_left_out(desk.document().chain(), desk.document().frames(), 2, true));
  desk.document().select_tile(0);
  desk.type("Time between frames", "0.5");
  REQUIRE(desk.document().chain().time_step);
  CHECK(desk.document().chain().time_step->value == 0.5);
  desk.named<QComboBox>("Frames a second")->setCurrentIndex(4);
  std::vector<int> seen;
  QObject::connect(&desk.document(), &Document::changed, &desk.window, [&] {
    if (seen.empty() || seen.back() != desk.document().frame()) seen.push_back(desk.document().frame());
  });
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_F8);
  CHECK(desk.window.frames().playing());
  REQUIRE(QTest::qWaitFor([&] { return seen.size() >= 5; }, test::patience));
  QTest::mouseClick(desk.named<QPushButton>("Play the frames"), Qt::LeftButton);
  CHECK_FALSE(desk.window.frames().playing());
  REQUIRE(seen.size() >= 5);
  CHECK(std::vector<int>(seen.begin(), seen.begin() + 5) == std::vector<int>{1, 3, 0, 1, 3});
}

TEST_CASE("frames in pairs are numbered as pairs", "[window]") {
  test::Desk desk;
  const auto folder = desk.scratch / "pairs";
  std::filesystem::create_directories(folder);
  for (const char* name : {"run-1a", "run-1b", "run-2a", "run-2b"}) {
    std::vector<Image> pages;
    pages.push_back(test::noise(64, 48, 1, Depth::u8));
    write_pictures(folder / (std::string(name) + ".png"), pages, {Format::png, {}, false, {}});
  }
  desk.window.open_sequence({QString::fromStdString(folder.string())});
  desk.wait();
  REQUIRE(desk.window.frames().list()->count() == 4);
  CHECK(desk.window.frames().list()->item(1)->text().startsWith("1 b"));
  CHECK(desk.window.frames().list()->item(2)->text().startsWith("2 a"));
  // One missing: they are frames like any other.
  std::filesystem::remove(folder / "run-1b.png");
  desk.window.open_sequence({QString::fromStdString(folder.string())});
  desk.wait();
  CHECK(desk.window.frames().list()->item(1)->text().startsWith("2"));
  CHECK_FALSE(in_pairs(desk.document().frames()));
}

TEST_CASE("another stack is written with the same transforms", "[window]") {
  Frames desk(3);
  desk.add_align();
  desk.click("Align all frames");
  std::vector<Image> pages;
  for (int i = 0; i < 3; ++i) {
    Image page(320, 240, 1, Depth::u8);
    page.row<std::uint8_t>(0, 100 - 3 * i)[100 + 4 * i] = 200;  // a dot that moves as the frames do
    pages.push_back(std::move(page));
  }
  write_pictures(desk.scratch / "dots.tif", pages, {});
  const auto target = desk.scratch / "dots-aligned.tif";
  desk.document().select_tile(desk.document().tiles() - 1);
  desk.window.write_carried({QString::fromStdString((desk.scratch / "dots.tif").string())},
                            QString::fromStdString(target.string()), false);
  desk.wait();
  INFO(desk.named<QLabel>("What came of writing")->text().toStdString());
  REQUIRE(std::filesystem::exists(target));
  for (int page = 1; page <= 3; ++page) CHECK(read_picture(target, page).row<std::uint8_t>(0, 100)[100] > 190);
  // Not as many frames: said, and nothing written.
  desk.window.write_carried({QString::fromStdString(desk.photo)},
                            QString::fromStdString((desk.scratch / "none.tif").string()), false);
  desk.wait();
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("1 frames"));
  CHECK_FALSE(std::filesystem::exists(desk.scratch / "none.tif"));
}

TEST_CASE("glare is suggested where samples are saturated; masks are chosen by row, used alone, and typed",
          "[window]") {
  test::Desk desk;
  const QString folder = QString::fromStdString((desk.scratch / "lamps").string());
  std::filesystem::create_directories(folder.toStdString());
  for (int i = 0; i < 2; ++i) {
    Image frame = test::noise(320, 240, 1, Depth::u8);
    for (int y = 0; y < 240; ++y)
      for (int x = 0; x < 320; ++x) {
        std::uint8_t& sample = frame.row<std::uint8_t>(0, y)[x];
        sample = static_cast<std::uint8_t>(40 + sample / 2);
        if (x >= 96 && x < 192 && y >= 64 && y < 128) sample = 255;
      }
    std::vector<Image> pages;
    pages.push_back(std::move(frame));
    write_pictures((folder + "/lamp-" + QString::number(i) + ".tif").toStdString(), pages, {});
  }
  desk.window.open_sequence({folder});
  desk.wait();
  desk.document().insert_step("align", 0);
  desk.document().select_tile(0);
  desk.document().set_flag(true, 0);
  const auto press = [&](const QString& name) { QTest::mouseClick(desk.named<QPushButton>(name), Qt::LeftButton); };
  const auto masks = [&] { return desk.document().chain().masks; };
  press("Suggest glare");
  REQUIRE(QTest::qWaitFor([&] { return !masks().empty(); }, test::patience));
  CHECK(desk.named<QLabel>("What the masks leave out")->text().contains("suggested from this frame"));
  const auto covered = [&](Point p) {
    return std::ranges::any_of(masks(), [&](const Mask& mask) { return covers(mask, p); });
  };
  for (const Point p : {Point{144, 96}, Point{100, 68}, Point{188, 124}}) CHECK(covered(p));
  for (const Point p : {Point{20, 20}, Point{144, 200}, Point{300, 96}}) CHECK_FALSE(covered(p));

  press("Draw: Ring");
  desk.a()->setFocus();
  desk.drag(desk.a(), desk.a()->to_widget({250, 180}), desk.a()->to_widget({280, 180}));
  const int ring = static_cast<int>(masks().size()) - 1;
  desk.type("mask: outer radius", "40");
  desk.type("mask: inner radius", "25");
  CHECK(masks().back().radius == 40);
  CHECK(masks().back().inner == 25);
  // An inner circle stays within the outer one, and the other way about.
  desk.type("mask: inner radius", "90");
  CHECK(masks().back().inner < 40);
  desk.type("mask: outer radius", "5");
  CHECK(masks().back().radius > masks().back().inner);
  press("What the mask does: only here");
  CHECK(masks().back().use == Mask::Use::only);
  press("What the mask does: leave out");
  CHECK(masks().back().use == Mask::Use::leave_out);
  auto* list = desk.named<QListWidget>("Masks");
  for (const int row : {0, ring}) {
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(row)).center());
    CHECK(desk.document().session().mask() == row);
  }
  // A chain without masks has none to give, and nothing is taken from it.
  const auto before = masks();
  const QString none = QString::fromStdString((desk.scratch / "none.fexel.json").string());
  write_text(none.toStdString(), R"({"fexel":1,"steps":[]})", true);
  auto* panel = desk.window.findChild<MasksPanel*>();
  panel->load(none);
  CHECK(desk.named<QLabel>("What the masks leave out")->text().contains("holds no masks"));
  CHECK(masks() == before);
  // Nor is what is there written over.
  panel->save(none, false);
  CHECK(read_text(none.toStdString()) == R"({"fexel":1,"steps":[]})");
}

TEST_CASE("what is aligned, and against what, is chosen on its page", "[window]") {
  Frames desk(3);
  desk.add_align();
  const auto pick = [&](const QString& list, int index) {
    auto* box = desk.named<QComboBox>(list);
    box->setCurrentIndex(index);
    Q_EMIT box->activated(index);
  };
  pick("motion", 0);
  CHECK(desk.align().model == Model::translation);
  pick("motion", 4);
  CHECK(desk.align().model == Model::projective);
  const char* words[] = {"first", "neighbour", "average", "network"};
  for (int i = 0; i < 4; ++i) {
    pick("against", i);
    CHECK(text_of_reference(desk.align().against) == words[i]);
  }
  desk.show(1);
  pick("against", 4);
  CHECK(text_of_reference(desk.align().against) == "frame:2");
  CHECK(desk.named<QComboBox>("against")->currentText() == "frame 2");
  desk.click("What is alike: edges only");
  CHECK(desk.align().alike == SimilarityMetric::structure);
  desk.click("What is alike: brightness");
  CHECK(desk.align().alike == SimilarityMetric::brightness);
  desk.type("on band", "1");
  CHECK(desk.align().band == 1);
}

}  // namespace fexel::test::sequence
