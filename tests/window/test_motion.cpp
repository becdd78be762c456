#include "app/motion/motion_ledger.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "motion_run/motion_tables.h"
#include "tests/motion_scene.h"
#include "tests/window/movement_desk.h"

// Movement in the window: region, texture, try, all, rules, charts, exports, undo, open again.

using namespace fexel;

namespace {

/// Frames of a surface that is stretched and shifted, open with the page of the movement.
struct MotionDesk : test::MovementDesk {
  static constexpr int frames = 5;
  static Point moved(Point p, int frame) { return {0.8 * frame + 0.002 * frame * (p.x - 160), -0.3 * frame}; }
  MotionDesk() {
    const test::Speckle surface(3);
    for (int k = 0; k < frames; ++k)
      put(test::moved_frame(
              320, 260, surface, [k](Point p) { return moved(p, k); }, 2, static_cast<unsigned>(k + 1), Depth::u8),
          "frame-" + std::to_string(k + 1) + ".tif");
    begin();
  }
  void show(int index) {
    window.show_frame(index);
    REQUIRE(QTest::qWaitFor([&] { return document().frame() == index; }, test::patience));
    wait_layer();
  }
  double rms(int frame) {
    const auto field = layer().field(frame);
    REQUIRE(field);
    REQUIRE(field->field.count(MotionStatus::ok) > 50);
    return test::rms_of(field->field, [frame](Point p) { return moved(p, frame - 1); });
  }
};

}  // namespace

TEST_CASE("movement is begun by its key, measured over all frames, and shown for each", "[window][motion]") {
  MotionDesk desk;
  REQUIRE(desk.layer().probe());
  desk.click("Measure all frames");
  CHECK(desk.layer().frames() == std::vector<int>{2, 3, 4, 5});
  for (const int frame : {2, 3, 4, 5}) CHECK(desk.rms(frame) < 0.03);
  desk.show(3);
  CHECK_THAT(desk.named<QLabel>("What was found")->text().toStdString(), Catch::Contains("Frame 4"));
  // The tag on the rail opens the page again.
  desk.document().select_tile(1);
  CHECK_FALSE(desk.document().session().motion_page());
  Tile* tile = desk.window.rail().tiles()[0];
  QTest::mouseClick(tile, Qt::LeftButton, {}, QPoint(tile->width() - 40, 33));
  CHECK(desk.document().session().motion_page());
  // A step that is added has its own page.
  test::action(desk, "Mirror")->trigger();
  CHECK_FALSE(desk.document().session().motion_page());
}

TEST_CASE("a region is drawn on the picture, the texture is checked, one frame is tried", "[window][motion]") {
  MotionDesk desk;
  desk.show(2);
  QTest::mouseClick(desk.named<QPushButton>("Draw a region…"), Qt::LeftButton);
  for (const QPointF p : {QPointF(60, 60), QPointF(260, 60), QPointF(260, 200), QPointF(60, 200)})
    QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget(p).toPoint());
  QTest::keyClick(desk.b(), Qt::Key_Return);
  REQUIRE(desk.settings().region.size() == 4);
  CHECK(distance(desk.settings().region[0], {60, 60}) < 2);
  desk.click("Check the texture");
  const auto* texture = desk.layer().texture();
  REQUIRE(texture);
  CHECK(texture->share > 0.9);
  CHECK(texture->noise > 1.5);
  REQUIRE(texture->size);
  CHECK(desk.named<QLabel>("What the texture promises")->text().contains("px"));
  if (*texture->size != desk.settings().subset.size) {
    const int size = *texture->size;
    desk.click("Take the proposed size");
    CHECK(desk.settings().subset.size == size);
    desk.document().undo_stack().undo();
  }
  desk.click("Try on this frame");
  CHECK(desk.layer().frames() == std::vector<int>{3});
  CHECK(desk.rms(3) < 0.03);
  for (std::size_t i = 0; i < desk.layer().grid().count(); ++i)
    if (desk.layer().grid().used[i] != 0) CHECK(desk.layer().grid().at(i).x < 262);
}

TEST_CASE("settings that matter outdate what was measured, and undo brings it back", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  auto* size = desk.named<fields::Number>("Subset size");
  const double before = size->value();
  size->setValue(before + 4);
  desk.wait_layer();
  CHECK(desk.layer().outdated());
  CHECK(desk.layer().frames().empty());
  CHECK_THAT(desk.named<QLabel>("What was found")->text().toStdString(), Catch::Contains("measure again"));
  desk.document().undo_stack().undo();
  desk.wait_layer();
  CHECK_FALSE(desk.layer().outdated());
  CHECK(desk.layer().frames().size() == 4);
  // Rules and strain are worked out without a new search.
  desk.show(4);
  desk.click("strain and rotation");
  const auto field = desk.layer().field(5);
  REQUIRE(field);
  REQUIRE_FALSE(field->strain.empty());
  double mean = 0, n = 0;
  for (const auto& s : field->strain)
    if (s) {
      mean += s->xx;
      ++n;
    }
  REQUIRE(n > 20);
  CHECK(mean / n == Approx(0.008).margin(3e-4));
}

