#include <tiffio.h>

#include <catch2/catch.hpp>
#include <cstdlib>
#include <fstream>

#include "base/error.h"
#include "files/picture.h"
#include "files/safe_file.h"
#include "tests/support.h"

using namespace fexel;

TEST_CASE("every format gives back what was written, sample for sample", "[files]") {
  struct Row {
    Format format;
    int bands;
    Depth depth;
  };
  const Row row =
      GENERATE(Row{Format::tiff, 1, Depth::u8}, Row{Format::tiff, 3, Depth::u16}, Row{Format::tiff, 5, Depth::u16},
               Row{Format::tiff, 1, Depth::f32}, Row{Format::tiff, 5, Depth::f32}, Row{Format::tiff, 4, Depth::u8},
               Row{Format::png, 1, Depth::u8}, Row{Format::png, 3, Depth::u8}, Row{Format::png, 1, Depth::u16},
               Row{Format::png, 3, Depth::u16}, Row{Format::pnm, 1, Depth::u8}, Row{Format::pnm, 3, Depth::u16},
               Row{Format::pfm, 1, Depth::f32}, Row{Format::pfm, 3, Depth::f32});
  const test::Scratch scratch;
  const auto path = scratch / "picture";
  const Image image = test::noise(67, 41, row.bands, row.depth);
  write_pictures(path, test::one_page(image.clone()), {row.format, {}, false, {}});
  const FileInfo info = read_info(path);
  CHECK(info.width == 67);
  CHECK(info.height == 41);
  CHECK(info.bands == row.bands);
  CHECK(info.depth == row.depth);
  CHECK(test::same_samples(read_picture(path), image));
}

TEST_CASE("an alpha band tells which pixels are empty, and what lies there is not seen", "[files]") {
  const Format format = GENERATE(Format::tiff, Format::png);
  const Depth depth = GENERATE(Depth::u8, Depth::u16);
  const int bands = GENERATE(1, 3);
  const test::Scratch scratch;
  Image image = test::noise(40, 30, bands, depth);
  image.make_mask(true);
  for (int y = 8; y < 20; ++y)
    for (int x = 5; x < 31; ++x) image.set_valid(x, y, (x + y) % 11 == 0);
  WriteOptions options;
  options.format = format;
  options.alpha = true;
  write_pictures(scratch / "picture", test::one_page(with_alpha(image)), options);
  const FileInfo info = read_info(scratch / "picture");
  CHECK(info.alpha);
  CHECK(info.bands == bands);
  const Image read = read_picture(scratch / "picture");
  REQUIRE(read.bands() == bands);
  REQUIRE(read.has_mask());
  bool masks = true, kept = true, painted = true;
  for (int y = 0; y < 30; ++y)
    for (int x = 0; x < 40; ++x) {
      masks = masks && read.valid(x, y) == image.valid(x, y);
      // The nearest valid pixels, by whole steps: the empty one has the samples of one of them.
      int nearest = 1000;
      bool found = false;
      for (int pass = 0; pass < 2; ++pass)
        for (int j = 0; j < 30; ++j)
          for (int i = 0; i < 40; ++i) {
            if (!image.valid(i, j)) continue;
            const int steps = std::abs(i - x) + std::abs(j - y);
            if (pass == 0) nearest = std::min(nearest, steps);
            if (pass == 0 || steps != nearest) continue;
            bool same = true;
            for (int band = 0; band < bands; ++band)
              same = same && test::value(read, band, x, y) == test::value(image, band, i, j);
            found = found || same;
          }
      (image.valid(x, y) ? kept : painted) &= found;
    }
  CHECK(masks);
  CHECK(kept);
  CHECK(painted);
}

