/// The pages of the panel: each field, list and word changes its step, and the page says what came of it.
#include <QPlainTextEdit>
#include <QTableWidget>
#include <catch2/catch.hpp>
#include <numeric>

#include "app/steps/plane_drawing.h"
#include "geometry/lens.h"
#include "tests/window/desk.h"

using namespace fexel;

namespace {

void click(test::Desk& desk, const QString& name) {
  QTest::mouseClick(desk.named<QAbstractButton>(name), Qt::LeftButton);
}
/// By keyboard: down or up until the word is there.
void choose(test::Desk& desk, const QString& list, const QString& word) {
  auto* box = desk.named<QComboBox>(list);
  const int to = box->findText(word);
  INFO(list.toStdString() << ": " << word.toStdString());
  REQUIRE(to >= 0);
  box->setFocus();
  while (box->currentIndex() != to) {
    const int before = box->currentIndex();
    QTest::keyClick(box, to > before ? Qt::Key_Down : Qt::Key_Up);
    if (box->currentText() == word) return;
    // A list that goes back to its first word when one is taken.
    if (box->currentIndex() == before) break;
  }
}
/// A word of a list whose choice is taken at once.
void pick(test::Desk& desk, const QString& list, const QString& word) {
  auto* box = desk.named<QComboBox>(list);
  REQUIRE(box->findText(word) >= 0);
  box->setCurrentIndex(box->findText(word));
  Q_EMIT box->activated(box->currentIndex());
}
void write_line(test::Desk& desk, const QString& field, const QString& text) {
  auto* line = desk.named<QLineEdit>(field);
  line->setFocus();
  line->selectAll();
  line->insert(text);  // as pasted
  QTest::keyClick(line, Qt::Key_Return);
}
QString problem(test::Desk& desk) {
  for (QLabel* label : desk.window.findChildren<QLabel*>())
    if (label->accessibleName() == "What is wrong" && label->isVisible()) return label->text();
  return {};
}
void undo(test::Desk& desk) {
  desk.document().undo_stack().undo();
}

/// A picture of 40 x 30 pixels whose samples are a formula of their place.
int formula(int band, int x, int y) {
  return (37 * x + 101 * y + 59 * band + x * y) % 251;
}
void open_formula(test::Desk& desk, int bands) {
  Image image(40, 30, bands, Depth::u8);
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 30; ++y)
      for (int x = 0; x < 40; ++x) image.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(formula(band, x, y));
  const auto path = (desk.scratch / "formula.png").string();
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, {Format::png, {}, false, {}});
  desk.open(path);
}
/// What would be written out.
Image result_of(test::Desk& desk) {
  return evaluate(desk.document().chain(), desk.document().layout(), *desk.document().source()->pixels, {}, nullptr);
}
/// Each sample of the result against a plain formula of its place, within half a grey level.
template <class Wanted>
void check_result(test::Desk& desk, Size size, const Wanted& wanted) {
  const Image made = result_of(desk);
  REQUIRE(Size{made.width(), made.height()} == size);
  double worst = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) worst = std::max(worst, std::abs(test::value(made, 0, x, y) - wanted(x, y)));
  INFO(said(desk).toStdString());
  CHECK(worst <= 0.5 + 1e-3);
}

}  // namespace

