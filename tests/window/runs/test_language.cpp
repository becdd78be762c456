/// The window in German: every sentence has its words, numbers have their sign, files keep the point.
#include <QProcess>
#include <QXmlStreamReader>
#include <catch2/catch.hpp>

#include "app/runs/run_panel.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "tests/window/desk.h"

namespace fexel::test::language {
namespace {

QString words(const char* source) {
  return QCoreApplication::translate("any", source);
}

/// %1, %2 ... of a sentence.
QStringList places_in(const QString& text) {
  QStringList out;
  static const QRegularExpression place("%[0-9]");
  for (auto it = place.globalMatch(text); it.hasNext();) out << it.next().captured();
  out.removeDuplicates();
  out.sort();
  return out;
}

Measurement a_length() {
  Measurement out;
  out.kind = LengthMeasurement{};
  out.name = "l";
  out.points = {{100.25, 100}, {200.5, 140}};
  out.picking = {0.5, 0.5};
  return out;
}

/// The letters that menus are opened by: each once in a menu.
void check_letters(const QMenu* menu) {
  QStringList seen;
  for (const QAction* action : menu->actions()) {
    if (action->menu()) check_letters(action->menu());
    const auto at = action->text().indexOf('&');
    if (at < 0 || at + 1 >= action->text().size()) continue;
    INFO(menu->title().toStdString() << ": " << action->text().toStdString());
    const QString letter = action->text().mid(at + 1, 1).toLower();
    CHECK_FALSE(seen.contains(letter));
    seen << letter;
  }
}

}  // namespace

TEST_CASE("every sentence of the window has German words, with the same places for numbers", "[window][language]") {
  REQUIRE(languages().contains("de"));
  QProcess lupdate;
  Scratch scratch;
  const QString ts = QString::fromStdString((scratch / "all.ts").string());
  lupdate.setWorkingDirectory(FEXEL_SOURCE);
  lupdate.start("/usr/lib/qt6/bin/lupdate",
                {"app", "-I", ".", "-extensions", "cpp,h", "-no-obsolete", "-locations", "none", "-ts", ts});
  REQUIRE(lupdate.waitForFinished(patience));
  REQUIRE(lupdate.exitCode() == 0);
  const InLanguage german("de");
  QFile file(ts);
  REQUIRE(file.open(QIODevice::ReadOnly));
  QXmlStreamReader xml(&file);
  int count = 0;
  while (!xml.atEnd()) {
    if (xml.readNext() != QXmlStreamReader::StartElement || xml.name() != QLatin1String("source")) continue;
    const QString source = xml.readElementText();
    ++count;
    // A word may be the same in both languages; the list says which are.
    const QByteArray bytes = source.toUtf8();
    const QString said = words(bytes.constData());
    INFO(source.toStdString() << " -> " << said.toStdString());
    CHECK(places_in(said) == places_in(source));
    CHECK_FALSE(said.trimmed().isEmpty());
    if (source.contains(' ') && source.size() > 20 && !source.contains("(*.") && !source.contains("%1"))
      CHECK(said != source);
  }
  CHECK(count > 2000);
}

TEST_CASE("in German numbers have a comma in fields and tables, and a point in files", "[window][language]") {
  const InLanguage german("de");
  Desk desk;
  CHECK(number_shown(std::string("1.25 mm, 3.5")) == "1,25 mm, 3,5");
  CHECK(number_shown(std::string("Version 1. 2")) == "Version 1. 2");
  fields::Number number("n", -100, 100, 3, "mm");
  number.setValue(1.5);
  CHECK(number.text() == "1,5 mm");
  number.show();
  QTest::qWait(10);
  number.selectAll();
  QTest::keyClicks(&number, "2,25");
  QTest::keyClick(&number, Qt::Key_Return);
  CHECK(number.value() == 2.25);
  number.selectAll();
  QTest::keyClicks(&number, "-3.75");
  QTest::keyClick(&number, Qt::Key_Return);
  CHECK(number.value() == -3.75);
  QString wrong;
  CHECK(fields::numbers_in("1,5; 2", wrong) == std::vector<double>{1.5, 2});
  CHECK(fields::numbers_in("1,5, 2,25 7", wrong) == std::vector<double>{1.5, 2.25, 7});
  // Whole numbers are apart by a comma in every language, and none is cut.
  CHECK(fields::whole_numbers_in("3,1; 2", wrong) == std::vector<int>{3, 1, 2});
  CHECK_FALSE(fields::whole_numbers_in("1.5", wrong));
  CHECK(wrong == "1.5");
  desk.document().insert_step("rotate", 0);
  Chain chain = desk.document().chain();
  std::get<RotateStep>(chain.steps[0].kind).degrees = 7.25;
  desk.document().edit_chain("turn", chain);
  desk.document().add_measurement(a_length());
  CHECK(cell(desk.window.ledger().table(), 0, MeasurementModel::length_a)
            .contains(QRegularExpression("^[0-9]+,[0-9]+$")));
  desk.window.ledger().copy_table();
  CHECK_FALSE(QApplication::clipboard()->text().contains(QRegularExpression("[0-9]\\.[0-9]+.*;")));
  CHECK(QApplication::clipboard()->text().contains(QRegularExpression("107\\.9")));
  const auto path = desk.scratch / "c.fexel.json";
  REQUIRE(desk.window.save_chain(QString::fromStdString(path.string())));
  CHECK(read_text(path).find("7.25") != std::string::npos);
  CHECK(desk.window.menuBar()->actions().front()->text() == "&Datei");
}

TEST_CASE("in German each letter opens one entry of a menu", "[window][language]") {
  const InLanguage german("de");
  Desk desk;
  for (const QAction* action : desk.window.menuBar()->actions())
    if (action->menu()) check_letters(action->menu());
}

namespace {

/// What is shown of a window and has less room than its text takes, each with its place.
QStringList cut_off(const QWidget* window) {
  QStringList out;
  const auto tell = [&](const QWidget* w, const QString& text, int needed) {
    out << QStringLiteral("%1 \"%2\": %3 of %4 px").arg(w->metaObject()->className(), text).arg(w->width()).arg(needed);
  };
  for (const QWidget* w : window->findChildren<QWidget*>()) {
    if (!w->isVisible()) continue;
    if (const auto* label = qobject_cast<const QLabel*>(w); label && !label->wordWrap() && !label->text().isEmpty()) {
      if (label->sizeHint().width() > label->width()) tell(w, label->text(), label->sizeHint().width());
    } else if (const auto* button = qobject_cast<const QAbstractButton*>(w); button && !button->text().isEmpty()) {
      const int text = button->fontMetrics().size(Qt::TextShowMnemonic, button->text()).width() +
                       (qobject_cast<const QCheckBox*>(w) ? 20 : 4);
      if (text > button->width()) tell(w, button->text(), text);
    } else if (const auto* box = qobject_cast<const QComboBox*>(w)) {
      if (box->fontMetrics().horizontalAdvance(box->currentText()) + 26 > box->width())
        tell(w, box->currentText(), box->fontMetrics().horizontalAdvance(box->currentText()) + 26);
    } else if (const auto* head = qobject_cast<const QHeaderView*>(w);
               head && head->model() && head->orientation() == Qt::Horizontal) {
      for (int i = 0; i < head->count(); ++i) {
        const QString text = head->model()->headerData(i, Qt::Horizontal).toString();
        if (!head->isSectionHidden(i) && head->fontMetrics().horizontalAdvance(text) + 8 > head->sectionSize(i))
          out << QStringLiteral("head \"%1\": %2 px").arg(text).arg(head->sectionSize(i));
      }
    }
  }
  return out;
}

}  // namespace

TEST_CASE("nothing is cut off on any page at 1280 x 800, in English and in German", "[window][language]") {
  for (const char* word : {"en", "de"}) {
    const InLanguage spoken(word);
    Desk desk;
    desk.document().add_measurement(a_length());
    const auto look = [&](const std::string& page) {
      QTest::qWait(30);
      const auto* area = qobject_cast<const QScrollArea*>(&desk.window.inspector());
      // The bar over the pictures follows once they are drawn.
      (void)QTest::qWaitFor([&] { return cut_off(&desk.window).isEmpty(); }, 5000);
      INFO(word << ", " << page << ": " << cut_off(&desk.window).join("\n").toStdString());
      CHECK(cut_off(&desk.window).isEmpty());
      REQUIRE(area);
      // What makes the page wider than there is room.
      QStringList wide;
      for (const QWidget* w : area->widget()->findChildren<QWidget*>())
        if (w->isVisible() && w->minimumSizeHint().width() > 280)
          wide << QStringLiteral("%1 \"%2\" %3")
                      .arg(w->metaObject()->className(), w->accessibleName())
                      .arg(w->minimumSizeHint().width());
      INFO("wider than " << area->viewport()->width() << ": " << wide.join("\n").toStdString());
      CHECK(area->horizontalScrollBar()->maximum() == 0);
    };
    desk.document().select_tile(0);
    look("source");
    for (const StepUi* ui : step_uis()) {
      desk.document().insert_step(ui->word(), 0);
      look(ui->word());
      desk.document().undo_stack().undo();
    }
    desk.document().select_tile(desk.document().tiles() - 1);
    look("result");
    desk.document().session().show_copy_page(true);
    look("copy");
    desk.document().session().show_copy_page(false);
    desk.window.show_motion();
    look("movement");
    desk.window.show_runs();
    look("runs");
  }
}

}  // namespace fexel::test::language
