// Films as sequences: every codec by exact seeks, times, rotation, depths, what is cut short; and written without loss.
#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "files/film.h"
#include "tests/film_maker.h"
#include "tests/support.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

/// The number that a frame spells; see draw().
int spelled(const Image& image) {
  int out = 0;
  const double middle = 130.0 / 255 * (image.largest() > 255 ? image.largest() : 255);
  for (int block = 0; block < 8; ++block) {
    const int x = (2 * block + 1) * image.width() / 16;
    if (test::value(image, 0, x, image.height() / 4) > middle) out |= 1 << block;
  }
  return out;
}

struct Case {
  const char* name;
  test::FilmKind kind;
  int bands;
  Depth depth;
};

std::vector<Case> cases() {
  using K = test::FilmKind;
  std::vector<Case> out;
  out.push_back({"a.mp4", K{}, 3, Depth::u8});
  out.push_back({"open.mkv", K{.gop = 10, .b_frames = 3}, 3, Depth::u8});
  out.push_back({"long.mkv", K{.gop = 250, .b_frames = 2}, 3, Depth::u8});
  out.push_back({"odd.mkv", K{.format = AV_PIX_FMT_YUV444P, .width = 161, .height = 119}, 3, Depth::u8});
  out.push_back({"ten.mkv", K{.format = AV_PIX_FMT_YUV420P10LE}, 3, Depth::u16});
  out.push_back({"grey.mkv", K{.codec = "ffv1", .format = AV_PIX_FMT_GRAY8}, 1, Depth::u8});
  out.push_back({"grey12.mkv", K{.codec = "ffv1", .format = AV_PIX_FMT_GRAY12LE}, 1, Depth::u16});
  out.push_back({"vp9.webm", K{.codec = "libvpx-vp9", .frames = 30}, 3, Depth::u8});
  out.push_back({"m.avi", K{.codec = "mjpeg", .format = AV_PIX_FMT_YUVJ420P}, 3, Depth::u8});
  out.push_back({"four.avi", K{.codec = "mpeg4", .b_frames = 2}, 3, Depth::u8});
  out.push_back({"two.mpg", K{.codec = "mpeg2video", .width = 176, .height = 144}, 3, Depth::u8});
  out.push_back({"ts.ts", K{.gop = 15, .b_frames = 2}, 3, Depth::u8});
  return out;
}

}  // namespace

TEST_CASE("any frame, sought in any order, has the pixels of decoding from the start", "[film]") {
  const test::Scratch scratch;
  for (const Case& one : cases()) {
    INFO(one.name);
    test::make_film(scratch / one.name, one.kind);
    Film straight(scratch / one.name), sought(scratch / one.name);
    REQUIRE(straight.count() == one.kind.frames);
    CHECK(straight.info().bands == one.bands);
    CHECK(straight.info().depth == one.depth);
    std::vector<Image> frames;
    for (int k = 0; k < straight.count(); ++k) {
      frames.push_back(straight.read(k, {}));
      REQUIRE(spelled(frames.back()) == k);
    }
    std::vector<int> order;
    for (int k = 0; k < straight.count(); k += 7) order.push_back(k);
    std::mt19937 random(3);
    std::ranges::shuffle(order, random);
    order.push_back(straight.count() - 1);
    order.push_back(0);
    for (const int k : order) {
      INFO(k);
      CHECK(test::same_samples(sought.read(k, {}), frames[static_cast<std::size_t>(k)]));
    }
    CHECK_THROWS_AS(sought.read(straight.count(), {}), Error);
  }
}

TEST_CASE("frames have the times of the film, at whatever rate", "[film]") {
  const test::Scratch scratch;
  const auto ms = [](int k) { return std::int64_t{20} * k + (k % 3) * 7 + k * k; };
  for (const char* name : {"v.mkv", "v.mp4"}) {
    test::make_film(scratch / name, {.frames = 40, .millisecond = ms});
    const Film film(scratch / name);
    REQUIRE(film.count() == 40);
    for (int k = 0; k < 40; ++k) CHECK(film.time(k) == Approx(0.001 * static_cast<double>(ms(k))).margin(0.0006));
  }
  const auto pages = read_pages(scratch / "v.mkv");
  REQUIRE(pages.size() == 40);
  CHECK(pages[7].info->time == Approx(0.001 * static_cast<double>(ms(7))).margin(0.0006));
}

