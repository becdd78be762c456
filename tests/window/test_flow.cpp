#include <fmt/format.h>

#include <QLineEdit>
#include <catch2/catch.hpp>

#include "app/motion/motion_ledger.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "chain/evaluate.h"
#include "files/identity.h"
#include "tests/grain_scene.h"
#include "tests/window/movement_desk.h"

// The movement of a fluid in the window: pairs, background, windows, mean, streamlines, flow through a line, exports.

using namespace fexel;

namespace {

/// Three pairs of a flow with a slope, before a fixed pattern, open with the page of the movement.
struct FlowDesk : test::MovementDesk {
  static Point moved(Point p) { return {3 + 0.01 * (p.y - 160), -1.2}; }
  FlowDesk() {
    test::GrainScene scene;
    scene.width = scene.height = 320;
    scene.per_pixel = 10.0 / 1024;
    scene.light = 180;
    scene.background = [](Point p) {
      const double d =
          std::pow(p.x - 40 * std::floor(p.x / 40) - 20, 2) + std::pow(p.y - 40 * std::floor(p.y / 40) - 20, 2);
      return 60 * std::exp(-d / 4);
    };
    for (int pair = 1; pair <= 3; ++pair) {
      auto [a, b] = test::grain_pair(scene, moved, static_cast<unsigned>(pair));
      put(std::move(a), fmt::format("pour-{}-a.tif", pair));
      put(std::move(b), fmt::format("pour-{}-b.tif", pair));
    }
    begin();
  }
  /// By its keys, as a person would without a mouse.
  void choose(const QString& name, int index) {
    auto* box = named<QComboBox>(name);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Home);
    for (int k = 0; k < index; ++k) QTest::keyClick(box, Qt::Key_Down);
    wait_layer();
    REQUIRE(box->currentIndex() == index);
  }
  void as_fluid() {
    choose("Method", 1);
    REQUIRE(settings().method == MotionMethod::window);
  }
  static double rms(const MotionField& field) {
    REQUIRE(field.count(MotionStatus::ok) > 150);
    return test::rms_of(field, moved);
  }
};

}  // namespace

TEST_CASE("a flow is measured in pairs, by the windows that its grains ask for", "[window][flow]") {
  FlowDesk desk;
  desk.as_fluid();
  CHECK(desk.settings().against == MotionAgainst::pairs);
  for (const auto* field : desk.window.findChildren<fields::Number*>())
    CHECK_FALSE((field->accessibleName() == "Subset size" && field->isVisible()));
  desk.choose("Background", 2);
  CHECK(desk.settings().prepare.background == MotionBackground::median);
  desk.click("show the background");
  CHECK(desk.layer().background());
  CHECK(desk.layer().look().background);
  desk.click("show the background");
  CHECK_FALSE(desk.layer().look().background);
  auto* sizes = desk.named<QLineEdit>("Window sizes");
  sizes->selectAll();
  QTest::keyClicks(sizes, "33, 16");
  QTest::keyClick(sizes, Qt::Key_Return);
  CHECK_THAT(desk.named<QLabel>("What is wrong with the window sizes")->text().toStdString(),
             Catch::Contains("not possible"));
  CHECK(desk.settings().window.sizes == WindowSettings{}.sizes);
  desk.click("Set the windows by the grains");
  CHECK_THAT(desk.layer().trust().toStdString(), Catch::Contains("Grains of"));
  CHECK(desk.settings().window.last() >= 24);
  // The first frame of a pair tries the pair.
  desk.click("Try on this frame");
  CHECK(desk.layer().frames() == std::vector<int>{2});
  REQUIRE(desk.layer().shown());
  CHECK(desk.rms(desk.layer().shown()->field) < 0.06);
  desk.click("Measure all frames");
  CHECK(desk.layer().frames() == std::vector<int>{2, 4, 6});
  for (const int frame : {2, 4, 6}) CHECK(desk.rms(desk.layer().field(frame)->field) < 0.06);
  // Undo of a setting brings the fields back.
  desk.named<fields::Number>("Passes on deformed frames")->setValue(1);
  desk.wait_layer();
  CHECK(desk.layer().outdated());
  desk.document().undo_stack().undo();
  desk.wait_layer();
  CHECK(desk.layer().frames().size() == 3);
}

