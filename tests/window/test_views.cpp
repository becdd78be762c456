#include <catch2/catch.hpp>

#include "app/canvas/drawing.h"
#include "app/pipeline/tile.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "tests/window/desk.h"

using namespace fexel;
using test::q;

namespace {

void wheel(PictureView* view, QPointF at, int notches) {
  QWheelEvent event(at, view->mapToGlobal(at), {}, {0, 120 * notches}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                    false);
  QCoreApplication::sendEvent(view, &event);
}

double away(QPointF a, QPointF b) {
  return std::hypot(a.x() - b.x(), a.y() - b.y());
}

}  // namespace

TEST_CASE("the wheel zooms about the pointer: what lies under it stays there", "[window]") {
  test::Desk desk;
  const QPointF at(desk.a()->width() * 0.3, desk.a()->height() * 0.6);
  for (const int notches : {3, -2, 8, -12}) {
    const QPointF before = desk.a()->to_station(at);
    const double zoom = desk.a()->zoom();
    wheel(desk.a(), at, notches);
    CHECK(desk.a()->zoom() == Approx(zoom * std::pow(1.2, notches)));
    CHECK(away(desk.a()->to_station(at), before) < 1e-6);
  }
}

TEST_CASE("side by side, the other picture follows a pan and a zoom through the chain's map", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.a()->look_at({400, 300}, 1);
  wheel(desk.a(), {150, 140}, 2);
  const QPointF from(200, 200), to(150, 230);
  const QPointF grasped = desk.a()->to_station(from);
  QTest::mousePress(desk.a(), Qt::MiddleButton, {}, from.toPoint());
  QTest::mouseMove(desk.a(), to.toPoint());
  QTest::mouseRelease(desk.a(), Qt::MiddleButton, {}, to.toPoint());
  CHECK(away(desk.a()->to_station(to), grasped) < 1e-6);

  // The plane's own map, and how it enlarges there by differences, say where B has to look.
  const Map to_plane = Map(unit_square_to_quad(test::photo_corners) * scaling(0.5 / 300, 0.5 / 200)).inverse();
  const Point centre{desk.a()->centre().x(), desk.a()->centre().y()};
  const Point there = *to_plane.forward(centre);
  CHECK(away(desk.b()->centre(), q(there)) < 1e-6);
  const Point along = *to_plane.forward(centre + Point{0.01, 0}), down = *to_plane.forward(centre + Point{0, 0.01});
  const double area =
      std::abs((along.x - there.x) * (down.y - there.y) - (along.y - there.y) * (down.x - there.x)) / 1e-4;
  CHECK(desk.b()->zoom() == Approx(desk.a()->zoom() / std::sqrt(area)).epsilon(1e-3));
}

namespace {

/// The largest difference between what B shows at 1:1 and what is written, over a part where nothing else is drawn.
int shown_against_written(test::Desk& desk, QRect part) {
  const Image written =
      evaluate(desk.document().chain(), desk.document().layout(), *desk.document().source()->pixels, {}, nullptr);
  desk.b()->look_at(QRectF(part).center(), 1 / desk.b()->devicePixelRatioF());
  desk.wait_shown(desk.b());
  QTest::qWait(400);  // until the final picture has replaced the draft
  const QImage shot = desk.b()->grab().toImage();
  int worst = 0;
  for (int y = part.top(); y <= part.bottom(); ++y)
    for (int x = part.left(); x <= part.right(); ++x) {
      const QPointF at = desk.b()->to_widget({x + 0.5, y + 0.5});
      const QPoint pixel(static_cast<int>(std::floor(at.x())), static_cast<int>(std::floor(at.y())));
      REQUIRE(shot.rect().contains(pixel));
      worst = std::max(worst, std::abs(qRed(shot.pixel(pixel)) - static_cast<int>(written.row<std::uint8_t>(0, y)[x])));
    }
  return worst;
}

}  // namespace

TEST_CASE("at 1:1 the screen shows the very pixels that are written", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  CHECK(shown_against_written(desk, {230, 150, 140, 100}) == 0);
}

