/// Measuring and calibrating by hand: every kind drawn on the picture, a ruler's lines, the library.
#include <catch2/catch.hpp>

#include "app/measurements/measurement_model.h"
#include "chain/calibrations.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

QPointF on_screen(Point p) {
  return {p.x, p.y};
}

/// Draws a measurement by its key: a drag for two points, clicks and Return for more.
void draw(test::Desk& desk, Qt::Key key, const std::vector<Point>& points, bool by_drag = false) {
  desk.front();
  PictureView* view = desk.a();
  view->setFocus();
  QTest::keyClick(view, key);
  if (by_drag) {
    desk.drag(view, view->to_widget(on_screen(points[0])), view->to_widget(on_screen(points[1])));
    return;
  }
  for (const Point p : points) {
    const QPoint at = view->to_widget(on_screen(p)).toPoint();
    QTest::mouseMove(view, at);
    QTest::mouseClick(view, Qt::LeftButton, {}, at);
  }
  QTest::keyClick(view, Qt::Key_Return);
}

/// Dark lines, 5 px wide and 16 px apart, on light ground.
void put_ruler_picture(const std::filesystem::path& path) {
  Image image(640, 240, 1, Depth::u8);
  const Image grain = test::noise(640, 240, 1, Depth::u8);
  for (int y = 0; y < 240; ++y)
    for (int x = 0; x < 640; ++x) {
      const bool line = std::abs(x + 0.5 - 8 - 16 * std::floor((x + 0.5) / 16)) < 2.5;
      image.row<std::uint8_t>(0, y)[x] =
          static_cast<std::uint8_t>((line ? 70 : 190) + grain.row<std::uint8_t>(0, y)[x] / 40);
    }
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, {Format::png, {}, true, {}});
}

}  // namespace

TEST_CASE("every kind of measurement is drawn by its key, and the table says its value") {
  test::Desk desk;
  Document& document = desk.document();
  draw(desk, Qt::Key_W, {{100, 100}, {300, 100}, {300, 250}});
  draw(desk, Qt::Key_N, {{300, 300}, {200, 300}, {200, 200}});
  draw(desk, Qt::Key_C, {{500, 300}, {400, 400}, {300, 300}, {400, 200}});
  draw(desk, Qt::Key_R, {{100, 100}, {300, 200}}, true);
  draw(desk, Qt::Key_E, {{400, 300}, {500, 300}, {400, 350}});
  draw(desk, Qt::Key_Y, {{100, 100}, {300, 100}, {100, 300}});
  draw(desk, Qt::Key_F, {{100, 300}, {400, 300}}, true);
  draw(desk, Qt::Key_D, {{250, 260}});
  draw(desk, Qt::Key_T, {{100, 100}, {200, 100}, {300, 100}});
  const auto& measurements = document.chain().measurements;
  REQUIRE(measurements.size() == 9);
  const std::vector<double> expected = {350, 90, 200, 20000, M_PI * 100 * 50, 20000, 300, 250, 3};
  const std::vector<QString> units = {"px", "°", "px", "px²", "px²", "px²", "px", "px", ""};
  auto* table = desk.window.ledger().table();
  REQUIRE(table->model()->rowCount() == 9);
  for (std::size_t i = 0; i < 9; ++i) {
    INFO(word_of(measurements[i].kind));
    const Reading& reading = document.readings(document.station_a())[i];
    REQUIRE(reading.value);
    // As placed by a hand on whole pixels of the screen.
    CHECK(reading.value->value == Approx(expected[i]).epsilon(0.05));
    CHECK(reading.value->unit == units[i].toStdString());
    const QString cell = table->model()->index(static_cast<int>(i), MeasurementModel::length_a).data().toString();
    CHECK(cell.contains(units[i]));
    CHECK(cell != "–");
  }
  // The number of things has no decimals; a place has two numbers.
  CHECK(table->model()->index(8, MeasurementModel::length_a).data().toString() == "3");
  CHECK(table->model()->index(7, MeasurementModel::length_a).data().toString().contains("y "));
  // One undo takes back one measurement.
  document.undo_stack().undo();
  CHECK(document.chain().measurements.size() == 8);
  document.undo_stack().redo();
  CHECK(document.chain().measurements.size() == 9);
}

