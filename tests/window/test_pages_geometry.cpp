/// The pages of the panel: each field, list and word changes its step, and the page says what came of it.
#include "tests/window/pages.h"

namespace fexel::test::pages {
TEST_CASE("frames, extents and directions of the moving steps are chosen by a click", "[pages]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "10");
  const Size grown = desk.document().layout().result().size;
  CHECK(grown.width > 800);
  click(desk, "Output size: keep");
  CHECK(desk.document().layout().result().size == Size{800, 600});
  CHECK(said(desk).contains("The size stayed"));
  click(desk, "Output size: inside");
  CHECK(desk.document().layout().result().size.width < 800);
  CHECK(said(desk).contains("without empty corners"));
  desk.type("centre x", "100");
  CHECK(now<RotateStep>(desk).centre == Point{100, 300});
  click(desk, "The picture's middle");
  CHECK_FALSE(now<RotateStep>(desk).centre);

  add<TranslateStep>(desk);
  desk.type("right", "12");
  CHECK(now<TranslateStep>(desk, 1).dx == 12);
  click(desk, "Output size: keep");
  CHECK(now<TranslateStep>(desk, 1).extent == Extent::keep);
  click(desk, "Output size: grow");
  CHECK(now<TranslateStep>(desk, 1).extent == Extent::grow);

  add<MirrorStep>(desk);
  click(desk, QString("What changes places: up %1 down").arg(QChar(0x2195)));
  CHECK(now<MirrorStep>(desk, 2).reverse == 'y');
  CHECK(said(desk).contains("Upper and lower side"));
}

TEST_CASE("a matrix is pasted with whatever minus and brackets, or refused with the count of its numbers", "[pages]") {
  test::Desk desk;
  add<MatrixStep>(desk);
  const QString minus = QChar(0x2212);
  QApplication::clipboard()->setText("[[0.5, " + minus + "0.1, 3],\n [1e-1, .5, " + minus + "4e0],\n [0, 0, 1]]");
  click(desk, "Paste nine numbers");
  Matrix3 wanted;
  wanted << 0.5, -0.1, 3, 0.1, 0.5, -4, 0, 0, 1;
  CHECK((now<MatrixStep>(desk).matrix - wanted).norm() < 1e-15);
  QApplication::clipboard()->setText("1 0 0 0 1 0 0 0");
  click(desk, "Paste nine numbers");
  CHECK(desk.named<QLabel>("What was pasted")->text().contains("8 numbers"));
  CHECK((now<MatrixStep>(desk).matrix - wanted).norm() < 1e-15);
  // A field takes a pasted minus, too, and a comma for the point.
  auto* field = desk.named<QAbstractSpinBox>("Matrix row 1, column 3");
  QApplication::clipboard()->setText(minus + "2,5");
  field->setFocus();
  field->selectAll();
  QTest::keyClick(field, Qt::Key_V, Qt::ControlModifier);
  QTest::keyClick(field, Qt::Key_Return);
  CHECK(now<MatrixStep>(desk).matrix(0, 2) == -2.5);
  click(desk, "Change nothing (identity)");
  CHECK(now<MatrixStep>(desk).matrix == Matrix3::Identity());
}

TEST_CASE("a tilt is seen in parallel or from a distance, and its drawing is turned by hand", "[pages]") {
  test::Desk desk;
  add<TiltStep>(desk);
  auto* drawing = desk.window.findChild<PlaneDrawing*>();
  REQUIRE(drawing);
  const QPoint middle = drawing->rect().center();
  QTest::mousePress(drawing, Qt::LeftButton, {}, middle);
  QTest::mouseMove(drawing, middle + QPoint(20, 0));
  QTest::mouseMove(drawing, middle + QPoint(40, 10));
  CHECK(desk.document().session().dragging());
  QTest::mouseRelease(drawing, Qt::LeftButton, {}, middle + QPoint(40, 10));
  CHECK_FALSE(desk.document().session().dragging());
  // Half a degree a pixel, as the hand goes.
  CHECK(now<TiltStep>(desk).about_y == 20);
  CHECK(now<TiltStep>(desk).about_x == 5);
  undo(desk);
  CHECK(now<TiltStep>(desk) == TiltStep{});
  drawing->setFocus();
  QTest::keyClick(drawing, Qt::Key_Right);
  QTest::keyClick(drawing, Qt::Key_Up);
  QTest::keyClick(drawing, Qt::Key_Left);
  QTest::keyClick(drawing, Qt::Key_Left);
  CHECK(now<TiltStep>(desk).about_y == -1);
  CHECK(now<TiltStep>(desk).about_x == -1);

  desk.type("about y", "30");
  desk.type("about x", "0");
  CHECK(desk.document().layout().result().from_previous.planar());
  const auto width_at = [&](double y) {
    const Map& map = desk.document().layout().result().from_previous;
    return distance(*map.forward({0, y}), *map.forward({800, y}));
  };
  desk.type("from", "2");
  const double near = width_at(300);
  desk.type("from", "50");
  CHECK(width_at(300) != Approx(near).epsilon(0.01));
  click(desk, "View: parallel");
  // Seen in parallel a plane that leans by 30 degrees is cos 30 as wide.
  CHECK(width_at(300) == Approx(800 * std::cos(M_PI / 6)).margin(1e-6));
  CHECK(width_at(10) == Approx(800 * std::cos(M_PI / 6)).margin(1e-6));
  CHECK_FALSE(desk.named<QAbstractSpinBox>("from")->isEnabled());
  click(desk, "Output size: keep");
  CHECK(desk.document().layout().result().size == Size{800, 600});
}

TEST_CASE("a lens is undone or added, by its terms and its focal length", "[pages]") {
  test::Desk desk;
  add<LensStep>(desk);
  CHECK(said(desk).contains("No term is set"));
  desk.type("k1", "-0.05");
  desk.type("focal length", "1000");
  const Lens lens(Lens::Terms{-0.05, 0, 0, 0, 0}, {400, 300}, 1000);
  const Point corner{50, 40};
  const auto there = [&] { return *desk.document().layout().result().from_previous.forward(corner); };
  CHECK(distance(there(), *lens.backward(corner)) < 1e-6);
  click(desk, "Direction: add it");
  CHECK(distance(there(), *lens.forward(corner)) < 1e-6);
  click(desk, "Direction: undo it");
  CHECK(said(desk).contains("Corners move by up to"));
}

TEST_CASE("a ring's numbers are typed, and a rim that is not there is said", "[pages]") {
  test::Desk desk;
  add<UnwrapStep>(desk);
  desk.type("centre x", "400");
  desk.type("centre y", "300");
  desk.type("inner radius", "100");
  desk.type("outer radius", "200");
  desk.type("sweep", "90");
  CHECK(said(desk).contains("90"));
  // A quarter of a circle of the middle radius, one pixel to a pixel.
  CHECK(desk.document().layout().result().size == Size{static_cast<int>(std::lround(M_PI / 2 * 150)), 100});
  desk.type("true at radius", "200");
  CHECK(desk.document().layout().result().size.width == std::lround(M_PI / 2 * 200));
  desk.type("width", "500");
  desk.type("height", "50");
  CHECK(desk.document().layout().result().size == Size{500, 50});
  click(desk, "One pixel to a pixel");
  CHECK(desk.document().layout().result().size.height == 100);
  click(desk, "Columns run: counter-clockwise");
  CHECK_FALSE(now<UnwrapStep>(desk).clockwise);
  // There is no circle in the photo of a chequered plane.
  click(desk, "Centre from the edge");
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QAbstractButton>("Centre from the edge")->isEnabled(); },
                          test::patience));
  CHECK(desk.named<QLabel>("What the edge says")->text().contains("No round edge stands out"));
  CHECK(now<UnwrapStep>(desk).centre == Point{400, 300});
  // An inner circle that is no smaller than the outer one is named.
  desk.type("inner radius", "250");
  CHECK_FALSE(problem(desk).isEmpty());
}

