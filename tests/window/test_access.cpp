#include <QAbstractItemModelTester>
#include <QAccessible>
#include <catch2/catch.hpp>

#include "app/pipeline/step_palette.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

bool is_control(const QWidget* widget) {
  return qobject_cast<const QAbstractButton*>(widget) || qobject_cast<const QAbstractSpinBox*>(widget) ||
         qobject_cast<const QLineEdit*>(widget) || qobject_cast<const QComboBox*>(widget) ||
         qobject_cast<const QAbstractItemView*>(widget) || qobject_cast<const PictureView*>(widget) ||
         qobject_cast<const QProgressBar*>(widget);
}

/// Parts that Qt makes inside a control, which the control speaks for.
bool is_inner(const QWidget* widget) {
  for (const QWidget* parent = widget->parentWidget(); parent; parent = parent->parentWidget())
    if (qobject_cast<const QAbstractSpinBox*>(parent) || qobject_cast<const QComboBox*>(parent) ||
        qobject_cast<const QAbstractItemView*>(parent) || qobject_cast<const QMenuBar*>(parent))
      return true;
  return false;
}

}  // namespace

TEST_CASE("every control has an accessible name", "[access]") {
  test::Desk desk;
  int controls = 0;
  for (const std::string& word : step_words()) desk.document().insert_step(word, 0);
  for (int tile = 0; tile < desk.document().tiles(); ++tile) {
    desk.document().select_tile(tile);
    for (QWidget* widget : desk.window.findChildren<QWidget*>()) {
      if (!is_control(widget) || is_inner(widget)) continue;
      ++controls;
      QAccessibleInterface* face = QAccessible::queryAccessibleInterface(widget);
      REQUIRE(face);
      INFO(widget->metaObject()->className() << " in " << widget->parentWidget()->metaObject()->className());
      CHECK_FALSE(face->text(QAccessible::Name).isEmpty());
    }
  }
  CHECK(controls > 100);
}

TEST_CASE("every visible control can be reached with Tab", "[access]") {
  test::Desk desk;
  desk.document().insert_step("rectify", 0);
  QSet<QWidget*> reached;
  desk.a()->setFocus();
  for (int i = 0; i < 200; ++i) {
    QWidget* at = QApplication::focusWidget();
    REQUIRE(at);
    reached.insert(at);
    QTest::keyClick(at, Qt::Key_Tab);
  }
  for (QWidget* widget : desk.window.findChildren<QWidget*>()) {
    if (!is_control(widget) || is_inner(widget) || !widget->isVisible() || !widget->isEnabled() ||
        qobject_cast<QProgressBar*>(widget))
      continue;
    // Of buttons that exclude each other one takes the focus; arrow keys go on from there.
    if (const auto* button = qobject_cast<QAbstractButton*>(widget);
        button && button->group() && button->group()->exclusive())
      if (std::ranges::any_of(button->group()->buttons(), [&](QAbstractButton* b) { return reached.contains(b); }))
        continue;
    INFO(widget->accessibleName().toStdString() << " " << widget->metaObject()->className());
    CHECK(reached.contains(widget));
  }
}

TEST_CASE("the length table is a sound model", "[access]") {
  test::Desk desk;
  QAbstractItemModelTester tester(desk.window.ledger().table()->model(),
                                  QAbstractItemModelTester::FailureReportingMode::Fatal);
  for (int i = 0; i < 5; ++i)
    desk.document().add_measurement(length_measurement("g", 0, {10, 10.0 + i}, {60, 60}, 10, "mm"));
  desk.document().remove_measurement(2);
  while (desk.document().undo_stack().canUndo()) desk.document().undo_stack().undo();
  CHECK(desk.window.ledger().table()->model()->rowCount() == 0);
}

TEST_CASE("menus show their keys, and single keys only act on the picture and the rail", "[access]") {
  test::Desk desk;
  desk.document().insert_step("rectify", 0);
  // In a field, a letter is text.
  desk.document().select_tile(2);
  auto* path = desk.named<QLineEdit>("File to write");
  path->setFocus();
  path->clear();
  QTest::keyClicks(path, "bag.tif");
  CHECK(path->text() == "bag.tif");
  CHECK(desk.document().state().flag_a == 0);
  int with_keys = 0;
  for (const QAction* menu : desk.window.menuBar()->actions())
    for (const QAction* action : menu->menu()->actions()) with_keys += !action->shortcut().isEmpty();
  CHECK(with_keys >= 15);
}