TEST_CASE("pixel sizes come back from TIFF and PNG, in x and y apart", "[files]") {
  const Format format = GENERATE(Format::tiff, Format::png);
  const test::Scratch scratch;
  const auto path = scratch / "picture";
  write_pictures(path, test::one_page(test::noise(8, 8, 1, Depth::u8)),
                 {format, PixelSize{0.25, 0.5, "mm"}, false, {}});
  const auto size = read_info(path).pixel_size;
  REQUIRE(size);
  CHECK(in_unit(*size, "mm").x == Approx(0.25).epsilon(1e-6));
  CHECK(in_unit(*size, "mm").y == Approx(0.5).epsilon(1e-6));
  write_pictures(scratch / "none", test::one_page(test::noise(8, 8, 1, Depth::u8)), {format, {}, false, {}});
  CHECK_FALSE(read_info(scratch / "none").pixel_size);
}

TEST_CASE("pages of a TIFF are counted and read one by one", "[files]") {
  const test::Scratch scratch;
  std::vector<Image> pages;
  for (unsigned i = 0; i < 3; ++i) pages.push_back(test::noise(20, 10, 1, Depth::u16, i + 1));
  write_pictures(scratch / "stack.tif", pages, {Format::tiff, {}, false, {}});
  CHECK(read_info(scratch / "stack.tif").frames == 3);
  for (int i = 0; i < 3; ++i)
    CHECK(test::same_samples(read_picture(scratch / "stack.tif", i + 1), pages[static_cast<std::size_t>(i)]));
  CHECK_THROWS_AS(read_picture(scratch / "stack.tif", 4), Error);
}

TEST_CASE("a TIFF made by other hands is read: plain, LZW and deflate, interleaved and planar, in tiles, big",
          "[files]") {
  const std::string how =
      GENERATE("-c none", "-c lzw:2", "-c zip:2", "-c zip -p separate", "-c lzw -r 3", "-c none -B",
               "-c none -t -w 32 -l 16", "-c zip:2 -t -w 16 -l 48", "-c none -8", "-c lzw -8 -t -w 64 -l 64");
  const test::Scratch scratch;
  const Depth depth = how.find("separate") == std::string::npos ? Depth::u16 : Depth::u8;  // as far as that tool goes
  const Image image = test::noise(61, 33, 3, depth);
  write_pictures(scratch / "ours.tif", test::one_page(image.clone()), {Format::tiff, {}, false, {}});
  const std::string call =
      "tiffcp " + how + " " + (scratch / "ours.tif").string() + " " + (scratch / "theirs.tif").string();
  REQUIRE(std::system(call.c_str()) == 0);
  CHECK(test::same_samples(read_picture(scratch / "theirs.tif"), image));
}

TEST_CASE("what is written passes the inspection of the formats' own tools", "[files]") {
  const test::Scratch scratch;
  write_pictures(scratch / "a.tif", test::one_page(test::noise(61, 33, 5, Depth::f32)),
                 {Format::tiff, PixelSize{0.1, 0.1, "mm"}, false, {}});
  write_pictures(scratch / "a.png", test::one_page(test::noise(61, 33, 3, Depth::u16)),
                 {Format::png, PixelSize{0.1, 0.1, "mm"}, false, {}});
  CHECK(std::system(
            ("tiffinfo " + (scratch / "a.tif").string() + " > " + (scratch / "said").string() + " 2>&1").c_str()) == 0);
  const std::string said = read_text(scratch / "said");
  CHECK(said.find("Warning") == std::string::npos);
  CHECK(said.find("Resolution: 100, 100 pixels/cm") != std::string::npos);
  CHECK(std::system(("pngcheck -q " + (scratch / "a.png").string()).c_str()) == 0);
}

TEST_CASE("a source is never written over, by whatever name", "[files]") {
  const test::Scratch scratch;
  const auto source = scratch / "source.png";
  write_pictures(source, test::one_page(test::noise(8, 8, 1, Depth::u8)), {Format::png, {}, false, {}});
  std::filesystem::create_symlink(source, scratch / "alias.png");
  std::filesystem::create_hard_link(source, scratch / "twin.png");
  const std::string before = checksum(source);
  auto keep = std::make_shared<ProtectedPaths>();
  keep->add(source, "the source");
  for (const char* name : {"source.png", "alias.png", "twin.png", "./source.png"}) {
    CHECK_THROWS_WITH(
        write_pictures(scratch / name, test::one_page(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, true, keep}),
        Catch::Contains("source"));
  }
  CHECK(checksum(source) == before);
}