TEST_CASE("stations behind a step that works on all pixels are shown as they are written", "[window]") {
  test::Desk desk;
  const std::string chain = (desk.scratch / "reduced.fexel.json").string();
  write_text(chain,
             R"({"fexel":1,"sources":[{"path":"photo.png"}],"steps":[{"step":"rotate","degrees":5},)"
             R"({"step":"downsample","factor":2,"take":"median"},{"step":"mirror","reverse":"x"}]})",
             false);
  desk.open(chain);
  CHECK(shown_against_written(desk, {150, 120, 100, 60}) == 0);
}

TEST_CASE("X shows the other picture for as long as it is held; the badge changes it for good", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.window.views().set_mode(ViewArea::Mode::one);
  CHECK_FALSE(desk.a()->isVisible());
  CHECK(desk.b()->station() == 1);
  desk.b()->setFocus();
  QTest::keyPress(desk.b(), Qt::Key_X);
  CHECK(desk.b()->station() == 0);
  QTest::keyRelease(desk.b(), Qt::Key_X);
  CHECK(desk.b()->station() == 1);
  QTest::mouseClick(desk.b(), Qt::LeftButton, {}, {40, 33});
  CHECK(desk.b()->station() == 0);
}

TEST_CASE("Home shows the whole picture, End its own pixels", "[window]") {
  test::Desk desk;
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_End);
  CHECK(desk.a()->zoom() == Approx(1 / desk.a()->devicePixelRatioF()));
  QTest::keyClick(desk.a(), Qt::Key_Home);
  const QRectF room(desk.a()->rect());
  CHECK(room.contains(desk.a()->to_widget({0, 0})));
  CHECK(room.contains(desk.a()->to_widget({800, 600})));
  CHECK(desk.a()->is_fitted());
}

TEST_CASE("a picture that a change leaves as it is counts as shown", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.wait_shown(desk.a());
  Chain chain = desk.document().chain();
  std::get<RectifyStep>(chain.steps[0].kind).width = 310;
  desk.document().edit_chain("wider", chain);
  desk.wait_shown(desk.a());
  desk.wait_shown(desk.b());
}

TEST_CASE("while the fine picture is still made, a change that leaves it as it is does not wait for it", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  desk.wait_shown(desk.b());
  const QPointF corner = desk.a()->to_widget(q(test::photo_corners[2]));
  QTest::mousePress(desk.a(), Qt::LeftButton, {}, corner.toPoint());
  QTest::mouseMove(desk.a(), (corner + QPointF(9, 6)).toPoint());
  desk.wait_shown(desk.b());  // in draft
  QTest::mouseRelease(desk.a(), Qt::LeftButton, {}, (corner + QPointF(9, 6)).toPoint());
  // Nothing arrives until events are looked at: what is seen is the draft.
  REQUIRE_FALSE(desk.b()->settled());
  desk.document().add_measurement(length_measurement("bar", 0, {100, 100}, {200, 100}, {}, "mm"));
  CHECK(desk.b()->shown_revision() == desk.document().revision());
  REQUIRE(QTest::qWaitFor([&] { return desk.b()->settled(); }, test::patience));
  CHECK(desk.b()->shown_revision() == desk.document().revision());
}

TEST_CASE("a flag that is dropped on a tile moves there, and can be taken back", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().insert_step("crop", 1);
  QMimeData data;
  data.setData("application/x-fexel-flag", "A");
  Tile* tile = desk.window.rail().tiles()[1];
  QDragEnterEvent enter({20, 20}, Qt::MoveAction, &data, Qt::LeftButton, Qt::NoModifier);
  QCoreApplication::sendEvent(tile, &enter);
  CHECK(enter.isAccepted());
  QDropEvent drop({20, 20}, Qt::MoveAction, &data, Qt::LeftButton, Qt::NoModifier);
  QCoreApplication::sendEvent(tile, &drop);
  CHECK(desk.document().station_a() == 1);
  CHECK(desk.a()->station() == 1);
  desk.document().undo_stack().undo();
  CHECK(desk.a()->station() == 0);
}

