/// How the window's program ends that did not mean to: by a signal and by an exception, as processes.
#include <QProcess>
#include <catch2/catch.hpp>

#include "tests/window/desk.h"

#include <csignal>

namespace fexel::test::crash {
namespace {
namespace fs = std::filesystem;

/// The program with folders of its own.
struct Program {
  const Scratch& scratch;
  QProcess process;
  explicit Program(const Scratch& at, const QStringList& words) : scratch(at) {
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    environment.insert("QT_QPA_PLATFORM", "offscreen");
    for (const char* name : {"XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"})
      environment.insert(name, QString::fromStdString((at / "home").string()));
    process.setProcessEnvironment(environment);
    process.start(FEXEL_PROGRAM, words);
    REQUIRE(process.waitForStarted(patience));
  }
  fs::path home() const { return scratch / "home" / "fexel"; }
  std::string log() const {
    try {
      return read_text(home() / "fexel.log");
    } catch (const Error&) {
      return {};
    }
  }
  std::vector<fs::path> notes() const {
    std::vector<fs::path> out;
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(home(), code))
      if (entry.path().extension() == ".txt") out.push_back(entry.path());
    return out;
  }
};

}  // namespace

TEST_CASE("a signal that ends the program leaves a note with the stack, and the next start tells it once",
          "[window][crash]") {
  Scratch scratch;
  const auto brought_back = [](const Program& program) {
    return program.log().find(" " + std::to_string(program.process.processId()) +
                              " info unsaved work was brought back") != std::string::npos;
  };
  // Work that a program before it left: it is this one's now, and the next one's when this one fails.
  const std::string photo = (scratch / "photo.png").string();
  make_photo(photo);
  fs::create_directories(scratch / "home" / "fexel" / "unsaved");
  Chain work = parse_chain(R"({"fexel":1,"steps":[{"step":"rotate","degrees":3}]})");
  work.sources.push_back({photo, {}});
  Json kept{{"fexel_unsaved", 1}, {"chain_path", ""}};
  kept["chain"] = parse_json(write_chain(work));
  std::ofstream(scratch / "home" / "fexel" / "unsaved" / "0.unsaved.json") << to_text(kept);
  {
    Program first(scratch, {});
    REQUIRE(QTest::qWaitFor([&] { return brought_back(first); }, patience));
    QTest::qWait(1500);  // its own copy is written within a second
    ::kill(static_cast<pid_t>(first.process.processId()), SIGSEGV);
    REQUIRE(first.process.waitForFinished(patience));
    CHECK(first.process.exitStatus() == QProcess::CrashExit);
    REQUIRE(first.notes().size() == 1);
    const std::string note = read_text(first.notes().front());
    CHECK(note.find("fexel " FEXEL_VERSION) == 0);
    CHECK(note.find("SIGSEGV") != std::string::npos);
    CHECK(note.find("main") != std::string::npos);
  }
  const auto told = [&] {
    Program next(scratch, {});
    bool said = false;
    CHECK(QTest::qWaitFor(
        [&] {
          const std::string log = next.log(), own = " " + std::to_string(next.process.processId()) + " ";
          said = log.find(own + "warning the last run ended by a fault") != std::string::npos;
          return log.find(own + "info the window is open") != std::string::npos;
        },
        patience));
    next.process.terminate();
    next.process.waitForFinished(patience);
    return said;
  };
  {
    Program second(scratch, {});
    CHECK(QTest::qWaitFor([&] { return brought_back(second); }, patience));
    second.process.kill();
    second.process.waitForFinished(patience);
    CHECK(second.log().find("the last run ended by a fault") != std::string::npos);
  }
  fs::remove(scratch / "home" / "fexel" / "fexel-crash.told");
  CHECK(told());
  CHECK_FALSE(told());
}

}  // namespace fexel::test::crash
