/// Grids in the window: found, laid square, undone; the lens of all frames, and the step that takes it over.
#include <catch2/catch.hpp>

#include "report/grid_chain.h"
#include "tests/grid_scene.h"
#include "tests/window/pages.h"
#include "tests/window/sequence.h"

using namespace fexel;
using namespace fexel::test;
using namespace fexel::test::pages;

namespace {

GridCamera bench_camera(int view) {
  GridCamera camera;
  camera.focal = 720;
  camera.k1 = -0.15;
  camera.pose(30, 90.0 * view + 20, 6.0 * view, {0, 0, 0});
  camera.place = Eigen::Vector3d(0, 0, camera.focal / 44) - camera.turn.col(0) * 4 - camera.turn.col(1) * 3;
  return camera;
}
std::string put_bench(Desk& desk, int view) {
  const std::string path = desk.scratch / ("view-" + std::to_string(view + 1) + ".png");
  write_pictures(path, one_page(grid_picture(bench_camera(view), {}, {1, 2}, static_cast<unsigned>(view + 1))),
                 {Format::png, {}, true, {}});
  return path;
}
QString grid_said(Desk& desk) {
  for (QLabel* label : desk.window.findChildren<QLabel*>())
    if (label->accessibleName() == "What the grid says") return label->text();
  return {};
}
void wait_for(Desk& desk, const QString& words) {
  REQUIRE(QTest::qWaitFor([&] { return grid_said(desk).contains(words); }, test::patience));
}

}  // namespace

TEST_CASE("a grid is found and laid square by two steps, which undo takes back, and another search replaces") {
  Desk desk;
  desk.open(put_bench(desk, 0));
  desk.document().select_tile(0);
  desk.type("From node to node", "5");
  click(desk, "Find the grid, and lay it square");
  wait_for(desk, "63 nodes of 9 × 7");
  const Chain& chain = desk.document().chain();
  REQUIRE(chain.steps.size() == 2);
  CHECK(std::holds_alternative<LensStep>(chain.steps[0].kind));
  const auto& plane = std::get<RectifyStep>(chain.steps[1].kind);
  CHECK(plane.width == 40);
  CHECK(plane.height == 30);
  // True nodes, carried to the result, lie 5 mm apart.
  const Layout& layout = desk.document().layout();
  const GridCamera camera = bench_camera(0);
  const double pixel = layout.result().pixel->x;
  double worst = 0;
  for (int i = 0; i < 8; ++i)
    worst = std::max(worst, std::abs(pixel * distance(carry(layout, camera.seen(i, 3), 0, layout.last()).point,
                                                      carry(layout, camera.seen(i + 1, 3), 0, layout.last()).point) -
                                     5));
  CHECK(worst < 0.01);
  click(desk, "Find the grid, and lay it square");
  QTest::qWait(50);
  wait_for(desk, "63 nodes of 9 × 7");
  CHECK(desk.document().chain().steps.size() == 2);
  while (desk.document().undo_stack().canUndo()) undo(desk);
  CHECK(desk.document().chain().steps.empty());
}

TEST_CASE("a picture without a grid says so, and changes nothing") {
  Desk desk;
  Image image = noise(640, 480, 1, Depth::u8);
  const std::string path = desk.scratch / "noise.png";
  write_pictures(path, one_page(std::move(image)), {Format::png, {}, true, {}});
  desk.open(path);
  desk.document().select_tile(0);
  click(desk, "Find the grid, and lay it square");
  wait_for(desk, "No grid was found");
  CHECK(desk.document().chain().steps.empty());
}

TEST_CASE("the lens of all frames is kept in the library, and the lens step takes it over, scaled where it has to be") {
  Desk desk;
  QStringList files;
  for (int view = 0; view < 3; ++view) files << QString::fromStdString(put_bench(desk, view));
  desk.window.open_sequence(files);
  desk.wait();
  desk.document().select_tile(0);
  auto* name = desk.named<QLineEdit>("Name of the lens");
  name->setFocus();
  QTest::keyClicks(name, "bench 35 mm");
  click(desk, "Lens from all frames");
  wait_for(desk, "Kept as");
  const LensCalibration lens = lens_named("bench 35 mm").calibration;
  CHECK(std::abs(lens.focal.value - 720) < 4 * lens.focal.sigma);
  CHECK(lens.views == 3);
  // A picture of half that size.
  Image small = noise(320, 240, 1, Depth::u8);
  const std::string path = desk.scratch / "small.png";
  write_pictures(path, one_page(std::move(small)), {Format::png, {}, true, {}});
  desk.document().undo_stack().setClean();
  desk.open(path);
  add<LensStep>(desk);
  pick(desk, "Lenses in the library", "bench 35 mm");
  const LensStep step = now<LensStep>(desk);
  CHECK(*step.focal == Approx(lens.focal.value / 2));
  CHECK(step.terms == lens.terms);
  CHECK(desk.named<QLabel>("Whether the lens fits")->text().contains("scaled"));
  std::filesystem::remove(lens_file("bench 35 mm"));
}
