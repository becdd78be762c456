/// Marks in the window: added by menu and key, typed, dragged, hidden, styled, written, undone.
#include <catch2/catch.hpp>

#include "app/document/marks_layer.h"
#include "app/window/marks_page.h"
#include "report/styles.h"
#include "tests/window/pages.h"

using namespace fexel;
using namespace fexel::test;
using namespace fexel::test::pages;

namespace {

/// Until the marks of the newest document are laid out.
void wait_for_marks(Desk& desk) {
  REQUIRE(QTest::qWaitFor([&] { return desk.document().marks_layer().settled(); }, test::patience));
  QTest::qWait(20);
}

void calibrate(Desk& desk) {
  Chain chain = desk.document().chain();
  chain.calibration = Calibration{"bench", {0.1, 0.1, "mm"}, 0, {}, {}};
  desk.document().edit_chain("calibrate", chain);
}

template <class Kind>
Kind mark_of(Desk& desk, std::size_t index) {
  return std::get<Kind>(desk.document().chain().marks.at(index).kind);
}

}  // namespace

TEST_CASE("a scale bar is added by its key, says its problem until there is a scale, and is seen where it will be") {
  Desk desk;
  desk.b()->setFocus();
  QTest::keyClick(desk.b(), Qt::Key_S);
  wait_for_marks(desk);
  REQUIRE(desk.document().chain().marks.size() == 1);
  CHECK(desk.document().session().copy_page());
  CHECK(desk.named<QLabel>("Why the mark is not drawn")->text().contains("needs a pixel size"));
  calibrate(desk);
  wait_for_marks(desk);
  const MarkDrawing* drawing = desk.document().marks_layer().drawing();
  REQUIRE(drawing);
  CHECK(drawing->problems[0].empty());
  // 800 px of 0.1 mm: 20 mm is the nearest to a fifth.
  const bool said = std::ranges::any_of(drawing->shapes, [](const DrawnShape& shape) {
    const auto* text = std::get_if<DrawnText>(&shape);
    return text && text->text == "20 mm";
  });
  CHECK(said);
  undo(desk);
  undo(desk);
  CHECK(desk.document().chain().marks.empty());
}

TEST_CASE("a text is typed, keeps the keyboard through blanks, and is dragged by its corner") {
  Desk desk;
  desk.window.views().set_mode(ViewArea::Mode::one);
  desk.window.inspector().marks_page()->add("text");
  desk.front();
  auto* field = desk.named<QPlainTextEdit>("Text of the mark");
  REQUIRE(QTest::qWaitFor([&] { return field->hasFocus(); }));
  QTest::keyClicks(field, "Wall, west side");
  CHECK(field->hasFocus());
  REQUIRE(desk.document().chain().marks.size() == 1);
  CHECK(mark_of<TextMark>(desk, 0).text == "Wall, west side");
  wait_for_marks(desk);
  pick(desk, "Place of the mark", "bottom");
  wait_for_marks(desk);
  CHECK(mark_of<TextMark>(desk, 0).place == MarkPlace{1, 2, {}});
  desk.document().set_flag(true, desk.document().tiles() - 1);
  PictureView* view = desk.window.views().active()->is_b() ? desk.b() : desk.a();
  if (!view->is_b()) {
    desk.window.views().flip();
    view = desk.window.views().active();
  }
  wait_for_marks(desk);
  const Rect box = desk.document().marks_layer().drawing()->boxes[0];
  const QPointF from = view->to_widget({box.x, box.y}), to = view->to_widget({200, 150});
  desk.drag(view, from, to);
  wait_for_marks(desk);
  const auto at = mark_of<TextMark>(desk, 0).place.at;
  REQUIRE(at);
  CHECK(std::abs(at->x - box.width / 2 - 200) < 2);
  CHECK(std::abs(at->y - box.height / 2 - 150) < 2);
  // It is seen there, and is not when marks are hidden.
  const QRect seen(view->to_widget({200, 150}).toPoint(),
                   view->to_widget({200 + box.width, 150 + box.height}).toPoint());
  QTest::qWait(100);
  const QImage with = view->grab(seen).toImage();
  view->setFocus();
  QTest::keyClick(view, Qt::Key_M);
  QTest::qWait(100);
  CHECK(view->grab(seen).toImage() != with);
  QTest::keyClick(view, Qt::Key_M);
  QTest::qWait(100);
  auto* list = desk.named<QListWidget>("Marks");
  list->setCurrentRow(0);
  list->setFocus();
  QTest::keyClick(list, Qt::Key_Delete);
  CHECK(desk.document().chain().marks.empty());
  // A text longer than a chain file takes is kept as far as it can be read back.
  desk.window.inspector().marks_page()->add("text");
  desk.named<QPlainTextEdit>("Text of the mark")->setPlainText(QString(5000, 'a'));
  CHECK(parse_chain(write_chain(desk.document().chain())) == desk.document().chain());
  click(desk, "Remove this mark");
  CHECK(desk.document().chain().marks.empty());
}

