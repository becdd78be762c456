/// Menus and the dialogs for files that they open, driven as hands do; and what pages say in rarer cases.
#include <catch2/catch.hpp>

#include "tests/window/desk.h"

using namespace fexel;

namespace {

/// Types names into the next file dialog, once it is there, and accepts it; leaves it when there are none.
void give_next_dialog(const QString& names) {
  auto* timer = new QTimer;
  QObject::connect(timer, &QTimer::timeout, timer, [timer, names] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (!dialog) return;
    timer->deleteLater();
    if (names.isEmpty()) return dialog->reject();
    dialog->findChild<QLineEdit*>("fileNameEdit")->setText(names);
    QMetaObject::invokeMethod(dialog, "accept");
  });
  timer->start(10);
}
/// The same through a menu.
void choose(test::Desk& desk, const QString& text, const QString& names) {
  give_next_dialog(names);
  action(desk, text)->trigger();
  desk.wait();
}
QString file(test::Desk& desk, const char* name) {
  return QString::fromStdString((desk.scratch / name).string());
}
void click(test::Desk& desk, const QString& name) {
  QTest::mouseClick(desk.named<QAbstractButton>(name), Qt::LeftButton);
}

}  // namespace

TEST_CASE("a picture is opened, its chain saved under a new name, and opened again, through the menus", "[menus]") {
  test::Desk desk;
  const QString other = file(desk, "other.png");
  test::make_photo(other.toStdString());
  choose(desk, "Open…", other);
  CHECK(desk.document().source()->path == other);
  choose(desk, "Open…", {});  // left without a choice
  CHECK(desk.document().source()->path == other);
  action(desk, "Mirror")->trigger();
  REQUIRE(desk.document().chain().steps.size() == 1);
  // The name that is offered is the picture's; one without the ending gets it.
  choose(desk, "Save chain", file(desk, "kept"));
  CHECK(desk.document().chain_path() == file(desk, "kept.fexel.json"));
  CHECK(desk.document().clean());
  // That the ending makes it a file that is there is asked about, too.
  test::answer_next("Leave it");
  const std::string kept = read_text(file(desk, "kept.fexel.json").toStdString());
  action(desk, "Rotate")->trigger();
  choose(desk, "Save chain as…", file(desk, "kept"));
  CHECK(read_text(file(desk, "kept.fexel.json").toStdString()) == kept);
  action(desk, "Save chain")->trigger();  // where it was: nothing is asked
  CHECK(parse_chain(read_text(file(desk, "kept.fexel.json").toStdString())).steps.size() == 2);
  choose(desk, "Save chain as…", file(desk, "copy.fexel.json"));
  CHECK(desk.document().chain_path() == file(desk, "copy.fexel.json"));
  choose(desk, "Same steps with another picture…", QString::fromStdString(desk.photo));
  CHECK(desk.document().source()->path.toStdString() == desk.photo);
  CHECK(desk.document().chain().steps.size() == 2);
  desk.document().undo_stack().setClean();
  choose(desk, "Open…", file(desk, "kept.fexel.json"));
  CHECK(desk.document().source()->path == other);
  CHECK(desk.document().chain().steps.size() == 2);
}

TEST_CASE("figures and results go where the dialogs say", "[menus]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.wait_shown(desk.b());
  choose(desk, "Save comparison as figure…", file(desk, "figure.png"));
  CHECK(QImage(file(desk, "figure.png")).width() > 1000);
  choose(desk, "Save comparison as figure…", file(desk, "figure.txt"));
  CHECK_FALSE(QFileInfo::exists(file(desk, "figure.txt")));
  CHECK_FALSE(desk.window.notice().isEmpty());

  desk.document().select_tile(desk.document().tiles() - 1);
  give_next_dialog(file(desk, "result.tif"));
  click(desk, "Choose the file to write");
  CHECK(desk.named<QLineEdit>("File to write")->text() == file(desk, "result.tif"));
  action(desk, "Write out the result")->trigger();
  desk.wait();
  CHECK(read_picture(file(desk, "result.tif").toStdString()).width() == 600);
  desk.named<QLineEdit>("File to write")->clear();
  action(desk, "Write out the result")->trigger();
  bool said = false;
  for (const QLabel* label : desk.window.findChildren<QLabel*>())
    said = said || (label->isVisible() && label->text().contains("Give the file a name."));
  CHECK(said);
}

