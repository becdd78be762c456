#include <fmt/format.h>

#include <catch2/catch.hpp>

#include "tests/cli/bench.h"
#include "tests/grid_scene.h"

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

namespace {

GridCamera board_camera(int view) {
  GridCamera camera;
  camera.focal = 720;
  camera.cx = 331;
  camera.cy = 236;
  camera.k1 = -0.18;
  camera.pose(32, 85.0 * view + 20, 8.0 * view, {0, 0, 0});
  camera.place = Eigen::Vector3d(0, 0, camera.focal / 44) - camera.turn.col(0) * 4 - camera.turn.col(1) * 3;
  return camera;
}

std::string put_board(const Scratch& scratch, int view) {
  const std::string path = scratch / fmt::format("board-{}.png", view + 1);
  write_pictures(path, one_page(grid_picture(board_camera(view), {}, {1, 2}, static_cast<unsigned>(view + 1))),
                 {Format::png, {}, false, {}});
  return path;
}

}  // namespace

TEST_CASE("calibrate --grid makes a chain that lays the grid square, and says its nodes", "[cli]") {
  const Scratch scratch;
  const std::string board = put_board(scratch, 0), chain = scratch / "board.fexel.json";
  const Run made = run({"calibrate", board, "--grid", "--spacing", "5", "--unit", "mm", "--chain", chain, "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = parse_json(made.out);
  CHECK(json.at("pattern") == "checkerboard");
  CHECK(json.at("columns") == 9);
  CHECK(json.at("rows") == 7);
  CHECK(json.at("nodes") == 63);
  CHECK(json.at("rms_px").get<double>() < 0.03);
  // True nodes, carried by the chain: 5 mm apart, in both directions.
  std::string points = "x,y\n";
  const GridCamera camera = board_camera(0);
  for (int j = 0; j < 7; ++j)
    for (int i = 0; i < 9; ++i) {
      const Point p = camera.seen(i, j);
      points += fmt::format("{:.6f},{:.6f}\n", p.x, p.y);
    }
  const Run traced = run({"trace", chain, board, "--from", "source", "--to", "result"}, points);
  REQUIRE(traced.code == 0);
  std::vector<Point> at;
  for (std::size_t line = traced.out.find('\n') + 1; line < traced.out.size(); line = traced.out.find('\n', line) + 1) {
    Point p;
    REQUIRE(std::sscanf(traced.out.c_str() + line, "%lf,%lf", &p.x, &p.y) == 2);
    at.push_back(p);
  }
  REQUIRE(at.size() == 63);
  const double pixel = json.at("unit_per_pixel").get<double>();
  double worst = 0;
  for (std::size_t j = 0; j < 7; ++j)
    for (std::size_t i = 0; i < 9; ++i) {
      if (i + 1 < 9) worst = std::max(worst, std::abs(pixel * distance(at[9 * j + i], at[9 * j + i + 1]) - 5));
      if (j + 1 < 7) worst = std::max(worst, std::abs(pixel * distance(at[9 * j + i], at[9 * j + i + 9]) - 5));
    }
  CHECK(worst < 0.01);
  // Never over what is there, or the source.
  CHECK(run({"calibrate", board, "--grid", "--spacing", "5", "--unit", "mm", "--chain", chain}).code == 2);
  CHECK(run({"calibrate", board, "--grid", "--spacing", "5", "--unit", "mm", "--chain", board, "--replace"}).code == 2);
  CHECK(run({"calibrate", board, "--spacing", "5", "--unit", "mm", "--chain", chain, "--replace"}).code == 2);
}

TEST_CASE("calibrate --grid tells a lens from several pictures, and keeps it in the library", "[cli]") {
  const Library library;
  const Scratch& scratch = library.scratch;
  std::vector<std::string> call{"calibrate"};
  for (int view = 0; view < 4; ++view) call.push_back(put_board(scratch, view));
  const std::string blank = scratch / "blank.png";
  write_pictures(blank, one_page(noise(640, 480, 1, Depth::u8)), {Format::png, {}, false, {}});
  std::vector<std::string> with_blank = call;
  with_blank.push_back(blank);
  for (const char* word : {"--grid", "--spacing", "5", "--unit", "mm", "--json"}) {
    call.emplace_back(word);
    with_blank.emplace_back(word);
  }
  call.insert(call.end(), {"--save", "60 mm", "--lens", "60 mm, no filter"});
  const Run made = run(call);
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = parse_json(made.out);
  CHECK(json.at("views") == 4);
  const double off = std::abs(json.at("focal_px").get<double>() - 720);
  CHECK(off < 4 * json.at("focal_uncertainty_px").get<double>());
  CHECK(off < 2);
  CHECK(std::abs(json.at("terms").at("k1").get<double>() + 0.18) < 0.004);
  CHECK(std::filesystem::exists(scratch / "fexel/lenses/60 mm.lens.json"));
  CHECK(run(call).code == 2);  // that name is taken
  // One picture without a grid is said, and does not stop the others.
  const Run some = run(with_blank);
  CHECK(some.code == 1);
  CHECK(parse_json(some.out).at("failed").size() == 1);
  CHECK(parse_json(some.out).at("views") == 4);
  CHECK(run({"calibrate", call[1], call[2], "--grid", "--spacing", "5", "--unit", "mm"}).code != 0);
  CHECK(run({"calibrate", call[1], "--grid", "--spacing", "5", "--unit", "mm", "--save", "x"}).code == 2);
}
