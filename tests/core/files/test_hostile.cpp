#include <catch2/catch.hpp>
#include <fstream>

#include "base/error.h"
#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;

namespace {

void put(const std::filesystem::path& path, const std::string& bytes) {
  std::ofstream(path, std::ios::binary) << bytes;
}

std::string written(Format format, int bands, Depth depth) {
  const test::Scratch scratch;
  std::vector<Image> pages;
  pages.push_back(test::noise(33, 21, bands, depth));
  write_pictures(scratch / "a", pages, {format, {}, false, {}});
  return read_text(scratch / "a");
}

}  // namespace

TEST_CASE("mutated files are read or refused with a sentence", "[hostile]") {
  const auto format = GENERATE(Format::tiff, Format::png, Format::pnm, Format::pfm, Format::jpeg);
  const test::Scratch scratch;
  const std::string good = written(format, 3,
                                   format == Format::pfm    ? Depth::f32
                                   : format == Format::jpeg ? Depth::u8
                                                            : Depth::u16);
  std::mt19937 random(41);
  const Limits limits{100'000'000, 400'000'000};
  int refused = 0;
  for (int round = 0; round < 500; ++round) {
    std::string bytes = good;
    const int kind = round % 3;
    if (kind == 0) bytes.resize(random() % bytes.size());
    if (kind >= 1)
      for (unsigned i = 0; i < 1 + random() % 8; ++i)
        bytes[kind == 1 ? random() % std::min<std::size_t>(64, bytes.size()) : random() % bytes.size()] =
            static_cast<char>(random());
    put(scratch / "mutant", bytes);
    try {
      read_info(scratch / "mutant", limits);
      read_picture(scratch / "mutant", 1, limits);
    } catch (const Error& error) {
      ++refused;
      CHECK_FALSE(error.message().empty());
      CHECK(error.message().back() == '.');
    }
  }
  CHECK(refused > 50);
}

TEST_CASE("a header that asks for more than the limit is refused before memory is taken", "[hostile]") {
  const test::Scratch scratch;
  put(scratch / "huge.ppm", "P6\n999999999 999999999\n255\n");
  CHECK_THROWS_WITH(read_picture(scratch / "huge.ppm"), Catch::Contains("limit"));
  put(scratch / "zero.pgm", "P5\n0 10\n255\n");
  CHECK_THROWS_AS(read_picture(scratch / "zero.pgm"), Error);
  put(scratch / "short.pgm", "P5\n1000 1000\n255\nabc");
  CHECK_THROWS_WITH(read_picture(scratch / "short.pgm"), Catch::Contains("shorter"));
  put(scratch / "text.png", "this is no picture");
  CHECK_THROWS_WITH(read_picture(scratch / "text.png"), Catch::Contains("not a picture"));
  CHECK_THROWS_WITH(read_picture(scratch / "absent.png"), Catch::Contains("absent.png"));
  CHECK_THROWS_WITH(read_picture(scratch.path()), Catch::Contains("folder"));
}
