/// The window's tests run in one application, on whatever platform QT_QPA_PLATFORM names.
#define CATCH_CONFIG_EXTERNAL_INTERFACES
#include <QApplication>
#include <QTemporaryDir>
#include <catch2/catch.hpp>
#include <memory>

#include "app/ui/theme.h"

namespace {

class InApplication : public Catch::TestEventListenerBase {
 public:
  using TestEventListenerBase::TestEventListenerBase;
  void testRunStarting(const Catch::TestRunInfo& run) override {
    TestEventListenerBase::testRunStarting(run);
    QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);  // hands reach only ours
    qputenv("XDG_DATA_HOME", data_.path().toUtf8());              // a library of their own
    app_ = std::make_unique<QApplication>(argument_count_, arguments_);
    QApplication::setApplicationName("fexel-test");
    fexel::apply_theme(*app_);
  }
  void testRunEnded(const Catch::TestRunStats& stats) override {
    app_.reset();
    TestEventListenerBase::testRunEnded(stats);
  }

 private:
  QTemporaryDir data_;
  char name_[16] = "test_window";
  char* arguments_[2] = {name_, nullptr};
  int argument_count_ = 1;
  std::unique_ptr<QApplication> app_;
};
CATCH_REGISTER_LISTENER(InApplication)

}  // namespace
