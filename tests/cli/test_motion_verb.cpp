#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <sstream>

#include "files/picture.h"
#include "tests/cli/bench.h"
#include "tests/grain_scene.h"
#include "tests/motion_scene.h"

// The verb motion, as a process.

using namespace fexel;
using namespace fexel::test;

namespace {

struct MotionBench : Bench {
  std::string frames;
  explicit MotionBench(int count = 4) {
    frames = (scratch / "frames").string();
    std::filesystem::create_directories(frames);
    const Speckle surface(11);
    for (int k = 0; k < count; ++k) {
      std::vector<Image> pages;
      pages.push_back(moved_frame(
          220, 200, surface,
          [k](Point p) {
            return Point{0.6 * k + 0.002 * k * (p.x - 110), -0.3 * k};
          },
          2, static_cast<unsigned>(k + 1), Depth::u8));
      write_pictures(fmt::format("{}/frame-{}.tif", frames, k + 1), pages, {});
    }
  }
};

std::vector<std::vector<std::string>> rows_of(const std::string& csv) {
  std::vector<std::vector<std::string>> out;
  std::istringstream lines(csv);
  for (std::string line; std::getline(lines, line);) {
    out.emplace_back();
    std::istringstream cells(line + ",");
    for (std::string cell; std::getline(cells, cell, ',');) out.back().push_back(cell);
  }
  return out;
}

}  // namespace