TEST_CASE("a rule is switched on with a proposed limit, says what it takes, and gives it back", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  desk.show(4);
  const int all = desk.layer().shown()->field.count(MotionStatus::ok);
  desk.click("Rule: correlation");
  REQUIRE(desk.settings().clean.size() == 1);
  CHECK(desk.settings().clean[0].limit > 0.5);
  desk.named<fields::Number>("Limit: correlation")->setValue(0.99999);
  desk.wait_layer();
  CHECK(desk.layer().shown()->field.count(MotionStatus::ok) == 0);
  REQUIRE(desk.layer().effects().size() == 1);
  CHECK(desk.layer().effects()[0].taken == all);
  desk.click("Rule: correlation");
  CHECK(desk.layer().shown()->field.count(MotionStatus::ok) == all);
}

TEST_CASE("limits are drawn on the scatter, and points and lengths are charted", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  desk.show(4);
  MotionLedger* ledger = desk.window.ledger().motion();
  REQUIRE(ledger->isVisible());
  ledger->show_view(MotionLedger::View::scatter);
  QTest::qWait(100);
  QCustomPlot* plot = ledger->plot();
  // Points with an x displacement above 3.2 px are left out.
  const auto pixel = [&](double x, double y) {
    return QPoint(static_cast<int>(plot->xAxis->coordToPixel(x)), static_cast<int>(plot->yAxis->coordToPixel(y)));
  };
  const auto xs = plot->xAxis->range();
  const auto ys = plot->yAxis->range();
  const QPoint from = pixel(xs.lower + 0.02 * xs.size(), ys.upper - 0.02 * ys.size()),
               to = pixel(3.2, ys.lower + 0.02 * ys.size());
  QTest::mousePress(plot, Qt::LeftButton, {}, from);
  QMouseEvent move(QEvent::MouseMove, to, plot->mapToGlobal(to), Qt::LeftButton, Qt::LeftButton, {});
  QApplication::sendEvent(plot, &move);
  QTest::mouseRelease(plot, Qt::LeftButton, {}, to);
  desk.wait_layer();
  REQUIRE(desk.settings().clean.size() == 1);
  CHECK(desk.settings().clean[0].kind == CleanRule::Kind::limits);
  const auto field = desk.layer().shown();
  int out = 0;
  for (std::size_t i = 0; i < field->field.points.size(); ++i) {
    const MotionPoint& p = field->field.points[i];
    if (p.status != MotionStatus::rejected || p.reason != MotionReason::limits) continue;
    ++out;
    CHECK(p.moved.x > 3.1);
  }
  CHECK(out > 10);
  desk.document().undo_stack().undo();
  desk.wait_layer();
  CHECK(desk.settings().clean.empty());
  // The course of a point, and of the length between two.
  ledger->show_view(MotionLedger::View::over_time);
  QTest::mouseClick(desk.named<QPushButton>("Chart a point…"), Qt::LeftButton);
  QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget({200, 130}).toPoint());
  REQUIRE(desk.layer().charted().size() == 1);
  QTest::mouseClick(desk.named<QPushButton>("Chart a length…"), Qt::LeftButton);
  for (const QPointF p : {QPointF(90, 130), QPointF(250, 130)})
    QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget(p).toPoint());
  REQUIRE(desk.layer().extensometers().size() == 1);
  const auto [a, b] = desk.layer().extensometers()[0];
  const double apart = desk.layer().grid().at(b).x - desk.layer().grid().at(a).x;
  const QString csv = ledger->csv();
  const QStringList last = csv.trimmed().split('\n').last().split(',');
  // The last frame stretches by 0.8 %.
  CHECK(last.last().toDouble() == Approx(0.008 * apart).margin(0.05));
}

TEST_CASE("the mean of an area is charted, and a profile along a line", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  desk.show(4);
  MotionLayer::Look look = desk.layer().look();
  look.quantity = MotionQuantity::dx;
  look.way = MotionLayer::Look::Way::contours;
  desk.layer().set_look(look);
  MotionLedger* ledger = desk.window.ledger().motion();
  QTest::mouseClick(desk.named<QPushButton>("Chart an area…"), Qt::LeftButton);
  for (const QPointF p : {QPointF(110, 90), QPointF(210, 90), QPointF(210, 170), QPointF(110, 170)})
    QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget(p).toPoint());
  QTest::keyClick(desk.b(), Qt::Key_Return);
  REQUIRE(desk.layer().areas().size() == 1);
  Point middle;
  for (const std::size_t i : desk.layer().areas()[0].points)
    middle = middle + 1.0 / static_cast<double>(desk.layer().areas()[0].points.size()) * desk.layer().grid().at(i);
  const QStringList last = ledger->csv().trimmed().split('\n').last().split(',');
  CHECK(last.last().toDouble() == Approx(MotionDesk::moved(middle, 4).x).margin(0.01));
  QTest::mouseClick(desk.named<QPushButton>("Profile…"), Qt::LeftButton);
  for (const QPointF p : {QPointF(60, 130), QPointF(260, 130)})
    QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget(p).toPoint());
  REQUIRE(desk.layer().profile());
  ledger->show_view(MotionLedger::View::profile);
  REQUIRE(ledger->plot()->graphCount() == 1);
  const auto data = ledger->plot()->graph(0)->data();
  const auto [from, to] = *desk.layer().profile();
  int compared = 0;
  for (auto at = data->constBegin(); at != data->constEnd(); ++at) {
    if (!std::isfinite(at->value)) continue;
    ++compared;
    const Point place = from + at->key / distance(from, to) * (to - from);
    CHECK(at->value == Approx(MotionDesk::moved(place, 4).x).margin(0.06));
  }
  CHECK(compared > 250);
}

