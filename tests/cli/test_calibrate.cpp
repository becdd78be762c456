#include <catch2/catch.hpp>

#include "tests/cli/bench.h"

// The verbs calibrate and calibrations, and the calibration that apply and measure take over.

using namespace fexel;
using namespace fexel::test;

namespace {

/// Dark lines, 5 px wide and `pitch` px apart, on light ground; each pixel holds its share of them.
void put_ruler(const std::string& path, double pitch, int width = 400) {
  Image image(width, 160, 1, Depth::u8);
  const Image grain = test::noise(width, 160, 1, Depth::u8);
  for (int y = 0; y < 160; ++y)
    for (int x = 0; x < width; ++x) {
      double share = 0;
      for (int i = 0; i < 16; ++i) {
        const double t = x + (i + 0.5) / 16 - 7.3, d = t - std::floor(t / pitch + 0.5) * pitch;
        share += std::abs(d) < 2.5 ? 1.0 / 16 : 0;
      }
      image.row<std::uint8_t>(0, y)[x] =
          static_cast<std::uint8_t>(200 - 120 * share + grain.row<std::uint8_t>(0, y)[x] / 64.0);
    }
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, {Format::png, {}, true, {}});
}

/// The library of one test.
struct Library {
  Scratch scratch;
  Library() { ::setenv("XDG_DATA_HOME", scratch.path().c_str(), 1); }
  ~Library() { ::unsetenv("XDG_DATA_HOME"); }
};

}  // namespace

TEST_CASE("calibrate finds the lines of a ruler, and keeps the size in the library", "[cli]") {
  Library library;
  const std::string ruler = library.scratch / "ruler.png", flat = library.scratch / "flat.png";
  put_ruler(ruler, 16.4);
  const Run found =
      run({"calibrate", ruler, "--spacing", "0.5", "--unit", "mm", "--save", "bench", "--lens", "60 mm", "--json"});
  INFO(found.err);
  REQUIRE(found.code == 0);
  const Json json = found.json();
  CHECK(json["unit_per_pixel"].get<double>() == Approx(0.5 / 16.4).epsilon(2e-4));
  CHECK(json["pixels_per_unit"].get<double>() == Approx(16.4 / 0.5).epsilon(2e-4));
  CHECK(json["uncertainty"].get<double>() > 0);
  CHECK(json["uncertainty"].get<double>() < 1e-3 * json["unit_per_pixel"].get<double>());
  CHECK(json["lines"].get<int>() >= 20);
  CHECK(std::abs(json["angle_deg"].get<double>()) < 0.1);
  CHECK(json["rms_px"].get<double>() < 0.1);

  const Run list = run({"calibrations", "--json"});
  REQUIRE(list.code == 0);
  REQUIRE(list.json()["calibrations"].size() == 1);
  const Json kept = list.json()["calibrations"][0]["calibration"];
  CHECK(kept["lens"] == "60 mm");
  CHECK(kept["size"] == Json::parse("[400,160]"));
  CHECK_THAT(kept["method"].get<std::string>(), Catch::Contains("ruled target"));

  // Not replaced unasked; a picture without lines is refused with a reason.
  CHECK(run({"calibrate", ruler, "--spacing", "0.5", "--unit", "mm", "--save", "bench"}).code == 2);
  CHECK(run({"calibrate", ruler, "--spacing", "0.25", "--unit", "mm", "--save", "bench", "--replace"}).code == 0);
  std::vector<Image> pages;
  pages.emplace_back(300, 200, 1, Depth::u8);
  write_pictures(flat, pages, {Format::png, {}, true, {}});
  const Run none = run({"calibrate", flat, "--spacing", "1", "--unit", "mm"});
  CHECK(none.code == 1);
  CHECK_THAT(none.err, Catch::Contains("nothing stands out"));
  CHECK(run({"calibrate", ruler, "--spacing", "0", "--unit", "mm"}).code == 2);
  CHECK(run({"calibrate", ruler, "--spacing", "1", "--unit", "furlong"}).code == 2);
  CHECK(run({"calibrate", ruler, "--spacing", "1", "--unit", "mm", "--region", "900,0,5,5"}).code == 2);
}

TEST_CASE("a calibration goes to another place and comes back, and a broken one is named", "[cli]") {
  Library library;
  const std::string ruler = library.scratch / "ruler.png", file = library.scratch / "sent.json";
  put_ruler(ruler, 20);
  REQUIRE(run({"calibrate", ruler, "--spacing", "1", "--unit", "mm", "--save", "stage"}).code == 0);
  REQUIRE(run({"calibrations", "--export", "stage", "--to", file}).code == 0);
  CHECK(run({"calibrations", "--export", "stage", "--to", file}).code == 2);
  REQUIRE(run({"calibrations", "--remove", "stage"}).code == 0);
  CHECK(run({"calibrations", "--json"}).json()["calibrations"].empty());
  REQUIRE(run({"calibrations", "--import", file}).code == 0);
  CHECK(run({"calibrations", "--json"}).json()["calibrations"][0]["name"] == "stage");
  CHECK(run({"calibrations", "--remove", "nothing"}).code == 2);
  CHECK(run({"calibrations", "--remove", "../stage"}).code == 2);

  write_text(library.scratch / "fexel/calibrations/newer.calibration.json",
             R"({"fexel_calibration":7,"calibration":{"pixel_size":[1,1],"unit":"mm"}})", false);
  write_text(library.scratch / "fexel/calibrations/broken.calibration.json", R"({"fexel_calibration":1)", false);
  const Json all = run({"calibrations", "--json"}).json()["calibrations"];
  REQUIRE(all.size() == 3);
  CHECK(all[0]["problem"].is_string());
  CHECK_THAT(all[1]["problem"].get<std::string>(), Catch::Contains("newer"));
  CHECK(all[2].contains("calibration"));
}

TEST_CASE("apply and measure take a calibration by name or file, and say where it does not fit", "[cli]") {
  Library library;
  Bench b;
  const std::string ruler = library.scratch / "ruler.png";
  put_ruler(ruler, 20);
  REQUIRE(run({"calibrate", ruler, "--spacing", "1", "--unit", "mm", "--save", "stage"}).code == 0);
  const std::string chain = b.put("m.fexel.json", R"({"fexel":1,
    "measurements":[{"measure":"length","name":"a","station":0,"points":[[10,20],[110,20]]}]})");
  const Run own = run({"measure", chain, b.picture, "--json"}),
            ours = run({"measure", chain, b.picture, "--json", "--calibration", "stage"});
  CHECK(own.json()["measurements"][0]["value"].get<double>() == Approx(10));
  CHECK(ours.json()["measurements"][0]["value"].get<double>() == Approx(5).epsilon(1e-3));
  const Run applied = run({"apply", b.chain, b.picture, "--out", b.out, "--calibration", "stage"});
  CHECK(applied.code == 0);
  CHECK_THAT(applied.err, Catch::Contains("made for pictures of 400 x 160"));
  const auto info = read_info(b.out + "/photo-turn.png");
  REQUIRE(info.pixel_size);
  CHECK(info.pixel_size->x == Approx(0.05).epsilon(1e-3));
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out, "--replace", "--calibration", "none"}).code == 0);
  const Run missing = run({"apply", b.chain, b.picture, "--out", b.out, "--replace", "--calibration", "stag"});
  CHECK(missing.code == 2);
  CHECK_THAT(missing.err, Catch::Contains("stage"));
}