TEST_CASE("a rotation tag is applied once, and turns the right way", "[film]") {
  const test::Scratch scratch;
  for (const int degrees : {90, 180, 270}) {
    INFO(degrees);
    const std::string name = "r" + std::to_string(degrees) + ".mp4";
    test::make_film(scratch / name, {.frames = 5, .rotation = double(degrees)});
    test::make_film(scratch / "plain.mp4", {.frames = 5});
    Film turned(scratch / name), plain(scratch / "plain.mp4");
    const bool swaps = degrees != 180;
    CHECK(turned.info().width == (swaps ? 120 : 160));
    const Image a = turned.read(3, {}), b = plain.read(3, {});
    int unlike = 0;
    for (int y = 0; y < b.height(); ++y)
      for (int x = 0; x < b.width(); ++x) {
        // Counter-clockwise: 90 degrees take the top right corner to the top left.
        const int u = degrees == 90 ? y : degrees == 180 ? b.width() - 1 - x : b.height() - 1 - y;
        const int v = degrees == 90 ? b.width() - 1 - x : degrees == 180 ? b.height() - 1 - y : x;
        unlike += test::value(a, 0, u, v) != test::value(b, 0, x, y);
      }
    CHECK(unlike == 0);
  }
}

TEST_CASE("YUV becomes RGB by the matrix and range that the film states", "[film]") {
  const test::Scratch scratch;
  // Without colour, luma v in limited range is grey (v - 16) * 255 / 219; in full range it is v.
  test::make_film(scratch / "limited.mkv", {.format = AV_PIX_FMT_YUV444P, .frames = 2});
  test::make_film(scratch / "full.avi", {.codec = "mjpeg", .format = AV_PIX_FMT_YUVJ444P, .frames = 2});
  Film limited(scratch / "limited.mkv"), full(scratch / "full.avi");
  const Image a = limited.read(1, {}), b = full.read(1, {});
  for (int band = 0; band < 3; ++band) {
    CHECK(std::abs(test::value(a, band, 10, 30) - (200 - 16) * 255.0 / 219) < 4);
    CHECK(std::abs(test::value(a, band, 50, 30) - (60 - 16) * 255.0 / 219) < 4);
    CHECK(std::abs(test::value(b, band, 10, 30) - 200) < 4);
  }
  CHECK(limited.info().converted.find("limited") != std::string::npos);
  CHECK(full.info().converted.find("full") != std::string::npos);
  CHECK(limited.notes().size() == 1);  // it does not say its matrix
}

TEST_CASE("a film that is cut short gives its good frames and a sentence", "[film]") {
  const test::Scratch scratch;
  for (const char* name : {"c.mkv", "c.ts", "c.avi"}) {
    INFO(name);
    const bool avi = std::string(name) == "c.avi";
    test::make_film(scratch / name,
                    {.codec = avi ? "mjpeg" : "libx264", .format = avi ? AV_PIX_FMT_YUVJ420P : AV_PIX_FMT_YUV420P});
    fs::resize_file(scratch / name, fs::file_size(scratch / name) * 6 / 10);
    Film film(scratch / name);
    CHECK(film.count() > 15);
    CHECK(film.count() < 58);
    bool said = false;
    for (const std::string& note : film.notes()) said = said || note.find("cut short") != std::string::npos;
    CHECK((said || std::string(name) == "c.ts"));  // a stream has no length to compare with
    for (int k = 0; k < film.count(); ++k) CHECK(spelled(film.read(k, {})) == k);
  }
  // Without its table an MP4 tells nothing.
  test::make_film(scratch / "c.mp4", {});
  fs::resize_file(scratch / "c.mp4", fs::file_size(scratch / "c.mp4") / 2);
  CHECK_THROWS_AS(Film(scratch / "c.mp4"), Error);
}