TEST_CASE("an arrow, an outline and an inset are drawn on the picture") {
  Desk desk;
  PictureView* view = desk.b();
  for (const QString& kind :
       {QStringLiteral("Arrow…"), QStringLiteral("Outline…"), QStringLiteral("Inset, a part enlarged…")}) {
    action(desk, kind)->trigger();
    QTest::qWait(30);
    desk.drag(view, view->to_widget({200, 200}), view->to_widget({300, 280}));
    wait_for_marks(desk);
  }
  REQUIRE(desk.document().chain().marks.size() == 3);
  const double pixel = 1 / view->zoom();
  const auto arrow = mark_of<ArrowMark>(desk, 0);
  CHECK(distance(arrow.points[0], {200, 200}) < 1.5 * pixel);
  CHECK(distance(arrow.points[1], {300, 280}) < 1.5 * pixel);
  CHECK(mark_of<OutlineMark>(desk, 1).points.size() == 2);
  const auto inset = mark_of<InsetMark>(desk, 2);
  CHECK(inset.width == Approx(100).margin(2 * pixel));
  for (const std::string& problem : desk.document().marks_layer().drawing()->problems) CHECK(problem.empty());
  desk.named<QListWidget>("Marks")->setCurrentRow(1);
  QTest::mouseClick(desk.named<fields::Segments>("Shape of the outline")->button(1), Qt::LeftButton);
  CHECK(mark_of<OutlineMark>(desk, 1).shape == OutlineMark::Shape::ellipse);
}

TEST_CASE("the copy is written with its marks in each format, never over another file unasked; the data stay") {
  Desk desk;
  calibrate(desk);
  desk.window.inspector().marks_page()->add("scale-bar");
  wait_for_marks(desk);
  const Image before = read_picture(desk.photo);
  for (const std::string ending : {"png", "tif", "jpg", "svg", "pdf"}) {
    const std::string path = desk.scratch / ("copy." + ending);
    write_line(desk, "File of the copy", QString::fromStdString(path));
    const auto* said = desk.named<QLabel>("What came of the copy");
    REQUIRE(QTest::qWaitFor([&] { return said->text().startsWith("Written"); }, test::patience));
    CHECK(std::filesystem::file_size(path) > 1000);
    click(desk, "Write the copy");
    CHECK(said->text().contains("there already"));
    click(desk, "Replace the existing copy");
    REQUIRE(QTest::qWaitFor([&] { return said->text().startsWith("Written"); }, test::patience));
  }
  // Never over the source.
  write_line(desk, "File of the copy", QString::fromStdString(desk.photo));
  click(desk, "Replace the existing copy");
  const auto* said = desk.named<QLabel>("What came of the copy");
  REQUIRE(QTest::qWaitFor([&] { return !said->text().startsWith("Writ"); }, test::patience));
  CHECK(same_samples(read_picture(desk.photo), before));
  write_line(desk, "File of the copy", QString::fromStdString(desk.scratch / "copy.xyz"));
  CHECK(said->text().contains("ending"));
}

TEST_CASE("a style is kept by its name, and new pictures begin with it") {
  Desk desk;
  desk.window.inspector().marks_page()->add("scale-bar");
  desk.type("Size of text", "11");
  desk.type("Width of the printed picture", "180");
  QTest::mouseClick(desk.named<fields::Segments>("Ends of bars")->button(1), Qt::LeftButton);
  // What can be set can be read back.
  desk.type("Dots per inch of the copy", "5");
  CHECK(parse_chain(write_chain(desk.document().chain())) == desk.document().chain());
  undo(desk);
  CHECK_FALSE(desk.document().chain().mark_style.dpi);
  CHECK(desk.document().chain().mark_style.text_size == 11.0);
  const MarkStyle made = desk.document().chain().mark_style;
  CHECK(made.text_size == 11.0);
  CHECK(made.ends == "ticks");
  write_line(desk, "Name of the style", "Annals of tiles");
  CHECK(style_named("Annals of tiles") == made);
  desk.document().undo_stack().setClean();
  desk.open(desk.photo);
  CHECK(desk.document().chain().mark_style.empty());
  desk.window.inspector().marks_page()->add("scale-bar");
  CHECK(desk.document().chain().mark_style == made);
  pick(desk, "Styles in the library", "usual");
  CHECK(desk.document().chain().mark_style.empty());
  remove_style("Annals of tiles");
}