TEST_CASE("the mean, streamlines, vorticity and the flow through a line are told", "[window][flow]") {
  FlowDesk desk;
  desk.as_fluid();
  desk.choose("Background", 2);
  desk.click("Measure all frames");
  desk.click("vorticity, divergence, shear rate");
  desk.click("show the mean of all pairs");
  const auto mean = desk.layer().shown();
  REQUIRE(mean);
  CHECK(mean->number == 0);
  CHECK(desk.rms(mean->field) < 0.04);
  CHECK_THAT(desk.named<QLabel>("What was found")->text().toStdString(), Catch::Contains("Mean of 3 fields"));
  desk.choose("Shown as", 6);
  CHECK(desk.layer().stream().size() > 5);
  desk.choose("Quantity", 3);
  CHECK(desk.layer().look().quantity == MotionQuantity::vorticity);
  double sum = 0, n = 0;
  for (std::size_t i = 0; i < desk.layer().grid().count(); ++i)
    if (const auto v = desk.layer().value(*mean, i, MotionQuantity::vorticity)) {
      sum += *v;
      ++n;
    }
  REQUIRE(n > 100);
  // du/dy of 0.01, with y down: counter-clockwise on the screen.
  CHECK(sum / n == Approx(0.01).margin(5e-4));
  QTest::mouseClick(desk.named<QPushButton>("Flow through a line…"), Qt::LeftButton);
  for (const QPointF p : {QPointF(160, 260), QPointF(160, 60)})
    QTest::mouseClick(desk.b(), Qt::LeftButton, {}, desk.b()->to_widget(p).toPoint());
  REQUIRE(desk.layer().flow_lines().size() == 1);
  const auto points = desk.layer().flow_lines()[0].points;
  REQUIRE(points.size() == 2);
  const double exact = std::abs(points[0].y - points[1].y) * FlowDesk::moved(0.5 * (points[0] + points[1])).x;
  const LineFlow flow = flow_through(mean->field, points, {1, 1}, 32);
  CHECK(flow.value == Approx(exact).epsilon(0.01));
  CHECK_THAT(desk.named<QLabel>("Flow through lines")->text().toStdString(),
             Catch::Contains(fmt::format("1: {:.0f}", flow.value).substr(0, 5)) && Catch::Contains("px²"));
}