TEST_CASE("a damaged film never gives a wrong frame for a right one, nor ends the program", "[film]") {
  const test::Scratch scratch;
  FilmWriter writer(scratch / "good.mkv", {{160, 120}, 1, Depth::u8, 0, 25, FilmUse::lossless}, {});
  for (unsigned k = 0; k < 20; ++k) writer.add(test::noise(160, 120, 1, Depth::u8, k));
  writer.finish();
  std::ifstream in(scratch / "good.mkv", std::ios::binary);
  const std::string good{std::istreambuf_iterator<char>(in), {}};
  Film straight(scratch / "good.mkv");
  std::vector<Image> frames;
  for (int k = 0; k < 20; ++k) frames.push_back(straight.read(k, {}));
  std::mt19937 random(9);
  int opened = 0, read = 0, refused = 0;
  for (int round = 0; round < 60; ++round) {
    std::string bad = good;
    for (int i = 0; i < 1 + round % 5; ++i) bad[random() % bad.size()] = static_cast<char>(random());
    std::ofstream(scratch / "bad.mkv", std::ios::binary) << bad;
    try {
      Film film(scratch / "bad.mkv");
      ++opened;
      for (int k = 0; k < film.count(); ++k) {
        try {
          const Image image = film.read(k, {});
          ++read;
          // Frames are told apart by their time, which a changed byte may move: each is one of those that were written.
          bool known = false;
          for (const Image& frame : frames) known = known || test::same_samples(frame, image);
          CHECK(known);
        } catch (const Error&) {
          ++refused;
        }
      }
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
    }
  }
  CHECK(opened > 10);
  CHECK(read > 100);
  INFO(refused);
}

TEST_CASE("what is no film is said so", "[film]") {
  const test::Scratch scratch;
  std::ofstream(scratch / "a.mp4", std::ios::binary) << std::string(
                                                            "\0\0\0\x18"
                                                            "ftypisom",
                                                            12)
                                                     << std::string(300, 'x');
  CHECK_THROWS_AS(Film(scratch / "a.mp4"), Error);
  CHECK_THROWS_AS(read_info(scratch / "a.mp4"), Error);
  CHECK_THROWS_AS(Film(scratch / "none.mp4"), Error);
  // A playlist opens no other file.
  std::ofstream(scratch / "l.mp4") << "ffconcat version 1.0\nfile good.mkv\n";
  CHECK_THROWS_AS(Film(scratch / "l.mp4"), Error);
}

TEST_CASE("written without loss, a film reads back bit for bit", "[film]") {
  const test::Scratch scratch;
  const struct {
    Depth depth;
    int largest;
  } depths[] = {{Depth::u8, 0},   {Depth::u16, 0},    {Depth::u16, 1023}, {Depth::u16, 4095},
                {Depth::u8, 127}, {Depth::u16, 1000}, {Depth::u16, 2047}, {Depth::u16, 16383}};
  for (const auto& [depth, largest] : depths)
    for (const int bands : {1, 3})
      for (const Size size : {Size{160, 120}, Size{37, 23}, Size{16, 16}, Size{17, 301}}) {
        INFO(name_of(depth) << " " << largest << " " << bands << " " << size.width);
        const fs::path path = scratch / "film.mkv";
        fs::remove(path);
        FilmLook look{size, bands, depth, largest, 12.5, FilmUse::lossless};
        FilmWriter writer(path, look, {});
        std::vector<Image> frames;
        for (unsigned k = 0; k < 6; ++k) {
          Image frame = test::noise(size.width, size.height, bands, depth, k);
          if (largest > 0) {
            frame.set_largest(largest);
            for (int b = 0; b < bands; ++b)
              for (int y = 0; y < size.height; ++y)
                for (int x = 0; x < size.width; ++x)
                  if (depth == Depth::u8)
                    frame.row<std::uint8_t>(b, y)[x] &= 127;
                  else
                    frame.row<std::uint16_t>(b, y)[x] =
                        static_cast<std::uint16_t>(frame.row<std::uint16_t>(b, y)[x] % (largest + 1));
          }
          writer.add(frame);
          frames.push_back(std::move(frame));
        }
        CHECK_FALSE(fs::exists(path));
        writer.finish();
        Film film(path);
        REQUIRE(film.count() == 6);
        CHECK(film.time(5) == Approx(5 / 12.5).margin(0.0011));
        for (int k = 0; k < 6; ++k) CHECK(test::same_samples(film.read(k, {}), frames[static_cast<std::size_t>(k)]));
        CHECK(film.read(0, {}).stated_largest() == largest);
      }
}

