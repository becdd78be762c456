#include <catch2/catch.hpp>

#include "app/frames_column.h"
#include "tests/scene.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

/// A window with a folder of frames open; frame i lies 4 i px right and 3 i px up of the first.
struct Frames : test::Desk {
  static constexpr Size size{320, 240};
  QString folder;
  explicit Frames(int count, int stranger = -1) {
    folder = QString::fromStdString((scratch / "frames").string());
    std::filesystem::create_directories(folder.toStdString());
    const test::Scene scene = test::textured(80, 0.01, 0.2, 40, 9), other = test::textured(80, 0.01, 0.2, 40, 10);
    for (int i = 0; i < count; ++i) {
      std::vector<Image> pages;
      pages.push_back(test::frame_of(i == stranger ? other : scene, translation(4 * i, -3 * i), size, Depth::u16, 3,
                                     static_cast<unsigned>(i), 100, 2000));
      write_pictures(folder.toStdString() + "/frame-" + std::to_string(i + 1) + ".tif", pages, {});
    }
    window.open_sequence({folder});
    wait();
  }
  QListWidget* list() { return window.frames().list(); }
  void show(int index) {
    list()->setCurrentRow(index);
    REQUIRE(QTest::qWaitFor([&] { return document().frame() == index; }, 5000));
  }
  void add_align() {
    document().insert_step("align", 0);
    document().select_tile(1);
  }
  const AlignStep& align() { return *document().align_step(); }
  void click(const QString& name) {
    QTest::mouseClick(named<QPushButton>(name), Qt::LeftButton);
    wait();
  }
};

}  // namespace

TEST_CASE("a folder opens as a sequence in natural order, and keys go through its frames", "[window]") {
  Frames desk(11);
  REQUIRE(desk.list()->isVisible());
  REQUIRE(desk.list()->count() == 11);
  CHECK(desk.list()->item(1)->text().contains("frame-2.tif"));
  CHECK(desk.list()->item(9)->text().contains("frame-10.tif"));
  CHECK(desk.document().frame() == 0);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_PageDown);
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 1; }, 5000));
  CHECK(desk.list()->currentRow() == 1);
  QTest::keyClick(desk.a(), Qt::Key_PageUp);
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 0; }, 5000));
  QTest::keyClick(desk.a(), Qt::Key_PageUp);  // there is none before
  CHECK(desk.document().frame() == 0);
  CHECK(desk.document().undo_stack().count() == 0);  // looking is no change
  // A single picture has no frames.
  desk.open(desk.photo);
  CHECK_FALSE(desk.list()->isVisible());
  // A stack of pages is a sequence, too.
  std::vector<Image> pages;
  for (int i = 0; i < 3; ++i) pages.push_back(test::noise(64, 48, 1, Depth::u8, static_cast<unsigned>(i)));
  write_pictures(desk.scratch / "stack.tif", pages, {});
  desk.open((desk.scratch / "stack.tif").string());
  CHECK(desk.list()->count() == 3);
  CHECK(desk.list()->item(2)->text().contains("page 3"));
}