TEST_CASE("steps from the menu go behind the selected one, and ways of looking are chosen there", "[menus]") {
  test::Desk desk;
  action(desk, "Mirror")->trigger();
  action(desk, "Rotate")->trigger();
  desk.document().select_tile(1);
  action(desk, "Crop")->trigger();
  const auto words = [&] {
    QStringList out;
    for (const Step& step : desk.document().chain().steps) out << word_of(step.kind);
    return out.join(" ");
  };
  CHECK(words() == "mirror crop rotate");
  action(desk, "Move the step right")->trigger();
  CHECK(words() == "mirror rotate crop");
  desk.document().select_tile(0);
  action(desk, "Translate")->trigger();
  CHECK(words() == "translate mirror rotate crop");
  const std::pair<const char*, ViewArea::Mode> ways[] = {{"One picture", ViewArea::Mode::one},
                                                         {"Curtain", ViewArea::Mode::curtain},
                                                         {"Difference", ViewArea::Mode::difference},
                                                         {"Side by side", ViewArea::Mode::side_by_side}};
  for (const auto& [text, mode] : ways) {
    action(desk, text)->trigger();
    CHECK(desk.window.views().mode() == mode);
  }
}

TEST_CASE("a length is begun by the ledger's word, chosen by its row, and named there", "[menus]") {
  test::Desk desk;
  for (const double y : {150.0, 400.0}) {
    click(desk, "add");
    desk.drag(desk.a(), desk.a()->to_widget({200, y}), desk.a()->to_widget({500, y}));
  }
  REQUIRE(desk.document().chain().measurements.size() == 2);
  QTableView* table = desk.window.findChild<Ledger*>()->table();
  for (const int row : {0, 1}) {
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                      table->visualRect(table->model()->index(row, MeasurementModel::length_a)).center());
    CHECK(desk.document().session().measurement() == row);
  }
  CHECK(table->model()->setData(table->model()->index(1, MeasurementModel::name), " lower edge ", Qt::EditRole));
  CHECK(desk.document().chain().measurements[1].name == "lower edge");
  click(desk, "remove");
  REQUIRE(desk.document().chain().measurements.size() == 1);
  CHECK(desk.document().chain().measurements[0].name != "lower edge");
}

TEST_CASE("the proof sheet offers what a step can be set to: statistics, noise, output sizes", "[menus]") {
  test::Desk desk;
  const auto sheet_of = [&](const char* word, const char* choice) {
    desk.document().insert_step(word, 0);
    ProofSheet* sheet = test::open_proof_sheet(desk);
    click(desk, QString("Choice: ") + choice);
    return sheet;
  };
  const auto take = [&](ProofSheet* sheet, const QString& name) {
    for (ProofCell* cell : sheet->cells())
      if (cell->proof().name == name) {
        cell->setFocus();
        return QTest::keyClick(cell, Qt::Key_Return);
      }
    FAIL("no proof is called " << name.toStdString());
  };
  const auto close = [&] {
    click(desk, "Close the proof sheet");
    CHECK_FALSE(desk.window.views().proof_sheet()->isVisible());
    desk.document().remove_selected_step();
  };
  ProofSheet* sheet = sheet_of("downsample", "statistic");
  CHECK(sheet->cells().size() == 5);
  take(sheet, "largest");
  CHECK(now<DownsampleStep>(desk).take == DownsampleStep::Take::max);
  close();
  sheet = sheet_of("denoise", "denoising");
  CHECK(sheet->cells().size() == 6);
  take(sheet, "Gaussian, 3 px");
  CHECK_FALSE(now<DenoiseStep>(desk).median);
  CHECK(now<DenoiseStep>(desk).radius == 3);
  close();
  sheet = sheet_of("tilt", "output size");
  take(sheet, "keep");
  CHECK(now<TiltStep>(desk).extent == Extent::keep);
  close();
  sheet = sheet_of("translate", "output size");
  take(sheet, "keep");
  CHECK(now<TranslateStep>(desk).extent == Extent::keep);
  close();
}

TEST_CASE("the source's page says what the file holds: depth, bands, alpha, how it stands", "[menus]") {
  test::Desk desk;
  const auto open = [&](Image image, const char* name, WriteOptions how = {}) {
    std::vector<Image> pages;
    pages.push_back(std::move(image));
    write_pictures((desk.scratch / name).string(), pages, how);
    desk.open((desk.scratch / name).string());
    desk.document().select_tile(0);
    QStringList all;
    for (const QLabel* label : desk.window.findChildren<QLabel*>())
      if (label->isVisible()) all << label->text();
    return all.join("\n");
  };
  CHECK(open(test::noise(60, 40, 1, Depth::u16), "deep.tif").contains("16-bit, grey"));
  CHECK(open(test::noise(60, 40, 5, Depth::f32), "five.tif").contains("floating point, 5 bands"));
  Image holed = test::noise(60, 40, 2, Depth::u8);
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 60; ++x) holed.row<std::uint8_t>(1, y)[x] = x == 7 && y == 9 ? 0 : 255;
  WriteOptions alpha;
  alpha.format = Format::png;
  alpha.alpha = true;
  CHECK(open(std::move(holed), "holed.png", alpha).contains("An alpha band says which pixels are empty"));
  CHECK_FALSE(desk.document().source()->pixels->base().valid(7, 9));
}
