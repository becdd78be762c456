#include <catch2/catch.hpp>

#include "tests/window/desk.h"

using namespace fexel;
using test::q;

TEST_CASE("a technician rectifies a photo with the mouse, checks it with lengths and writes it out", "[window]") {
  test::Desk desk;
  Document& document = desk.document();
  CHECK(document.layout().stations[0].size == Size{800, 600});

  // The palette from the rail, and the first step in it.
  QTest::mouseClick(desk.window.rail().add_button(), Qt::LeftButton);
  QTest::qWait(100);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  REQUIRE(document.chain().steps.size() == 1);
  REQUIRE(std::holds_alternative<RectifyStep>(document.chain().steps[0].kind));

  // Corners are dragged to within half a screen pixel, and the sides typed.
  desk.a()->fit();
  for (std::size_t i = 0; i < 4; ++i) {
    const Handle handle = desk.a()->handles().at(i);
    REQUIRE(handle.kind == Handle::Kind::step);
    desk.drag(desk.a(), desk.a()->to_widget(handle.at), desk.a()->to_widget(q(test::photo_corners[i])));
    CHECK(distance(desk.rectify().corners[i], test::photo_corners[i]) < 1.5 / desk.a()->zoom());
  }
  desk.type("Width of the real rectangle", "300");
  desk.type("Height of the real rectangle", "200");
  CHECK(desk.rectify().width == 300);
  const QString names[] = {"top left", "top right", "bottom right", "bottom left"};
  for (int i = 0; i < 4; ++i) {
    desk.type(QString("Corner %1 (%2), x").arg(i + 1).arg(names[i]),
              QString::number(test::photo_corners[static_cast<std::size_t>(i)].x));
    desk.type(QString("Corner %1 (%2), y").arg(i + 1).arg(names[i]),
              QString::number(test::photo_corners[static_cast<std::size_t>(i)].y));
  }
  for (std::size_t i = 0; i < 4; ++i)
    CHECK(distance(desk.rectify().corners[i], test::photo_corners[i]) < 0.005);  // as finely as fields show

  // A measurement of 100 mm along the plane, drawn at A.
  const Map plane(unit_square_to_quad(test::photo_corners) * scaling(1 / 300.0, 1 / 200.0));
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_G);
  desk.drag(desk.a(), desk.a()->to_widget(q(*plane.forward({50, 40}))),
            desk.a()->to_widget(q(*plane.forward({150, 40}))));
  REQUIRE(document.chain().measurements.size() == 1);
  const Reading at_b = document.readings(document.station_b())[0];
  CHECK(at_b.value->unit == "mm");
  CHECK(at_b.value->value == Approx(100).margin(2.5));  // as placed by a hand on whole screen pixels
  CHECK(document.readings(document.station_a())[0].value->unit == "px");

  // The ledger says the same, and takes the expected length.
  auto* table = desk.window.ledger().table();
  REQUIRE(table->model()->rowCount() == 1);
  table->model()->setData(table->model()->index(0, MeasurementModel::expected), "100", Qt::EditRole);
  CHECK(std::get<LengthMeasurement>(document.chain().measurements[0].kind).expected == 100);
  CHECK(table->model()->index(0, MeasurementModel::error).data().toString() != "–");

  // Written out by the result's page, with its pixel size.
  QTest::mouseClick(desk.window.rail().tiles().back(), Qt::LeftButton);
  auto* path = desk.named<QLineEdit>("File to write");
  path->setText(QString::fromStdString((desk.scratch / "out.tif").string()));
  QTest::mouseClick(desk.named<QPushButton>("Write out"), Qt::LeftButton);
  desk.wait();
  const FileInfo info = read_info(desk.scratch / "out.tif");
  REQUIRE(info.pixel_size);
  CHECK(info.pixel_size->x * info.width == Approx(300).epsilon(1e-5));
  CHECK(info.pixel_size->y * info.height == Approx(200).epsilon(1e-5));
  // The chequers stand square: their middles have the tones of the formula.
  const Image out = read_picture(desk.scratch / "out.tif");
  for (int v = 0; v < 8; ++v)
    for (int u = 0; u < 12; ++u) {
      const int x = static_cast<int>((u + 0.5) * 25 / info.pixel_size->x),
                y = static_cast<int>((v + 0.5) * 25 / info.pixel_size->y);
      CHECK(test::value(out, 0, x, y) == ((u + v) % 2 != 0 ? 60 : 200));
    }
}

