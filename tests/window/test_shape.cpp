#include <QTableWidget>
#include <catch2/catch.hpp>

#include "app/canvas/drawing.h"
#include "app/compare/figure.h"
#include "app/steps/plane_drawing.h"
#include "app/steps/step_ui.h"
#include "geometry/lens.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

void click(QAbstractButton* button) {
  QTest::mouseClick(button, Qt::LeftButton);
}
QPointF handle(PictureView* view, int index, Handle::Kind kind = Handle::Kind::step) {
  for (const Handle& h : view->handles())
    if (h.kind == kind && h.index == index) return view->to_widget(h.at);
  FAIL("no handle " << index);
  return {};
}

}  // namespace

TEST_CASE("a turn is typed in degrees or radians, dragged, and laid along a line", "[window]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "-1.82");
  CHECK(now<RotateStep>(desk).degrees == -1.82);
  CHECK(said(desk).contains("1.82° clockwise"));
  desk.type("angle", "0.5 rad");
  CHECK(now<RotateStep>(desk).degrees == Approx(28.6478898).margin(1e-5));

  desk.type("angle", "0");
  const Point middle{400, 300};
  const QPointF c = desk.a()->to_widget(test::q(middle));
  // The handle is at the right of the centre; a quarter up it is a turn by 45 degrees.
  const QPointF arm = handle(desk.a(), 0) - c;
  REQUIRE(arm.x() > 20);
  desk.drag(desk.a(), handle(desk.a(), 0), c + QPointF(arm.x(), -arm.x()) * 0.8);
  CHECK(now<RotateStep>(desk).degrees == Approx(45).margin(1.5));
  desk.document().undo_stack().undo();
  CHECK(now<RotateStep>(desk).degrees == 0);

  // Upper side of the photo's rectangle: it falls by 50 px over 480, so it is turned back counter-clockwise.
  click(desk.named<QPushButton>("Level along a line…"));
  desk.drag(desk.a(), desk.a()->to_widget({160, 120}), desk.a()->to_widget({640, 170}));
  const double slope = std::atan2(50, 480) * 180 / M_PI;
  CHECK(now<RotateStep>(desk).degrees == Approx(slope).margin(0.4));
  // Its lower side rises: that is turned back clockwise.
  click(desk.named<QPushButton>("Level along a line…"));
  desk.drag(desk.a(), desk.a()->to_widget({110, 520}), desk.a()->to_widget({690, 480}));
  CHECK(now<RotateStep>(desk).degrees == Approx(-std::atan2(40, 580) * 180 / M_PI).margin(0.4));
  // Its left side is plumb when it is turned by what it leans.
  click(desk.named<QPushButton>("Level along a line…"));
  desk.drag(desk.a(), desk.a()->to_widget({160, 120}), desk.a()->to_widget({110, 520}));
  CHECK(now<RotateStep>(desk).degrees == Approx(std::atan2(50, 400) * 180 / M_PI).margin(0.4));
}

TEST_CASE("turns by 90, -90, 270 and 630 degrees are exact, and near ones offer it", "[window]") {
  test::Desk desk;
  add<RotateStep>(desk);
  for (const char* degrees : {"90", "-90", "270", "630"}) {
    desk.type("angle", degrees);
    CHECK(desk.document().layout().result().exact);
    CHECK(desk.document().layout().result().size == Size{600, 800});
  }
  desk.type("angle", "-89.3");
  CHECK_FALSE(desk.document().layout().result().exact);
  click(desk.named<QPushButton>("Make it exactly -90°"));
  CHECK(now<RotateStep>(desk).degrees == -90);
  CHECK(desk.document().layout().result().exact);
}

