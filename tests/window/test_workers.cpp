#include <catch2/catch.hpp>

#include "app/document/background.h"
#include "app/document/renderer.h"
#include "tests/window/desk.h"

using namespace fexel;
using namespace std::chrono_literals;

namespace {

RenderRequest request_of(const Image& image, quint64 serial) {
  RenderRequest request;
  request.source = std::make_shared<const Pyramid>(std::make_shared<const Image>(image.clone()));
  request.plan.result = {image.width(), image.height()};
  request.plan.clip.keep_inside(request.plan.result);
  request.revision = request.serial = serial;
  return request;
}

/// Work that never ends by itself.
Background::Finish wait_for_stop(const Job& job) {
  for (;;) {
    job.check();
    std::this_thread::sleep_for(1ms);
  }
}

}  // namespace

TEST_CASE("the screen has the samples of 8 bits as they are, of 16 by 257, of floats from 0 to 1", "[window]") {
  Image bytes(2, 1, 3, Depth::u8);
  for (int band = 0; band < 3; ++band)
    for (int x = 0; x < 2; ++x) bytes.row<std::uint8_t>(band, 0)[x] = static_cast<std::uint8_t>(10 * band + 100 * x);
  CHECK(to_screen(bytes).pixelColor(1, 0) == QColor(100, 110, 120));

  Image words(3, 1, 1, Depth::u16);
  const std::uint16_t samples[] = {0, 257 * 80 + 3, 65535};
  std::copy(samples, samples + 3, words.row<std::uint16_t>(0, 0));
  CHECK(to_screen(words).pixelColor(1, 0) == QColor(80, 80, 80));
  CHECK(to_screen(words).pixelColor(2, 0) == QColor(255, 255, 255));

  Image floats(4, 1, 1, Depth::f32);
  const float values[] = {-2, 0.5F, 7, std::nanf("")};
  std::copy(values, values + 4, floats.row<float>(0, 0));
  const QImage shown = to_screen(floats);
  const int levels[] = {0, 128, 255, 0};
  for (int x = 0; x < 4; ++x) CHECK(qRed(shown.pixel(x, 0)) == levels[x]);

  words.make_mask(true);
  words.set_valid(1, 0, false);
  CHECK(qAlpha(to_screen(words).pixel(1, 0)) == 0);
  CHECK(qAlpha(to_screen(words).pixel(2, 0)) == 255);
}

TEST_CASE("of many requests the newest is drawn, and drawn last", "[window]") {
  Renderer renderer;
  std::vector<quint64> drawn;
  QObject::connect(&renderer, &Renderer::ready, &renderer, [&](const StationImage& image) {
    drawn.push_back(image.serial);
    CHECK(qRed(image.image.pixel(0, 0)) == static_cast<int>(image.serial));
  });
  for (int i = 1; i <= 60; ++i) {
    Image image(400, 300, 1, Depth::u8);
    for (int y = 0; y < 300; ++y) std::fill_n(image.row<std::uint8_t>(0, y), 400, static_cast<std::uint8_t>(i));
    renderer.request(request_of(image, static_cast<quint64>(i)));
  }
  REQUIRE(QTest::qWaitFor([&] { return !drawn.empty() && drawn.back() == 60; }, test::patience));
  QTest::qWait(50);
  CHECK(drawn.back() == 60);
  CHECK(std::ranges::is_sorted(drawn));
}

TEST_CASE("a small picture under the loupe does not push out the large one", "[window]") {
  Renderer renderer;
  int large = 0, small = 0;
  QObject::connect(&renderer, &Renderer::ready, &renderer, [&] { ++large; });
  QObject::connect(&renderer, &Renderer::loupe_ready, &renderer, [&] { ++small; });
  const Image image = test::noise(300, 200, 1, Depth::u8);
  renderer.request(request_of(image, 1));
  renderer.request_loupe(request_of(image, 2));
  REQUIRE(QTest::qWaitFor([&] { return large == 1 && small == 1; }, test::patience));
}

TEST_CASE("a renderer can go at any moment of its work, and draws each request once at the most", "[window]") {
  int heard = 0;
  const Image image = test::noise(3000, 2000, 3, Depth::u8);
  for (int i = 0; i < 5; ++i) {
    Renderer renderer;
    QObject::connect(&renderer, &Renderer::ready, qApp, [&] { ++heard; });
    RenderRequest request = request_of(image, 1);
    request.plan.inverse_map = scaling(7.3, 7.3);
    request.plan.result = {410, 270};
    renderer.request(std::move(request));
    std::this_thread::sleep_for(std::chrono::milliseconds(3 * i));
  }
  QTest::qWait(50);
  CHECK(heard <= 5);
}

TEST_CASE("background work hands its result over on the window's thread, with progress", "[window]") {
  Background background;
  std::vector<double> progress;
  QObject::connect(&background, &Background::progressed, &background, [&](double share) { progress.push_back(share); });
  const auto here = std::this_thread::get_id();
  std::thread::id worked, finished;
  background.start(
      "work",
      [&](const Job& job) -> Background::Finish {
        worked = std::this_thread::get_id();
        for (int i = 1; i <= 4; ++i) job.progress(i / 4.0);
        return [&] { finished = std::this_thread::get_id(); };
      },
      [](const Error&) {});
  CHECK(background.running());
  REQUIRE(QTest::qWaitFor([&] { return !background.running(); }, test::patience));
  CHECK(worked != here);
  CHECK(finished == here);
  CHECK(progress == std::vector{0.25, 0.5, 0.75, 1.0});
}

TEST_CASE("a cancel ends background work, and its result is dropped", "[window]") {
  Background background;
  std::optional<Error::Kind> kind;
  background.start("work", wait_for_stop, [&](const Error& error) { kind = error.kind(); });
  QTest::qWait(20);
  background.cancel();
  REQUIRE(QTest::qWaitFor([&] { return !background.running(); }, test::patience));
  CHECK(kind == Error::Kind::cancelled);
}

TEST_CASE("newer background work replaces the older, whose end is never heard of", "[window]") {
  Background background;
  int failures = 0, ends = 0, done = 0;
  QObject::connect(&background, &Background::finished, &background, [&] { ++ends; });
  background.start("old", wait_for_stop, [&](const Error&) { ++failures; });
  QTest::qWait(10);
  background.start(
      "new", [&](const Job&) -> Background::Finish { return [&] { ++done; }; }, [&](const Error&) { ++failures; });
  REQUIRE(QTest::qWaitFor([&] { return !background.running(); }, test::patience));
  QTest::qWait(30);
  CHECK(done == 1);
  CHECK(ends == 1);
  CHECK(failures == 0);
}

TEST_CASE("trouble inside background work becomes a sentence", "[window]") {
  Background background;
  std::string said;
  const auto failed = [&](const Error& error) { said = error.message() + " " + error.remedy(); };
  SECTION("no memory") {
    background.start(
        "work", [](const Job&) -> Background::Finish { throw std::bad_alloc(); }, failed);
    REQUIRE(QTest::qWaitFor([&] { return !said.empty(); }, test::patience));
    CHECK(said.find("not enough memory") != std::string::npos);
  }
  SECTION("something else") {
    background.start(
        "work", [](const Job&) -> Background::Finish { throw std::runtime_error("odd"); }, failed);
    REQUIRE(QTest::qWaitFor([&] { return !said.empty(); }, test::patience));
    CHECK(said.find("odd") != std::string::npos);
  }
}
