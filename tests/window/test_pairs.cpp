/// Control points on two pictures, through the real window.
#include "app/measurements/snapping.h"
#include "app/pairs/pairs_ledger.h"
#include "app/pairs/placing.h"
#include "app/pairs/reference.h"
#include "tests/two_pictures.h"
#include "tests/window/pages.h"

using namespace fexel;
using namespace fexel::test::pages;

namespace {

constexpr Size size{640, 480};
constexpr double noise = 2;

/// A surface seen by two cameras, the second one straight before it.
struct TwoPictures {
  test::Surface wall{test::Surface::Kind::discs, 12};
  Matrix3 first = test::camera(size, 500, 500, 8, 1, 15, 30), second = test::camera(size, 510, 495, 0, 0.9, 0, 0);
  Map truth{second * first.inverse()};
  std::string source, reference;
  explicit TwoPictures(const std::filesystem::path& folder) {
    const auto put = [&](const char* name, const Matrix3& camera, unsigned seed) {
      const Image seen = test::seen(wall, camera, size, noise, seed);
      Image grey(size.width, size.height, 1, Depth::u8);
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
          grey.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(seen.row<float>(0, y)[x]);
      std::vector<Image> pages;
      pages.push_back(std::move(grey));
      write_pictures(folder / name, pages, {Format::png, {}, false, {}});
      return (folder / name).string();
    };
    source = put("record.png", first, 1);
    reference = put("plan.png", second, 2);
  }
};

struct PairDesk : test::Desk {
  TwoPictures two{scratch / "."};
  PairDesk() {
    open(two.source);
    test::add<FitStep>(*this);
    window.open_reference_file(QString::fromStdString(two.reference));
    REQUIRE(QTest::qWaitFor([&] { return open_reference(document()).has_value(); }, test::patience));
    QTest::qWait(50);
  }
  FitStep fit() { return test::now<FitStep>(*this); }
  void click_on(PictureView* view, Point at) {
    QTest::mouseClick(view, Qt::LeftButton, {}, view->to_widget(point_of(at)).toPoint());
  }
  /// As near as the screen's pixels allow.
  void place(Point from) {
    click_on(a(), from);
    click_on(b(), *two.truth.forward(from));
  }
};

}  // namespace

TEST_CASE("pairs are placed on a source and its reference, predicted, refined, and lay one on the other",
          "[window][pairs]") {
  PairDesk desk;
  REQUIRE(desk.b()->reference() != nullptr);
  CHECK(desk.fit().pairs.empty());
  CHECK(desk.fit().width == size.width);
  const Point places[] = {{120, 100}, {500, 110}, {520, 380}, {110, 370}};
  for (const Point p : places) desk.place(p);
  REQUIRE(desk.fit().pairs.size() == 4);
  for (const PointPair& p : desk.fit().pairs) CHECK(distance(*desk.two.truth.forward(p.from), p.to) < 3);
  CHECK_FALSE(desk.document().layout().stations[1].problem);
  // The fifth is predicted, and Return takes it.
  desk.click_on(desk.a(), {320, 240});
  const auto predicted = desk.window.views().placing().predicted(*desk.b());
  REQUIRE(predicted);
  const auto clicked = desk.window.views().placing().pending(*desk.a());
  REQUIRE(clicked);
  CHECK(distance(*predicted, *desk.two.truth.forward(*clicked)) < 3);
  QTest::keyClick(desk.a(), Qt::Key_Return);
  REQUIRE(desk.fit().pairs.size() == 5);
  click(desk, "Refine by matching");
  desk.wait();
  int refined = 0;
  for (const PointPair& p : desk.fit().pairs) refined += distance(*desk.two.truth.forward(p.from), p.to) < 0.15;
  INFO(desk.window.notice().toStdString());
  CHECK(refined >= 4);
  desk.document().undo_stack().undo();  // the refining
  desk.document().undo_stack().undo();  // the fifth pair
  CHECK(desk.fit().pairs.size() == 4);
  desk.document().undo_stack().redo();
  desk.document().undo_stack().redo();
  // More pairs, found by themselves.
  click(desk, "Propose 30 pairs");
  desk.wait();
  REQUIRE(desk.fit().pairs.size() > 20);
  desk.front();
  // Two targets exchanged in the table are named, and one button brings them back.
  const FitStep sound = desk.fit();
  FitStep wrong = sound;
  std::swap(wrong.pairs[8].to, wrong.pairs[9].to);
  change_fit(desk.document(), "exchange", wrong);
  desk.wait_findings();
  CHECK(desk.named<QLabel>("Typing mistake")->text().contains("exchanged"));
  click(desk, "Fix the typing mistake");
  CHECK(desk.fit() == sound);
  // A model is chosen by its row.
  desk.wait_findings();
  auto* models = desk.named<QTableWidget>("Models");
  QTest::mouseClick(models->viewport(), Qt::LeftButton, {}, models->visualItemRect(models->item(3, 0)).center());
  CHECK(desk.fit().model == Model::affine);
  desk.document().undo_stack().undo();
  CHECK(desk.fit().model == Model::projective);
  // The result lies on the reference, but for both pictures' noise.
  const Image made = station_plane(StationPixels(desk.document()), 1, {});
  REQUIRE(made.width() == size.width);
  const Image& plan = open_reference(desk.document())->picture->pixels->base();
  double sum = 0, count = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (made.valid(x, y)) {
        sum += std::pow(static_cast<double>(made.row<float>(0, y)[x]) - plan.row<std::uint8_t>(0, y)[x], 2);
        ++count;
      }
  CHECK(count > 0.6 * size.width * size.height);
  CHECK(std::sqrt(sum / count) < 2 * noise);
}