TEST_CASE("a half turn and a mirror are told apart on the screen", "[window]") {
  test::Desk desk;
  const auto mark = [&] {
    desk.wait_shown(desk.b());
    QTest::qWait(30);
    const QImage shot = desk.b()->grab().toImage();
    int wrong = 0, right = 0;
    for (int y = 20; y < 50; ++y)
      for (int x = 90; x < 170; ++x) {
        wrong += shot.pixelColor(x, y) == drawing::colour_wrong;
        right += shot.pixelColor(x, y) == drawing::colour_active;
      }
    return std::pair(wrong, right);
  };
  CHECK(mark() == std::pair(0, 0));  // as it came: no mark
  add<RotateStep>(desk);
  click(desk.named<QPushButton>("Rotate by 180 degrees"));
  const auto turned = mark();
  CHECK(turned.first == 0);
  CHECK(turned.second > 5);
  CHECK(said(desk).contains("not a mirror image"));
  desk.document().remove_selected_step();
  add<MirrorStep>(desk);
  const auto mirrored = mark();
  CHECK(mirrored.first > 5);
  CHECK(mirrored.second == 0);
  CHECK(said(desk).contains("not a half turn"));
}

TEST_CASE("a crop is dragged by its corners and its middle, in whole pixels", "[window]") {
  test::Desk desk;
  add<CropStep>(desk);
  const auto rectangle = [&] { return std::get<CropRectangle>(now<CropStep>(desk).what); };
  const CropRectangle before = rectangle();
  desk.drag(desk.a(), handle(desk.a(), 0), desk.a()->to_widget({200, 150}));
  CropRectangle r = rectangle();
  CHECK(std::abs(r.x - 200) <= 2);
  CHECK(std::abs(r.y - 150) <= 2);
  CHECK(r.x == std::floor(r.x));
  CHECK(r.x + r.width == before.x + before.width);
  CHECK(r.y + r.height == before.y + before.height);
  CHECK(desk.document().layout().result().exact);
  desk.drag(desk.a(), handle(desk.a(), 4), handle(desk.a(), 4) + QPointF(-20, 10));
  CHECK(rectangle().width == r.width);
  CHECK(rectangle().height == r.height);
  CHECK(rectangle().x < r.x);
  CHECK(rectangle().y > r.y);
  // The arrow keys move a handle by a pixel.
  r = rectangle();
  desk.a()->select_handle(desk.a()->handles()[2]);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Right);
  CHECK(rectangle().width == r.width + 1);
}

TEST_CASE("a crop of a ratio keeps it under the hand", "[window]") {
  test::Desk desk;
  add<CropStep>(desk);
  Chain chain = desk.document().chain();
  std::get<CropStep>(chain.steps[0].kind).what = CropRatio{3, 2, "centre"};
  desk.document().edit_chain("ratio", chain);
  REQUIRE(desk.a()->handles().size() == 5);
  desk.drag(desk.a(), handle(desk.a(), 2), desk.a()->to_widget({500, 300}));
  const auto r = std::get<CropRectangle>(now<CropStep>(desk).what);
  CHECK(std::abs(2 * r.width - 3 * r.height) <= 3);  // whole pixels
  CHECK(r.width < 700);
  // The largest 3 : 2 of 800 x 600 is 800 x 533, in the middle; its upper left corner stays.
  CHECK(r.x == Approx(0).margin(1));
  CHECK(r.y == Approx(33.5).margin(1));
}