TEST_CASE("the whole job can be done by keyboard alone", "[window]") {
  test::Desk desk;
  Document& document = desk.document();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Insert);
  QTest::keyClicks(QApplication::focusWidget(), "rect");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  REQUIRE(document.chain().steps.size() == 1);
  desk.front();
  // Tab goes to the corners one after the other; arrows nudge.
  desk.a()->setFocus();
  for (int corner = 0; corner < 4; ++corner) {
    QTest::keyClick(desk.a(), Qt::Key_Tab);
    REQUIRE(desk.a()->selected_handle());
    CHECK(desk.a()->selected_handle()->index == corner);
    const Point before = desk.rectify().corners[static_cast<std::size_t>(corner)];
    QTest::keyClick(desk.a(), Qt::Key_Right);
    QTest::keyClick(desk.a(), Qt::Key_Down, Qt::ControlModifier);
    QTest::keyClick(desk.a(), Qt::Key_Left, Qt::ShiftModifier);
    const Point after = desk.rectify().corners[static_cast<std::size_t>(corner)];
    CHECK(after.x == Approx(before.x + 0.9));
    CHECK(after.y == Approx(before.y + 10));
  }
  // A measurement in the middle, its end nudged.
  QTest::keyClick(desk.a(), Qt::Key_G);
  QTest::keyClick(desk.a(), Qt::Key_Return);
  REQUIRE(document.chain().measurements.size() == 1);
  const double x = document.chain().measurements[0].points[1].x;
  QTest::keyClick(desk.a(), Qt::Key_Right);
  CHECK(document.chain().measurements[0].points[1].x == Approx(x + 1));
  // The expected length typed into the table.
  auto* table = desk.window.ledger().table();
  table->setFocus();
  table->setCurrentIndex(table->model()->index(0, MeasurementModel::expected));
  QTest::keyClick(table, Qt::Key_F2);
  QTest::keyClicks(QApplication::focusWidget(), "80");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  QTest::qWait(50);  // an editor hands its value over in the next turn of the event loop
  CHECK(std::get<LengthMeasurement>(document.chain().measurements[0].kind).expected == 80);
  // Written out with Ctrl+E: the first time it says where to, and writes nothing.
  QTest::keyClick(&desk.window, Qt::Key_E, Qt::ControlModifier);
  desk.wait();
  CHECK_FALSE(std::filesystem::exists(desk.scratch / "results"));
  CHECK(desk.named<QLabel>("The folder")->text().contains("results"));
  CHECK(desk.named<QLabel>("What came of writing")->text().contains("Ctrl+E"));
  CHECK(QApplication::focusWidget()->accessibleName() == "File to write");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_E, Qt::ControlModifier);
  desk.wait();
  CHECK(std::filesystem::exists(desk.scratch / "results" / "photo-result.tif"));
  CHECK(std::filesystem::exists(desk.scratch / "results" / "photo-result.tif.record.json"));
}

TEST_CASE("the rail says where the pointer is at every station", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  const QPointF at = desk.a()->to_widget({200, 100});
  QTest::mouseMove(desk.a(), at.toPoint());
  QTest::qWait(20);
  REQUIRE(desk.document().session().pointer());
  const Point p = desk.document().session().pointer()->point;
  const auto text = [](double x, double y) { return QString("x %1  y %2 px").arg(x, 0, 'f', 1).arg(y, 0, 'f', 1); };
  CHECK(desk.window.rail().tiles()[0]->coordinates_text() == text(p.x, p.y));
  CHECK(desk.window.rail().tiles()[1]->coordinates_text() == text(p.y, 800 - p.x));
}

TEST_CASE("flags choose what is compared, with keys and undo", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().insert_step("crop", 1);
  desk.document().select_tile(1);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_B);
  CHECK(desk.document().station_b() == 1);
  CHECK(desk.b()->station() == 1);
  QTest::keyClick(&desk.window, Qt::Key_Z, Qt::ControlModifier);
  CHECK(desk.document().station_b() == 2);
}

