// Which directories of a TIFF file are its pages, made by the library itself.
#include <catch2/catch.hpp>
#include <fstream>

#include "base/error.h"
#include "files/picture.h"
#include "tests/support.h"
#include "tests/tiff_maker.h"

using namespace fexel;

TEST_CASE("thumbnails and overviews are no pages", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "o.tif";
  const auto page = [&](TIFF* tiff, int side, int level, std::uint32_t kind) {
    test::say_kind(tiff, {.width = side, .height = side});
    TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, kind);
    std::vector<std::uint8_t> row(static_cast<std::size_t>(side), static_cast<std::uint8_t>(level));
    for (int y = 0; y < side; ++y) TIFFWriteScanline(tiff, row.data(), static_cast<std::uint32_t>(y), 0);
    TIFFWriteDirectory(tiff);
  };
  for (const bool thumbnail_first : {false, true}) {
    TIFF* tiff = TIFFOpen(path.c_str(), "w");
    if (thumbnail_first) page(tiff, 8, 1, FILETYPE_REDUCEDIMAGE);
    page(tiff, 64, 100, 0);
    page(tiff, 32, 2, FILETYPE_REDUCEDIMAGE);
    page(tiff, 64, 3, FILETYPE_MASK);
    page(tiff, 64, 200, FILETYPE_PAGE);
    TIFFClose(tiff);
    const FileInfo info = read_info(path);
    CHECK(info.frames == 2);
    CHECK(info.width == 64);
    CHECK(test::value(read_picture(path, 1), 0, 5, 5) == 100);
    CHECK(test::value(read_picture(path, 2), 0, 5, 5) == 200);
    CHECK(
        std::ranges::any_of(info.readings, [](const auto& one) { return one.find("left out") != std::string::npos; }));
  }
  // Where there is nothing else, they are.
  TIFF* tiff = TIFFOpen(path.c_str(), "w");
  page(tiff, 8, 7, FILETYPE_REDUCEDIMAGE);
  TIFFClose(tiff);
  CHECK(test::value(read_picture(path), 0, 5, 5) == 7);
}

TEST_CASE("a stack under one directory has the pages that its description counts", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "long.tif";
  for (const bool high_first : {false, true}) {
    TIFF* tiff = test::new_tiff(path, {.width = 20, .height = 10, .bits = 16, .mode = high_first ? "wb" : "wl"});
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 10);
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, "made here\nimages=6\nslices=6\n");
    std::vector<std::uint16_t> first(200, 1000);
    TIFFWriteEncodedStrip(tiff, 0, first.data(), 400);
    TIFFClose(tiff);
    // The directory may stand before the samples or behind them: pictures follow the first one's samples.
    std::string bytes;
    {
      std::ifstream in(path, std::ios::binary);
      bytes.assign(std::istreambuf_iterator<char>(in), {});
    }
    TIFF* again = TIFFOpen(path.c_str(), "r");
    const auto at = static_cast<std::size_t>(TIFFGetStrileOffset(again, 0));
    TIFFClose(again);
    // Samples at the end: what is behind them moves before.
    CHECK(at == 8);
    std::string followers;
    for (int k = 0; k < 6; ++k)
      for (int i = 0; i < 200; ++i) {
        const int v = 1000 + 100 * k + i;
        followers += static_cast<char>(high_first ? v >> 8 : v);
        followers += static_cast<char>(high_first ? v : v >> 8);
      }
    // The one strip is said to begin behind all else.
    const auto set = [&](std::size_t place, std::uint32_t value) {
      for (int i = 0; i < 4; ++i)
        bytes[place + static_cast<std::size_t>(i)] = static_cast<char>(value >> (8 * (high_first ? 3 - i : i)));
    };
    const auto get = [&](std::size_t place, int count) {
      std::uint32_t v = 0;
      for (int i = 0; i < count; ++i)
        v |= static_cast<std::uint32_t>(static_cast<unsigned char>(bytes[place + static_cast<std::size_t>(i)]))
             << (8 * (high_first ? count - 1 - i : i));
      return v;
    };
    const std::size_t directory = get(4, 4);
    for (std::uint32_t i = 0; i < get(directory, 2); ++i)
      if (get(directory + 2 + 12 * i, 2) == 273)
        set(directory + 2 + 12 * i + 8, static_cast<std::uint32_t>(bytes.size()));
    bytes += followers;
    std::ofstream(path, std::ios::binary) << bytes;
    CHECK(read_info(path).frames == 6);
    for (const int k : {0, 3, 5}) {
      const Image page = read_picture(path, k + 1);
      for (const int i : {0, 7, 199}) CHECK(test::value(page, 0, i % 20, i / 20) == 1000 + 100 * k + i);
    }
    std::ofstream(path, std::ios::binary) << bytes.substr(0, bytes.size() - 900);
    CHECK_THROWS_AS(read_info(path), Error);
    CHECK(read_info(path, {.salvage = true}).frames == 3);
  }
}

TEST_CASE("a description that counts pictures is believed only of samples that stand so, and goes on to no result",
          "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "d.tif";
  const auto make = [&](const std::string& description) {
    TIFF* tiff = test::new_tiff(path, {.width = 6, .height = 4});
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, description.c_str());
    TIFFSetField(tiff, TIFFTAG_ARTIST, "A. Person");
    // Two rows a strip, the second one longer than its rows: what is behind it is no picture.
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 2);
    std::vector<std::uint8_t> bytes(200, 9);
    TIFFWriteRawStrip(tiff, 0, bytes.data(), 12);
    TIFFWriteRawStrip(tiff, 1, bytes.data(), 40);
    TIFFClose(tiff);
  };
  for (const char* description : {"images=3\n", "made here\nimages=3", "<OME><Image/></OME>"}) {
    INFO(description);
    make(description);
    CHECK(read_info(path).frames == 1);
    WriteOptions how;
    how.attached = read_attached(path, 1);
    how.compress = false;
    how.replace = true;
    write_pictures(scratch / "out.tif", test::one_page(test::noise(5, 4, 1, Depth::u8)), how);
    CHECK(read_description(scratch / "out.tif").empty());
    CHECK(read_info(scratch / "out.tif").frames == 1);
    CHECK_FALSE(how.attached.camera.empty());
  }
  make("a bench, third day");
  WriteOptions how;
  how.attached = read_attached(path, 1);
  how.replace = true;
  write_pictures(scratch / "out.tif", test::one_page(test::noise(5, 4, 1, Depth::u8)), how);
  CHECK(read_description(scratch / "out.tif") == "a bench, third day");
}
