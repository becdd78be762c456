/// fexel: the desktop application.
#include <QApplication>
#include <QCommandLineParser>
#include <QFileInfo>
#include <QTextStream>
#include <algorithm>

#include "app/report/make_report.h"
#include "app/ui/language.h"
#include "app/ui/theme.h"
#include "app/window/main_window.h"
#include "base/crash_note.h"
#include "base/log.h"

namespace {

/// Makes the report that was asked for; what the program returns.
int report(const fexel::ReportOrder& order) {
  try {
    fexel::make_report(order, {});
    QTextStream(stdout) << QString::fromStdString(order.out.string()) << "\n";
    return 0;
  } catch (const fexel::Error& error) {
    QTextStream(stderr) << "fexel: " << error.what() << "\n";
    return error.kind() == fexel::Error::Kind::call ? 2 : 1;
  }
}

}  // namespace

int main(int argc, char** argv) {
  // These need no screen, and show nothing on one.
  constexpr std::string_view unseen[] = {"--report", "--version", "-v", "--help", "-h", "--help-all"};
  if (std::any_of(argv + 1, argv + argc, [&](const char* word) {
        return std::ranges::find(unseen, std::string_view(word)) != std::end(unseen);
      }))
    qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication app(argc, argv);
  QApplication::setApplicationName("fexel");
  QApplication::setApplicationDisplayName("Fexel");
  QApplication::setApplicationVersion(FEXEL_VERSION);
  QApplication::setDesktopFileName("org.fexel.Fexel");
  QCommandLineParser parser;
  parser.setApplicationDescription("Geometry for people who measure in pictures.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("FILE", "a picture, a chain, or several pictures or a folder as one sequence",
                               "[FILE...]");
  const QCommandLineOption demo("demo", "open the demo, which is rendered where it is missing");
  parser.addOption(demo);
  const QCommandLineOption level("log-level", "how much to log: trace, debug, info, warning, error, off", "LEVEL",
                                 "info");
  parser.addOption(level);
  const QCommandLineOption as_report(
      "report",
      "write a report of the first FILE, a chain or the journal of a run, to the second one, .pdf or .html, and end");
  const QCommandLineOption style("template", "what reports of one house have in common", "JSON");
  const QCommandLineOption replace("replace", "a report that is there may be replaced");
  const QCommandLineOption language("language", "of the window: " + fexel::languages().join(", "), "WORD");
  const QCommandLineOption looks("look", "light or dark; that of the desktop without it", "WORD");
  parser.addOptions({as_report, style, replace, language, looks});
  parser.process(app);
  const std::string wanted = parser.value(level).toStdString();
  if (std::ranges::find(fexel::log_levels(), wanted) == fexel::log_levels().end()) {
    QTextStream(stderr) << QObject::tr(
                               "fexel: There is no log level \"%1\". Use trace, debug, info, warning, error or off.")
                               .arg(parser.value(level))
                        << "\n";
    return 2;
  }
  if (parser.isSet(language) && !fexel::languages().contains(parser.value(language))) {
    QTextStream(stderr) << QObject::tr("fexel: There are no words of the language \"%1\". Use %2.")
                               .arg(parser.value(language), fexel::languages().join(", "))
                        << "\n";
    return 2;
  }
  fexel::start_log("fexel", wanted);
  fexel::log_info("fexel " FEXEL_VERSION " starts");
  const auto crashed = fexel::untold_crash_note("fexel");
  fexel::leave_crash_notes("fexel", FEXEL_VERSION);
  fexel::use_language(parser.isSet(language) ? parser.value(language) : fexel::language_of_desktop());
  const QString look = parser.value(looks);
  if (!look.isEmpty() && look != "light" && look != "dark") {
    QTextStream(stderr) << QObject::tr("fexel: There is no look \"%1\". Use light or dark.").arg(look) << "\n";
    return 2;
  }
  fexel::apply_theme(app, look.isEmpty() ? std::nullopt : std::optional(look == "dark"));
  if (parser.isSet(as_report)) {
    const QStringList named = parser.positionalArguments();
    if (named.size() != 2) {
      QTextStream(stderr) << QObject::tr("fexel: Name a chain, or the journal of a run, and the report to write.")
                          << "\n";
      return 2;
    }
    return report(
        {named[0].toStdString(), named[1].toStdString(), parser.value(style).toStdString(), parser.isSet(replace)});
  }
  fexel::MainWindow window;
  window.show();
  window.mention_unsaved_work();
  if (crashed) window.mention_crash(QString::fromStdString(crashed->string()));
  fexel::log_info("the window is open");
  const QStringList files = parser.positionalArguments();
  if (files.size() > 1 || (files.size() == 1 && QFileInfo(files.front()).isDir()))
    window.open_several(files);
  else if (!files.isEmpty())
    window.open_file(files.front());
  else if (parser.isSet(demo))
    window.open_demo();
  else if (window.has_unsaved_work())
    window.bring_back();
  return QApplication::exec();
}
