#include "tests/window/sequence.h"

namespace fexel::test::sequence {
TEST_CASE("a folder opens as a sequence in natural order, and keys go through its frames", "[window]") {
  Frames desk(11);
  REQUIRE(desk.list()->isVisible());
  REQUIRE(desk.list()->count() == 11);
  CHECK(desk.list()->item(1)->text().contains("frame-2.tif"));
  CHECK(desk.list()->item(9)->text().contains("frame-10.tif"));
  CHECK(desk.document().frame() == 0);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_PageDown);
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 1; }, test::patience));
  CHECK(desk.list()->currentRow() == 1);
  QTest::keyClick(desk.a(), Qt::Key_PageUp);
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 0; }, test::patience));
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
  CHECK(desk.named<QLabel>("Measurements in short")->text() == "5 matched, 1 not matched");
  QTableView* table = desk.window.ledger().frames()->table();
  REQUIRE(table->isVisible());
  CHECK(table->model()->index(3, FramesModel::shift_x).data().toString().startsWith("−12.0"));
  CHECK(table->model()->index(4, FramesModel::shift_x).data().toString() == "–");
  // A row shows its frame.
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                    table->visualRect(table->model()->index(0, FramesModel::name)).center());
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 0; }, test::patience));
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
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QProgressBar>("Progress")->value() > 50; }, test::patience));
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

TEST_CASE("all frames go through any chain, as pages or numbered files, and the button says how many", "[window]") {
  Frames desk(6);
  desk.document().insert_step("crop", 0);
  desk.document().select_tile(desk.document().tiles() - 1);
  CHECK(desk.named<QPushButton>("Write 6 frames")->isEnabled());
  const QString pages = QString::fromStdString((desk.scratch / "pages.tif").string());
  desk.window.write_out(pages, false);
  desk.wait();
  REQUIRE(QFileInfo::exists(pages));
  CHECK(read_info(pages.toStdString()).frames == 6);
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("6 frames"));
  CHECK(QFileInfo::exists(pages + ".record.json"));
  desk.window.write_out(QString::fromStdString((desk.scratch / "frame-{index}.png").string()), false);
  desk.wait();
  for (int i = 1; i <= 6; ++i)
    CHECK(QFileInfo::exists(QString::fromStdString((desk.scratch / ("frame-" + std::to_string(i) + ".png")).string())));
  CHECK_FALSE(std::filesystem::exists(desk.scratch / "frame-{index}.png"));
  // One file of a format without pages is no place for six.
  desk.window.write_out(QString::fromStdString((desk.scratch / "one.png").string()), false);
  desk.wait();
  CHECK_FALSE(std::filesystem::exists(desk.scratch / "one.png"));
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("{index}"));
}

TEST_CASE("frames that did not match are said before and after, and may be left out", "[window]") {
  Frames desk(6, 4);
  desk.add_align();
  desk.click("Align all frames");
  desk.document().select_tile(desk.document().tiles() - 1);
  CHECK(desk.named<QLabel>("Frames that did not match")->text().contains("Frame 5"));
  const QString kept = QString::fromStdString((desk.scratch / "kept.tif").string());
  desk.window.write_out(kept, false);
  desk.wait();
  CHECK(read_info(kept.toStdString()).frames == 6);
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("Not matched"));
  desk.named<QCheckBox>("leave them out of the file")->setChecked(true);
  CHECK(desk.named<QPushButton>("Write 5 frames")->isEnabled());
  const QString fewer = QString::fromStdString((desk.scratch / "fewer.tif").string());
  desk.window.write_out(fewer, false);
  desk.wait();
  CHECK(read_info(fewer.toStdString()).frames == 5);
  const Json record = parse_json(read_text(kept.toStdString() + ".record.json"));
  CHECK(record.at("transform").at("frames")[4].at("status") == "failed");
}

TEST_CASE("no frame, chain or reference of what is open is written over", "[window]") {
  Frames desk(3);
  desk.document().insert_step("crop", 0);
  const QString chain = QString::fromStdString((desk.scratch / "c.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  const std::string second = desk.folder.toStdString() + "/frame-2.tif", before = checksum(second);
  desk.document().select_tile(desk.document().tiles() - 1);
  desk.window.write_out(QString::fromStdString(second), true);
  desk.wait();
  CHECK(checksum(second) == before);
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("source"));
}

TEST_CASE("a frame that is cut before it is written is said, and is no black page called whole", "[window]") {
  Frames desk(4);
  desk.document().insert_step("crop", 0);
  desk.document().select_tile(desk.document().tiles() - 1);
  const QString out = QString::fromStdString((desk.scratch / "out.tif").string());
  std::filesystem::resize_file(desk.folder.toStdString() + "/frame-3.tif", 9000);
  desk.window.write_out(out, false);
  desk.wait();
  // The file is not the one that was opened.
  CHECK_FALSE(QFileInfo::exists(out));
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("changed"));
}

TEST_CASE("what the window writes under random faults stands with its record and is right, or is not there",
          "[window][siege]") {
  const double seconds = std::getenv("FEXEL_SIEGE") ? std::atof(std::getenv("FEXEL_SIEGE")) : 2;
  Frames desk(5);
  desk.document().insert_step("denoise", 0);
  desk.document().insert_step("rotate", 1);
  desk.document().select_tile(desk.document().tiles() - 1);
  std::vector<std::filesystem::path> frames;
  for (int i = 1; i <= 5; ++i) frames.push_back(desk.folder.toStdString() + "/frame-" + std::to_string(i) + ".tif");
  std::mt19937 random(4);
  int stood = 0, rounds = 0;
  for (QElapsedTimer time; rounds < 8 || static_cast<double>(time.elapsed()) < 1000 * seconds; ++rounds) {
    if (!time.isValid()) time.start();
    const std::filesystem::path& victim = frames[random() % frames.size()];
    const std::string kept = read_text(victim), name = "round-" + std::to_string(rounds);
    const bool numbered = random() % 2 == 0;
    const std::filesystem::path target = desk.scratch / (numbered ? name + "-{index}.png" : name + ".tif");
    const unsigned fault = static_cast<unsigned>(random() % 5);
    INFO("round " << rounds << ", fault " << fault);
    desk.window.write_out(QString::fromStdString(target.string()), false);
    QTest::qWait(static_cast<int>(random() % 90));
    if (fault == 1) desk.window.background().cancel();
    if (fault == 2) std::filesystem::remove(victim);
    if (fault == 3) std::filesystem::resize_file(victim, kept.size() / 2);
    if (fault == 4) write_text(victim, read_text(frames.front()), true);
    desk.wait();
    const std::filesystem::path record = record_path(target, 5);
    for (const auto& file : sequence_names(target, 5))
      if (std::filesystem::exists(file)) CHECK(std::filesystem::exists(record));
    write_text(victim, kept, true);
    if (std::filesystem::exists(record)) {
      ++stood;
      CHECK(verify_record(record, {}, {}).same);
    }
    // The frames are not those that were opened any more: they are opened anew.
    desk.window.open_sequence({desk.folder});
    desk.wait();
    desk.document().insert_step("denoise", 0);
    desk.document().insert_step("rotate", 1);
    desk.document().select_tile(desk.document().tiles() - 1);
  }
  CHECK(stood > 0);
}

}  // namespace fexel::test::sequence