TEST_CASE("a ring's centre comes from points that are clicked on its rim", "[window]") {
  test::Desk desk;
  add<UnwrapStep>(desk);
  const auto press = [&] { click(desk.named<QPushButton>("Centre from points on the edge…")); };
  const auto put = [&](double degrees) {
    const double a = degrees * M_PI / 180;
    QTest::mouseClick(desk.a(), Qt::LeftButton, {},
                      desk.a()->to_widget({390 + 180 * std::cos(a), 310 + 180 * std::sin(a)}).toPoint());
  };
  press();
  for (const double degrees : {10.0, 95.0, 160.0, 230.0, 310.0}) put(degrees);
  QTest::keyClick(desk.a(), Qt::Key_Return);
  // Widgets' pixels are whole: five clicks, each off by up to half of one.
  const double pixel = 1 / desk.a()->zoom();
  CHECK(distance(now<UnwrapStep>(desk).centre, {390, 310}) < pixel);
  CHECK(now<UnwrapStep>(desk).outer == Approx(180).margin(pixel));
  desk.document().undo_stack().undo();
  CHECK(distance(now<UnwrapStep>(desk).centre, {390, 310}) > 2);
  // On a line: said, and nothing changes.
  const UnwrapStep before = now<UnwrapStep>(desk);
  press();
  for (const double x : {100.0, 200.0, 300.0})
    QTest::mouseClick(desk.a(), Qt::LeftButton, {}, desk.a()->to_widget({x, 200}).toPoint());
  QTest::keyClick(desk.a(), Qt::Key_Return);
  CHECK(now<UnwrapStep>(desk) == before);
  CHECK(desk.named<QLabel>("What the edge says")->text().contains("line"));
}

TEST_CASE("a resize to another shape says that x and y no longer compare, and offers crop and pad", "[window]") {
  test::Desk desk;
  Chain chain = desk.document().chain();
  chain.steps.push_back({CropStep{CropRectangle{0, 0, 640, 410}}, true, {}});
  chain.calibration = Calibration{"", {0.5, 0.5, "mm"}, 0, "", ""};
  // 100 px across and 100 px down in the source.
  chain.measurements = {length_measurement("across", 0, {100, 100}, {200, 100}, 50, "mm"),
                        length_measurement("down", 0, {100, 100}, {100, 200}, 50, "mm")};
  desk.document().edit_chain("crop", chain);
  add<ResizeStep>(desk);
  click(desk.named<QPushButton>("Resize to: size"));
  click(desk.named<QCheckBox>("the other side follows"));
  desk.type("width", "300");
  desk.type("height", "300");
  const Station& out = desk.document().layout().result();
  CHECK(out.size == Size{300, 300});
  CHECK(said(desk).contains("x and y no longer compare"));
  CHECK(said(desk).contains("0.46875 across"));
  REQUIRE(out.pixel);
  CHECK(out.pixel->x == Approx(0.5 * 640 / 300));
  CHECK(out.pixel->y == Approx(0.5 * 410 / 300));
  for (const Reading& reading : desk.document().readings(desk.document().layout().last()))
    CHECK(reading.value->value == Approx(50));
  click(desk.named<QPushButton>("When the shape differs: crop"));
  CHECK_FALSE(said(desk).contains("no longer compare"));
  CHECK(desk.document().layout().result().pixel->square());
  click(desk.named<QPushButton>("When the shape differs: pad"));
  CHECK(said(desk).contains("empty"));
  click(desk.named<QPushButton>("Resize to: factor"));
  desk.type("factor", "0.1234");
  CHECK(said(desk).contains("whole pixels"));
}

TEST_CASE("the centre of a ring is taken from its rim, and a centre that is off is said", "[window]") {
  test::Desk desk;
  const auto path = (desk.scratch / "disc.png").string();
  Image disc(600, 500, 1, Depth::u8);
  for (int y = 0; y < 500; ++y)
    for (int x = 0; x < 600; ++x) {
      int in = 0;
      for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) in += distance({x + (i + 0.5) / 4, y + (j + 0.5) / 4}, {301.3, 248.6}) < 196;
      disc.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(40 + 10 * in);
    }
  std::vector<Image> pages;
  pages.push_back(std::move(disc));
  write_pictures(path, pages, {Format::png, {}, false, {}});
  desk.open(path);
  add<UnwrapStep>(desk);
  desk.type("outer radius", "200");
  click(desk.named<QPushButton>("Centre from the edge"));
  REQUIRE(QTest::qWaitFor([&] { return now<UnwrapStep>(desk).centre.x != 300; }, test::patience));
  CHECK(distance(now<UnwrapStep>(desk).centre, {301.3, 248.6}) < 0.05);
  const auto says = [&] { return desk.named<QLabel>("What the edge says")->text(); };
  CHECK(says().contains("agree"));
  desk.type("centre x", "303.3");
  CHECK(says().contains("2.0 px off"));
  CHECK(says().contains("once a turn"));
  // The handles: the outer circle follows the hand.
  desk.drag(desk.a(), handle(desk.a(), 2), handle(desk.a(), 2) + QPointF(0, -20));
  CHECK(now<UnwrapStep>(desk).outer > 210);
}

