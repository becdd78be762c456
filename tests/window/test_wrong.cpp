#include <catch2/catch.hpp>
#include <fstream>

#include "app/compare/round_trip_spot.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

QString shown(test::Desk& desk, const QString& name) {
  return desk.named<QLabel>(name)->text();
}

}  // namespace

TEST_CASE("wrong corners are named in place, with a remedy, and nothing is written", "[window]") {
  test::Desk desk;
  desk.document().insert_step("rectify", 0);
  Chain chain = desk.document().chain();
  auto& corners = std::get<RectifyStep>(chain.steps[0].kind).corners;

  SECTION("crossed: put in order by a button") {
    std::swap(corners[1], corners[2]);
    desk.document().edit_chain("cross", chain);
    CHECK(shown(desk, "What is wrong").contains("cross"));
    QTest::mouseClick(desk.named<QPushButton>("Put the corners in order"), Qt::LeftButton);
    CHECK_FALSE(desk.document().layout().stations[1].problem);
  }
  SECTION("equal: dragged onto each other") {
    desk.a()->fit();
    const auto handles = desk.a()->handles();
    desk.drag(desk.a(), desk.a()->to_widget(handles[1].at), desk.a()->to_widget(handles[0].at));
    desk.type("Corner 2 (top right), x", QString::number(corners[0].x));
    desk.type("Corner 2 (top right), y", QString::number(corners[0].y));
    CHECK(shown(desk, "What is wrong").contains("Corners 1 and 2 are the same point"));
    for (int i = 0; i < 2; ++i) QTest::keyClick(&desk.window, Qt::Key_E, Qt::ControlModifier);
    desk.wait();
    CHECK_FALSE(std::filesystem::exists(desk.scratch / "results" / "photo-result.tif"));
    CHECK(shown(desk, "What came of writing").contains("same point"));
  }
  SECTION("collinear: typed") {
    desk.type("Corner 3 (bottom right), x", QString::number((corners[1].x + corners[3].x) / 2));
    desk.type("Corner 3 (bottom right), y", QString::number((corners[1].y + corners[3].y) / 2));
    CHECK(shown(desk, "What is wrong").contains("lie on one line"));
  }
  SECTION("enormous: a pixel size that makes too large a picture") {
    QTest::mouseClick(desk.named<QPushButton>("What is known of it: sides"), Qt::LeftButton);
    desk.type("Width of the real rectangle", "100");
    desk.type("Height of the real rectangle", "75");
    QTest::mouseClick(desk.named<QPushButton>("Pixel size: pixel size"), Qt::LeftButton);
    desk.type("Pixel size of the result", "0.00001");
    CHECK(shown(desk, "What is wrong").contains("pixels"));
  }
}

TEST_CASE("a crop outside its station is marked and said, and undo mends it", "[window]") {
  test::Desk desk;
  desk.document().insert_step("crop", 0);
  desk.type("Crop left", "5000");
  CHECK(shown(desk, "What is wrong").contains("outside"));
  CHECK(desk.window.rail().tiles()[1]->accessibleName().contains("cannot be made"));
  QTest::keyClick(&desk.window, Qt::Key_Z, Qt::ControlModifier);
  CHECK_FALSE(desk.document().layout().stations[1].problem);
}

TEST_CASE("wrong chains are refused in place and the open work stays", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  const DocumentState before = desk.document().state();
  const struct {
    const char* text;
    const char* said;
  } rows[] = {
      {R"({"fexel":1,"steps":[{"step":"swirl"}]})", "/steps/0/step"},
      {R"({"fexel":1,"steps":[{"step":"rotate","degrees":90,"speed":3}]})", "/steps/0/speed"},
      {R"({"fexel":1,"steps":[{"step":"rotate"}]})", "/steps/0/degrees"},
      {R"({"fexel":1,"steps":[{"step":"rotate","degrees":"left"}]})", "/steps/0/degrees"},
      {R"({"fexel":1,"steps":[{"step":"crop","x":1e999,"y":0,"width":9,"height":9}]})", "/steps/0/x"},
      {R"({"fexel":1,"steps":[{"step":"rectify","corners":[[0,0],[90,90],[90,0],[0,90]],"width":1,"height":1,"unit":"mm"}]})",
       "/steps/0/corners"},
      {R"({"fexel":1})", "names no picture"},
      {R"({"fexel":1,"sources":[{"path":"gone.png"}]})", "gone.png"},
      {"turn left", "JSON"}};
  for (const auto& row : rows) {
    write_text(desk.scratch / "wrong.json", row.text, true);
    desk.open((desk.scratch / "wrong.json").string());
    CHECK_THAT(desk.window.notice().toStdString(), Catch::Contains(row.said));
    CHECK(desk.document().state() == before);
  }
}

