/// Pictures of all frames, and films, from the menus of the real window.
#include <catch2/catch.hpp>

#include "app/sequence/frames_column.h"
#include "app/ui/text.h"
#include "files/film.h"
#include "tests/scene.h"
#include "tests/window/desk.h"

namespace fexel::test::stacks_menu {
namespace {
namespace fs = std::filesystem;

/// Types a name into the next question for a file, and accepts it.
void name_next(const std::string& path) {
  auto* timer = new QTimer;
  QObject::connect(timer, &QTimer::timeout, timer, [timer, path] {
    auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (!dialog) return;
    timer->deleteLater();
    auto* name = dialog->findChild<QLineEdit*>();
    name->setText(QString::fromStdString(path));
    QTest::keyClick(name, Qt::Key_Return);
  });
  timer->start(20);
}

void choose(Desk& desk, const QString& text, const std::string& path) {
  name_next(path);
  action(desk, text)->trigger();
  desk.wait();
  REQUIRE(QTest::qWaitFor([&] { return desk.window.notice().startsWith("Written"); }, patience));
  desk.front();
}

}  // namespace

TEST_CASE("the mean, a mosaic and a film of the open frames are written from the menu", "[window][stacks]") {
  Desk desk;
  const Scene scene = textured(60, 0.01, 0.15, 40, 5);
  std::vector<Image> pages;
  for (int i = 0; i < 3; ++i)
    pages.push_back(
        frame_of(scene, translation(-110.0 * i, -3.0 * i), {200, 160}, Depth::u8, 1, static_cast<unsigned>(i)));
  write_pictures(desk.scratch / "stack.tif", pages, {});
  desk.open((desk.scratch / "stack.tif").string());
  choose(desk, "Mean", (desk.scratch / "mean.tif").string());
  const Image mean = read_picture(desk.scratch / "mean.tif");
  CHECK(
      value(mean, 0, 50, 50) ==
      Approx((value(pages[0], 0, 50, 50) + value(pages[1], 0, 50, 50) + value(pages[2], 0, 50, 50)) / 3).epsilon(1e-6));
  CHECK(fs::exists(desk.scratch / "mean.tif.made.json"));
  choose(desk, "Moved only (translation)", (desk.scratch / "mosaic.tif").string());
  CHECK(read_info(desk.scratch / "mosaic.tif").width >= 420);
  CHECK(desk.window.notice().contains("mosaic of 3 frames"));
  choose(desk, "Save as a film…", (desk.scratch / "film.mkv").string());
  Film film(desk.scratch / "film.mkv");
  REQUIRE(film.count() == 3);
  for (int i = 0; i < 3; ++i) CHECK(same_samples(film.read(i, {}), pages[static_cast<std::size_t>(i)]));

  // The film opens as a sequence, with its times, and its frames are those of the stack.
  desk.open((desk.scratch / "film.mkv").string());
  REQUIRE(desk.document().frames().size() == 3);
  REQUIRE(desk.document().chain().time_step);
  CHECK(desk.document().chain().time_step->value == Approx(0.04).margin(1e-3));
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_PageDown);
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 1; }, patience));
  CHECK(same_samples(desk.document().source()->pixels->base(), pages[1]));
  CHECK(frame_time(desk.document(), 2).startsWith("0.08"));
  // Slices follow a line that is drawn.
  name_next((desk.scratch / "slice.tif").string());
  action(desk, "Slice along time…")->trigger();
  desk.drag(desk.b(), desk.b()->to_widget({20, 80}), desk.b()->to_widget({180, 80}));
  REQUIRE(QTest::qWaitFor([&] { return fs::exists(desk.scratch / "slice.tif"); }, patience));
  desk.wait();
  CHECK(read_info(desk.scratch / "slice.tif").height == 3);
}

}  // namespace fexel::test::stacks_menu