TEST_CASE("a plane is tilted by hand and by keys in its drawing", "[window]") {
  test::Desk desk;
  add<TiltStep>(desk);
  auto* drawing = desk.named<PlaneDrawing>("The plane in space");
  drawing->setFocus();
  for (int i = 0; i < 3; ++i) QTest::keyClick(drawing, Qt::Key_Right);
  QTest::keyClick(drawing, Qt::Key_Down);
  CHECK(now<TiltStep>(desk).about_y == 3);
  CHECK(now<TiltStep>(desk).about_x == 1);
  CHECK(said(desk).contains("leans 3.16°"));
  // R = Rz Ry Rx: its last row is (-sin y, cos y sin x, cos y cos x).
  CHECK(desk.named<QLabel>("Rotation matrix")->text().contains("0.9985"));
  desk.type("about x", "-90");
  CHECK(desk.named<QLabel>("What is wrong")->text().contains("own plane"));
}

TEST_CASE("bad input is met in place with a remedy", "[window]") {
  test::Desk desk;
  const auto wrong = [&] { return desk.named<QLabel>("What is wrong")->text(); };
  add<MatrixStep>(desk);
  QApplication::clipboard()->setText("1;0;3\n0;1;-2\n0;0;1\n");
  click(desk.named<QPushButton>("Paste nine numbers"));
  CHECK(now<MatrixStep>(desk).matrix(0, 2) == 3);
  QApplication::clipboard()->setText("[[1,0],[0,1]]");
  click(desk.named<QPushButton>("Paste nine numbers"));
  CHECK(desk.named<QLabel>("What was pasted")->text().contains("4 numbers"));
  CHECK(now<MatrixStep>(desk).matrix(0, 2) == 3);
  desk.type("Matrix row 1, column 1", "0");
  CHECK_FALSE(wrong().isEmpty());
  desk.document().remove_selected_step();

  add<LensStep>(desk);
  desk.type("k1", "-3");
  CHECK(wrong().contains("folds"));
  desk.document().remove_selected_step();

  add<UnwrapStep>(desk);
  desk.type("centre x", "5000");
  CHECK(wrong().contains("outside the picture"));
  desk.document().remove_selected_step();

  add<ConvolveStep>(desk);
  auto* kernel = desk.named<QPlainTextEdit>("Kernel");
  kernel->setFocus();
  kernel->setPlainText("0 0\n0 0");
  CHECK(desk.named<QLabel>("What is wrong with the kernel")->text().contains("zeros"));
  kernel->setPlainText("1 2\n3");
  CHECK(desk.named<QLabel>("What is wrong with the kernel")->text().contains("Row 2 has 1"));
  kernel->setPlainText("1 2 1");
  CHECK(now<ConvolveStep>(desk).kernel.numbers == std::vector<double>{1, 2, 1});
  CHECK(said(desk).contains("clamped"));
}

TEST_CASE("a drag of any handle of any step changes the step, and undo brings it back", "[window]") {
  test::Desk desk;
  for (const std::string& word : step_words()) {
    desk.document().insert_step(word, 0);
    const auto handles = desk.a()->handles();
    for (std::size_t i = 0; i < handles.size(); ++i) {
      const QPointF at = desk.a()->to_widget(handles[i].at);
      const auto before = desk.document().chain();
      const QPointF to = at + QPointF(9, -14);
      desk.drag(desk.a(), at, to);
      INFO(word << ", handle " << i);
      CHECK(desk.document().chain() != before);
      desk.document().undo_stack().undo();
      CHECK(desk.document().chain() == before);
    }
    desk.document().remove_selected_step();
  }
}