TEST_CASE("a film for showing looks like its frames; one that cannot be is refused, and leaves nothing", "[film]") {
  const test::Scratch scratch;
  FilmWriter writer(scratch / "show.webm", {{160, 120}, 3, Depth::u8, 0, 25, FilmUse::showing}, {});
  Image frame(160, 120, 3, Depth::u8);
  for (int k = 0; k < 5; ++k) {
    for (int b = 0; b < 3; ++b)
      for (int y = 0; y < 120; ++y)
        for (int x = 0; x < 160; ++x) frame.row<std::uint8_t>(b, y)[x] = static_cast<std::uint8_t>(40 + x + 20 * b);
    writer.add(frame, 0.1 * k);
  }
  writer.finish();
  Film film(scratch / "show.webm");
  REQUIRE(film.count() == 5);
  CHECK(film.time(4) == Approx(0.4).margin(0.002));
  const Image shown = film.read(2, {});
  double worst = 0;
  for (int b = 0; b < 3; ++b)
    for (int x = 5; x < 155; ++x) worst = std::max(worst, std::abs(test::value(shown, b, x, 60) - (40.0 + x + 20 * b)));
  CHECK(worst < 8);
  const auto refused = [&](FilmLook look) {
    CHECK_THROWS_AS(FilmWriter(scratch / "no.mkv", look, {}), Error);
    CHECK_FALSE(fs::exists(scratch / "no.mkv"));
  };
  refused({{20, 20}, 2, Depth::u8, 0, 25, FilmUse::lossless});
  refused({{20, 20}, 1, Depth::f32, 0, 25, FilmUse::lossless});
  refused({{20, 20}, 1, Depth::u16, 0, 25, FilmUse::showing});
  refused({{20, 20}, 1, Depth::u8, 0, 0, FilmUse::lossless});
  refused({{20, 20}, 1, Depth::u8, 0, 0.0005, FilmUse::lossless});
  refused({{20, 20}, 1, Depth::u8, 0, 1001, FilmUse::lossless});
  refused({{20, 3}, 1, Depth::u8, 0, 25, FilmUse::lossless});
  FilmWriter unlike(scratch / "un.mkv", {{20, 20}, 1, Depth::u8, 0, 25, FilmUse::lossless}, {});
  CHECK_THROWS_AS(unlike.add(test::noise(21, 20, 1, Depth::u8)), Error);
  CHECK_THROWS_AS(unlike.finish(), Error);
  FilmWriter close(scratch / "close.mkv", {{20, 20}, 1, Depth::u8, 0, 25, FilmUse::lossless}, {});
  close.add(test::noise(20, 20, 1, Depth::u8), 0);
  CHECK_THROWS_AS(close.add(test::noise(20, 20, 1, Depth::u8), 0.0004), Error);
}

TEST_CASE("a film for showing in grey reads as grey", "[film]") {
  const test::Scratch scratch;
  FilmWriter writer(scratch / "grey.webm", {{64, 48}, 1, Depth::u8, 0, 25, FilmUse::showing}, {});
  Image frame(64, 48, 1, Depth::u8);
  for (int y = 0; y < 48; ++y)
    for (int x = 0; x < 64; ++x) frame.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(20 + 3 * x);
  for (int k = 0; k < 3; ++k) writer.add(frame);
  writer.finish();
  Film film(scratch / "grey.webm");
  const Image shown = film.read(1, {});
  for (int b = 0; b < shown.bands(); ++b)
    for (int x = 4; x < 60; ++x) CHECK(std::abs(test::value(shown, b, x, 20) - (20.0 + 3 * x)) < 8);
}

TEST_CASE("sound that is longer than the pictures makes no film cut short", "[film]") {
  const test::Scratch scratch;
  for (const char* name : {"s.mkv", "s.mov"}) {
    INFO(name);
    test::make_film(scratch / name, {.frames = 25, .seconds_of_sound = 4});
    Film film(scratch / name);
    CHECK(film.count() == 25);
    for (const std::string& note : film.notes()) CHECK(note.find("cut short") == std::string::npos);
    CHECK(spelled(film.read(24, {})) == 24);
  }
}

TEST_CASE("frames of another size than the first are refused by name", "[film]") {
  const test::Scratch scratch;
  test::make_film(scratch / "a.ts", {.frames = 20});
  test::make_film(scratch / "b.ts", {.width = 96, .height = 80, .frames = 20, .millisecond = [](int k) {
                                       return std::int64_t{800 + 40 * k};
                                     }});
  {
    std::ofstream both(scratch / "ab.ts", std::ios::binary);
    for (const char* name : {"a.ts", "b.ts"}) both << std::ifstream(scratch / name, std::ios::binary).rdbuf();
  }
  Film film(scratch / "ab.ts");
  int right = 0, refused = 0;
  for (int k = 0; k < film.count(); ++k) try {
      const Image image = film.read(k, {});
      CHECK(image.width() == 160);
      CHECK(spelled(image) == k);
      ++right;
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
      ++refused;
    }
  CHECK(right >= 18);
  CHECK(refused >= 18);
}