TEST_CASE("an existing file is kept unless it may be replaced", "[files]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.png";
  write_pictures(path, test::one_page(test::noise(8, 8, 1, Depth::u8)), {Format::png, {}, false, {}});
  CHECK_THROWS_WITH(write_pictures(path, test::one_page(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, false, {}}),
                    Catch::Contains("kept"));
  CHECK(read_info(path).width == 8);
  write_pictures(path, test::one_page(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, true, {}});
  CHECK(read_info(path).width == 9);
  CHECK(scratch.entries() == 1);
}

TEST_CASE("a file that is not finished is not there", "[files]") {
  const test::Scratch scratch;
  {
    SafeFile file(scratch / "half.tif", false);
    file.write("some bytes", 10);
  }
  CHECK(scratch.entries() == 0);
  std::stop_source stop;
  stop.request_stop();
  CHECK_THROWS_AS(write_pictures(scratch / "half.tif", test::one_page(test::noise(100, 100, 1, Depth::u8)),
                                 {Format::tiff, {}, false, {}}, {stop.get_token(), {}}),
                  Error);
  CHECK(scratch.entries() == 0);
}

TEST_CASE("what a format cannot hold is refused before anything is written", "[files]") {
  const test::Scratch scratch;
  CHECK_THROWS_AS(
      write_pictures(scratch / "a", test::one_page(test::noise(8, 8, 5, Depth::u8)), {Format::png, {}, false, {}}),
      Error);
  CHECK_THROWS_AS(
      write_pictures(scratch / "a", test::one_page(test::noise(8, 8, 1, Depth::f32)), {Format::png, {}, false, {}}),
      Error);
  CHECK_THROWS_AS(
      write_pictures(scratch / "a", test::one_page(test::noise(8, 8, 2, Depth::u8)), {Format::pnm, {}, false, {}}),
      Error);
  CHECK_THROWS_AS(
      write_pictures(scratch / "a", test::one_page(test::noise(8, 8, 1, Depth::u8)), {Format::pfm, {}, false, {}}),
      Error);
  // Four bands in a PNG would come back as three and an alpha band.
  CHECK_THROWS_AS(
      write_pictures(scratch / "a", test::one_page(test::noise(8, 8, 4, Depth::u8)), {Format::png, {}, false, {}}),
      Error);
  CHECK(scratch.entries() == 0);
}

TEST_CASE("a missing folder is said", "[files]") {
  const test::Scratch scratch;
  CHECK_THROWS_WITH(write_pictures(scratch / "no" / "a.tif", test::one_page(test::noise(8, 8, 1, Depth::u8)),
                                   {Format::tiff, {}, false, {}}),
                    Catch::Contains("does not exist"));
}