TEST_CASE("bands are chosen in any order, or weighed into one", "[pages]") {
  test::Desk desk;
  open_formula(desk, 3);
  add<BandsStep>(desk);
  CHECK(said(desk).contains("0.7152 green"));
  write_line(desk, "Weights of the bands", "0.5, 0.25 0.25");
  CHECK(now<BandsStep>(desk).weights == std::vector{0.5, 0.25, 0.25});
  check_result(desk, {40, 30},
               [](int x, int y) { return 0.5 * formula(0, x, y) + 0.25 * formula(1, x, y) + 0.25 * formula(2, x, y); });
  // Too few are said in place, and so is what is no number; nothing is taken from that.
  write_line(desk, "Weights of the bands", "1 1");
  CHECK(problem(desk).contains("2 weights for 3 bands"));
  undo(desk);
  CHECK(problem(desk).isEmpty());
  write_line(desk, "Weights of the bands", "half of each");
  CHECK(now<BandsStep>(desk).weights == std::vector{0.5, 0.25, 0.25});
  CHECK(desk.named<QLabel>("What is wrong with the numbers")->text().contains("“half” is no number"));
  write_line(desk, "Weights of the bands", QString("1 0 ") + QChar(0x2212) + "0.25");
  CHECK(now<BandsStep>(desk).weights == std::vector{1.0, 0.0, -0.25});
  CHECK(problem(desk).isEmpty());

  click(desk, "What comes out: bands in order");
  CHECK(now<BandsStep>(desk).take == std::vector{1, 2, 3});
  write_line(desk, "Bands in order", "3, 1");
  CHECK(now<BandsStep>(desk).take == std::vector{3, 1});
  CHECK(said(desk).contains("2 of 3 bands"));
  check_result(desk, {40, 30}, [](int x, int y) { return formula(2, x, y); });
  CHECK(result_of(desk).bands() == 2);
  write_line(desk, "Bands in order", "4");
  CHECK_FALSE(problem(desk).isEmpty());
  undo(desk);
  click(desk, "What comes out: grey");
  CHECK(now<BandsStep>(desk) == BandsStep{});
}

TEST_CASE("blocks are reduced by each statistic, with or without what does not fill one", "[pages]") {
  test::Desk desk;
  open_formula(desk, 1);
  add<DownsampleStep>(desk);
  desk.type("columns", "3");
  desk.type("rows", "2");
  CHECK(said(desk).contains("1 column at the right does not fill a block"));
  const auto block = [](int x, int y) {
    std::vector<double> of;
    for (int j = 0; j < 2; ++j)
      for (int i = 0; i < 3; ++i) of.push_back(formula(0, 3 * x + i, 2 * y + j));
    return of;
  };
  const Size size{13, 15};
  choose(desk, "take the", "first sample");
  CHECK(said(desk).contains("as they are"));
  check_result(desk, size, [](int x, int y) { return formula(0, 3 * x, 2 * y); });
  choose(desk, "take the", "mean");
  check_result(desk, size, [&](int x, int y) {
    const auto of = block(x, y);
    return std::accumulate(of.begin(), of.end(), 0.0) / 6;
  });
  choose(desk, "take the", "median");
  check_result(desk, size, [&](int x, int y) {
    auto of = block(x, y);
    std::ranges::sort(of);
    return (of[2] + of[3]) / 2;
  });
  choose(desk, "take the", "smallest");
  check_result(desk, size, [&](int x, int y) { return std::ranges::min(block(x, y)); });
  choose(desk, "take the", "largest");
  check_result(desk, size, [&](int x, int y) { return std::ranges::max(block(x, y)); });
  click(desk, "Remainder: counts too");
  CHECK(said(desk).contains("stands for fewer pixels"));
  check_result(desk, {14, 15}, [&](int x, int y) {
    if (x < 13) return std::ranges::max(block(x, y));
    return double(std::max(formula(0, 39, 2 * y), formula(0, 39, 2 * y + 1)));
  });
  desk.type("columns", "1");
  desk.type("rows", "1");
  CHECK(said(desk).contains("change nothing yet"));
}

