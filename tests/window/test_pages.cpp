/// The pages of the panel: each field, list and word changes its step, and the page says what came of it.
#include "tests/window/pages.h"

namespace fexel::test::pages {
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
  choose(desk, "border mode", "fill");
  desk.type("value", "77");
  CHECK(now<PadStep>(desk).fill == std::vector{77.0});
  check_result(desk, size, [&](int x, int y) { return inside(x, y, 77); });
  choose(desk, "border mode", "extend");
  CHECK(now<PadStep>(desk).fill.empty());
  CHECK(said(desk).contains("no new information"));
  check_result(desk, size, [&](int x, int y) { return double(formula(0, std::max(x - 3, 0), std::min(y, 29))); });
  choose(desk, "border mode", "tile");
  check_result(desk, size, [&](int x, int y) { return double(formula(0, (x + 37) % 40, y % 30)); });
  choose(desk, "border mode", "as the result: empty");
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

}  // namespace fexel::test::pages