TEST_CASE("the proof sheet shows one spot under every kernel, and a click takes one", "[window]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "7");
  ProofSheet* sheet = test::open_proof_sheet(desk);
  const auto all_there = [&] {
    return QTest::qWaitFor(
        [&] { return std::ranges::all_of(sheet->cells(), [](auto* c) { return !c->picture().isNull(); }); },
        test::patience);
  };
  REQUIRE(sheet->cells().size() == kernel_names().size());
  REQUIRE(all_there());
  // The same spot under each, and unlike pixels: each cell shows what the engine makes of it.
  const auto cell = [&](const QString& name) {
    for (ProofCell* c : sheet->cells())
      if (c->proof().name == name) return c;
    FAIL("no cell " << name.toStdString());
    return sheet->cells().front();
  };
  CHECK(cell("linear")->picture() != cell("cubic")->picture());
  const Point spot = sheet->spot();
  QTest::mousePress(cell("linear"), Qt::LeftButton, {}, {40, 40});
  QTest::mouseMove(cell("linear"), {60, 50});
  QTest::mouseRelease(cell("linear"), Qt::LeftButton, {}, {60, 50});
  CHECK(distance(sheet->spot(), spot) == Approx(std::hypot(20, 10) / sheet->zoom()).epsilon(0.05));
  CHECK(desk.document().chain().resampling.kernel == Kernel::cubic);

  QTest::mouseClick(cell("lanczos3"), Qt::LeftButton, {}, {50, 50});
  CHECK(desk.document().chain().resampling.kernel == Kernel::lanczos3);
  CHECK(sheet->is_current(cell("lanczos3")->proof()));
  desk.document().undo_stack().undo();
  CHECK(desk.document().chain().resampling.kernel == Kernel::cubic);

  click(desk.named<QPushButton>("Choice: border mode"));
  REQUIRE(sheet->cells().size() == border_mode_names().size());
  cell("mirror")->setFocus();
  QTest::keyClick(cell("mirror"), Qt::Key_Return);
  CHECK(desk.document().chain().resampling.edge == BorderMode::mirror);
  desk.document().undo_stack().undo();

  click(desk.named<QPushButton>("Choice: output size"));
  REQUIRE(sheet->cells().size() == 3);
  click(desk.named<QPushButton>("Choice: kernel"));
  REQUIRE(all_there());
  // Differences: the setting in use is shown as it is, the others about mid grey.
  click(desk.named<QCheckBox>("Show differences to the setting in use"));
  const QImage area = cell("bspline3")->grab().toImage();
  const QColor middle = area.pixelColor(area.width() / 2, area.height() / 3);
  CHECK(std::abs(middle.red() - 128) < 100);
  CHECK(sheet->caption().join(" ").contains("differences"));
  const QString figure = QString::fromStdString((desk.scratch / "proof.svg").string());
  save_captioned(figure, sheet->grab(), sheet->caption(), desk.document());
  CHECK(QFileInfo(figure).size() > 1000);
  QTest::keyClick(sheet, Qt::Key_Escape);
  CHECK_FALSE(sheet->isVisible());
}