TEST_CASE("the reference is compared with the result, and goes with its step", "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}}) desk.place(p);
  click(desk, "Reference: compare");
  REQUIRE(desk.a()->reference() != nullptr);
  CHECK(desk.b()->reference() == nullptr);
  CHECK(desk.b()->station() == 1);
  // A place of the one lies on the same place of the other.
  const auto map = desk.a()->map_to(*desk.b());
  REQUIRE(map);
  CHECK(distance(*map->forward({200, 150}), {200, 150}) < 1e-9);
  click(desk, "Reference: place pairs");
  REQUIRE(desk.b()->reference() != nullptr);
  CHECK(desk.a()->station() == 0);
  // A mixture of source and reference would say nothing: it is that of the result.
  click(desk, "View: Difference");
  CHECK(desk.document().session().reference_view() == Session::ReferenceView::compare);
  click(desk, "View: Side by side");
  click(desk, "Reference: off");
  CHECK(desk.a()->reference() == nullptr);
  CHECK(desk.b()->reference() == nullptr);
  click(desk, "Reference: place pairs");
  desk.document().select_tile(0);
  CHECK(desk.b()->reference() == nullptr);
  desk.document().select_tile(1);
  CHECK(desk.b()->reference() != nullptr);
}

TEST_CASE("a result never replaces the reference", "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}}) desk.place(p);
  const std::string before = read_text(desk.two.reference);
  desk.window.write_out(QString::fromStdString(desk.two.reference), true);
  desk.wait();
  const auto labels = desk.window.findChildren<QLabel*>();
  CHECK(std::ranges::any_of(labels, [](QLabel* l) { return l->text().contains("a reference of the chain"); }));
  CHECK(read_text(desk.two.reference) == before);
}

TEST_CASE("a chain with a reference is saved and opened again, and a reference that is gone is said",
          "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}}) desk.place(p);
  const QString path = QString::fromStdString((desk.scratch / "laid.fexel.json").string());
  REQUIRE(desk.window.save_chain(path));
  const Chain kept = load_chain(path.toStdString());
  CHECK(std::get<FitStep>(kept.steps[0].kind).reference->file ==
        std::filesystem::path(desk.two.reference).lexically_normal());
  CHECK(read_text(path.toStdString()).find("\"plan.png\"") != std::string::npos);
  // Saved elsewhere, the reference is named from there.
  std::filesystem::create_directory(desk.scratch / "deep");
  const QString deep = QString::fromStdString((desk.scratch / "deep/laid.fexel.json").string());
  REQUIRE(desk.window.save_chain(deep));
  CHECK(read_text(deep.toStdString()).find("\"../plan.png\"") != std::string::npos);
  REQUIRE(desk.window.save_chain(path));
  CHECK(read_text(path.toStdString()).find("\"plan.png\"") != std::string::npos);
  desk.open(desk.photo);
  desk.open(path.toStdString());
  desk.document().select_tile(1);
  CHECK(QTest::qWaitFor([&] { return open_reference(desk.document()).has_value(); }, test::patience));
  CHECK(desk.fit().pairs.size() == 4);
  desk.document().undo_stack().setClean();
  desk.open(desk.photo);
  std::filesystem::remove(desk.two.reference);
  desk.open(path.toStdString());
  desk.document().select_tile(1);
  CHECK(QTest::qWaitFor([&] { return desk.window.notice().contains("plan.png"); }, test::patience));
  CHECK(desk.fit().pairs.size() == 4);
}

