/// Points snapped to edges, charts of the selected measurement, sets of measurements, several rows together.
#include <catch2/catch.hpp>

#include "app/measurements/selected_reading.h"
#include "tests/window/pages.h"

using namespace fexel;
using namespace fexel::test;
using namespace fexel::test::pages;

namespace {

/// A light bar from x = 120.3 to 260.7 and a disc of radius 60.4 at (450.2, 200.6), each pixel with the share that it
/// has.
std::string put_shapes(Desk& desk) {
  Image image(640, 400, 1, Depth::u8);
  const Image grain = noise(640, 400, 1, Depth::u8);
  for (int y = 0; y < 400; ++y)
    for (int x = 0; x < 640; ++x) {
      double share = 0;
      constexpr int steps = 10;
      for (int j = 0; j < steps; ++j)
        for (int i = 0; i < steps; ++i) {
          const double u = x + (i + 0.5) / steps, v = y + (j + 0.5) / steps;
          if ((u > 120.3 && u < 260.7 && v > 80.4) || std::hypot(u - 450.2, v - 200.6) < 60.4)
            share += 1.0 / (steps * steps);
        }
      image.row<std::uint8_t>(0, y)[x] =
          static_cast<std::uint8_t>(60 + 120 * share + grain.row<std::uint8_t>(0, y)[x] / 64.0);
    }
  const std::string path = desk.scratch / "shapes.png";
  write_pictures(path, one_page(std::move(image)), {Format::png, {}, true, {}});
  desk.open(path);
  return path;
}

Measurement made(MeasurementKind kind, std::vector<Point> points, std::string name = "m") {
  const std::size_t count = points.size();
  return {std::move(kind), std::move(name), 0, std::move(points), std::vector<double>(count, 2.0)};
}

QString selected_said(Desk& desk) {
  return desk.window.findChild<SelectedReading*>()->said();
}

}  // namespace

TEST_CASE("points of a length snap to the edges by a key, know how well they lie, and stay where there is none") {
  Desk desk;
  put_shapes(desk);
  desk.document().add_measurement(made(LengthMeasurement{}, {{122.5, 250}, {258.1, 250}}));
  desk.b()->setFocus();
  QTest::keyClick(desk.b(), Qt::Key_Q);
  desk.wait();
  const Measurement& length = desk.document().chain().measurements[0];
  CHECK(length.points[0].x == Approx(120.3).margin(0.1));
  CHECK(length.points[1].x == Approx(260.7).margin(0.1));
  CHECK(length.picking[0] < 0.2);
  const Reading& reading = desk.document().readings(0)[0];
  CHECK(std::abs(reading.value->value - 140.4) < 0.15);
  CHECK(*reading.uncertainty < 0.3);
  undo(desk);
  CHECK(desk.document().chain().measurements[0].points[0] == Point{122.5, 250});
  desk.document().add_measurement(made(LengthMeasurement{}, {{30, 30}, {259, 200}}));
  QTest::keyClick(desk.b(), Qt::Key_Q);
  desk.wait();
  CHECK(desk.window.notice().contains("point 1"));
  CHECK(desk.document().chain().measurements[1].points[0] == Point{30, 30});
}

TEST_CASE("a circle snaps to the rim that its edge says") {
  Desk desk;
  put_shapes(desk);
  desk.document().add_measurement(made(CircleMeasurement{}, {{512, 200}, {450, 262}, {388, 201}}));
  desk.window.snap_measurement();
  desk.wait();
  const Reading& reading = desk.document().readings(0)[0];
  REQUIRE(reading.value);
  CHECK(reading.value->value == Approx(120.8).margin(0.05));
  CHECK(*reading.uncertainty < 0.1);
}

TEST_CASE("a click with Ctrl held is snapped while a measurement is placed") {
  Desk desk;
  put_shapes(desk);
  PictureView* view = desk.a();
  view->setFocus();
  QTest::keyClick(view, Qt::Key_G);
  const QPoint from = view->to_widget({122, 300}).toPoint(), to = view->to_widget({259, 300}).toPoint();
  QTest::keyPress(view, Qt::Key_Control, Qt::ControlModifier);
  QTest::mousePress(view, Qt::LeftButton, Qt::ControlModifier, from);
  QTest::mouseMove(view, (from + to) / 2);
  QTest::mouseMove(view, to);
  QTest::mouseRelease(view, Qt::LeftButton, Qt::ControlModifier, to);
  QTest::keyRelease(view, Qt::Key_Control);
  REQUIRE(desk.document().chain().measurements.size() == 1);
  const Measurement& length = desk.document().chain().measurements[0];
  CHECK(length.points[0].x == Approx(120.3).margin(0.1));
  CHECK(length.picking[0] < 0.2);
}

