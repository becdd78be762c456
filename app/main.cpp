/// fexel: the desktop application.
#include <QApplication>
#include <QCommandLineParser>
#include <QFileInfo>
#include <QTextStream>
#include <algorithm>

#include "app/ui/theme.h"
#include "app/window/main_window.h"
#include "base/log.h"

int main(int argc, char** argv) {
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
  parser.process(app);
  const std::string wanted = parser.value(level).toStdString();
  if (std::ranges::find(fexel::log_levels(), wanted) == fexel::log_levels().end()) {
    QTextStream(stderr) << QObject::tr(
                               "fexel: There is no log level \"%1\". Use trace, debug, info, warning, error or off.")
                               .arg(parser.value(level))
                        << "\n";
    return 2;
  }
  fexel::start_log("fexel", wanted);
  fexel::log_info("fexel " FEXEL_VERSION " starts");
  fexel::apply_theme(app);
  fexel::MainWindow window;
  window.show();
  window.mention_unsaved_work();
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