TEST_CASE("where a fit puts its points is dragged on its result, in pixels or in units", "[window]") {
  test::Desk desk;
  const auto start = [&](const std::string& more) {
    desk.document().edit_chain(
        "fit", parse_chain(R"({"fexel":1,"steps":[{"step":"fit","model":"affine",)" + more +
                           R"("pairs":[{"from":[100,100],"to":[110,104]},{"from":[700,90],"to":[706,88]},
      {"from":[690,500],"to":[702,508]},{"from":[110,520],"to":[118,530]}]}]})"));
    desk.document().select_tile(1);
    desk.wait_shown(desk.b());
  };
  for (const auto& [more, unit] :
       {std::pair{"", 1.0}, {R"("unit":"mm","pixel_size":0.5,"width":900,"height":900,)", 0.5}}) {
    start(more);
    const FitStep before = now<FitStep>(desk);
    PictureView* b = desk.b();
    REQUIRE(std::ranges::count(b->handles(), Handle::Kind::result, &Handle::kind) == 4);
    const QPointF from = handle(b, 2, Handle::Kind::result), way(24, -15);
    CHECK(std::abs(b->to_station(from).x() - before.pairs[2].to.x / unit) < 1e-6);
    const double zoom = b->zoom();
    desk.drag(b, from, from + way);
    const FitStep after = now<FitStep>(desk);
    const Point moved = after.pairs[2].to - before.pairs[2].to;
    CHECK(moved.x == Approx(24 / zoom * unit).margin(1e-6));
    CHECK(moved.y == Approx(-15 / zoom * unit).margin(1e-6));
    CHECK(after.pairs[2].from == before.pairs[2].from);
    CHECK(after.pairs[1] == before.pairs[1]);
    // An arrow key moves the chosen one on, and undo gives it all back.
    QTest::keyClick(b, Qt::Key_Right);
    CHECK(now<FitStep>(desk).pairs[2].to.x > after.pairs[2].to.x);
    CHECK(now<FitStep>(desk).pairs[2].to.y == Approx(after.pairs[2].to.y).margin(1e-9));
    desk.document().undo_stack().undo();
    desk.document().undo_stack().undo();
    CHECK(now<FitStep>(desk) == before);
  }
  // Typed in the table: a number with any minus; what is no number goes back.
  auto* table = desk.named<QTableView>("Pairs");
  CHECK(test::cell(table, 1, 4) == "706.00");
  CHECK(table->model()->headerData(4, Qt::Horizontal).toString() == "to x, mm");
  const QString typed = QChar(0x2212) + QString("12.5");
  test::set_cell(table, 1, 4, typed);
  CHECK(now<FitStep>(desk).pairs[1].to == Point{-12.5, 88});
  test::set_cell(table, 1, 4, "so far");
  CHECK(now<FitStep>(desk).pairs[1].to == Point{-12.5, 88});
  CHECK(test::cell(table, 1, 4) == QChar(0x2212) + QString("12.50"));
  // A fit that cannot be made has no result to take hold of.
  Chain chain = desk.document().chain();
  for (PointPair& pair : std::get<FitStep>(chain.steps[0].kind).pairs) pair.from = {100, 100};
  desk.document().edit_chain("fit", chain);
  // What they should make is still there to be moved.
  CHECK(std::ranges::count(desk.b()->handles(), Handle::Kind::result, &Handle::kind) == 4);
}

TEST_CASE("the proof sheet shows every model of a fit, and says how near each comes", "[window]") {
  test::Desk desk;
  Chain chain = parse_chain(R"({"fexel":1,"steps":[{"step":"fit","model":"affine","pairs":[
    {"from":[100,100],"to":[110,104]},{"from":[700,90],"to":[706,88]},{"from":[690,500],"to":[702,508]},
    {"from":[110,520],"to":[118,530]},{"from":[400,300],"to":[416,309]}]}]})");
  desk.document().edit_chain("fit", chain);
  desk.document().select_tile(1);
  ProofSheet* sheet = test::open_proof_sheet(desk);
  click(desk.named<QPushButton>("Choice: model"));
  REQUIRE(sheet->cells().size() == model_names().size());
  const auto says = [&](const QString& name) {
    for (const ProofCell* c : sheet->cells())
      if (c->proof().name == name) return c->proof().says;
    return QString();
  };
  // The mean shift of the five is (10.4, 5.8); what is left of each, by hand.
  const double dx[] = {-0.4, -4.4, 1.6, -2.4, 5.6}, dy[] = {-1.8, -7.8, 2.2, 4.2, 3.2};
  double squares = 0;
  for (int i = 0; i < 5; ++i) squares += dx[i] * dx[i] + dy[i] * dy[i];
  CHECK(says("translation").contains(QString::number(std::sqrt(squares / 5), 'f', 2)));
  CHECK(says("thin-plate").contains("nothing is left to check it"));
  CHECK(says("polynomial2") == "not with these pairs");  // it needs six
  for (ProofCell* c : sheet->cells())
    if (c->proof().name == "similarity") {
      QTest::mouseClick(c, Qt::LeftButton, {}, {30, 30});
      break;
    }
  CHECK(now<FitStep>(desk).model == Model::similarity);
}

