#include <catch2/catch.hpp>
#include <cstdlib>
#include <fstream>

#include "base/error.h"
#include "files/picture.h"
#include "files/safe_file.h"
#include "tests/support.h"

using namespace fexel;

namespace {

std::vector<Image> one(Image image) {
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  return pages;
}

}  // namespace

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
               Row{Format::png, 3, Depth::u16}, Row{Format::png, 4, Depth::u16}, Row{Format::png, 2, Depth::u8},
               Row{Format::pnm, 1, Depth::u8}, Row{Format::pnm, 3, Depth::u16}, Row{Format::pfm, 1, Depth::f32},
               Row{Format::pfm, 3, Depth::f32});
  const test::Scratch scratch;
  const auto path = scratch / "picture";
  const Image image = test::noise(67, 41, row.bands, row.depth);
  write_pictures(path, one(image.clone()), {row.format, {}, false, {}});
  const FileInfo info = read_info(path);
  CHECK(info.width == 67);
  CHECK(info.height == 41);
  CHECK(info.bands == row.bands);
  CHECK(info.depth == row.depth);
  CHECK(test::same_samples(read_picture(path), image));
}

TEST_CASE("pixel sizes come back from TIFF and PNG, in x and y apart", "[files]") {
  const Format format = GENERATE(Format::tiff, Format::png);
  const test::Scratch scratch;
  const auto path = scratch / "picture";
  write_pictures(path, one(test::noise(8, 8, 1, Depth::u8)), {format, PixelSize{0.25, 0.5, "mm"}, false, {}});
  const auto size = read_info(path).pixel_size;
  REQUIRE(size);
  CHECK(in_unit(*size, "mm").x == Approx(0.25).epsilon(1e-6));
  CHECK(in_unit(*size, "mm").y == Approx(0.5).epsilon(1e-6));
  write_pictures(scratch / "none", one(test::noise(8, 8, 1, Depth::u8)), {format, {}, false, {}});
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

TEST_CASE("a TIFF made by other hands is read: plain, LZW and deflate, interleaved and planar", "[files]") {
  const std::string how =
      GENERATE("-c none", "-c lzw:2", "-c zip:2", "-c zip -p separate", "-c lzw -r 3", "-c none -B");
  const test::Scratch scratch;
  const Depth depth = how.find("separate") == std::string::npos ? Depth::u16 : Depth::u8;  // as far as that tool goes
  const Image image = test::noise(61, 33, 3, depth);
  write_pictures(scratch / "ours.tif", one(image.clone()), {Format::tiff, {}, false, {}});
  const std::string call =
      "tiffcp " + how + " " + (scratch / "ours.tif").string() + " " + (scratch / "theirs.tif").string();
  REQUIRE(std::system(call.c_str()) == 0);
  CHECK(test::same_samples(read_picture(scratch / "theirs.tif"), image));
}

TEST_CASE("what is written passes the inspection of the formats' own tools", "[files]") {
  const test::Scratch scratch;
  write_pictures(scratch / "a.tif", one(test::noise(61, 33, 5, Depth::f32)),
                 {Format::tiff, PixelSize{0.1, 0.1, "mm"}, false, {}});
  write_pictures(scratch / "a.png", one(test::noise(61, 33, 3, Depth::u16)),
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
  write_pictures(source, one(test::noise(8, 8, 1, Depth::u8)), {Format::png, {}, false, {}});
  std::filesystem::create_symlink(source, scratch / "alias.png");
  std::filesystem::create_hard_link(source, scratch / "twin.png");
  const std::string before = checksum(source);
  for (const char* name : {"source.png", "alias.png", "twin.png", "./source.png"}) {
    CHECK_THROWS_WITH(
        write_pictures(scratch / name, one(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, true, {source}}),
        Catch::Contains("source"));
  }
  CHECK(checksum(source) == before);
}

TEST_CASE("an existing file is kept unless it may be replaced", "[files]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.png";
  write_pictures(path, one(test::noise(8, 8, 1, Depth::u8)), {Format::png, {}, false, {}});
  CHECK_THROWS_WITH(write_pictures(path, one(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, false, {}}),
                    Catch::Contains("kept"));
  CHECK(read_info(path).width == 8);
  write_pictures(path, one(test::noise(9, 9, 1, Depth::u8)), {Format::png, {}, true, {}});
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
  CHECK_THROWS_AS(write_pictures(scratch / "half.tif", one(test::noise(100, 100, 1, Depth::u8)),
                                 {Format::tiff, {}, false, {}}, {stop.get_token(), {}}),
                  Error);
  CHECK(scratch.entries() == 0);
}

TEST_CASE("what a format cannot hold is refused before anything is written", "[files]") {
  const test::Scratch scratch;
  CHECK_THROWS_AS(write_pictures(scratch / "a", one(test::noise(8, 8, 5, Depth::u8)), {Format::png, {}, false, {}}),
                  Error);
  CHECK_THROWS_AS(write_pictures(scratch / "a", one(test::noise(8, 8, 1, Depth::f32)), {Format::png, {}, false, {}}),
                  Error);
  CHECK_THROWS_AS(write_pictures(scratch / "a", one(test::noise(8, 8, 2, Depth::u8)), {Format::pnm, {}, false, {}}),
                  Error);
  CHECK_THROWS_AS(write_pictures(scratch / "a", one(test::noise(8, 8, 1, Depth::u8)), {Format::pfm, {}, false, {}}),
                  Error);
  CHECK(scratch.entries() == 0);
}

TEST_CASE("a missing folder is said", "[files]") {
  const test::Scratch scratch;
  CHECK_THROWS_WITH(
      write_pictures(scratch / "no" / "a.tif", one(test::noise(8, 8, 1, Depth::u8)), {Format::tiff, {}, false, {}}),
      Catch::Contains("does not exist"));
}

TEST_CASE("the checksum is that of the standard", "[files]") {
  const test::Scratch scratch;
  write_text(scratch / "abc", "abc", false);
  CHECK(checksum(scratch / "abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}