TEST_CASE("limits are drawn twice on the scatter, flows are written, kept and opened again", "[window][flow]") {
  FlowDesk desk;
  desk.as_fluid();
  const QString chain = QString::fromStdString((desk.scratch / "flow.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  desk.click("Measure all frames");
  MotionLedger* ledger = desk.window.ledger().motion();
  ledger->show_view(MotionLedger::View::scatter);
  QTest::qWait(100);
  QCustomPlot* plot = ledger->plot();
  const auto drag = [&](double left, double right) {
    const auto ys = plot->yAxis->range();
    const auto pixel = [&](double x, double y) {
      return QPoint(static_cast<int>(plot->xAxis->coordToPixel(x)), static_cast<int>(plot->yAxis->coordToPixel(y)));
    };
    const QPoint from = pixel(left, ys.upper - 0.02 * ys.size()), to = pixel(right, ys.lower + 0.02 * ys.size());
    QTest::mousePress(plot, Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, to, plot->mapToGlobal(to), Qt::LeftButton, Qt::LeftButton, {});
    QApplication::sendEvent(plot, &move);
    QTest::mouseRelease(plot, Qt::LeftButton, {}, to);
    desk.wait_layer();
  };
  const int all = desk.layer().shown()->field.count(MotionStatus::ok);
  drag(2.2, 3.8);
  const int some = desk.layer().shown()->field.count(MotionStatus::ok);
  drag(2.6, 3.4);
  const int fewer = desk.layer().shown()->field.count(MotionStatus::ok);
  CHECK(some < all);
  CHECK(fewer < some);
  REQUIRE(desk.settings().clean.size() == 1);
  desk.document().undo_stack().undo();
  desk.document().undo_stack().undo();
  desk.wait_layer();
  CHECK(desk.layer().shown()->field.count(MotionStatus::ok) == all);
  desk.window.export_motion(
      {MotionExportRequest::What::mean, QString::fromStdString((desk.scratch / "mean.csv").string())});
  desk.wait();
  CHECK(read_text(desk.scratch / "mean.csv").starts_with("x,y,n,mean_x"));
  desk.window.export_motion(
      {MotionExportRequest::What::table, QString::fromStdString((desk.scratch / "m.csv").string())});
  desk.wait();
  CHECK_THAT(read_text(desk.scratch / "m.csv"), Catch::Contains("vorticity"));
  desk.window.export_motion({MotionExportRequest::What::vtk, QString::fromStdString(desk.scratch.path().string())});
  desk.wait();
  CHECK(std::filesystem::exists(desk.scratch / "frame-0006.vtk"));
  REQUIRE(desk.window.save_chain(chain));
  const auto before = desk.layer().field(6);
  MainWindow again((desk.scratch / "unsaved").c_str());
  again.show();
  again.open_file(chain);
  REQUIRE(QTest::qWaitFor([&] { return again.document().motion_layer().frames().size() == 3; }, test::patience));
  const auto after = again.document().motion_layer().field(6);
  for (std::size_t i = 0; i < before->field.points.size(); ++i) {
    CHECK(distance(after->matched.points[i].moved, before->matched.points[i].moved) < 1e-5);
    CHECK(after->matched.points[i].peaks == Approx(before->matched.points[i].peaks));
  }
}

TEST_CASE("a step takes the background of the frames off, and is saved with its picture's name", "[window][flow]") {
  FlowDesk desk;
  Chain chain = desk.document().chain();
  chain.motions.clear();
  // A mask leaves parts out of measuring, and none out of the background.
  Mask mask;
  mask.points = {{180, 180}, {260, 260}};
  chain.masks = {mask};
  chain.steps.push_back({BackgroundStep{}, true, {}});
  desk.document().edit_chain("background", chain);
  desk.document().select_tile(1);
  desk.wait();
  const auto step = [&] { return std::get<BackgroundStep>(desk.document().chain().steps[0].kind); };
  CHECK(desk.named<QLabel>("The background's file")->text().contains("No background yet"));
  const auto path = desk.scratch / "background.tif";
  desk.window.make_background({MotionBackground::median, QString::fromStdString(path.string())});
  desk.wait();
  CHECK(step().file == path.string());
  CHECK(step().sha256 == checksum(path));
  // A fixed spot stands out of the source, and not out of the result.
  const Image before = read_picture(desk.folder.toStdString() + "/pour-1-a.tif", 1, {});
  const Image median = read_picture(path, 1, {});
  CHECK(median.row<float>(0, 20)[20] > median.row<float>(0, 30)[30] + 30);
  CHECK(median.row<float>(0, 220)[220] > median.row<float>(0, 230)[230] + 30);
  const auto source = std::make_shared<const Pyramid>(std::make_shared<const Image>(before.clone()));
  WarpReport report;
  const Image after = evaluate(desk.document().chain(), desk.document().layout(), *source, {}, &report);
  double was = 0, is = 0, n = 0;
  for (int j = 20; j < 320; j += 40)
    for (int i = 20; i < 320; i += 40) {
      was += before.row<std::uint8_t>(0, j)[i] - before.row<std::uint8_t>(0, j - 15)[i];
      is += after.row<std::uint8_t>(0, j)[i] - after.row<std::uint8_t>(0, j - 15)[i];
      ++n;
    }
  CHECK(was / n > 35);
  CHECK(std::abs(is / n) < 15);
  REQUIRE(desk.window.save_chain(QString::fromStdString((desk.scratch / "off.fexel.json").string())));
  CHECK_THAT(read_text(desk.scratch / "off.fexel.json"), Catch::Contains("\"file\": \"background.tif\""));
  CHECK(std::get<BackgroundStep>(load_chain((desk.scratch / "off.fexel.json").string()).steps[0].kind).file ==
        path.string());
  desk.document().undo_stack().undo();
  CHECK(step().file.empty());
}