TEST_CASE("the palette finds steps by name and purpose, and takes none when nothing fits", "[window]") {
  test::Desk desk;
  const auto search = [&](const QString& text) {
    desk.front();
    desk.a()->setFocus();
    QTest::keyClick(desk.a(), Qt::Key_Insert);
    QTest::qWait(30);
    QWidget* field = QApplication::focusWidget();
    REQUIRE(field);
    QTest::keyClicks(field, text);
    return field;
  };
  SECTION("by purpose") {
    QTest::keyClick(search("lengths"), Qt::Key_Return);
    REQUIRE(desk.document().chain().steps.size() == 1);
    CHECK(word_of(desk.document().chain().steps[0].kind) == std::string("rectify"));
  }
  SECTION("by other words for it, in any order") {
    const auto [wanted, found] = GENERATE(table<std::string, std::string>({{"straighten", "rectify"},
                                                                           {"rotate angle", "rotate"},
                                                                           {"degrees 90", "rotate"},
                                                                           {"Flip", "mirror"},
                                                                           {"distortion", "lens"},
                                                                           {"polar", "unwrap"},
                                                                           {"resample", "resize"},
                                                                           {"median", "denoise"},
                                                                           {"drift", "align"}}));
    QTest::keyClick(search(QString::fromStdString(wanted)), Qt::Key_Return);
    REQUIRE(desk.document().chain().steps.size() == 1);
    CHECK(word_of(desk.document().chain().steps[0].kind) == found);
  }
  SECTION("arrows choose among those that are left") {
    QWidget* field = search("cut");
    QTest::keyClick(field, Qt::Key_Down);  // crop is the only one left
    QTest::keyClick(field, Qt::Key_Return);
    REQUIRE(desk.document().chain().steps.size() == 1);
    CHECK(word_of(desk.document().chain().steps[0].kind) == std::string("crop"));
  }
  SECTION("none") {
    QWidget* field = search("zzz");
    const auto said = [&] {
      for (const auto* label : field->window()->findChildren<QLabel*>())
        if (label->isVisible() && label->text().contains("zzz")) return true;
      return false;
    };
    CHECK(said());
    QTest::keyClick(field, Qt::Key_Return);
    CHECK(desk.document().chain().steps.empty());
    QTest::keyClick(field, Qt::Key_Escape);
    CHECK(desk.document().chain().steps.empty());
  }
}

TEST_CASE("the other picture's pointer leaves no trace where it was, also when the map changed meanwhile", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  const auto move_to = [&](QPointF at) {
    desk.document().session().set_pointer(Session::Pointer{0, {at.x(), at.y()}});
    QTest::qWait(30);
  };
  move_to(q(test::photo_corners[0]));
  Chain chain = desk.document().chain();
  std::get<RectifyStep>(chain.steps[0].kind).corners[0] = {110, 70};
  desk.document().edit_chain("corner", chain);
  desk.wait_shown(desk.b());
  QTest::qWait(300);
  move_to({400, 300});
  // What the screen holds, not a new drawing of it.
  const auto screen = [&] { return dynamic_cast<QImage&>(*desk.window.backingStore()->paintDevice()).copy(); };
  const QImage with = screen();
  desk.document().session().set_pointer({});
  QTest::qWait(30);
  const QImage left = screen();
  desk.b()->update();
  QTest::qWait(30);
  CHECK(screen() == left);
  CHECK(with != left);
}