TEST_CASE("what a pad shows is chosen, and its own value typed", "[pages]") {
  test::Desk desk;
  open_formula(desk, 1);
  add<PadStep>(desk);
  desk.type("left", "3");
  desk.type("top", "0");
  desk.type("right", "0");
  desk.type("bottom", "2");
  CHECK(said(desk).contains("never measured"));
  const Size size{43, 32};
  const auto inside = [](int x, int y, double beyond) {
    return x >= 3 && y < 30 ? double(formula(0, x - 3, y)) : beyond;
  };
  choose(desk, "edge rule", "fill");
  desk.type("value", "77");
  CHECK(now<PadStep>(desk).fill == std::vector{77.0});
  check_result(desk, size, [&](int x, int y) { return inside(x, y, 77); });
  choose(desk, "edge rule", "extend");
  CHECK(now<PadStep>(desk).fill.empty());
  CHECK(said(desk).contains("no new information"));
  check_result(desk, size, [&](int x, int y) { return double(formula(0, std::max(x - 3, 0), std::min(y, 29))); });
  choose(desk, "edge rule", "tile");
  check_result(desk, size, [&](int x, int y) { return double(formula(0, (x + 37) % 40, y % 30)); });
  choose(desk, "edge rule", "as the result: empty");
  CHECK_FALSE(now<PadStep>(desk).edge);
}

TEST_CASE("noise is taken out by a median or a Gaussian, whose radius is said for what it does", "[pages]") {
  test::Desk desk;
  open_formula(desk, 1);
  add<DenoiseStep>(desk);
  desk.type("radius", "2.4");
  CHECK(now<DenoiseStep>(desk).radius == 2);  // a median's is whole
  CHECK(said(desk).contains(QString("5 %1 5").arg(QChar(0xd7))));
  click(desk, "Method: Gaussian");
  desk.type("radius", "2.4");
  CHECK(now<DenoiseStep>(desk).radius == 2.4);
  // White noise under a Gaussian of sigma 1.2 px keeps 1 / (2 sqrt(pi) 1.2) of its deviation.
  CHECK(said(desk).contains("deviation of 1.2 px"));
  CHECK(said(desk).contains(QString("about %1 %").arg(std::lround(100 / (2 * std::sqrt(M_PI) * 1.2)))));
  click(desk, "Method: median");
  CHECK(now<DenoiseStep>(desk).radius == 2);
}

TEST_CASE("a kernel is taken from the list or typed, and its sum and range are said", "[pages]") {
  test::Desk desk;
  open_formula(desk, 1);
  add<ConvolveStep>(desk);
  pick(desk, "Kernels", "slope in x");
  CHECK(now<ConvolveStep>(desk).kernel == Grid{3, 3, {-1, 0, 1, -2, 0, 2, -1, 0, 1}});
  CHECK(now<ConvolveStep>(desk).scale == 0.125);
  CHECK(now<ConvolveStep>(desk).offset == 128);  // slopes fall on both sides of it
  CHECK(said(desk).contains("sum to 0"));
  const Image slopes = result_of(desk);
  for (const auto& [x, y] : {std::pair{5, 7}, {20, 3}, {33, 28}}) {
    double sum = 0;
    for (int j = -1; j <= 1; ++j) sum += (j == 0 ? 2 : 1) * (formula(0, x + 1, y + j) - formula(0, x - 1, y + j)) / 8.0;
    CHECK(std::abs(test::value(slopes, 0, x, y) - (sum + 128)) <= 0.5);
  }
  // What the page shows can be changed where it stands, with its own minus signs.
  auto* text = desk.named<QPlainTextEdit>("Kernel");
  const QString shown = text->toPlainText();
  CHECK(shown.contains("2"));
  text->setFocus();
  text->moveCursor(QTextCursor::End);
  QTest::keyClick(text, Qt::Key_Backspace);
  QTest::keyClicks(text, "3");
  CHECK(now<ConvolveStep>(desk).kernel == Grid{3, 3, {-1, 0, 1, -2, 0, 2, -1, 0, 3}});

  const auto wrong = [&] {
    for (QLabel* label : desk.window.findChildren<QLabel*>())
      if (label->accessibleName() == "What is wrong with the kernel" && label->isVisible()) return label->text();
    return QString();
  };
  const ConvolveStep before = now<ConvolveStep>(desk);
  const std::pair<QString, QString> refused[] = {{"1 2\n3", "Row 2 has 1,"},
                                                 {"1 x", "is no number"},
                                                 {"0 0\n0 0", "A kernel of zeros"},
                                                 {"1 1e30", "is no number"},
                                                 {"", "A kernel of zeros"}};
  for (const auto& [typed, why] : refused) {
    text->setPlainText(typed);
    INFO(typed.toStdString());
    CHECK(wrong().contains(why));
    CHECK(now<ConvolveStep>(desk) == before);
  }
  text->setPlainText("1 1\n1 1");
  CHECK(wrong().isEmpty());
  CHECK(said(desk).contains("half a pixel"));
  desk.type("times", "0.5");
  desk.type("plus", "-3");
  CHECK(now<ConvolveStep>(desk).scale == 0.5);
  CHECK(now<ConvolveStep>(desk).offset == -3);
  // Four times 255, halved, less 3: more than 8 bits hold.
  CHECK(said(desk).contains("to 507"));
  CHECK(said(desk).contains("clamped"));
  choose(desk, "depth", "float");
  CHECK_FALSE(said(desk).contains("clamped"));
  CHECK(result_of(desk).depth() == Depth::f32);
}