TEST_CASE("a polygon whose sides cross has no value, and its cell says why") {
  test::Desk desk;
  draw(desk, Qt::Key_Y, {{100, 100}, {300, 300}, {300, 100}, {100, 300}});
  REQUIRE(desk.document().chain().measurements.size() == 1);
  const auto* model = desk.window.ledger().table()->model();
  CHECK(model->index(0, MeasurementModel::length_a).data().toString() == "–");
  CHECK(model->index(0, MeasurementModel::length_a).data(Qt::ToolTipRole).toString().contains("cross"));
  // Dragging a corner back mends it.
  PictureView* view = desk.a();
  desk.drag(view, view->to_widget({300, 300}), view->to_widget({320, 60}));
  CHECK(desk.document().readings(desk.document().station_a())[0].value);
}

TEST_CASE("the lines of a ruler give the pixel size, which goes to the library and to the next picture") {
  test::Desk desk;
  const std::string ruler = desk.scratch / "ruler.png";
  put_ruler_picture(ruler);
  desk.open(ruler);
  QTest::mouseClick(desk.window.rail().tiles().front(), Qt::LeftButton);
  desk.type("From line to line", "0.5");
  QTest::mouseClick(desk.named<QPushButton>("Find its lines…"), Qt::LeftButton);
  PictureView* view = desk.a();
  desk.drag(view, view->to_widget({20, 120}), view->to_widget({620, 120}));
  const auto calibration = [&] { return desk.document().chain().calibration; };
  REQUIRE(QTest::qWaitFor([&] { return calibration().has_value(); }, test::patience));
  CHECK(calibration()->pixel.x == Approx(0.5 / 16).epsilon(3e-4));
  CHECK(calibration()->uncertainty > 0);
  CHECK(calibration()->size == Size{640, 240});
  CHECK(desk.named<QLabel>("What the lines say")->text().contains("lines"));

  auto* name = desk.named<QLineEdit>("Name in the library");
  CHECK_FALSE(desk.named<QPushButton>("Keep this pixel size in the library")->isEnabled());
  name->setFocus();
  QTest::keyClicks(name, "60 mm");
  QTest::mouseClick(desk.named<QPushButton>("Keep this pixel size in the library"), Qt::LeftButton);
  CHECK(calibration_named("60 mm").pixel.x == calibration()->pixel.x);
  // Kept once; the same name again is refused in place.
  QTest::keyClicks(name, "60 mm");
  QTest::keyClick(name, Qt::Key_Return);
  INFO(desk.named<QLabel>("What the library says")->text().toStdString());
  CHECK_FALSE(desk.named<QLabel>("What the library says")->text().contains("Kept"));

  // Another picture takes it over; it is of another size, and that is said.
  const double kept = calibration()->pixel.x;
  desk.open(desk.photo);
  QTest::mouseClick(desk.window.rail().tiles().front(), Qt::LeftButton);
  CHECK_FALSE(calibration());
  QTest::mouseClick(desk.named<QPushButton>("Use the calibration of the library"), Qt::LeftButton);
  REQUIRE(calibration());
  CHECK(calibration()->pixel.x == kept);
  CHECK(desk.named<QLabel>("Whether the calibration fits")->text().contains("640"));
  desk.document().undo_stack().undo();
  CHECK_FALSE(calibration());
  for (const QLabel* label : desk.window.findChildren<QLabel*>())
    if (label->accessibleName() == "Whether the calibration fits") CHECK_FALSE(label->isVisible());
  // A picture of the size that it was made for has it proposed, one click away.
  desk.document().undo_stack().setClean();
  desk.open(ruler);
  QTest::mouseClick(desk.window.rail().tiles().front(), Qt::LeftButton);
  CHECK_FALSE(calibration());
  QTest::mouseClick(desk.named<QPushButton>("Use the proposed calibration"), Qt::LeftButton);
  REQUIRE(calibration());
  CHECK(calibration()->pixel.x == kept);
  std::filesystem::remove(calibration_file("60 mm"));
}

TEST_CASE("where no ruler lies the page says so, and the pixel size stays") {
  test::Desk desk;
  QTest::mouseClick(desk.window.rail().tiles().front(), Qt::LeftButton);
  QTest::mouseClick(desk.named<QPushButton>("Find its lines…"), Qt::LeftButton);
  PictureView* view = desk.a();
  desk.drag(view, view->to_widget({10, 20}), view->to_widget({90, 24}));
  REQUIRE(QTest::qWaitFor(
      [&] {
        for (QLabel* label : desk.window.findChildren<QLabel*>())
          if (label->accessibleName() == "What the lines say" && label->isVisible()) return true;
        return false;
      },
      test::patience));
  CHECK(desk.named<QLabel>("What the lines say")->text().contains("No ruled target"));
  CHECK_FALSE(desk.document().chain().calibration);
}
