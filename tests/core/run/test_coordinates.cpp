#include <fmt/format.h>
#include <tiffio.h>

#include <catch2/catch.hpp>

#include "chain/chain.h"
#include "run/run.h"
#include "tests/support.h"

// Coordinates that results carry: GeoTIFF tags, as the library reads them that knows nothing of them.

using namespace fexel;

namespace {

struct Tags {
  std::vector<double> transformation, numbers;
  std::vector<std::uint16_t> keys;
  std::string text;
};

template <class T>
std::vector<T> values_of(TIFF* tiff, ttag_t tag) {
  std::uint32_t count = 0;
  T* values = nullptr;
  if (TIFFGetField(tiff, tag, &count, &values) == 0) return {};
  return {values, values + count};
}

Tags tags_of(const std::filesystem::path& path) {
  TIFFSetWarningHandler(nullptr);
  TIFF* tiff = TIFFOpen(path.c_str(), "r");
  REQUIRE(tiff);
  Tags out{values_of<double>(tiff, 34264), values_of<double>(tiff, 34736), values_of<std::uint16_t>(tiff, 34735), {}};
  const auto letters = values_of<char>(tiff, 34737);
  out.text.assign(letters.begin(), letters.end());
  TIFFClose(tiff);
  return out;
}

/// Writes what a chain of these steps makes of a file, as a TIFF.
std::filesystem::path write_made(const test::Scratch& scratch, const std::string& steps) {
  const Chain chain = parse_chain(fmt::format(R"({{"fexel":1,"steps":[{}]}})", steps));
  RunOptions options;
  options.folder = scratch.path();
  options.name = "made";
  const RunItem item = plan_run(chain, {scratch / "source.tif"}, options).front();
  run_one(chain, item, options, {});
  return item.target.path;
}

/// What they make of a picture of 60 x 40.
Tags made(const std::string& steps) {
  const test::Scratch scratch;
  std::vector<Image> pages;
  pages.push_back(test::noise(60, 40, 1, Depth::u8));
  write_pictures(scratch / "source.tif", pages, {});
  return tags_of(write_made(scratch, steps));
}

constexpr const char* laid =
    R"({"step":"fit","model":"affine","width":80,"height":50,"unit":"mm","pixel_size":0.25,"pairs":[
      {"from":[0,0],"to":[1,2]},{"from":[60,0],"to":[16,2]},{"from":[60,40],"to":[16,12]},{"from":[0,40],"to":[1,12]}]})";

}  // namespace

TEST_CASE("results of control points in real units carry the plane's coordinates as GeoTIFF tags", "[run]") {
  const Tags tags = made(laid);
  CHECK(tags.transformation == std::vector<double>{0.25, 0, 0, 0, 0, 0.25, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1});
  // Version, revision, then keys in ascending order: user-defined model, pixels are areas, a text, the unit in metres.
  REQUIRE(tags.keys.size() == 24);
  CHECK(std::vector(tags.keys.begin(), tags.keys.begin() + 4) == std::vector<std::uint16_t>{1, 1, 0, 5});
  for (std::size_t k = 8; k < 24; k += 4) CHECK(tags.keys[k] > tags.keys[k - 4]);
  CHECK(tags.keys[7] == 32767);
  CHECK(tags.keys[11] == 1);
  CHECK(tags.keys[14] == tags.text.find('|') + 1);
  CHECK(tags.numbers == std::vector{0.001});
  CHECK(tags.text.find(" mm,") != std::string::npos);
}

TEST_CASE("coordinates follow crops and turns behind the control points, and end at a perspective", "[run]") {
  const Tags cropped = made(std::string(laid) + R"(,{"step":"crop","x":8,"y":4,"width":40,"height":20})");
  CHECK(cropped.transformation[3] == Approx(0.25 * 8));
  CHECK(cropped.transformation[7] == Approx(0.25 * 4));
  // A quarter turn counter-clockwise: column c and row r come from column 80 - r and row c.
  const Tags turned = made(std::string(laid) + R"(,{"step":"rotate","degrees":90})");
  const std::vector<double>& m = turned.transformation;
  REQUIRE(m.size() == 16);
  const auto at = [&](double c, double r) { return Point{m[0] * c + m[1] * r + m[3], m[4] * c + m[5] * r + m[7]}; };
  CHECK(distance(at(0, 0), {20, 0}) < 1e-12);
  CHECK(distance(at(50, 80), {0, 12.5}) < 1e-12);
  const Tags tilted = made(
      std::string(laid) +
      R"(,{"step":"rectify","corners":[[5,5],[70,8],[74,44],[4,40]],"width":70,"height":40,"unit":"mm","pixel_size":1})");
  CHECK(tilted.transformation.empty());
  // Targets in pixels say nothing of a plane.
  const Tags plain = made(R"({"step":"translate","dx":3,"dy":2})");
  CHECK(plain.transformation.empty());
  CHECK(plain.keys.empty());
}

TEST_CASE("every page of a stack carries its coordinates", "[run]") {
  const test::Scratch scratch;
  std::vector<Image> pages;
  for (int i = 0; i < 2; ++i) pages.push_back(test::noise(60, 40, 1, Depth::u16));
  write_pictures(scratch / "source.tif", pages, {});
  const auto path = write_made(scratch, laid);
  TIFF* tiff = TIFFOpen(path.c_str(), "r");
  REQUIRE(tiff);
  int seen = 0;
  do seen += values_of<double>(tiff, 34264).size() == 16;
  while (TIFFReadDirectory(tiff) != 0);
  TIFFClose(tiff);
  CHECK(seen == 2);
  CHECK(read_picture(path, 2).width() == 80);
}
