#pragma once
/// What the tests of use share.
#include <QProcess>
#include <catch2/catch.hpp>
#include "app/canvas/drawing.h"
#include "app/canvas/picture_view.h"
#include "app/document/renderer.h"
#include "app/pipeline/step_palette.h"
#include "app/pipeline/tile.h"
#include "demo/demo.h"
#include "tests/window/desk.h"
#include "text/json.h"

namespace fexel::test::use {

/// The pages that there are: the source's, each step's, the result's.
inline std::vector<std::string> all_pages() {
  std::vector<std::string> out{"source"};
  for (const StepUi* ui : step_uis()) out.emplace_back(ui->word());
  out.emplace_back("result");
  return out;
}

inline void show_page(test::Desk& desk, const std::string& page) {
  if (page == "source") return desk.document().select_tile(0);
  if (page == "result") return desk.document().select_tile(desk.document().tiles() - 1);
  desk.document().insert_step(page, static_cast<int>(desk.document().chain().steps.size()));
  QTest::qWait(20);
}

template <class Widget>
std::vector<QPointer<Widget>> fields_of(test::Desk& desk) {
  std::vector<QPointer<Widget>> out;
  for (Widget* widget : desk.window.inspector().findChildren<Widget*>())
    if (widget->isVisible() && widget->isEnabled() && !widget->accessibleName().isEmpty()) out.push_back(widget);
  return out;
}

/// Keys that are the window's wherever the keyboard is, and whether each of them did what its menu says.
class Keys {
 public:
  explicit Keys(test::Desk& desk) : desk_(desk) {
    const std::pair<const char*, QKeySequence> keys[] = {{"Add a step…", QKeySequence(Qt::Key_Insert)},
                                                         {"Length along a known length", QKeySequence(Qt::Key_G)},
                                                         {"Fit", QKeySequence(Qt::Key_Home)},
                                                         {"1:1", QKeySequence(Qt::Key_End)},
                                                         {"Next frame", QKeySequence(Qt::Key_PageDown)},
                                                         {"Previous frame", QKeySequence(Qt::Key_PageUp)}};
    for (const auto& [text, key] : keys) {
      // Steps may be called as a key's entry is; they have none.
      for (QAction* action : desk.window.findChildren<QAction*>())
        if (QString(action->text()).remove('&') == text && action->shortcut() == key) actions_.push_back(action);
      INFO(text);
      REQUIRE_FALSE(actions_.empty());
      REQUIRE(actions_.back()->shortcut() == key);
    }
  }
  /// The names of those that did not act.
  QStringList dead() {
    QStringList out;
    for (QAction* action : actions_) {
      QSignalSpy acted(action, &QAction::triggered);
      press(action->shortcut()[0]);
      if (acted.count() != 1) out << action->text();
      if (desk_.window.palette_sheet().isVisible()) desk_.window.palette_sheet().hide();
    }
    QTest::keyClick(target(), Qt::Key_Escape);  // the measurement that was begun
    const int page = desk_.document().state().selected;
    QSignalSpy written(test::action(desk_, "Write out the result"), &QAction::triggered);
    press(QKeyCombination(Qt::ControlModifier, Qt::Key_E));
    if (written.count() != 1) out << "Write out the result";
    desk_.wait();
    desk_.document().select_tile(page);
    QTest::qWait(1);
    QAction* undo = undo_action();
    if (!undo->isEnabled()) return out;
    QSignalSpy undone(undo, &QAction::triggered);
    press(undo->shortcut()[0]);
    if (undone.count() != 1) out << undo->text();
    desk_.document().undo_stack().redo();
    return out;
  }

 private:
  QWidget* target() const {
    QWidget* focus = QApplication::focusWidget();
    return focus ? focus : &desk_.window;
  }
  void press(QKeyCombination key) const {
    QTest::keyClick(target(), key.key(), key.keyboardModifiers());
    QTest::qWait(1);
  }
  QAction* undo_action() const {
    for (QAction* action : desk_.window.findChildren<QAction*>())
      if (action->shortcut() == QKeySequence(QKeySequence::Undo)) return action;
    FAIL("nothing undoes");
    return nullptr;
  }
  test::Desk& desk_;
  std::vector<QAction*> actions_;
};

inline QMenu* open_menu() {
  QMenu* menu = nullptr;
  REQUIRE(QTest::qWaitFor([&] { return (menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) != nullptr; },
                          test::patience));
  return menu;
}

inline void choose_in(test::Desk& desk, QMenu* menu, const QString& text) {
  for (QAction* action : menu->actions())
    if (QString(action->text()).remove('&') == text) {
      REQUIRE(action->isEnabled());
      // As a click does: the menu is gone, and the window has the keyboard, before what was chosen happens.
      menu->setAttribute(Qt::WA_DeleteOnClose, false);
      menu->close();
      QTest::qWait(50);
      desk.front();
      action->trigger();
      menu->deleteLater();
      QTest::qWait(20);
      return;
    }
  QStringList texts;
  for (QAction* action : menu->actions()) texts << action->text();
  FAIL("no entry " << text.toStdString() << " among " << texts.join(", ").toStdString());
}

inline void right_click(QWidget* widget, QPoint at) {
  QContextMenuEvent event(QContextMenuEvent::Mouse, at, widget->mapToGlobal(at));
  QApplication::sendEvent(widget, &event);
}

}  // namespace fexel::test::use