TEST_CASE("pairs of a fit are added, pasted, left out and removed", "[pages]") {
  test::Desk desk;
  add<FitStep>(desk);
  QApplication::clipboard()->setText("x,y,to x,to y,name\n10,20,30,25,a\n700\t30\t710\t28\tb\n20;500;33;510;c\n" +
                                     QString(QChar(0x2212)) + "5,3,16,9,d\n");
  click(desk, "Paste pairs");
  const auto pairs = [&] { return now<FitStep>(desk).pairs; };
  REQUIRE(pairs().size() == 4);
  CHECK(pairs()[1].from == Point{700, 30});
  CHECK(pairs()[2].name == "c");
  CHECK(pairs()[3].from == Point{-5, 3});
  CHECK(desk.named<QLabel>("What was pasted")->text() == "4 pairs.");
  const FitStep before = now<FitStep>(desk);
  for (const char* wrong : {"1,2,3,4\n1,2,3", "", "nothing"}) {
    QApplication::clipboard()->setText(wrong);
    click(desk, "Paste pairs");
    CHECK_FALSE(desk.named<QLabel>("What was pasted")->text().contains("pairs."));
    CHECK(now<FitStep>(desk) == before);
  }
  choose(desk, "model", "similarity");
  CHECK(now<FitStep>(desk).model == Model::similarity);
  auto* table = desk.named<QTableView>("Pairs");
  test::set_cell(table, 3, 0, Qt::Unchecked, Qt::CheckStateRole);
  CHECK_FALSE(pairs()[3].use);
  click(desk, "add");
  REQUIRE(pairs().size() == 5);
  CHECK(pairs()[4].from == Point{400, 300});
  // It is put where the fit has it, so that it changes nothing yet.
  const auto fitted = desk.document().layout().result().from_previous.forward({400, 300});
  CHECK(distance(pairs()[4].to, *fitted) < 1e-6);
  table->setCurrentIndex(table->model()->index(3, 1));
  click(desk, "remove");
  REQUIRE(pairs().size() == 4);
  CHECK(pairs()[3].from == Point{400, 300});
}

