/// Runs over many pictures in the real window: the panel, what is wrong, corrections, one picture after the other.
#include <QMimeData>
#include <catch2/catch.hpp>

#include "app/runs/run_panel.h"
#include "app/runs/run_review.h"
#include "batch/journal.h"
#include "demo/demo.h"
#include "tests/window/desk.h"

namespace fexel::test::runs {
namespace {
namespace fs = std::filesystem;

void write(const fs::path& path, const Image& image, const std::optional<PixelSize>& pixel) {
  WriteOptions how{*format_of_name(path), pixel, false, {}};
  how.replace = true;
  write_pictures(path, test::one_page(image.clone()), how);
}

/// A plane of one value in the chain's place, to look like a photo of its own.
Image shade(int width, int height, int bands, Depth depth, double value) {
  Image out(width, height, bands, depth);
  for (int b = 0; b < bands; ++b)
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x)
        visit_depth(depth, [&](auto kind) {
          out.row<decltype(kind)>(b, y)[x] = static_cast<decltype(kind)>(value + x + 2 * y);
        });
  return out;
}

std::string chain_text(const std::string& steps) {
  return R"({"fexel":1,"sources":[{"path":"photo.png"}],"steps":[)" + steps + "]}";
}

/// Halves pictures of 80 x 60 px at 0.1 mm, and cuts 30 x 20 out.
const char* const halve_and_cut =
    R"({"step":"resize","pixel_size":0.2,"unit":"mm"},{"step":"crop","x":5,"y":5,"width":30,"height":20})";

/// 400 files of four kinds; eight are bad.
struct FourHundred {
  fs::path folder;
  std::vector<fs::path> vanishing;
  explicit FourHundred(const fs::path& at) : folder(at) {
    fs::create_directories(folder);
    const PixelSize pixel{0.1, 0.1, "mm"};
    const auto name = [&](int i, const char* ending) { return folder / ("p-" + std::to_string(i) + ending); };
    for (int i = 1; i <= 394; ++i) {
      const double value = i % 50;
      if (i % 4 == 0) write(name(i, ".tif"), shade(80, 60, 1, Depth::u8, value), pixel);
      if (i % 4 == 1) write(name(i, ".tiff"), shade(80, 60, 1, Depth::f32, value), pixel);
      if (i % 4 == 2) write(name(i, ".png"), shade(80, 60, 3, Depth::u16, value), pixel);
      if (i % 4 == 3) write(name(i, ".jpg"), shade(80, 60, 1, Depth::u8, value), pixel);
    }
    // Bad ones: two broken, one cut short, one too small, one without a scale, one whose result's name is another's.
    std::ofstream(name(395, ".png")) << "no picture";
    std::ofstream(name(396, ".tif")) << "";
    fs::copy_file(name(2, ".png"), name(397, ".png"));
    fs::resize_file(name(397, ".png"), 200);
    write(name(398, ".png"), shade(40, 30, 1, Depth::u8, 3), pixel);
    write(name(399, ".png"), shade(80, 60, 1, Depth::u8, 3), {});
    write(name(400, ".png"), shade(80, 60, 1, Depth::u8, 3), pixel);
    fs::rename(name(400, ".png"), folder / "p-4.png");  // beside p-4.tif
    vanishing = {name(388, ".tif"), name(392, ".tif")};
  }
};

/// The panel as it is opened by its key, with places dropped on it.
RunPanel* open_panel(test::Desk& desk, const QStringList& places) {
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_R, Qt::ControlModifier);
  RunPanel* panel = desk.window.runs();
  REQUIRE(panel);
  REQUIRE(panel->isVisible());
  QMimeData data;
  QList<QUrl> urls;
  for (const QString& place : places) urls << QUrl::fromLocalFile(place);
  data.setUrls(urls);
  QDragEnterEvent enter(QPoint(50, 50), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(panel, &enter);
  CHECK(enter.isAccepted());
  QDropEvent drop(QPointF(50, 50), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(panel, &drop);
  REQUIRE(QTest::qWaitFor([&] { return !panel->session().planning(); }, test::patience));
  return panel;
}

void wait_run(RunPanel* panel) {
  REQUIRE(QTest::qWaitFor([&] { return !panel->session().running() && !panel->session().planning(); }, test::patience));
  QTest::qWait(20);
}

void settle(RunPanel* panel) {
  QTest::qWait(300);  // typing has stopped
  wait_run(panel);
}

template <class Widget>
Widget* in(QWidget* parent, const QString& name) {
  for (Widget* widget : parent->findChildren<Widget*>())
    if (widget->accessibleName() == name && widget->isVisible()) return widget;
  FAIL("no visible control is named " << name.toStdString());
  return nullptr;
}

void click(QWidget* parent, const QString& name) {
  QTest::mouseClick(in<QPushButton>(parent, name), Qt::LeftButton);
}

void choose(QWidget* parent, const QString& name, int index) {
  auto* list = in<QComboBox>(parent, name);
  list->setFocus();
  QTest::keyClick(list, Qt::Key_Home);
  for (int i = 0; i < index; ++i) QTest::keyClick(list, Qt::Key_Down);
  CHECK(list->currentIndex() == index);
  Q_EMIT list->activated(index);
}

int row_named(const RunSession& session, const std::string& name) {
  for (std::size_t i = 0; i < session.rows().size(); ++i)
    if (session.rows()[i].input.file.filename() == name) return static_cast<int>(i);
  FAIL("no row is " << name);
  return -1;
}

/// Waits until the review shows this row, and gives its window.
MainWindow& review_at(test::Desk& desk, int row) {
  REQUIRE(QTest::qWaitFor([&] { return desk.window.review() && desk.window.review()->row() == row; }, test::patience));
  MainWindow& window = desk.window.review()->window();
  window.activateWindow();
  REQUIRE(QTest::qWaitForWindowActive(&window));
  return window;
}

}  // namespace

TEST_CASE("four hundred files of four kinds: eight bad ones are said, two are corrected, the rest land",
          "[window][runs]") {
  test::Desk desk;
  const FourHundred files(desk.scratch / "in");
  const std::string chain = (desk.scratch / "half.fexel.json").string();
  write(desk.photo, shade(80, 60, 1, Depth::u8, 3), PixelSize{0.1, 0.1, "mm"});
  write_text(chain, chain_text(halve_and_cut), true);
  desk.open(chain);
  RunPanel* panel = open_panel(desk, {QString::fromStdString(files.folder.string())});
  const RunSession& session = panel->session();
  choose(panel, "Format", 1);
  settle(panel);
  CHECK(session.rows().size() == 400);
  // Beside the pictures, and not among them.
  CHECK(session.settings().folder == QString::fromStdString((files.folder / "results").string()));
  CHECK(in<QLabel>(panel, "An example of the names")->text() == "p-1.tiff becomes p-1-half.tif.");
  // Four that cannot be made and a doubtful one are told before anything runs, each with why.
  CHECK(session.count(RunRow::State::unfit) == 4);
  for (const char* name : {"p-395.png", "p-396.tif", "p-399.png"}) {
    const RunRow& row = session.rows()[static_cast<std::size_t>(row_named(session, name))];
    INFO(name);
    CHECK(row.state == RunRow::State::unfit);
    CHECK(row.problem.size() > 20);
  }
  const auto& doubts = session.rows()[static_cast<std::size_t>(row_named(session, "p-398.png"))].doubts;
  REQUIRE(doubts.size() == 1);
  CHECK(doubts[0] == "It has 40 x 30 px; the chain was made on 80 x 60 px.");
  CHECK(session.to_look_at() == 5);
  const int clash =
      session.rows()[static_cast<std::size_t>(row_named(session, "p-4.png"))].state == RunRow::State::unfit
          ? row_named(session, "p-4.png")
          : row_named(session, "p-4.tif");
  CHECK(session.rows()[static_cast<std::size_t>(clash)].problem.contains("both"));
  CHECK(in<QLabel>(panel, "How many pictures")->text().contains("4 cannot be made"));

  // Two vanish while it runs, and one is cut short behind a head that reads well.
  bool gone = false;
  const auto vanish = QObject::connect(&panel->session(), &RunSession::row_changed, [&](int) {
    if (std::exchange(gone, true)) return;
    for (const fs::path& file : files.vanishing) fs::remove(file);
  });
  click(panel, "Run");
  CHECK(in<QPushButton>(panel, "Pause")->isEnabled());
  wait_run(panel);
  QObject::disconnect(vanish);
  CHECK(session.count(RunRow::State::done) == 393);
  CHECK(session.count(RunRow::State::failed) == 3);
  CHECK(session.to_look_at() == 8);

  // The list of those to look at begins with what failed.
  QTest::mouseClick(in<QWidget>(panel, "Pictures that are listed")->findChildren<QPushButton*>()[1], Qt::LeftButton);
  const auto state = [&](int line) { return panel->model()->index(line, RunModel::state).data().toString(); };
  CHECK(state(0) == "failed");
  CHECK(state(1) == "failed");
  CHECK(state(2) == "failed");
  CHECK(state(3) == "cannot be made");
  CHECK(state(7) == "done, doubtful");

  // The one that is too small gets a smaller cut, by hand, in a window of its own.
  const int small = row_named(session, "p-398.png");
  panel->table()->selectRow(panel->model()->line_of(small));
  click(panel, "Correct this picture…");
  {
    MainWindow& window = review_at(desk, small);
    CHECK(window.document().shape().size == Size{40, 30});
    window.document().select_tile(2);
    for (const auto& [field, text] : {std::pair{"Crop width", "12"}, std::pair{"Crop height", "8"}}) {
      auto* spin = in<QAbstractSpinBox>(&window, field);
      spin->setFocus();
      spin->selectAll();
      QTest::keyClicks(spin, text);
      QTest::keyClick(spin, Qt::Key_Return);
    }
    QTest::qWait(20);
    window.views().view_a()->setFocus();
    QTest::keyClick(window.views().view_a(), Qt::Key_Return);
  }
  REQUIRE(QTest::qWaitFor([&] { return !desk.window.review(); }, test::patience));
  wait_run(panel);
  CHECK(session.rows()[static_cast<std::size_t>(small)].state == RunRow::State::done);
  // The one without a scale goes without the first step.
  const int unscaled = row_named(session, "p-399.png");
  panel->table()->selectRow(panel->model()->line_of(unscaled));
  desk.front();
  panel->table()->setFocus();
  QTest::keyClick(panel->table(), Qt::Key_Return);
  {
    MainWindow& window = review_at(desk, unscaled);
    Chain own = window.document().chain();
    own.steps[0].on = false;
    window.document().edit_chain("off", own);
    click(&window, "Accept and go on");
  }
  REQUIRE(QTest::qWaitFor([&] { return !desk.window.review(); }, test::patience));
  wait_run(panel);

  // 394 have landed, and each record tells its chain.
  const fs::path out = files.folder / "results";
  int results = 0, own = 0;
  Chain base = desk.document().chain();
  for (const auto& entry : fs::directory_iterator(out)) {
    if (!entry.path().string().ends_with(".record.json")) continue;
    ++results;
    const Record record = load_record(entry.path());
    if (record.chain == for_record(base)) continue;
    ++own;
    CHECK((record.name == "p-398-half.tif" || record.name == "p-399-half.tif"));
  }
  CHECK(results == 394);
  CHECK(own == 2);
  CHECK(read_info(out / "p-398-half.tif").width == 12);
  CHECK(read_info(out / "p-399-half.tif").width == 30);
  // The journal tells all of it.
  const Journal journal = load_journal(out / "half.run.jsonl");
  CHECK(journal.inputs.size() == 400);
  int done = 0, failed = 0;
  for (const auto& [input, entry] : journal.entries) (entry.state == JournalEntry::State::done ? done : failed) += 1;
  CHECK(done == 394);
  CHECK(failed == 6);

  // Back at the picture, nothing of it has changed.
  desk.front();
  panel->setFocus();
  QTest::keyClick(panel, Qt::Key_Escape);
  CHECK_FALSE(panel->isVisible());
  CHECK(desk.document().chain() == base);
  CHECK(desk.document().clean());
}

TEST_CASE("a run that was cancelled goes on from its journal in another window, with its corrections",
          "[window][runs]") {
  const test::Scratch scratch;
  fs::create_directories(scratch / "in" / "below");
  for (int i = 0; i < 40; ++i)
    write(scratch / "in" / (i % 2 == 0 ? "" : "below") / ("p-" + std::to_string(i) + ".png"),
          test::noise(300, 200, 1, Depth::u8, static_cast<unsigned>(i)), {});
  int before = 0;
  {
    test::Desk desk;
    desk.insert_quarter_turn(0);
    RunPanel* panel = open_panel(desk, {QString::fromStdString((scratch / "in").string())});
    in<QCheckBox>(panel, "folders below them, too")->click();
    auto* folder = in<QLineEdit>(panel, "Folder of the results");
    folder->setFocus();
    folder->selectAll();
    QTest::keyClicks(folder, QString::fromStdString((scratch / "out").string()));
    settle(panel);
    CHECK(panel->session().rows().size() == 40);
    int done = 0;
    QObject::connect(&panel->session(), &RunSession::row_changed, panel, [&](int row) {
      if (panel->session().rows()[static_cast<std::size_t>(row)].finished() && ++done == 5)
        panel->session().set_paused(true);
    });
    click(panel, "Run");
    REQUIRE(QTest::qWaitFor([&] { return panel->session().paused(); }, test::patience));
    QTest::qWait(200);
    const int held = panel->session().count(RunRow::State::done);
    CHECK(held < 40);
    CHECK(in<QLabel>(panel, "How far the run is")->text().contains("held"));
    QTest::qWait(200);
    CHECK(panel->session().count(RunRow::State::done) == held);
    click(panel, "Cancel the run");
    wait_run(panel);
    before = panel->session().count(RunRow::State::done);
    CHECK(before < 40);
    CHECK(panel->session().count(RunRow::State::running) == 0);
    Chain other = desk.document().chain();
    std::get<RotateStep>(other.steps[0].kind).degrees = 180;
    panel->session().correct(row_named(panel->session(), "p-3.png"), other);
    wait_run(panel);
  }
  test::Desk desk;
  RunPanel* panel = open_panel(desk, {});
  panel->session().open_journal(scratch / "out" / "chain.run.jsonl");
  wait_run(panel);
  const RunSession& session = panel->session();
  CHECK(session.rows().size() == 40);
  CHECK(session.count(RunRow::State::stood) >= before);
  click(panel, "Run");
  wait_run(panel);
  CHECK(session.count(RunRow::State::done) + session.count(RunRow::State::stood) == 40);
  CHECK(read_info(scratch / "out" / "below" / "p-3-chain.png").width == 300);
  CHECK(read_info(scratch / "out" / "below" / "p-5-chain.png").width == 200);
  CHECK(read_info(scratch / "out" / "p-4-chain.png").width == 200);
}

TEST_CASE("one picture after the other: corners are proposed, Return accepts and goes on", "[window][runs]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  // The same plane, seen from elsewhere: moved by 17 px and 9 px a picture.
  fs::create_directories(desk.scratch / "in");
  const Image photo = read_picture(desk.photo, 1, {}, {});
  std::vector<Point> moved;
  for (int i = 0; i < 3; ++i) {
    const Point by{12.0 * (i + 1), 7.0 * (i + 1)};
    Image image(800, 600, 1, Depth::u8);
    for (int y = 0; y < 600; ++y)
      for (int x = 0; x < 800; ++x) {
        const int sx = x - static_cast<int>(by.x), sy = y - static_cast<int>(by.y);
        image.row<std::uint8_t>(0, y)[x] = sx >= 0 && sy >= 0 ? photo.row<std::uint8_t>(0, sy)[sx] : 200;
      }
    write(desk.scratch / "in" / ("m-" + std::to_string(i) + ".png"), image, {});
    moved.push_back(by);
  }
  RunPanel* panel = open_panel(desk, {QString::fromStdString((desk.scratch / "in").string())});
  click(panel, "One by one…");
  double screen = 0;  // a pixel of the screen, in pixels of the picture
  for (int i = 0; i < 3; ++i) {
    MainWindow& window = review_at(desk, i);
    const auto& step = std::get<RectifyStep>(window.document().chain().steps[0].kind);
    CHECK(window.document().selected_step() == 0);
    if (i == 0) {
      // Nothing is found by itself here: a person drags the corners onto the plane.
      PictureView* view = window.views().view_a();
      screen = 1 / view->zoom();
      for (std::size_t k = 0; k < 4; ++k) {
        const Point at = std::get<RectifyStep>(window.document().chain().steps[0].kind).corners[k];
        desk.drag(view, view->to_widget(test::q(at)), view->to_widget(test::q(test::photo_corners[k] + moved[0])));
      }
      QTest::qWait(20);
    }
    CHECK(check_quad(step.corners) == std::nullopt);
    window.views().view_a()->setFocus();
    QTest::keyClick(window.views().view_a(), Qt::Key_Return);
  }
  REQUIRE(QTest::qWaitFor([&] { return !desk.window.review(); }, test::patience));
  wait_run(panel);
  CHECK(panel->session().count(RunRow::State::done) == 3);
  const Record first = load_record(desk.scratch / "in" / "results" / "m-0-chain.png.record.json");
  const auto& corners = std::get<RectifyStep>(first.chain.steps[0].kind).corners;
  for (std::size_t k = 0; k < 4; ++k) CHECK(distance(corners[k], test::photo_corners[k] + moved[0]) <= 1.5 * screen);
}

TEST_CASE("keys pressed in the list of a run change no chain behind it", "[window][runs]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  const std::string before = write_chain(desk.document().chain());
  fs::create_directories(desk.scratch / "in");
  write(desk.scratch / "in" / "p.png", test::noise(60, 40, 1, Depth::u8), {});
  RunPanel* panel = open_panel(desk, {QString::fromStdString((desk.scratch / "in").string())});
  panel->table()->setFocus();
  QTest::keyClick(panel->table(), Qt::Key_Down);
  for (const int key : {Qt::Key_Delete, Qt::Key_Backspace, Qt::Key_Space, Qt::Key_M, Qt::Key_R, Qt::Key_Left})
    QTest::keyClick(panel->table(), static_cast<Qt::Key>(key));
  CHECK(write_chain(desk.document().chain()) == before);
  CHECK(panel->isVisible());
}

TEST_CASE("a window with a run under way asks before it closes", "[window][runs]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().undo_stack().setClean();
  fs::create_directories(desk.scratch / "in");
  for (int i = 0; i < 30; ++i)
    write(desk.scratch / "in" / ("p-" + std::to_string(i) + ".png"), test::noise(600, 400, 1, Depth::u8), {});
  RunPanel* panel = open_panel(desk, {QString::fromStdString((desk.scratch / "in").string())});
  click(panel, "Run");
  panel->session().set_paused(true);
  test::answer_next("Stay");
  CHECK_FALSE(desk.window.close());
  CHECK(desk.window.isVisible());
  panel->session().cancel();
  wait_run(panel);
}

}  // namespace fexel::test::runs