TEST_CASE(
    "the selected measurement shows its samples: a profile's edges, an area's histogram, an angle's uncertainty") {
  Desk desk;
  put_shapes(desk);
  desk.document().add_measurement(made(ProfileMeasurement{15}, {{60, 250}, {320, 250}}, "bar"));
  REQUIRE(QTest::qWaitFor([&] { return selected_said(desk).contains("2 edges"); }, test::patience));
  INFO(selected_said(desk).toStdString());
  CHECK((selected_said(desk).contains("140.3") || selected_said(desk).contains("140.4")));
  desk.document().add_measurement(made(RectangleMeasurement{}, {{140, 120}, {240, 220}}, "field"));
  REQUIRE(QTest::qWaitFor([&] { return selected_said(desk).contains("10000 pixels"); }, test::patience));
  CHECK(selected_said(desk).contains("mean"));
  desk.document().add_measurement(made(AngleMeasurement{}, {{100, 100}, {200, 100}, {200, 200}}, "corner"));
  REQUIRE(QTest::qWaitFor([&] { return selected_said(desk).contains("100 % placing its points"); }, test::patience));
  desk.document().add_measurement(made(RectangleMeasurement{}, {{700, 500}, {800, 600}}, "outside"));
  REQUIRE(QTest::qWaitFor([&] { return selected_said(desk).contains("no samples"); }, test::patience));
}

TEST_CASE("several rows say their mean and deviation together") {
  Desk desk;
  put_shapes(desk);
  for (const double length : {100.0, 102.0, 104.0})
    desk.document().add_measurement(made(LengthMeasurement{}, {{10, 10}, {10 + length, 10}}));
  desk.document().add_measurement(made(AngleMeasurement{}, {{100, 100}, {200, 100}, {200, 200}}));
  auto* table = desk.window.ledger().table();
  const auto choose_rows = [&](int last) {
    table->clearSelection();
    for (int row = 0; row <= last; ++row)
      table->selectionModel()->select(table->model()->index(row, 0),
                                      QItemSelectionModel::Select | QItemSelectionModel::Rows);
  };
  choose_rows(2);
  auto* summary = desk.named<QLabel>("Measurements in short");
  INFO(summary->text().toStdString());
  CHECK(summary->text().contains("mean 102,"));
  CHECK(summary->text().contains("deviation 2"));
  choose_rows(3);
  CHECK(summary->text().contains("different units"));
  // Removed together, as one change.
  choose_rows(2);
  table->setFocus();
  QTest::keyClick(table, Qt::Key_Delete);
  CHECK(desk.document().chain().measurements.size() == 1);
  undo(desk);
  CHECK(desk.document().chain().measurements.size() == 4);
}

TEST_CASE("measurements are kept as a set, and laid on another picture") {
  Desk desk;
  const std::string path = put_shapes(desk);
  desk.document().add_measurement(made(ProfileMeasurement{5}, {{60, 250}, {320, 250}}, "bar"));
  desk.document().insert_step("rotate", 0);
  Measurement later = made(LengthMeasurement{}, {{10, 10}, {60, 10}}, "later");
  later.station = 1;
  desk.document().add_measurement(later);
  const QString set = QString::fromStdString(desk.scratch / "set");
  desk.window.save_measurements(set);
  CHECK(std::filesystem::exists(desk.scratch / "set.fexel.json"));
  // A name that was completed is not written over.
  const std::string kept = read_text(desk.scratch / "set.fexel.json");
  desk.document().remove_measurement(0);
  desk.window.save_measurements(set);
  CHECK(read_text(desk.scratch / "set.fexel.json") == kept);
  undo(desk);
  desk.document().undo_stack().setClean();
  desk.open(path);
  CHECK(desk.document().chain().measurements.empty());
  desk.window.load_measurements(set + ".fexel.json");
  REQUIRE(desk.document().chain().measurements.size() == 2);
  CHECK(desk.document().chain().measurements[1].station == 0);
  CHECK(desk.window.notice().contains("fewer steps"));
  CHECK(desk.document().chain().steps.empty());
  undo(desk);
  CHECK(desk.document().chain().measurements.empty());
  desk.window.load_measurements(QString::fromStdString(path));
  CHECK_FALSE(desk.window.notice().isEmpty());
}

TEST_CASE("axes of one's own are set by the menu, and the rail, points and undo follow them") {
  Desk desk;
  put_shapes(desk);
  Chain chain = desk.document().chain();
  chain.calibration = Calibration{"bench", {0.1, 0.1, "mm"}, 0, {}, {}};
  desk.document().edit_chain("calibrate", chain);
  action(desk, "Origin in the lower left corner, y up")->trigger();
  const auto& axes = desk.document().layout().result().axes;
  REQUIRE(axes);
  const Point top = axes->coordinates({0, 0});
  CHECK(top.y == Approx(40));
  desk.document().add_measurement(made(PointMeasurement{}, {{200, 300}}));
  CHECK(desk.document().readings(0)[0].value->value == Approx(20));
  CHECK(desk.document().readings(0)[0].details[0].quantity.value == Approx(10));
  action(desk, "y the other way")->trigger();
  CHECK(desk.document().readings(0)[0].details[0].quantity.value == Approx(-10));
  // By a line: its first end is the origin, and x runs along it.
  action(desk, "Origin and x axis by a line…")->trigger();
  PictureView* view = desk.b();
  desk.drag(view, view->to_widget({100, 100}), view->to_widget({100, 300}));
  CHECK(desk.document().chain().axes->turn == Approx(-90).margin(1));
  CHECK(distance(desk.document().chain().axes->origin, {100, 100}) < 3);
  action(desk, "None: from the upper left corner")->trigger();
  CHECK_FALSE(desk.document().layout().result().axes);
  undo(desk);
  CHECK(desk.document().layout().result().axes);
}
