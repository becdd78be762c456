#include <signal.h>

#include <catch2/catch.hpp>
#include <chrono>
#include <random>

#include "tests/window/desk.h"

using namespace fexel;

namespace {

double now_s() {
  return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

int files_in(const QString& folder) {
  return static_cast<int>(QDir(folder).entryList({"*.unsaved.json"}, QDir::Files).size());
}

std::unique_ptr<MainWindow> window_on(const QString& folder, const QString& photo) {
  auto window = std::make_unique<MainWindow>(folder);
  window->resize(1280, 800);
  window->show();
  if (!photo.isEmpty()) window->open_file(photo);
  REQUIRE(QTest::qWaitFor([&] { return !window->background().running(); }, test::patience));
  QTest::qWait(20);
  return window;
}

void shift_by(Document& document, double dx) {
  Chain chain = document.chain();
  if (chain.steps.empty()) chain.steps.push_back({TranslateStep{}, true, {}});
  std::get<TranslateStep>(chain.steps[0].kind).dx = dx;
  document.edit_chain("translate", chain);
}

}  // namespace

// Run by the test below as a process of its own, which is killed: an edit every 20 ms, each told of in a log.
TEST_CASE("a window that is edited without end", "[.editing]") {
  const auto window = window_on(qEnvironmentVariable("FEXEL_KEEP"), qEnvironmentVariable("FEXEL_PHOTO"));
  std::ofstream log(qEnvironmentVariable("FEXEL_LOG").toStdString());
  for (int i = 1;; ++i) {
    shift_by(window->document(), i);
    log << i << " " << std::fixed << now_s() << std::endl;
    QTest::qWait(20);
  }
}

TEST_CASE("a killed window loses at most five seconds of edits, and no file", "[keep]") {
  test::Scratch scratch;
  const std::string photo = (scratch / "photo.png").string();
  test::make_photo(photo);
  const std::string before = read_text(photo);
  const QString folder = QString::fromStdString((scratch / "unsaved").string());
  const std::string log = (scratch / "log").string();
  std::mt19937 random(4);
  std::uniform_int_distribution<int> moment(1200, 3200);
  bool mentioned = false;
  for (int round = 0; round < 5; ++round) {
    QProcess process;
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    environment.insert("FEXEL_KEEP", folder);
    environment.insert("FEXEL_PHOTO", QString::fromStdString(photo));
    environment.insert("FEXEL_LOG", QString::fromStdString(log));
    process.setProcessEnvironment(environment);
    std::filesystem::remove(log);
    process.start(QCoreApplication::applicationFilePath(), {"[.editing]"});
    const auto edits = [&] {
      std::ifstream told(log);
      return std::count(std::istreambuf_iterator<char>(told), {}, '\n');
    };
    REQUIRE(QTest::qWaitFor([&] { return edits() > 10; }, test::patience));
    QTest::qWait(round == 4 ? 6000 : moment(random));
    ::kill(static_cast<pid_t>(process.processId()), SIGKILL);
    process.waitForFinished();
    const double killed = now_s();
    std::ifstream told(log);
    std::vector<double> when{0};
    for (int i = 0; told >> i;) {
      double at = 0;
      told >> at;
      when.push_back(at);
    }
    REQUIRE(when.size() > 10);

    const auto window = window_on(folder, {});
    if (!window->has_unsaved_work()) {
      // Killed before anything was kept: then no edit may be older than that.
      CHECK(killed - when[1] < 5);
      continue;
    }
    if (!std::exchange(mentioned, true)) {  // a file that is opened meanwhile does not hide it
      window->mention_unsaved_work();
      window->open_file(QString::fromStdString(photo));
      REQUIRE(QTest::qWaitFor([&] { return !window->background().running(); }, test::patience));
      CHECK(window->notice().contains("Bring back"));
    }
    window->bring_back();
    REQUIRE(QTest::qWaitFor([&] { return !window->background().running(); }, test::patience));
    const auto edit =
        static_cast<std::size_t>(std::get<TranslateStep>(window->document().chain().steps.at(0).kind).dx + 0.5);
    INFO("round " << round << ": edit " << edit << " of " << when.size() - 1);
    // What came after the edit that was kept is lost; the first of that is at most so old.
    const double lost = edit + 1 < when.size() ? killed - when[edit + 1] : 0;
    CHECK(lost < 5);
    CHECK_FALSE(window->document().clean());
    CHECK_FALSE(window->notice().isEmpty());
    // It goes on under this window's own name; saved, nothing is left over.
    REQUIRE(window->save_chain(QString::fromStdString((scratch / "saved.fexel.json").string())));
    REQUIRE(QTest::qWaitFor([&] { return files_in(folder) == 0; }, test::patience));
  }
  CHECK(read_text(photo) == before);
}

TEST_CASE("work that is left on purpose, saved, or open in another window is not brought back", "[keep]") {
  test::Scratch scratch;
  const std::string photo = (scratch / "photo.png").string();
  test::make_photo(photo);
  const QString folder = QString::fromStdString((scratch / "unsaved").string());
  auto window = window_on(folder, QString::fromStdString(photo));
  shift_by(window->document(), 3);
  REQUIRE(QTest::qWaitFor([&] { return files_in(folder) == 1; }, test::patience));
  const auto other = window_on(folder, {});
  CHECK_FALSE(other->has_unsaved_work());
  window->document().undo_stack().undo();
  REQUIRE(QTest::qWaitFor([&] { return files_in(folder) == 0; }, test::patience));
  shift_by(window->document(), 4);
  REQUIRE(QTest::qWaitFor([&] { return files_in(folder) == 1; }, test::patience));
  window->document().undo_stack().setClean();
  window.reset();
  CHECK(files_in(folder) == 0);
}

TEST_CASE("unsaved work that cannot be read is put aside with its reason", "[keep]") {
  test::Scratch scratch;
  const QString folder = QString::fromStdString((scratch / "unsaved").string());
  std::filesystem::create_directories(scratch / "unsaved");
  write_text(scratch / "unsaved" / "x.unsaved.json", "{\"fexel_unsaved\": 1, \"chain_path\": \"\", \"cha", true);
  const auto window = window_on(folder, {});
  CHECK_FALSE(window->has_unsaved_work());
  CHECK(std::filesystem::exists(scratch / "unsaved" / "x.unsaved.json.broken"));
  window->bring_back();
  CHECK(window->notice().contains("no unsaved work"));
}

TEST_CASE("undo and redo survive 500 random edits and end where they began", "[keep]") {
  test::Desk desk;
  Document& document = desk.document();
  const DocumentState start = document.state();
  std::mt19937 random(12);
  const auto any = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
  std::vector<DocumentState> seen;
  const std::vector<std::string> words = {"rotate", "crop", "rectify"};
  for (int i = 0; i < 500; ++i) {
    const int steps = static_cast<int>(document.chain().steps.size());
    switch (any(9)) {
      case 0:
        if (steps < 8)
          document.insert_step(words[static_cast<std::size_t>(any(static_cast<int>(words.size())))], any(steps + 1));
        break;
      case 1:
        document.select_tile(any(document.tiles()));
        document.remove_selected_step();
        break;
      case 2: {
        const int station = any(steps + 1);
        const Point from{double(any(800)), double(any(600))}, to{double(any(800)), double(any(600)) + 0.5};
        const Measurement measurement = length_measurement("g", station, from, to);
        if (document.chain().measurements.size() < 6) document.add_measurement(measurement);
        break;
      }
      case 3:
        document.remove_measurement(any(6));
        break;
      case 4:
        document.set_flag(any(2) == 1, any(document.tiles()));
        break;
      case 5:
        desk.window.views().set_mode(static_cast<ViewArea::Mode>(any(6)));
        break;
      case 6:
        for (int back = any(6); back > 0; --back) QTest::keyClick(desk.a(), Qt::Key_Z, Qt::ControlModifier);
        break;
      case 7:
        for (int forth = any(4); forth > 0; --forth)
          QTest::keyClick(desk.a(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        break;
      default:
        if (steps > 0) {
          Chain chain = document.chain();
          Step& step = chain.steps[static_cast<std::size_t>(any(steps))];
          step.on = !step.on;
          document.edit_chain("switch", chain);
        }
    }
    if (i % 25 == 0) QTest::qWait(5);
  }
  desk.window.views().set_mode(ViewArea::Mode::side_by_side);
  const Chain last = document.chain();
  QUndoStack& undo = document.undo_stack();
  const int depth = undo.index();
  while (undo.canUndo()) undo.undo();
  CHECK(document.chain() == start.chain);
  CHECK(document.state().flag_a == start.flag_a);
  CHECK(document.state().flag_b == start.flag_b);
  while (undo.index() < depth) undo.redo();
  CHECK(document.chain() == last);
}

TEST_CASE("steps are moved along the rail, and copied and pasted as text, each with one undo", "[keep]") {
  test::Desk desk;
  desk.document().insert_step("crop", 0);
  desk.insert_quarter_turn(1);
  const auto words = [&] {
    QStringList out;
    for (const Step& step : desk.document().chain().steps) out << word_of(step.kind);
    return out.join(" ");
  };
  CHECK(words() == "crop rotate");
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Left, Qt::AltModifier);
  CHECK(words() == "rotate crop");
  CHECK(desk.document().selected_step() == 0);
  QTest::keyClick(desk.a(), Qt::Key_Left, Qt::AltModifier);  // it is the first: nothing happens
  CHECK(words() == "rotate crop");
  QTest::keyClick(desk.a(), Qt::Key_C, Qt::ControlModifier);
  CHECK(QApplication::clipboard()->text().contains("\"rotate\""));
  desk.document().select_tile(2);
  QTest::keyClick(desk.a(), Qt::Key_V, Qt::ControlModifier);
  CHECK(words() == "rotate crop rotate");
  CHECK(desk.document().selected_step() == 2);
  desk.document().undo_stack().undo();
  CHECK(words() == "rotate crop");
  QApplication::clipboard()->setText("{\"fexel\": 1, \"steps\": [{\"step\": \"mirror\", \"reverse\": \"x\"}]}");
  QTest::keyClick(desk.a(), Qt::Key_V, Qt::ControlModifier);
  CHECK(words().contains("mirror"));
  const QString before = words();
  QApplication::clipboard()->setText("twelve o'clock");
  QTest::keyClick(desk.a(), Qt::Key_V, Qt::ControlModifier);
  CHECK(words() == before);
  CHECK_FALSE(desk.window.notice().isEmpty());
}

TEST_CASE("the same steps are given to another picture", "[keep]") {
  test::Desk desk;
  shift_by(desk.document(), 7);
  const std::string other = (desk.scratch / "other.png").string();
  test::make_photo(other);
  desk.window.open_file(QString::fromStdString(other), true);
  desk.wait();
  CHECK(desk.document().source()->path == QString::fromStdString(other));
  REQUIRE(desk.document().chain().steps.size() == 1);
  CHECK(std::get<TranslateStep>(desk.document().chain().steps[0].kind).dx == 7);
  CHECK(desk.document().chain().sources.empty());
}

TEST_CASE("a picture that was moved is found again by its checksum, and this is said", "[keep]") {
  test::Desk desk;
  // Folders beside the chain's are looked through, so that it has some of its own.
  const auto work = desk.scratch / "work", old = work / "old pictures";
  std::filesystem::create_directories(old);
  std::filesystem::rename(desk.photo, work / "photo.png");
  desk.open((work / "photo.png").string());
  shift_by(desk.document(), 7);
  const auto chain = work / "kept.fexel.json";
  REQUIRE(desk.window.save_chain(QString::fromStdString(chain.string())));
  std::filesystem::rename(work / "photo.png", old / "photo.png");
  desk.open(chain.string());
  CHECK(desk.document().source()->path.contains("old pictures"));
  CHECK(desk.window.notice().contains("was found at"));
  // Another file of that name is not taken for it.
  write_text(old / "photo.png", "something else", true);
  desk.open(chain.string());
  CHECK(desk.window.notice().contains("photo.png"));
  CHECK_FALSE(desk.window.notice().contains("was found at"));
}

TEST_CASE("a chain's file that somebody else has written since is not replaced unasked", "[window]") {
  test::Desk desk;
  const QString path = QString::fromStdString((desk.scratch / "shared.fexel.json").string());
  desk.insert_quarter_turn(0);
  REQUIRE(desk.window.save_chain(path));
  const std::string theirs = R"({"fexel":1,"steps":[]})";
  write_text(path.toStdString(), theirs, true);
  desk.document().insert_step("mirror", 0);
  const auto answer = [&](const QString& button) {
    QTimer::singleShot(100, [button] {
      auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
      REQUIRE(box);
      CHECK(box->text().contains("has changed since"));
      for (QAbstractButton* choice : box->buttons())
        if (choice->text() == button) choice->click();
    });
  };
  answer("Cancel");
  CHECK_FALSE(desk.window.save_chain(path));
  CHECK(read_text(path.toStdString()) == theirs);
  answer("Save beside");
  desk.window.save_chain(path);
  CHECK(read_text(path.toStdString()) == theirs);
  CHECK(std::filesystem::exists(desk.scratch / "shared-2.fexel.json"));
}

TEST_CASE("a chain is saved though its source has gone", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  std::filesystem::remove(desk.photo);
  const QString path = QString::fromStdString((desk.scratch / "kept.fexel.json").string());
  CHECK(desk.window.save_chain(path));
  CHECK(load_chain(path.toStdString()).steps.size() == 1);
}