TEST_CASE("writing over the source is refused, an existing file is kept until asked", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().select_tile(2);
  const std::string before = checksum(desk.photo);
  auto* path = desk.named<QLineEdit>("File to write");
  path->setText(QString::fromStdString(desk.photo));
  QTest::mouseClick(desk.named<QPushButton>("Write out"), Qt::LeftButton);
  desk.wait();
  CHECK(shown(desk, "What came of writing").contains("never written over"));
  CHECK(checksum(desk.photo) == before);

  write_text(desk.scratch / "there.tif", "mine", false);
  path->setText(QString::fromStdString((desk.scratch / "there.tif").string()));
  QTest::mouseClick(desk.named<QPushButton>("Write out"), Qt::LeftButton);
  desk.wait();
  CHECK(read_text(desk.scratch / "there.tif") == "mine");
  QTest::mouseClick(desk.named<QPushButton>("Replace the existing file"), Qt::LeftButton);
  desk.wait();
  CHECK(read_info(desk.scratch / "there.tif").width == 600);

  path->setText(QString::fromStdString((desk.scratch / "no-ending").string()));
  QTest::mouseClick(desk.named<QPushButton>("Write out"), Qt::LeftButton);
  CHECK(shown(desk, "What came of writing").contains("ending"));
}

TEST_CASE("a changed source and an unreadable file are said", "[window]") {
  test::Desk desk;
  REQUIRE(desk.window.save_chain(QString::fromStdString((desk.scratch / "job.fexel.json").string())));
  std::vector<Image> pages;
  pages.push_back(test::noise(800, 600, 1, Depth::u8));
  write_pictures(desk.photo, pages, {Format::png, {}, true, {}});
  desk.open((desk.scratch / "job.fexel.json").string());
  CHECK(desk.window.notice().contains("checksum"));
  write_text(desk.scratch / "broken.png", "no picture", false);
  desk.open((desk.scratch / "broken.png").string());
  CHECK(desk.window.notice().contains("not a picture"));
  desk.open((desk.scratch / "gone.png").string());
  CHECK(desk.window.notice().contains("cannot be opened"));
}

TEST_CASE("what cannot be made is put right with one click, which can be undone", "[window]") {
  test::Desk desk;
  desk.document().insert_step("crop", 0);
  Chain chain = desk.document().chain();
  chain.steps[0].kind = CropStep{CropRectangle{900, 40, 300, 700}};
  desk.document().edit_chain("crop", chain);
  REQUIRE(desk.document().layout().stations[1].problem);
  QTest::mouseClick(desk.named<QPushButton>("Move it into the picture"), Qt::LeftButton);
  CHECK_FALSE(desk.document().layout().stations[1].problem);
  const auto& crop = std::get<CropStep>(desk.document().chain().steps[0].kind);
  CHECK(std::get<CropRectangle>(crop.what) == CropRectangle{500, 0, 300, 600});
  desk.document().undo_stack().undo();
  CHECK(desk.document().layout().stations[1].problem);
  // A step for which no move helps is begun again.
  chain.steps[0].kind = MatrixStep{Matrix3::Zero(), {}, {}};
  desk.document().edit_chain("matrix", chain);
  REQUIRE(desk.document().layout().stations[1].problem);
  QTest::mouseClick(desk.named<QPushButton>("Begin again with values that work"), Qt::LeftButton);
  CHECK_FALSE(desk.document().layout().stations[1].problem);
}

TEST_CASE("the loss spot says what the geometry did to detail in the middle of the view", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().select_tile(desk.document().tiles() - 1);
  const QString button = "Show what detail was lost in the middle of the view";
  const auto said = [&] { return desk.window.inspector().result_page()->round_trip_spot()->said(); };
  QTest::mouseClick(desk.named<QPushButton>(button), Qt::LeftButton);
  REQUIRE(QTest::qWaitFor([&] { return !said().isEmpty(); }, test::patience));
  CHECK(said().contains("Nothing is lost here"));
  desk.document().insert_step("rotate", 0);
  Chain chain = desk.document().chain();
  std::get<RotateStep>(chain.steps[0].kind).degrees = 7;
  chain.resampling.kernel = Kernel::linear;
  desk.document().edit_chain("rotate", chain);
  desk.document().select_tile(desk.document().tiles() - 1);
  CHECK(said().isEmpty());  // it was of another chain
  QTest::mouseClick(desk.named<QPushButton>(button), Qt::LeftButton);
  REQUIRE(QTest::qWaitFor([&] { return !said().isEmpty(); }, test::patience));
  CHECK(said().contains("% of the contrast here is left"));
  CHECK(desk.named<QLabel>("there and back")->pixmap().width() == 84);
}
