/// Files with channels, several pictures at once, and the clipboard, in the real window.
#include <catch2/catch.hpp>

#include "app/sequence/frames_column.h"
#include "files/ome.h"
#include "run/axes.h"
#include "tests/window/desk.h"

namespace fexel::test::pictures {
namespace {

/// Two channels and three times; a page's level is 40 c + 10 t + 50.
std::string two_channels(Desk& desk) {
  StackAxes axes;
  axes.channels = 2;
  axes.times = 3;
  axes.channel_names = {"red light", "infrared"};
  std::vector<StackPlace> places;
  std::vector<Image> pages;
  for (int t = 0; t < 3; ++t)
    for (int c = 0; c < 2; ++c) {
      places.push_back({c, 0, t});
      Image page(60, 40, 1, Depth::u8);
      for (int y = 0; y < 40; ++y)
        for (int x = 0; x < 60; ++x) page.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(40 * c + 10 * t + 50);
      pages.push_back(std::move(page));
    }
  WriteOptions how;
  how.description = ome_description(axes, places, {60, 40}, Depth::u8, PixelSize{0.325, 0.325, "um"});
  write_pictures(desk.scratch / "two.ome.tif", pages, how);
  return (desk.scratch / "two.ome.tif").string();
}

int listed(const QListWidget* list) {
  int out = 0;
  for (int i = 0; i < list->count(); ++i) out += !list->item(i)->isHidden();
  return out;
}

}  // namespace

TEST_CASE("a file with channels opens on the first, and another is chosen from the list", "[window][axes]") {
  Desk desk;
  desk.open(two_channels(desk));
  auto* list = desk.window.frames().findChild<QListWidget*>();
  auto* channel = desk.named<QComboBox>("Channel");
  REQUIRE(channel->count() == 3);
  CHECK(channel->currentText() == "red light");
  CHECK(listed(list) == 3);
  CHECK_FALSE(desk.document().chain().sources.empty());
  CHECK(choice_in(desk.document().chain(), desk.document().frames()) == AxisChoice{1, 0});
  channel->setFocus();
  QTest::keyClick(channel, Qt::Key_Down);
  CHECK(channel->currentText() == "infrared");
  desk.wait();
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frame() == 1; }, patience));
  CHECK(value(desk.document().source()->pixels->base(), 0, 5, 5) == 90);
  CHECK(listed(list) == 3);
  desk.document().undo_stack().undo();
  REQUIRE(QTest::qWaitFor([&] { return channel->currentText() == "red light"; }, patience));
  CHECK(desk.document().layout().stations[0].pixel->unit == "um");
  // Nothing has been aligned yet: it is said, and nothing changes.
  const auto before = write_chain(desk.document().chain());
  action(desk, "Carry to the other channels and planes")->trigger();
  CHECK(desk.window.notice().contains("aligned"));
  CHECK(write_chain(desk.document().chain()) == before);
}

TEST_CASE("pictures of different sizes opened at once are asked about; alike ones are a sequence", "[window][axes]") {
  Desk desk;
  QStringList unlike, alike;
  for (int i = 0; i < 3; ++i) {
    const auto a = desk.scratch / ("a-" + std::to_string(i) + ".png"),
               b = desk.scratch / ("b-" + std::to_string(i) + ".png");
    write_pictures(a, one_page(noise(40 + 10 * i, 30, 1, Depth::u8)), {Format::png, {}, false, {}});
    write_pictures(b, one_page(noise(40, 30, 1, Depth::u8)), {Format::png, {}, false, {}});
    unlike << QString::fromStdString(a.string());
    alike << QString::fromStdString(b.string());
  }
  desk.window.open_several(alike);
  desk.wait();
  REQUIRE(QTest::qWaitFor([&] { return desk.document().frames().size() == 3; }, patience));
  answer_next("Cancel");
  desk.window.open_several(unlike);
  desk.wait();
  QTest::qWait(100);
  CHECK(desk.document().frames().front().path == alike.front().toStdString());
  answer_next("As a sequence");
  desk.window.open_several(unlike);
  REQUIRE(
      QTest::qWaitFor([&] { return desk.document().frames().front().path == unlike.front().toStdString(); }, patience));
  CHECK(desk.document().frames().size() == 3);
}

