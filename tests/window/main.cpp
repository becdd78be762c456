/// The window's tests run in one application, on whatever platform QT_QPA_PLATFORM names.
#define CATCH_CONFIG_RUNNER
#include <QApplication>
#include <catch2/catch.hpp>

#include "app/theme.h"

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  QApplication::setApplicationName("fexel-test");
  fexel::apply_theme(app);
  return Catch::Session().run(argc, argv);
}