TEST_CASE("results are written, kept beside the chain, and opened again without a search", "[window][motion]") {
  MotionDesk desk;
  const QString chain = QString::fromStdString((desk.scratch / "surface.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  desk.click("Measure all frames");
  REQUIRE(QTest::qWaitFor([&] { return QFileInfo::exists(desk.layer().kept_path()); }, test::patience));
  const auto before = desk.layer().field(5);
  desk.window.export_motion(
      {MotionExportRequest::What::table, QString::fromStdString((desk.scratch / "m.csv").string())});
  desk.wait();
  const std::string csv = read_text(desk.scratch / "m.csv");
  CHECK(std::ranges::count(csv, '\n') == 1 + 4 * before->field.used());
  desk.window.export_motion({MotionExportRequest::What::vtk, QString::fromStdString(desk.scratch.path().string())});
  desk.wait();
  CHECK(std::filesystem::exists(desk.scratch / "frame-0005.vtk"));
  desk.window.export_motion(
      {MotionExportRequest::What::maps, QString::fromStdString((desk.scratch / "m.tif").string())});
  desk.wait();
  CHECK(MotionResult(desk.scratch / "m.tif").fields() == 4);
  // Another window opens the chain, and has the fields.
  REQUIRE(desk.window.save_chain(chain));
  MainWindow again((desk.scratch / "unsaved").c_str());
  again.show();
  again.open_file(chain);
  REQUIRE(QTest::qWaitFor([&] { return again.document().motion_layer().frames().size() == 4; }, test::patience));
  const auto after = again.document().motion_layer().field(5);
  for (std::size_t i = 0; i < before->field.points.size(); ++i)
    CHECK(distance(after->matched.points[i].moved, before->matched.points[i].moved) < 1e-5);
}

TEST_CASE("a cancelled run keeps whole fields, and one picture says what is missing", "[window][motion]") {
  MotionDesk desk;
  QTest::mouseClick(desk.named<QPushButton>("Measure all frames"), Qt::LeftButton);
  REQUIRE(QTest::qWaitFor([&] { return !desk.layer().frames().empty() || !desk.window.background().running(); },
                          test::patience));
  desk.window.background().cancel();
  desk.wait_layer();
  for (const int frame : desk.layer().frames()) CHECK(desk.rms(frame) < 0.03);
  std::filesystem::copy_file(desk.folder.toStdString() + "/frame-1.tif", desk.scratch / "alone.tif");
  desk.open(desk.scratch / "alone.tif");
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_V);
  desk.wait_layer();
  CHECK_FALSE(desk.named<QPushButton>("Measure all frames")->isEnabled());
  CHECK_THAT(desk.named<QLabel>("What was found")->text().toStdString(), Catch::Contains("sequence"));
}

TEST_CASE("the settings are tested on a known movement of the frame", "[window][motion]") {
  MotionDesk desk;
  desk.click("Test on a known movement");
  CHECK_THAT(desk.named<QLabel>("How far to trust it")->text().toStdString(), Catch::Contains("px RMS"));
}

TEST_CASE("what was measured before the chain has a file is kept when it is saved", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  const auto before = desk.layer().field(5);
  REQUIRE(before);
  const QString chain = QString::fromStdString((desk.scratch / "later.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  REQUIRE(QTest::qWaitFor([&] { return QFileInfo::exists(desk.layer().kept_path()); }, test::patience));
  MainWindow again((desk.scratch / "unsaved").c_str());
  again.show();
  again.open_file(chain);
  REQUIRE(QTest::qWaitFor([&] { return again.document().motion_layer().frames().size() == 4; }, test::patience));
  const auto after = again.document().motion_layer().field(5);
  REQUIRE(after);
  for (std::size_t i = 0; i < before->field.points.size(); ++i)
    CHECK(distance(after->matched.points[i].moved, before->matched.points[i].moved) < 1e-5);
}

TEST_CASE("a frame that is measured already is not measured again", "[window][motion]") {
  MotionDesk desk;
  desk.click("Measure all frames");
  desk.show(2);
  const auto before = desk.layer().field(3);
  QTest::mouseClick(desk.named<QPushButton>("Try on this frame"), Qt::LeftButton);
  CHECK_THAT(desk.window.notice().toStdString(), Catch::Contains("measured already"));
  CHECK(desk.layer().frames().size() == 4);
  CHECK(desk.layer().field(3) == before);
}