TEST_CASE("alpha becomes a band by its box, goes into the result, and is kept by the chain", "[window][axes]") {
  Desk desk;
  Image image = noise(30, 20, 2, Depth::u8);
  for (int y = 0; y < 20; ++y)
    for (int x = 0; x < 30; ++x)
      image.row<std::uint8_t>(1, y)[x] = static_cast<std::uint8_t>(x < 10 ? 255 : x < 20 ? 140 : 30);
  WriteOptions how;
  how.alpha = true;
  const auto path = desk.scratch / "alpha.tif";
  write_pictures(path, one_page(image.clone()), how);
  desk.open(path.string());
  CHECK(desk.document().shape().bands == 1);
  CHECK_FALSE(desk.document().source()->pixels->base().valid(25, 5));
  auto* box = desk.named<QCheckBox>("Use alpha as a band");
  CHECK_FALSE(box->isChecked());
  QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
  desk.wait();
  REQUIRE(desk.document().shape().bands == 2);
  CHECK(value(desk.document().source()->pixels->base(), 1, 15, 5) == 140);
  CHECK(desk.document().source()->pixels->base().valid(25, 5));
  const QString chain = QString::fromStdString((desk.scratch / "alpha.fexel.json").string());
  REQUIRE(desk.window.save_chain(chain));
  desk.open(desk.photo);
  desk.open(chain.toStdString());
  CHECK(desk.document().shape().bands == 2);
  CHECK(desk.named<QCheckBox>("Use alpha as a band")->isChecked());
  // From the command line the chain says it, too.
  QProcess program;
  program.start(FEXEL_CLI, {"apply", chain, QString::fromStdString(path.string()), "--out",
                            QString::fromStdString((desk.scratch / "out").string())});
  REQUIRE(program.waitForFinished(patience));
  CHECK(program.exitCode() == 0);
  CHECK(same_samples(read_picture(desk.scratch / "out" / "alpha-alpha.tif"), image));
}

TEST_CASE("a picture comes from the clipboard, and goes there as it is shown", "[window][axes]") {
  Desk desk;
  QImage picture(33, 21, QImage::Format_RGB32);
  for (int y = 0; y < 21; ++y)
    for (int x = 0; x < 33; ++x) picture.setPixel(x, y, qRgb(x * 7, y * 11, (x + y) % 256));
  QApplication::clipboard()->setImage(picture);
  desk.front();
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
  desk.wait();
  REQUIRE(desk.document().shape().size == Size{33, 21});
  const Image& image = desk.document().source()->pixels->base();
  REQUIRE(image.bands() == 3);
  int wrong = 0;
  for (int y = 0; y < 21; ++y)
    for (int x = 0; x < 33; ++x)
      wrong +=
          value(image, 0, x, y) != x * 7 || value(image, 1, x, y) != y * 11 || value(image, 2, x, y) != (x + y) % 256;
  CHECK(wrong == 0);
  CHECK_FALSE(desk.document().layout().stations[0].pixel);
  desk.insert_quarter_turn(0);
  QApplication::clipboard()->clear();
  QTest::keyClick(desk.a(), Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
  desk.wait();
  const QImage copied = QApplication::clipboard()->image().convertToFormat(QImage::Format_RGB32);
  REQUIRE(copied.size() == QSize(21, 33));
  wrong = 0;
  for (int y = 0; y < 33; ++y)
    for (int x = 0; x < 21; ++x) {
      const QRgb there = copied.pixel(x, y);
      // A quarter turn, one way or the other.
      wrong += there != picture.pixel(y, 20 - x) && there != picture.pixel(32 - y, x);
    }
  CHECK(wrong == 0);
  QApplication::clipboard()->setText("no picture");
  QTest::keyClick(desk.a(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
  CHECK(desk.window.notice().contains("no picture"));
}

}  // namespace fexel::test::pictures
