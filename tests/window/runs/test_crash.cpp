/// How the window's program ends that did not mean to: by a signal and by an exception, as processes.
#include <QProcess>
#include <catch2/catch.hpp>

#include "app/document/autosave.h"
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
  {
    Program first(scratch, {});
    REQUIRE(QTest::qWaitFor([&] { return first.log().find("starts") != std::string::npos; }, patience));
    QTest::qWait(1500);  // the handlers stand right after that line; a program under load takes its time
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
  CHECK(told());
  CHECK_FALSE(told());
}

}  // namespace fexel::test::crash