TEST_CASE("every step of the chain file has a tile, a pictogram and a page", "[window]") {
  test::Desk desk;
  const Chain chain = parse_chain(R"({"fexel":1,"steps":[
    {"step":"rotate","degrees":-1.82},{"step":"mirror","reverse":"x"},
    {"step":"translate","dx":3,"dy":-2},{"step":"crop","x":10,"y":10,"width":500,"height":400},
    {"step":"resize","scale":0.5},{"step":"downsample","factor":[1,2]},{"step":"pad","bottom":200,"edge":"fill"},
    {"step":"tilt","about_x":5},
    {"step":"matrix","matrix":[[1,0,0],[0,1,0],[0.0001,0,1]]},{"step":"lens","k1":0.01},
    {"step":"rectify","corners":[[50,40],[200,40],[200,150],[50,150]],"width":30,"height":20,"unit":"mm"},
    {"step":"fit","model":"translation","pairs":[{"from":[50,50],"to":[52,51]}]},
    {"step":"unwrap","centre":[150,100],"inner":20,"outer":90},{"step":"bands","take":"grey"},
    {"step":"local-contrast"},{"step":"highpass","radius":4},{"step":"background"},{"step":"denoise","radius":1},
    {"step":"convolve","kernel":[[0,1,0],[1,2,1],[0,1,0]],"scale":0.166},{"step":"align"}]})");
  desk.document().edit_chain("all", chain);
  const auto words = step_words();
  REQUIRE(chain.steps.size() == words.size());
  for (int tile = 1; tile <= static_cast<int>(words.size()); ++tile) {
    const Step& step = chain.steps[static_cast<std::size_t>(tile) - 1];
    INFO(word_of(step.kind));
    CHECK(word_of(step.kind) == words[static_cast<std::size_t>(tile) - 1]);
    desk.document().select_tile(tile);
    const QImage drawn = pictogram(word_of(step.kind), 26, 1).toImage();
    int inked = 0;
    for (int y = 0; y < drawn.height(); ++y)
      for (int x = 0; x < drawn.width(); ++x) inked += qAlpha(drawn.pixel(x, y)) > 0;
    CHECK(inked > 40);
    CHECK_FALSE(parameter_text(step, desk.document().layout().stations[static_cast<std::size_t>(tile)]).isEmpty());
    CHECK_FALSE(desk.named<QLabel>("Check")->text().isEmpty());
    QTest::mouseClick(desk.named<QPushButton>("Step is on"), Qt::LeftButton);
    CHECK_FALSE(desk.document().chain().steps[static_cast<std::size_t>(tile) - 1].on);
    desk.document().undo_stack().undo();
  }
  desk.document().select_tile(1);
  CHECK(desk.named<QAbstractSpinBox>("angle")->text() == "-1.82°");
  CHECK(desk.window.rail().tiles()[1]->accessibleName().contains("1.82° clockwise"));
  desk.wait_shown(desk.b());
}

TEST_CASE("steps are carried along the rail by hand, and renamed in place", "[window]") {
  test::Desk desk;
  desk.insert_quarter_turn(0);
  desk.document().insert_step("crop", 1);
  desk.insert_quarter_turn(2);
  const auto words = [&] {
    QStringList out;
    for (const Step& step : desk.document().chain().steps) out << word_of(step.kind);
    return out.join(" ");
  };
  const auto tile = [&](int i) { return desk.window.rail().tiles()[static_cast<std::size_t>(i)]; };
  const auto carry_tile = [&](int from, int to) {
    const QPoint grip(60, 60), there = tile(from)->mapFromGlobal(tile(to)->mapToGlobal(grip + QPoint(60, 0)));
    QTest::mousePress(tile(from), Qt::LeftButton, {}, grip);
    QTest::mouseMove(tile(from), (grip + there) / 2);
    QTest::mouseMove(tile(from), there);
    QTest::mouseRelease(tile(from), Qt::LeftButton, {}, there);
  };
  QTest::qWait(50);
  carry_tile(1, 2);
  CHECK(words() == "crop rotate rotate");
  carry_tile(3, 0);  // behind the source, before all others
  CHECK(words() == "rotate crop rotate");
  desk.document().undo_stack().undo();
  desk.document().undo_stack().undo();
  CHECK(words() == "rotate crop rotate");
  QTest::qWait(50);
  carry_tile(2, 2);  // where it was: nothing changes
  CHECK(desk.document().undo_stack().undoText() == "add rotate");

  QTest::mouseClick(tile(2), Qt::LeftButton);
  QTest::keyClick(tile(2), Qt::Key_F2);
  QTest::keyClicks(QApplication::focusWidget(), "the card");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  CHECK(desk.document().chain().steps[1].name == "the card");
  QTest::qWait(20);
  QTest::keyClick(tile(2), Qt::Key_F2);
  QTest::keyClicks(QApplication::focusWidget(), "x");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
  CHECK(desk.document().chain().steps[1].name == "the card");
}

