/// The guide inside the program, and what it says of itself.
#include <catch2/catch.hpp>

#include <QTextBrowser>

#include "app/steps/step_ui.h"
#include "app/window/guide_window.h"
#include "tests/window/desk.h"

namespace fexel::test::help {

TEST_CASE("F1 opens the guide at the chapter of what is selected, and its search finds", "[window][help]") {
  Desk desk;
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_F1);
  GuideWindow* guide = desk.window.guide();
  REQUIRE(guide);
  REQUIRE(guide->isVisible());
  CHECK(guide->chapters().size() > 20);
  CHECK(guide->chapter() == "Give a picture its scale");
  // Every step's word leads somewhere; most to a chapter of their own.
  desk.front();
  desk.document().insert_step("unwrap", 0);
  QTest::keyClick(desk.a(), Qt::Key_F1);
  CHECK(guide->chapter() == "Unwrap a ring");
  // Every step has a chapter.
  for (const StepUi* ui : step_uis()) {
    INFO(ui->word());
    guide->show_chapter_of(QString::fromUtf8(ui->word()));
    CHECK((guide->chapter() != guide->chapters().front() || std::string(ui->word()) == "rectify"));
  }
  guide->show_chapter_of("unwrap");
  const int before = guide->page()->verticalScrollBar()->value();
  CHECK(before > 0);
  auto* search = guide->findChild<QLineEdit*>();
  search->setFocus();
  QTest::keyClicks(search, "mosaic");
  QTest::keyClick(search, Qt::Key_Return);
  CHECK(guide->page()->textCursor().selectedText().compare("mosaic", Qt::CaseInsensitive) == 0);
  guide->find("no such words anywhere");
  CHECK_FALSE(guide->page()->textCursor().hasSelection());
}

TEST_CASE("the diagnosis names versions, libraries and what is open, and goes to the clipboard", "[window][help]") {
  Desk desk;
  action(desk, "Copy diagnosis")->trigger();
  const QString text = QApplication::clipboard()->text();
  CHECK(text.startsWith("Fexel " FEXEL_VERSION));
  CHECK(text.contains("tiff: libtiff"));
  CHECK(text.contains("open: png, 800 × 600 px"));
  answer_next("OK");
  action(desk, "About")->trigger();
}

}  // namespace fexel::test::help