TEST_CASE("what the proof sheet says of kernels is what theory says", "[window]") {
  const auto sinc = [](double f) { return f == 0 ? 1 : std::sin(M_PI * f) / (M_PI * f); };
  for (const double f : {0.0, 0.1, 0.25, 0.4, 0.5}) {
    CHECK(frequency_response(Kernel::nearest, f) == Approx(sinc(f)).margin(1e-5));
    CHECK(frequency_response(Kernel::linear, f) == Approx(sinc(f) * sinc(f)).margin(1e-5));
    CHECK(frequency_response(Kernel::bspline3, f) ==
          Approx(std::pow(sinc(f), 4) * 3 / (2 + std::cos(2 * M_PI * f))).margin(1e-5));
  }
}

TEST_CASE("sides that bow are straightened by one click, and undo brings them back", "[window]") {
  test::Desk desk;
  // A light rectangle through a lens of k1 = -0.08, drawn from the lens's formula.
  const Size size{900, 700};
  const Lens lens({-0.08, 0, 0, 0, 0}, size.middle(), size.width);
  Image bent(size.width, size.height, 1, Depth::u8);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      int in = 0;
      for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) {
          const auto p = lens.backward({x + (i + 0.5) / 4, y + (j + 0.5) / 4});
          in += p && p->x > 120 && p->x < 780 && p->y > 100 && p->y < 600;
        }
      bent.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(50 + 9 * in);
    }
  const auto path = (desk.scratch / "bent.png").string();
  std::vector<Image> pages;
  pages.push_back(std::move(bent));
  write_pictures(path, pages, {Format::png, {}, false, {}});
  desk.open(path);
  RectifyStep step;
  const Point corners[] = {{120, 100}, {780, 100}, {780, 600}, {120, 600}};
  for (std::size_t i = 0; i < 4; ++i) step.corners[i] = *lens.forward(corners[i]);
  test::rectify_with(desk, step);
  click(desk.named<QPushButton>("Corners from edges"));
  REQUIRE(QTest::qWaitFor([&] { return desk.rectify().picking[0] < 0.4; }, test::patience));
  const Chain before = desk.document().chain();
  click(desk.named<QPushButton>("Undo the lens"));
  REQUIRE(desk.document().chain().steps.size() == 2);
  // Strong bows are measured a little short, so that a tenth of the lens may be left.
  CHECK(now<LensStep>(desk, 0).terms.k1 == Approx(-0.08).epsilon(0.1));
  // The edges are looked for once more, now that they are straight.
  REQUIRE(QTest::qWaitFor([&] { return now<RectifyStep>(desk, 1).picking[0] < 0.4; }, test::patience));
  const auto moved = now<RectifyStep>(desk, 1).corners;
  for (std::size_t i = 0; i < 4; ++i)
    CHECK(distance(moved[i], corners[i]) < 0.1 * distance(*lens.forward(corners[i]), corners[i]) + 0.1);
  CHECK(desk.document().selected_step() == 1);
  for (int i = 0; i < 2; ++i) desk.document().undo_stack().undo();
  CHECK(desk.document().chain() == before);
}