TEST_CASE("a rectangle's unit, margin, size in pixels and allowances are set on its page", "[pages]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  const Size plain = desk.document().layout().result().size;
  CHECK(plain == Size{600, 400});  // 300 x 200 mm at half a millimetre
  click(desk, "How much of the plane: margin");
  desk.type("Margin around the rectangle", "10");
  CHECK(desk.document().layout().result().size == Size{640, 440});
  choose(desk, "Unit of the sides", "cm");
  CHECK(desk.rectify().unit == "cm");
  desk.type("Pixel size of the result", "1");
  CHECK(desk.document().layout().result().size == Size{320, 220});
  undo(desk);
  CHECK(desk.document().layout().result().size == Size{640, 440});
  click(desk, "Pixel size: pixels");
  desk.type("Width of the result", "1000");
  desk.type("Height of the result", "700");
  CHECK(desk.document().layout().result().size == Size{1000, 700});
  for (const char* part : {"Correct: perspective", "Correct: skew"}) {
    const auto before = desk.rectify().allow;
    click(desk, part);
    CHECK_FALSE(desk.rectify().allow == before);
    undo(desk);
    CHECK(desk.rectify().allow == before);
  }
}

TEST_CASE("a crop by ratio or without gaps takes what its words say", "[pages]") {
  test::Desk desk;
  add<CropStep>(desk);
  click(desk, "What to keep: ratio");
  desk.type("Ratio across", "1");
  desk.type("Ratio down", "1");
  CHECK(desk.document().layout().result().size == Size{600, 600});
  CHECK(desk.document().layout().result().from_source.forward({100, 0})->x == 0);  // in the middle
  choose(desk, "Where the crop is held", "left");
  CHECK(desk.document().layout().result().from_source.forward({0, 0})->x == 0);
  click(desk, "What to keep: numbers");
  CHECK(std::get<CropRectangle>(now<CropStep>(desk).what) == CropRectangle{0, 0, 600, 600});
  desk.type("Crop left", "10.5");
  CHECK(desk.named<QLabel>("First and last pixel")->text().contains("off the pixel grid"));
  click(desk, "What to keep: no gaps");
  CHECK(std::holds_alternative<CropValid>(now<CropStep>(desk).what));
  CHECK(desk.document().layout().result().size == Size{800, 600});
}

TEST_CASE("the kernel and the border mode of the result are chosen once for all steps", "[pages]") {
  test::Desk desk;
  add<RotateStep>(desk);
  desk.type("angle", "5");
  desk.document().select_tile(desk.document().tiles() - 1);
  const int before = desk.document().undo_stack().index();
  choose(desk, "Kernel", "lanczos3");
  CHECK(desk.document().chain().resampling.kernel == Kernel::lanczos3);
  choose(desk, "BorderMode rule", "mirror");
  CHECK(desk.document().chain().resampling.edge != BorderMode::fill);
  while (desk.document().undo_stack().index() > before) undo(desk);
  CHECK(desk.document().chain().resampling == Chain{}.resampling);
}

TEST_CASE("a pair that disagrees counts for nothing, and is named", "[pages]") {
  test::Desk desk;
  add<FitStep>(desk);
  QString rows;
  for (int i = 0; i < 8; ++i) {
    const int x = 60 + 90 * (i % 4), y = 70 + 300 * (i / 4);
    rows += QString("%1,%2,%3,%4,p%5\n").arg(x).arg(y).arg(x + 5 + (i == 6 ? 60 : 0)).arg(y - 3).arg(i + 1);
  }
  QApplication::clipboard()->setText(rows);
  click(desk, "Paste pairs");
  choose(desk, "model", "affine");
  if (!desk.named<QCheckBox>("exclude outliers")->isChecked()) click(desk, "exclude outliers");
  CHECK(now<FitStep>(desk).robust);
  CHECK(said(desk).contains("p7 counts for nothing"));
  // The others agree, so that the fit is their shift.
  const Map& map = desk.document().layout().result().from_previous;
  CHECK(distance(*map.forward({200, 200}), {205, 197}) < 1e-6);
  click(desk, "exclude outliers");
  CHECK_FALSE(said(desk).contains("counts for nothing"));
  CHECK(distance(*desk.document().layout().result().from_previous.forward({200, 200}), {205, 197}) > 1);
}

TEST_CASE("contrast and high-pass say what their numbers do", "[pages]") {
  test::Desk desk;
  add<LocalContrastStep>(desk);
  desk.type("tile", "96");
  desk.type("at most", "3");
  CHECK(now<LocalContrastStep>(desk) == LocalContrastStep{96, 3});
  CHECK(said(desk).contains("tiles of 96 px"));
  desk.document().remove_selected_step();
  add<HighpassStep>(desk);
  desk.type("radius", "12");
  CHECK(now<HighpassStep>(desk).radius == 12);
  // A Gaussian of sigma r / 2 leaves half of waves 2 pi sigma / sqrt(2 ln 2) long.
  CHECK(said(desk).contains(QString::number(2 * M_PI * 6 / std::sqrt(2 * std::log(2.0)), 'g', 3)));
  CHECK(said(desk).contains("middle grey"));
}

}  // namespace fexel::test::pages