TEST_CASE("a size is a factor, pixels or a pixel size, and each says what it cannot be", "[pages]") {
  test::Desk desk;
  add<ResizeStep>(desk);
  click(desk, "Resize to: factor");
  desk.type("factor", "0.5");
  CHECK(desk.document().layout().result().size == Size{400, 300});
  click(desk, "the same in x and y");
  desk.type("factor in y", "0.25");
  CHECK(now<ResizeStep>(desk).scale == std::pair(0.5, 0.25));
  CHECK(desk.document().layout().result().size == Size{400, 150});
  click(desk, "the same in x and y");
  CHECK(now<ResizeStep>(desk).scale == std::pair(0.5, 0.5));
  // This photo has no pixel size; the page says so and what to do, also after another look.
  click(desk, "Resize to: pixel size");
  CHECK(desk.named<QLabel>("What the pixel size needs")->text().contains("not known"));
  CHECK_FALSE(desk.document().layout().result().problem);
  click(desk, "Resize to: size");
  click(desk, "the other side follows");
  desk.type("width", "300");
  desk.type("height", "300");
  bool asks = false;
  for (const QLabel* label : desk.window.findChildren<QLabel*>())
    asks = asks || (label->isVisible() && label->text() == "The wanted shape is another one:");
  CHECK(asks);
  click(desk, "When the shape differs: pad");
  CHECK(said(desk).contains("What was missing of the shape is empty"));
  click(desk, "When the shape differs: crop");
  CHECK(now<ResizeStep>(desk).when_shape_differs == ResizeStep::WhenShapeDiffers::crop);

  // With one, a length says how large pixels become.
  desk.document().remove_selected_step();
  Chain chain = desk.document().chain();
  chain.calibration = Calibration{"", {0.1, 0.1, "mm"}, 0, "", ""};
  desk.document().edit_chain("pixel size", chain);
  add<ResizeStep>(desk);
  click(desk, "Resize to: pixel size");
  desk.type("pixel size", "0.4");
  CHECK(desk.document().layout().result().size == Size{200, 150});
}

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
  click(desk, "Centre from the rim");
  REQUIRE(QTest::qWaitFor([&] { return desk.named<QAbstractButton>("Centre from the rim")->isEnabled(); }, 10000));
  CHECK(desk.named<QLabel>("What the rim says")->text().contains("No round edge stands out"));
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
  auto* table = desk.named<QTableWidget>("Pairs");
  table->item(3, 0)->setCheckState(Qt::Unchecked);
  CHECK_FALSE(pairs()[3].use);
  click(desk, "Add a pair");
  REQUIRE(pairs().size() == 5);
  CHECK(pairs()[4].from == Point{400, 300});
  // It is put where the fit has it, so that it changes nothing yet.
  const auto fitted = desk.document().layout().result().from_previous.forward({400, 300});
  CHECK(distance(pairs()[4].to, *fitted) < 1e-6);
  table->setCurrentCell(3, 1);
  click(desk, "Remove the selected pair");
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

TEST_CASE("the kernel and the edge rule of the result are chosen once for all steps", "[pages]") {
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