TEST_CASE("a step that is added by hand looks for a rectangle by itself, as part of the adding", "[window]") {
  test::Desk desk;
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Insert);
  QTest::qWait(30);
  QTest::keyClicks(QApplication::focusWidget(), "rectify");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  REQUIRE(desk.document().chain().steps.size() == 1);
  const Quad first = desk.rectify().corners;
  REQUIRE(QTest::qWaitFor([&] { return desk.rectify().corners != first; }, test::patience));
  // The photo is a chequered plane with squares of 25 mm: each corner lies on a corner of some of them.
  const Map to_plane = Map(unit_square_to_quad(test::photo_corners) * scaling(1 / 300.0, 1 / 200.0)).inverse();
  for (const Point& corner : desk.rectify().corners) {
    const Point p = *to_plane.forward(corner);
    CHECK(std::abs(p.x - 25 * std::round(p.x / 25)) < 2);
    CHECK(std::abs(p.y - 25 * std::round(p.y / 25)) < 2);
  }
  desk.document().undo_stack().undo();
  CHECK(desk.document().chain().steps.empty());
}

TEST_CASE("with a length selected each tile tells its length there", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo(),
                     {length_measurement("bar", 0, test::photo_corners[0], test::photo_corners[1], 300, "mm")});
  desk.document().session().select_measurement(0);
  QTest::qWait(20);
  CHECK(desk.window.rail().tiles().back()->coordinates_text().startsWith("bar: 300"));
  CHECK(desk.window.rail().tiles().front()->coordinates_text().endsWith(" px"));
}

TEST_CASE("the panel scrolls only as far as its page goes", "[window]") {
  test::Desk desk;
  test::rectify_with(desk, test::rectify_photo());
  auto* panel = desk.window.findChild<Inspector*>();
  REQUIRE(panel);
  const auto beyond = [&](int tile) {
    desk.document().select_tile(tile);
    QTest::qWait(200);
    return panel->verticalScrollBar()->maximum();
  };
  CHECK(beyond(1) > 0);  // all there is to say of a rectangle is longer than the window
  CHECK(beyond(2) == 0);
  CHECK(beyond(0) == 0);
  CHECK(beyond(1) > 0);
}

TEST_CASE("a corner's number stands outside of its rectangle, and inside where it would be cut off", "[window]") {
  const auto drawn_below = [](double y) {
    QImage image(80, 100, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::white);
    QPainter painter(&image);
    drawing::handle(painter, {40, y}, "3", drawing::colour_active, false, {40, y - 60});
    painter.end();
    const auto coloured = [&](int from, int to) {
      int count = 0;
      for (int row = std::max(from, 0); row < std::min(to, image.height()); ++row)
        for (int x = 0; x < image.width(); ++x) count += image.pixelColor(x, row) == drawing::colour_active;
      return count;
    };
    const int at = static_cast<int>(y);
    return std::pair{coloured(at - 40, at - 10), coloured(at + 10, at + 40)};
  };
  const auto [above, below] = drawn_below(50);
  CHECK(above == 0);
  CHECK(below > 5);
  const auto [above_end, below_end] = drawn_below(90);
  CHECK(above_end > 5);
  CHECK(below_end == 0);
}

TEST_CASE("a pixel size is the same number on the page, on the tile and in the status bar", "[window]") {
  test::Desk desk;
  RectifyStep step = test::rectify_photo();
  step.pixel_size.reset();
  test::rectify_with(desk, step);
  // Rounded to whole pixels, the two axes differ in the fourth digit for some heights.
  int differ = 0;
  for (step.height = 180; step.height < 200; step.height += 2.7) {
    Chain chain = desk.document().chain();
    chain.steps[0].kind = step;
    desk.document().edit_chain("height", chain);
    const Station& result = desk.document().layout().stations.back();
    REQUIRE(result.pixel);
    REQUIRE(result.pixel->square());
    const QString said = text_of(short_number((result.pixel->x + result.pixel->y) / 2));
    differ += said != text_of(short_number(result.pixel->x));
    CHECK(pixel_text(*result.pixel).startsWith(said));
    CHECK(desk.named<QDoubleSpinBox>("Pixel size of the result")->value() == Approx(said.toDouble()).epsilon(1e-9));
  }
  CHECK(differ > 0);
}