TEST_CASE("no scale is made up: until sides are given there is no unit anywhere", "[window]") {
  test::Desk desk;
  QTest::mouseClick(desk.window.rail().add_button(), Qt::LeftButton);
  QTest::qWait(100);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  desk.wait();
  CHECK(desk.named<QDoubleSpinBox>("Width of the real rectangle")->text() == "not given");
  CHECK(desk.named<QLabel>("Estimated ratio")->text().contains("Sides not given"));
  CHECK_FALSE(desk.document().layout().result().pixel);
  desk.type("Width of the real rectangle", "300");
  CHECK_FALSE(desk.document().layout().result().pixel);
  desk.type("Height of the real rectangle", "200");
  REQUIRE(desk.document().layout().result().pixel);
  CHECK(desk.rectify().width == 300);
  CHECK(desk.rectify().height == 200);
  QTest::qWait(20);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Z, Qt::ControlModifier);
  CHECK_FALSE(desk.document().layout().result().pixel);
}

TEST_CASE("everything can be undone and redone", "[window]") {
  test::Desk desk;
  Document& document = desk.document();
  const DocumentState start = document.state();
  document.insert_step("rectify", 0);
  desk.a()->fit();
  const Handle handle = desk.a()->handles().at(2);
  desk.drag(desk.a(), desk.a()->to_widget(handle.at), desk.a()->to_widget({500, 500}));
  document.insert_step("crop", 1);
  desk.insert_quarter_turn(2);
  document.add_measurement(length_measurement("a", 0, {10, 10}, {60, 60}, 10, "mm"));
  document.remove_measurement(0);
  document.remove_selected_step();
  document.set_flag(true, 1);
  const DocumentState end = document.state();
  const int steps = document.undo_stack().count();
  CHECK(steps == 8);  // a drag is one step
  for (int i = 0; i < steps; ++i) QTest::keyClick(&desk.window, Qt::Key_Z, Qt::ControlModifier);
  CHECK(document.state() == start);
  CHECK(document.clean());
  for (int i = 0; i < steps; ++i) QTest::keyClick(&desk.window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(document.state() == end);
}

TEST_CASE("Delete takes the selected length, and without one the selected step", "[window]") {
  test::Desk desk;
  desk.document().insert_step("mirror", 0);
  desk.document().add_measurement(length_measurement("a", 0, {100, 100}, {300, 160}, 10, "mm"));
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Tab);
  REQUIRE(desk.a()->selected_handle());
  QTest::keyClick(desk.a(), Qt::Key_Delete);
  CHECK(desk.document().chain().measurements.empty());
  CHECK(desk.document().chain().steps.size() == 1);
  QTest::keyClick(desk.a(), Qt::Key_Delete);
  CHECK(desk.document().chain().steps.empty());
}

TEST_CASE("a chain is saved with its source and measurements, and opens as it was", "[window]") {
  test::Desk desk;
  desk.document().insert_step("rectify", 0);
  desk.document().add_measurement(length_measurement("strip", 0, {200, 200}, {300, 210}, 40, "mm"));
  const Chain saved = desk.document().chain();
  REQUIRE(desk.window.save_chain(QString::fromStdString((desk.scratch / "job.fexel.json").string())));
  CHECK(desk.document().clean());
  const Chain file = load_chain((desk.scratch / "job.fexel.json").string());
  CHECK(file.sources[0].path == "photo.png");
  CHECK(file.sources[0].sha256 == checksum(desk.photo));
  desk.open(desk.photo);
  CHECK(desk.document().chain().steps.empty());
  desk.open((desk.scratch / "job.fexel.json").string());
  CHECK(desk.document().chain().steps == saved.steps);
  CHECK(desk.document().chain().measurements == saved.measurements);
  CHECK(desk.window.notice().isEmpty());
}

TEST_CASE("what is seen at 1:1 is what is written", "[window]") {
  test::Desk desk;
  desk.document().insert_step("rectify", 0);
  desk.b()->look_at({60, 40}, 1);
  desk.wait_shown(desk.b());
  QTest::qWait(300);
  const Pyramid& source = *desk.document().source()->pixels;
  const Image written = evaluate(desk.document().chain(), desk.document().layout(), source, {}, nullptr);
  const QImage seen = desk.b()->grab().toImage();
  int compared = 0;
  for (int y = 10; y < 35; ++y)
    for (int x = 10; x < 50; ++x) {
      const QPointF at = desk.b()->to_widget({x + 0.5, y + 0.5});
      if (at.x() < 130 || at.y() < 60) continue;  // behind the rulers and the badge
      ++compared;
      CHECK(qGray(seen.pixel(static_cast<int>(at.x()), static_cast<int>(at.y()))) ==
            static_cast<int>(test::value(written, 0, x, y)));
    }
  CHECK(compared > 100);
}