TEST_CASE("the checksum is that of the standard", "[files]") {
  const test::Scratch scratch;
  write_text(scratch / "abc", "abc", false);
  CHECK(checksum(scratch / "abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

TEST_CASE("a JPEG holds grey and RGB of 8 bits, with a pixel size as exact as any", "[files]") {
  const int bands = GENERATE(1, 3);
  const test::Scratch scratch;
  Image image(97, 61, bands, Depth::u8);
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 61; ++y)
      for (int x = 0; x < 97; ++x)
        image.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(128 + 60 * std::sin(0.1 * x + 0.07 * y + band));
  write_pictures(scratch / "a.jpg", test::one_page(image.clone()),
                 {Format::jpeg, PixelSize{0.3, 0.7, "mm"}, false, {}, 95});
  const FileInfo info = read_info(scratch / "a.jpg");
  CHECK(info.format == "jpeg");
  CHECK(info.width == 97);
  CHECK(info.height == 61);
  CHECK(info.bands == bands);
  REQUIRE(info.pixel_size);
  CHECK(info.pixel_size->x == Approx(0.3).epsilon(1e-6));
  CHECK(info.pixel_size->y == Approx(0.7).epsilon(1e-6));
  const Image back = read_picture(scratch / "a.jpg");
  double worst = 0;
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 61; ++y)
      for (int x = 0; x < 97; ++x)
        worst = std::max(worst, std::abs(test::value(back, band, x, y) - test::value(image, band, x, y)));
  CHECK(worst < 6);
  // Less quality makes a smaller file; without a pixel size none is made up.
  write_pictures(scratch / "b.jpg", test::one_page(image.clone()), {Format::jpeg, {}, false, {}, 30});
  CHECK(std::filesystem::file_size(scratch / "b.jpg") < std::filesystem::file_size(scratch / "a.jpg"));
  CHECK_FALSE(read_info(scratch / "b.jpg").pixel_size);
  CHECK_THROWS_WITH(write_pictures(scratch / "c.jpg", test::one_page(test::noise(8, 8, 1, Depth::u16)),
                                   {Format::jpeg, {}, false, {}}),
                    Catch::Contains("--depth u8"));
}

TEST_CASE("a JPEG that is cut short is refused", "[files]") {
  const test::Scratch scratch;
  write_pictures(scratch / "a.jpg", test::one_page(test::noise(64, 64, 3, Depth::u8)), {Format::jpeg, {}, false, {}});
  std::string bytes = read_text(scratch / "a.jpg");
  bytes.resize(bytes.size() / 2);
  std::ofstream(scratch / "cut.jpg", std::ios::binary) << bytes;
  CHECK_THROWS_WITH(read_picture(scratch / "cut.jpg"), Catch::Contains("cut short"));
}

TEST_CASE("the orientation tag is applied once", "[files]") {
  // The stored rows and columns of a 3 x 2 picture of which the upright one is abc / def, by the tag's definition.
  const auto [tag, stored] = GENERATE(table<int, std::string>({{1, "abc/def"},
                                                               {2, "cba/fed"},
                                                               {3, "fed/cba"},
                                                               {4, "def/abc"},
                                                               {5, "ad/be/cf"},
                                                               {6, "cf/be/ad"},
                                                               {7, "fc/eb/da"},
                                                               {8, "da/eb/fc"}}));
  const test::Scratch scratch;
  const int width = tag < 5 ? 3 : 2, height = tag < 5 ? 2 : 3;
  Image image(width, height, 1, Depth::u8);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      image.row<std::uint8_t>(0, y)[x] =
          static_cast<std::uint8_t>(stored[static_cast<std::size_t>(y * (width + 1) + x)]);
  write_pictures(scratch / "a.tif", test::one_page(std::move(image)),
                 {Format::tiff, PixelSize{0.5, 0.25, "mm"}, false, {}});
  const std::string call = "tiffset -s 274 " + std::to_string(tag) + " " + (scratch / "a.tif").string();
  REQUIRE(std::system(call.c_str()) == 0);
  const FileInfo info = read_info(scratch / "a.tif");
  CHECK(info.orientation == tag);
  CHECK(info.width == 3);
  CHECK(info.height == 2);
  CHECK(info.pixel_size->x == Approx(tag < 5 ? 0.5 : 0.25));
  const Image upright = read_picture(scratch / "a.tif");
  std::string text;
  for (int y = 0; y < 2; ++y)
    for (int x = 0; x < 3; ++x) text += static_cast<char>(upright.row<std::uint8_t>(0, y)[x]);
  CHECK(text == "abcdef");
  // What is written from it stands upright and says so.
  write_pictures(scratch / "b.tif", test::one_page(upright.clone()), {Format::tiff, {}, false, {}});
  CHECK(read_info(scratch / "b.tif").orientation == 1);
}

TEST_CASE("a camera's JPEG is laid upright, and its 72 dots an inch are not believed", "[files]") {
  const test::Scratch scratch;
  Image image(32, 16, 1, Depth::u8);
  for (int y = 0; y < 16; ++y)
    for (int x = 0; x < 32; ++x) image.row<std::uint8_t>(0, y)[x] = x < 16 ? 20 : 220;
  write_pictures(scratch / "a.jpg", test::one_page(std::move(image)), {Format::jpeg, {}, false, {}});
  // An Exif segment by hand: orientation 6, and 72/1 as resolution in inches.
  std::string tiff("II*\0\x08\0\0\0\x03\0", 10);
  tiff += std::string("\x12\x01\x03\0\x01\0\0\0\x06\0\0\0", 12);  // 274, short, 1 value: 6
  tiff += std::string("\x1a\x01\x05\0\x01\0\0\0\x32\0\0\0", 12);  // 282, fraction, at byte 50
  tiff += std::string("\x1b\x01\x05\0\x01\0\0\0\x32\0\0\0", 12);  // 283, the same
  tiff += std::string(4, '\0') + std::string("\x48\0\0\0\x01\0\0\0", 8);
  const std::string segment = std::string("Exif\0\0", 6) + tiff;
  std::string bytes = read_text(scratch / "a.jpg");
  const auto length = static_cast<char>(segment.size() + 2);
  bytes.insert(2, std::string("\xff\xe1\0", 3) + length + segment);
  std::ofstream(scratch / "b.jpg", std::ios::binary) << bytes;
  const FileInfo info = read_info(scratch / "b.jpg");
  CHECK(info.orientation == 6);
  CHECK(info.width == 16);
  CHECK(info.height == 32);
  CHECK_FALSE(info.pixel_size);
  // Tag 6: the stored left column is the upper row; dark above, bright below.
  const Image upright = read_picture(scratch / "b.jpg");
  CHECK(test::value(upright, 0, 8, 4) == Approx(20).margin(3));
  CHECK(test::value(upright, 0, 8, 28) == Approx(220).margin(3));
}

TEST_CASE("a printing density is offered, and is a scale only in what Fexel or a scanner wrote", "[files]") {
  const test::Scratch scratch;
  const auto written = [&](const char* name, Format format) {
    write_pictures(scratch / name, test::one_page(test::noise(32, 16, 1, Depth::u8)),
                   {format, PixelSize{25.4 / 300, 25.4 / 300, "mm"}, true, {}});
    return scratch / name;
  };
  for (const auto& [name, format] :
       {std::pair{"a.tif", Format::tiff}, std::pair{"a.png", Format::png}, std::pair{"a.jpg", Format::jpeg}}) {
    const auto path = written(name, format);
    const FileInfo own = read_info(path);
    INFO(name);
    REQUIRE(own.pixel_size);
    CHECK(own.pixel_size->x == Approx(25.4 / 300).epsilon(1e-3));
    CHECK_FALSE(own.density);
    // The same file by another hand.
    std::string bytes = read_text(path);
    for (auto at = bytes.find("Fexel"); at != std::string::npos; at = bytes.find("Fexel"))
      bytes.replace(at, 5, "Other");
    if (format == Format::png) {  // whose sums tell a changed name
      const auto at = bytes.find("Software");
      bytes.erase(at - 8, 4 + 4 + 14 + 4);
      // And without the scale of what is shown, which only who knows it writes.
      const auto scale = bytes.find("sCAL");
      bytes.erase(scale - 4, static_cast<unsigned char>(bytes[scale - 1]) + 12U);
    }
    std::ofstream(path, std::ios::binary) << bytes;
    const FileInfo others = read_info(path);
    CHECK_FALSE(others.pixel_size);
    REQUIRE(others.density);
    CHECK(25.4 / others.density->x == Approx(300).epsilon(1e-3));
  }
}

TEST_CASE("a PNG's pixel size comes back as it was written, large and small", "[files]") {
  const test::Scratch scratch;
  for (const double mm : {12.0, 0.37, 250.0, 6.6e-4, 1e-6}) {
    write_pictures(scratch / "a.png", test::one_page(test::noise(8, 6, 1, Depth::u8)),
                   {Format::png, PixelSize{mm, 1.5 * mm, "mm"}, true, {}});
    const FileInfo info = read_info(scratch / "a.png");
    REQUIRE(info.pixel_size);
    CHECK(info.pixel_size->x == Approx(mm).epsilon(1e-9));
    CHECK(info.pixel_size->y == Approx(1.5 * mm).epsilon(1e-9));
    CHECK(std::system(("pngcheck -q " + (scratch / "a.png").string()).c_str()) == 0);
  }
}