TEST_CASE("motion writes a table whose displacements are those of the frames", "[cli][motion]") {
  MotionBench b;
  const std::string out = (b.scratch / "m.csv").string();
  const Run made =
      run({"motion", b.frames, "--out", out, "--spacing", "20", "--size", "21", "--strain", "3", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = made.json();
  REQUIRE(json["fields"].size() == 3);
  CHECK(json["fields"][2]["frame"] == 4);
  CHECK(json["fields"][0]["points"]["ok"].get<int>() > 30);
  CHECK(json["gauge_length_px"][0] == 61);
  const auto rows = rows_of(read_text(out));
  CHECK(rows[0][0] == "frame");
  std::size_t count = 0;
  for (std::size_t i = 1; i < rows.size(); ++i) {
    const int k = std::stoi(rows[i][0]) - 1;
    const double x = std::stod(rows[i][1]);
    if (rows[i][6] != "ok") continue;
    ++count;
    CHECK(std::abs(std::stod(rows[i][3]) - (0.6 * k + 0.002 * k * (x - 110))) < 0.1);
    CHECK(std::abs(std::stod(rows[i][4]) + 0.3 * k) < 0.1);
  }
  CHECK(count > 100);
  // Pixel centres that count from 0 move the places, and not the displacements.
  const std::string shifted = (b.scratch / "c.csv").string();
  REQUIRE(run({"motion", b.frames, "--out", shifted, "--spacing", "20", "--size", "21", "--strain", "3",
               "--pixel-origin", "centre0"})
              .code == 0);
  const auto other = rows_of(read_text(shifted));
  CHECK(std::stod(other[1][1]) == Approx(std::stod(rows[1][1]) - 0.5));
  CHECK(other[1][3] == rows[1][3]);
}

TEST_CASE("parts that are merged are the whole, for every way of matching", "[cli][motion]") {
  MotionBench b(6);
  const std::string against = GENERATE("first", "neighbour", "pairs");
  const auto path = [&](const char* name) { return (b.scratch / name).string(); };
  const std::vector<std::string> plain{"motion", b.frames, "--spacing", "20", "--against", against, "--quiet"};
  const auto with = [&](std::vector<std::string> more) {
    std::vector<std::string> all = plain;
    all.insert(all.end(), more.begin(), more.end());
    return run(all);
  };
  REQUIRE(with({"--out", path("whole.csv")}).code == 0);
  REQUIRE(with({"--out", path("one.csv"), "--shard", "1/2"}).code == 0);
  REQUIRE(with({"--out", path("two.csv"), "--shard", "2/2"}).code == 0);
  REQUIRE(run({"motion", "--merge", path("two.csv"), path("one.csv"), "--out", path("both.csv")}).code == 0);
  CHECK(read_text(path("both.csv")) == read_text(path("whole.csv")));
  CHECK(run({"motion", "--merge", path("one.csv"), path("one.csv"), "--out", path("twice.csv")}).code == 2);
  CHECK_FALSE(std::filesystem::exists(path("twice.csv")));
}

TEST_CASE("maps and viewers' files are written, rules say what they take, noise is said", "[cli][motion]") {
  MotionBench b;
  const auto path = [&](const char* name) { return (b.scratch / name).string(); };
  const Run made =
      run({"motion", b.frames, "--spacing", "20", "--maps", path("m.tif"), "--vtk", path("vtk"), "--clean",
           "neighbours", "--clean", "correlation:0.9", "--back", "--time-step", "0.5", "--still", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  CHECK(read_info(path("m.tif")).frames == 3);
  CHECK(std::filesystem::exists(path("vtk") + "/frame-0002.vtk"));
  CHECK_THAT(read_text(path("vtk") + "/frame-0002.vtk"), Catch::Contains("VECTORS velocity"));
  const Json json = made.json();
  CHECK(json["fields"][0]["clean"].size() == 2);
  CHECK(json["fields"][0]["clean"][0]["rule"] == "neighbours");
  CHECK(json["still"]["points"].get<int>() > 30);
  const Run trial = run({"motion", b.frames, "--trial", "--json"});
  REQUIRE(trial.code == 0);
  CHECK(trial.json()["rms_px"].get<double>() < 0.05);
}

TEST_CASE("a wrong call of motion says what is wrong, and writes nothing", "[cli][motion]") {
  MotionBench b;
  const std::string out = (b.scratch / "m.csv").string();
  const std::vector<std::vector<std::string>> wrong{
      {"--size", "20"},         {"--size", "x"},       {"--spacing", "0"},      {"--region", "1,2,3"},
      {"--region", "1,1 2,2"},  {"--clean", "much"},   {"--clean", "noise:-1"}, {"--shard", "3/2"},
      {"--strain", "4"},        {"--against", "last"}, {"--method", "waves"},   {"--time-step", "0"},
      {"--passes", "1"},        {"--mean", "x.csv"},   {"--background", "sum"}, {"--region", "0,0,5,5"},
      {"--mask", "nothing.png"}};
  for (const auto& more : wrong) {
    std::vector<std::string> all{"motion", b.frames, "--out", out};
    all.insert(all.end(), more.begin(), more.end());
    const Run made = run(all);
    CAPTURE(more[0], more[1], made.err);
    CHECK(made.code != 0);
    CHECK_FALSE(made.err.empty());
    CHECK_FALSE(std::filesystem::exists(out));
  }
  CHECK(run({"motion", b.frames + "/frame-1.tif", "--out", out}).code == 2);
  for (const std::vector<std::string>& more :
       std::vector<std::vector<std::string>>{{"--size", "31"},
                                             {"--size", "32,64"},
                                             {"--ensemble", "--passes", "0"},
                                             {"--ensemble", "--shard", "1/2"},
                                             {"--ensemble", "--mean", "mean.csv"},
                                             {"--ensemble", "--against", "first"}}) {
    std::vector<std::string> all{"motion", b.frames, "--out", out, "--method", "window"};
    all.insert(all.end(), more.begin(), more.end());
    CAPTURE(more[0]);
    CHECK(run(all).code != 0);
    CHECK_FALSE(std::filesystem::exists(out));
  }
  // A limit that a part proposes is not one of the whole; two results cannot have one name.
  CHECK(run({"motion", b.frames, "--out", out, "--clean", "neighbours", "--shard", "1/2"}).code == 2);
  CHECK(run({"motion", b.frames, "--out", out, "--maps", out}).code == 2);
  CHECK_FALSE(std::filesystem::exists(out));
  // A frame is never written over.
  CHECK(run({"motion", b.frames, "--out", b.frames + "/frame-1.tif", "--replace"}).code == 2);
}

TEST_CASE("a flow is measured in pairs, with its mean; windows are proposed", "[cli][motion]") {
  const test::Scratch scratch;
  test::GrainScene scene;
  scene.width = scene.height = 256;
  scene.per_pixel = 10.0 / 1024;
  scene.light = 180;
  const auto flow = [](Point p) { return Point{2.5 + 0.01 * (p.y - 128), 1}; };
  std::filesystem::create_directories(scratch / "flow");
  for (int pair = 1; pair <= 3; ++pair) {
    auto [a, b] = test::grain_pair(scene, flow, static_cast<unsigned>(pair));
    for (auto& [image, which] : {std::pair(&a, 'a'), std::pair(&b, 'b')}) {
      std::vector<Image> pages;
      pages.push_back(std::move(*image));
      write_pictures(scratch / fmt::format("flow/pour-{}-{}.tif", pair, which), pages, {});
    }
  }
  const auto path = [&](const char* name) { return (scratch / name).string(); };
  const Run made = run({"motion", path("flow"), "--method", "window", "--out", path("m.csv"), "--mean",
                        path("mean.csv"), "--background", "median", "--strain", "3", "--time-step", "0.5", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = made.json();
  CHECK(json["fields"].size() == 3);
  CHECK(json["fields"][0]["frame"] == 2);
  CHECK(json["size"] == 32);
  const auto rows = rows_of(read_text(path("m.csv")));
  const auto column = [&](const char* name) {
    return static_cast<std::size_t>(std::ranges::find(rows[0], name) - rows[0].begin());
  };
  REQUIRE(column("velocity_unit") < rows[0].size());
  int ok = 0;
  for (std::size_t i = 1; i < rows.size(); ++i) {
    if (rows[i][6] != "ok") continue;
    ++ok;
    const double x = std::stod(rows[i][1]), y = std::stod(rows[i][2]);
    const Point truth = flow({x, y});
    CHECK(std::abs(std::stod(rows[i][3]) - truth.x) < 0.3);
    CHECK(std::stod(rows[i][column("vx")]) == Approx(std::stod(rows[i][3]) / 0.5).margin(1e-4));
    CHECK(rows[i][column("velocity_unit")] == "px/s");
    CHECK(std::stod(rows[i][column("peak_ratio")]) > 1);
  }
  CHECK(ok > 400);
  const auto mean = rows_of(read_text(path("mean.csv")));
  CHECK(mean[0][3] == "mean_x");
  CHECK(mean[1][2] == "3");
  const Run proposed = run({"motion", path("flow"), "--method", "window", "--suggest", "--json"});
  REQUIRE(proposed.code == 0);
  CHECK(proposed.json()["grain_diameter_px"].get<double>() == Approx(2.8).epsilon(0.2));
  // One field of all, and its maps open again.
  REQUIRE(run({"motion", path("flow"), "--method", "window", "--ensemble", "--out", path("one.csv"), "--maps",
               path("one.tif")})
              .code == 0);
  CHECK(read_info(path("one.tif")).frames == 1);
  REQUIRE(run({"motion", path("flow"), "--method", "window", "--trial", "--json"}).code == 0);
}