TEST_CASE("align is tried on the shown frame, then run on all; the ledger says what each did", "[window]") {
  Frames desk(6, 4);
  desk.add_align();
  CHECK(desk.named<QLabel>("Check")->text().contains("Nothing is searched yet"));
  desk.show(2);
  desk.click("Try on this frame");
  REQUIRE(desk.align().frames.size() == 6);
  CHECK(desk.align().frames[2].status == MatchStatus::ok);
  CHECK(desk.align().frames[2].matrix(0, 2) == Approx(-8).margin(0.02));
  CHECK(desk.align().frames[3].reason == "Not searched yet.");
  CHECK(desk.named<QLabel>("What was found for this frame")->text().contains("−8.0"));

  desk.click("Align all frames");
  const auto& frames = desk.align().frames;
  for (const int i : {1, 2, 3, 5}) {
    CHECK(frames[static_cast<std::size_t>(i)].status == MatchStatus::ok);
    CHECK(frames[static_cast<std::size_t>(i)].matrix(0, 2) == Approx(-4 * i).margin(0.02));
    CHECK(frames[static_cast<std::size_t>(i)].matrix(1, 2) == Approx(3 * i).margin(0.02));
  }
  CHECK(frames[4].status == MatchStatus::failed);
  CHECK(desk.list()->item(4)->text().contains("not matched"));
  CHECK(desk.list()->item(5)->text().contains("✓"));
  CHECK(desk.named<QLabel>("Gauges in short")->text() == "5 matched, 1 not matched");
  QTableView* table = desk.window.ledger().frames()->table();
  REQUIRE(table->isVisible());
  CHECK(table->model()->index(3, FramesModel::shift_x).data().toString().startsWith("−12.0"));
  CHECK(table->model()->index(4, FramesModel::shift_x).data().toString() == "–");
  // A row shows its frame.
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                    table->visualRect(table->model()->index(0, FramesModel::name)).center());
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 0; }, 5000));
  CHECK(desk.window.ledger().frames()->csv().count('\n') == 7);

  // What is shown is moved: a point of the scene stays in place from frame to frame.
  desk.show(3);
  const Carried at = carry(desk.document().layout(), {100 + 12, 100 - 9}, 0, 1);
  CHECK(at.point.x == Approx(100).margin(0.05));
  CHECK(at.point.y == Approx(100).margin(0.05));
  // By hand a frame is left where it is; undo brings it back.
  desk.click("Leave it where it is");
  CHECK(desk.align().frames[3].status == MatchStatus::failed);
  desk.document().undo_stack().undo();
  CHECK(desk.align().frames[3].status == MatchStatus::ok);
  desk.document().undo_stack().undo();
  desk.document().undo_stack().undo();
  CHECK(desk.align().frames.empty());
}

TEST_CASE("a cancelled search keeps the frames that were matched", "[window]") {
  Frames desk(40);
  desk.add_align();
  QTest::mouseClick(desk.named<QPushButton>("Align all frames"), Qt::LeftButton);
  REQUIRE(desk.window.background().running());
  QElapsedTimer clock;
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QProgressBar>("Progress")->value() > 50; }, 20000));
  clock.start();
  QTest::mouseClick(desk.named<QPushButton>("cancel"), Qt::LeftButton);
  CHECK(clock.elapsed() < 100);  // the window is free
  desk.wait();
  QTest::qWait(50);
  const auto& frames = desk.align().frames;
  if (frames.empty()) FAIL("nothing was kept");
  const auto matched =
      std::ranges::count_if(frames, [](const FoundFrame& f) { return f.status != MatchStatus::failed; });
  CHECK(matched > 0);
  if (matched < 40) CHECK(desk.window.notice().contains("are kept"));
}

TEST_CASE("a sequence is written out as pages, saved as a chain, and opened again", "[window]") {
  Frames desk(4);
  desk.add_align();
  desk.click("Align all frames");
  const QString out = QString::fromStdString((desk.scratch / "lined-up.tif").string());
  desk.window.write_out(out, false);
  desk.wait();
  REQUIRE(QFileInfo::exists(out));
  const FileInfo info = read_info(out.toStdString());
  CHECK(info.frames == 4);
  CHECK(info.depth == Depth::u16);
  const Image first = read_picture(out.toStdString(), 1), last = read_picture(out.toStdString(), 4);
  double sum = 0;
  int count = 0;
  for (int y = 15; y < 225; ++y)
    for (int x = 5; x < 300; ++x, ++count)
      sum += std::abs(first.row<std::uint16_t>(0, y)[x] - last.row<std::uint16_t>(0, y)[x]);
  CHECK(sum / count < 6);  // noise of 3 in both
  const QString chain = QString::fromStdString((desk.scratch / "series.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  CHECK(load_chain(chain.toStdString()).sources.size() == 4);
  desk.open(desk.photo);
  desk.open(chain.toStdString());
  CHECK(desk.list()->count() == 4);
  CHECK(desk.align().frames.size() == 4);
}

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
  desk.click("How far to trust it on this material");
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