TEST_CASE("the table of pairs takes check points, names and numbers, and handles are dragged on the reference",
          "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}, Point{300, 220}})
    desk.place(p);
  auto* table = desk.named<QTableView>("Pairs");
  REQUIRE(table->model()->rowCount() == 5);
  test::set_cell(table, 4, PairsModel::use, "check");
  CHECK(desk.fit().pairs[4].check);
  CHECK(desk.window.ledger().pairs()->summary().contains("1 check points"));
  test::set_cell(table, 4, PairsModel::use, "fit");
  CHECK_FALSE(desk.fit().pairs[4].check);
  test::set_cell(table, 2, PairsModel::name, "gate");
  CHECK(desk.fit().pairs[2].name == "gate");
  test::set_cell(table, 1, PairsModel::to_x, "431.25");
  CHECK(desk.fit().pairs[1].to.x == 431.25);
  test::set_cell(table, 1, PairsModel::to_x, "nothing");
  CHECK(desk.fit().pairs[1].to.x == 431.25);
  CHECK(test::cell(table, 1, PairsModel::to_x) != "nothing");
  // A handle on the reference is the pair's target.
  const Point before = desk.fit().pairs[0].to;
  const QPointF at = desk.b()->to_widget(point_of(before));
  desk.drag(desk.b(), at, at + QPointF(30, 20));
  CHECK(distance(desk.fit().pairs[0].to, before) > 15 / desk.b()->zoom() / 2);
  CHECK(desk.fit().pairs[0].from == Point{desk.fit().pairs[0].from});
  desk.document().undo_stack().undo();
  CHECK(distance(desk.fit().pairs[0].to, before) < 1e-9);
  // Delete removes the pair that is selected.
  table->setCurrentIndex(table->model()->index(3, 0));
  desk.front();
  table->setFocus();
  QTest::keyClick(table, Qt::Key_Delete);
  CHECK(desk.fit().pairs.size() == 4);
}

TEST_CASE("looking at a reference changes nothing that is saved, and placing goes on after Escape", "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}}) desk.place(p);
  const DocumentState before = desk.document().state();
  const int undoable = desk.document().undo_stack().count();
  for (const char* way : {"Reference: compare", "Reference: off", "Reference: place pairs"}) click(desk, way);
  desk.document().select_tile(0);
  desk.document().select_tile(1);
  CHECK(desk.document().state() == before);
  CHECK(desk.document().undo_stack().count() == undoable);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Escape);
  CHECK_FALSE(desk.window.views().placing().running());
  desk.place({300, 200});
  CHECK(desk.fit().pairs.size() == 4);
  // The button that was pressed already starts it again.
  click(desk, "Reference: place pairs");
  desk.place({300, 200});
  CHECK(desk.fit().pairs.size() == 5);
  // Delete on a handle removes its pair, and not the step.
  QTest::keyClick(desk.a(), Qt::Key_Escape);
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_Tab);
  REQUIRE(desk.a()->selected_handle());
  QTest::keyClick(desk.a(), Qt::Key_Delete);
  REQUIRE(desk.document().chain().steps.size() == 1);
  CHECK(desk.fit().pairs.size() == 4);
}

TEST_CASE("a reference of another depth is shown in its own range, beside and in a mixture", "[window][pairs]") {
  PairDesk desk;
  for (const Point p : {Point{120, 100}, Point{500, 110}, Point{520, 380}, Point{110, 370}}) desk.place(p);
  const auto middle_of = [&](PictureView* view) {
    desk.wait_shown(view);
    REQUIRE(QTest::qWaitFor([&] { return view->settled(); }, test::patience));
    QTest::qWait(30);
    const QImage shot = view->grab().toImage();
    double sum = 0;
    int count = 0;
    for (int y = shot.height() / 3; y < 2 * shot.height() / 3; ++y)
      for (int x = shot.width() / 3; x < 2 * shot.width() / 3; ++x) {
        sum += qGray(shot.pixel(x, y));
        ++count;
      }
    return sum / count;
  };
  const double as_it_is = middle_of(desk.b());
  // The same picture in 16 bits and in floating point, while the source is shown in a narrow range.
  const Image grey = read_picture(desk.two.reference);
  for (const Depth depth : {Depth::u16, Depth::f32}) {
    Image deep(size.width, size.height, 1, depth);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) {
        const int v = grey.row<std::uint8_t>(0, y)[x];
        if (depth == Depth::u16)
          deep.row<std::uint16_t>(0, y)[x] = static_cast<std::uint16_t>(257 * v);
        else
          deep.row<float>(0, y)[x] = static_cast<float>(1000.0 * v - 3e4);
      }
    std::vector<Image> pages;
    pages.push_back(std::move(deep));
    const auto path = desk.scratch / (depth == Depth::u16 ? "plan16.tif" : "plan32.tif");
    write_pictures(path, pages, {});
    desk.window.open_reference_file(QString::fromStdString(path.string()));
    REQUIRE(QTest::qWaitFor(
        [&] {
          const auto open = open_reference(desk.document());
          return open && open->picture->pixels->base().depth() == depth;
        },
        test::patience));
    REQUIRE(desk.fit().pairs.size() == 4);
    desk.window.views().set_range(std::pair(0.0, 3000.0));
    const double shown = middle_of(desk.b());
    INFO("depth " << static_cast<int>(depth) << ": " << shown << " for " << as_it_is);
    CHECK(std::abs(shown - as_it_is) < (depth == Depth::u16 ? 4 : 25));
    desk.window.views().set_range(std::nullopt);
    // The difference of two pictures of one thing is grey, whatever their depths.
    click(desk, "View: Difference");
    const double difference = middle_of(desk.b());
    INFO("difference " << difference);
    CHECK(std::abs(difference - 128) < (depth == Depth::u16 ? 8 : 45));
    click(desk, "View: Side by side");
    click(desk, "Reference: place pairs");
  }
}
