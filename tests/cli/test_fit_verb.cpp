#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <fstream>

#include "files/picture.h"
#include "tests/cli/bench.h"
#include "tests/two_pictures.h"

// The verb fit, as a process.

using namespace fexel;
using namespace fexel::test;

namespace {

constexpr const char* square =
    "from_x,from_y,to_x,to_y,name,use\n"
    "0,0,10,20,a,true\n100,0,210,20,b,true\n100,100,210,220,c,true\n0,100,10,220,d,true\n"
    "50,50,110,122,e,true\n20,80,55,180,f,false\n";

}  // namespace

TEST_CASE("fit says the transform, its residuals, and what each pair does when it is left out", "[cli]") {
  Bench b;
  const std::string table = b.put("pairs.csv", square);
  const Run made = run({"fit", table, "--model", "affine", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = made.json();
  CHECK(json["model"] == "affine");
  // Four corners at twice the size, and a middle that is 2 px low: by symmetry it moves the offset alone, by 2 / 5.
  CHECK(json["matrix"][0][0].get<double>() == Approx(2));
  CHECK(json["matrix"][0][2].get<double>() == Approx(10));
  CHECK(json["matrix"][1][2].get<double>() == Approx(20.4));
  CHECK(json["matrix"][2][2].get<double>() == 1);
  CHECK(json["rms_px"].get<double>() == Approx(std::sqrt((4 * 0.4 * 0.4 + 1.6 * 1.6) / 5)));
  REQUIRE(json["pairs"].size() == 6);
  CHECK(json["pairs"][4]["name"] == "e");
  CHECK(json["pairs"][4]["dy"].get<double>() == Approx(-1.6));
  CHECK(json["pairs"][4]["distance"].get<double>() == Approx(1.6));
  CHECK(json["pairs"][4]["leave_one_out"].get<double>() == Approx(2));
  CHECK(json["pairs"][4]["outlier"] == false);
  // A pair that is not used has a residual, and nothing to be left out of: 2 x 20 + 10 = 50 for 55.
  CHECK(json["pairs"][5]["dx"].get<double>() == Approx(-5));
  CHECK(json["pairs"][5]["leave_one_out"].is_null());
  CHECK(json["suggested_model"].is_string());
  CHECK(json["warnings"].is_array());

  const Run curved = run({"fit", table, "--model", "thin-plate", "--json"});
  REQUIRE(curved.code == 0);
  CHECK(curved.json()["matrix"].is_null());
  CHECK_FALSE(curved.json()["warnings"].empty());

  // The chain that it writes does the same; pixel centres that count from 0 shift both sides.
  const std::string chain = b.scratch / "fit.fexel.json";
  REQUIRE(run({"fit", table, "--model", "affine", "--chain", chain, "--pixel-origin", "centre0"}).code == 0);
  const Json written = parse_json(read_text(chain));
  CHECK(written["steps"][0]["step"] == "fit");
  CHECK(written["steps"][0]["pairs"][0]["from"] == Json::parse("[0.5,0.5]"));
  CHECK(run({"fit", table, "--model", "affine", "--chain", chain}).code == 2);
}

TEST_CASE("an outlier is named, and degenerate sets are refused with the reason", "[cli]") {
  Bench b;
  std::string many = "from_x,from_y,to_x,to_y\n";
  for (int i = 0; i < 12; ++i) {
    const double x = 80 * (i % 4) + 7 * (i % 3), y = 90 * (i / 4) + 5 * (i % 2), off = 0.3 * ((i * 7) % 5 - 2);
    many += fmt::format("{},{},{},{}\n", x, y, x + 5 + off + (i == 4 ? 40 : 0), y - 3 - off);
  }
  const Run robust = run({"fit", b.put("many.csv", many), "--model", "similarity", "--robust", "--json"});
  REQUIRE(robust.code == 0);
  for (int i = 0; i < 12; ++i) CHECK(robust.json()["pairs"][i]["outlier"] == (i == 4));
  CHECK(robust.json()["suggested_model"] == "translation");

  const auto refused = [&](const std::string& rows, const char* model) {
    const Run result =
        run({"fit", b.put("bad.csv", "from_x,from_y,to_x,to_y,use\n" + rows), "--model", model, "--json"});
    INFO(rows << result.out);
    CHECK(result.code == 2);
    CHECK_FALSE(result.json()["error"]["message"].get<std::string>().empty());
  };
  refused("0,0,1,1,true\n5,5,6,6,true\n", "affine");
  refused("0,0,1,1,true\n0,0,1,1,true\n0,0,1,1,true\n", "affine");
  refused("0,0,1,1,true\n10,10,11,11,true\n20,20,21,21,true\n30,30,31,31,true\n", "affine");
  refused("0,0,1,1,false\n10,10,11,11,false\n20,0,21,1,false\n", "similarity");
  refused("0,0,1,one,true\n", "translation");
  CHECK(run({"fit", b.put("bad.csv", "x,y\n"), "--model", "affine"}).code == 2);
  CHECK(run({"fit", b.put("bad.csv", square), "--model", "elastic"}).code == 2);
  CHECK(run({"fit", (b.scratch / "none.csv").string(), "--model", "affine"}).code != 0);
}

TEST_CASE("fit shows all models, keeps check points out, and names typing mistakes", "[cli]") {
  Bench b;
  std::string rows = "from_x,from_y,to_x,to_y,name\n";
  for (int i = 0; i < 12; ++i) {
    const double x = 90 * (i % 4) + 13 * (i / 4), y = 70 * (i / 4) + 7 * (i % 4);
    // An affine map; the targets of c and d are exchanged.
    const auto to = [](double u, double v) {
      return fmt::format("{},{}", 2 * u + 0.3 * v + 10, 1.5 * v - 0.2 * u + 40);
    };
    const int j = i == 2 ? 3 : i == 3 ? 2 : i;
    rows += fmt::format("{},{},{},{}\n", x, y, to(90 * (j % 4) + 13 * (j / 4), 70 * (j / 4) + 7 * (j % 4)),
                        std::string(1, static_cast<char>('a' + i)));
  }
  const std::string table = b.put("pairs.csv", rows),
                    checks = b.put("checks.csv", "from_x,from_y,to_x,to_y\n100,100,243,170\n0,0,10,40\n");
  const Run made = run({"fit", table, "--model", "affine", "--robust", "--models", "all", "--check", checks, "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = made.json();
  CHECK(json["check"]["pairs"] == 2);
  // One lies on its place, the other 3 px and 0 off: sqrt(9 / 2).
  CHECK(json["check"]["rms_px"].get<double>() == Approx(std::sqrt(((243 - 240) * (243 - 240)) / 2.0)).margin(1e-6));
  CHECK(json["models"].size() == 7);
  int suggested = 0;
  for (const Json& one : json["models"]) suggested += one["suggested"].get<bool>();
  CHECK(suggested == 1);
  CHECK(json["suggested_model"] == "affine");
  REQUIRE(json["mistakes"].size() == 1);
  CHECK(json["mistakes"][0]["what"] == "The targets of c and d are exchanged.");
}

TEST_CASE("fit writes a world file that says where pixels lie, and refuses one that cannot", "[cli]") {
  Bench b;
  const std::string table = b.put("pairs.csv", square), world = b.scratch / "old.pgw";
  REQUIRE(run({"fit", table, "--model", "affine", "--world", world}).code == 0);
  std::ifstream in(world);
  double a = 0, d = 0, bx = 0, e = 0, c = 0, f = 0;
  REQUIRE((in >> a >> d >> bx >> e >> c >> f));
  const Json matrix = run({"fit", table, "--model", "affine", "--json"}).json()["matrix"];
  const auto m = [&](int r, int k) {
    return matrix[static_cast<std::size_t>(r)][static_cast<std::size_t>(k)].get<double>();
  };
  for (const auto& [x, y] : {std::pair(0.5, 0.5), std::pair(33.5, 71.5)}) {
    // The file counts columns and rows from the middle of the first pixel.
    CHECK(a * (x - 0.5) + bx * (y - 0.5) + c == Approx(m(0, 0) * x + m(0, 1) * y + m(0, 2)));
    CHECK(d * (x - 0.5) + e * (y - 0.5) + f == Approx(m(1, 0) * x + m(1, 1) * y + m(1, 2)));
  }
  CHECK(run({"fit", table, "--model", "affine", "--world", world}).code == 2);  // it is there
  const Run refused = run({"fit", table, "--model", "projective", "--world", b.scratch / "p.pgw"});
  CHECK(refused.code == 2);
  CHECK_FALSE(std::filesystem::exists(b.scratch / "p.pgw"));
}

TEST_CASE("fit proposes pairs between two pictures, and says where there are none", "[cli]") {
  Bench b;
  constexpr Size size{320, 240};
  const Surface wall(Surface::Kind::discs, 5), other(Surface::Kind::discs, 6);
  const Matrix3 first = camera(size, 500, 500, 0, 1, 0, 0), second = camera(size, 520, 490, 25, 1.2, 10, 40);
  const auto put = [&](const char* name, const Image& seen_there) {
    Image grey(size.width, size.height, 1, Depth::u8);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x)
        grey.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(seen_there.row<float>(0, y)[x]);
    std::vector<Image> pages;
    pages.push_back(std::move(grey));
    const auto path = b.scratch / name;
    write_pictures(path, pages, {Format::png, {}, false, {}});
    return path.string();
  };
  const std::string a = put("a.png", seen(wall, first, size, 3, 1)), c = put("c.png", seen(wall, second, size, 3, 2)),
                    far = put("far.png", seen(other, second, size, 3, 3)), table = b.scratch / "found.csv";
  const Run made =
      run({"fit", a, "--model", "projective", "--reference", c, "--propose", "20", "--table", table, "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = made.json();
  CHECK(json["pairs"].size() >= 8);
  CHECK(json["proposed"]["pairs"].size() == json["pairs"].size());
  const Matrix3 truth = second * first.inverse();
  Matrix3 m;
  for (int r = 0; r < 3; ++r)
    for (int k = 0; k < 3; ++k) m(r, k) = json["matrix"][static_cast<std::size_t>(r)][static_cast<std::size_t>(k)];
  for (const Point p : {Point{60, 60}, Point{160, 120}, Point{250, 180}})
    CHECK(distance(*Map(m).forward(p), *Map(truth).forward(p)) < 0.3);
  CHECK(run({"fit", table, "--model", "projective", "--json"}).code == 0);
  // The chain lays the picture on the reference, and reads back.
  const std::string chain = b.scratch / "laid.fexel.json", out = b.scratch / "out";
  REQUIRE(run({"fit", a, "--model", "projective", "--reference", c, "--propose", "20", "--chain", chain}).code == 0);
  const Json laid = Json::parse(read_text(chain));
  CHECK(laid["steps"][0]["reference"]["file"] == "c.png");
  CHECK(laid["sources"][0]["path"] == "a.png");
  const Run applied = run({"apply", chain, a, "--out", out, "--name", "{stem}"});
  INFO(applied.err);
  REQUIRE(applied.code == 0);
  const Image made_of_it = read_picture(out + "/a.png"), plan = read_picture(c);
  REQUIRE(made_of_it.width() == size.width);
  double squares = 0, count = 0;
  for (int y = 40; y < size.height - 40; ++y)
    for (int x = 60; x < size.width - 60; ++x)
      if (made_of_it.row<std::uint8_t>(0, y)[x] > 0) {
        squares += std::pow(made_of_it.row<std::uint8_t>(0, y)[x] - plan.row<std::uint8_t>(0, y)[x], 2);
        ++count;
      }
  CHECK(count > 10000);
  CHECK(std::sqrt(squares / count) < 8);  // two noises of 3, and what a finer picture shows more
  // The reference and the source are never written over; nothing is written where one of several cannot be.
  std::filesystem::create_directory(b.scratch / "plan");
  std::filesystem::copy_file(c, b.scratch / "plan/a.png");
  const std::string over = b.scratch / "over.fexel.json", plan_there = b.scratch / "plan/a.png";
  REQUIRE(run({"fit", table, "--model", "projective", "--chain", over}).code == 0);
  Json naming = Json::parse(read_text(over));
  naming["steps"][0]["reference"] = {{"file", "plan/a.png"}};
  write_text(over, naming.dump(), true);
  const std::string before = read_text(plan_there);
  CHECK(run({"apply", over, a, "--out", b.scratch / "plan", "--name", "{stem}", "--replace"}).code == 2);
  CHECK(read_text(plan_there) == before);
  CHECK(run({"fit", a, "--model", "projective", "--reference", c, "--propose", "20", "--chain", c, "--replace"}).code ==
        2);
  const std::string fresh = b.scratch / "fresh.csv";
  CHECK(run({"fit", table, "--model", "projective", "--table", fresh, "--chain", chain}).code == 2);
  CHECK_FALSE(std::filesystem::exists(fresh));
  CHECK(run({"fit", a, "--model", "projective", "--reference", far, "--propose", "20"}).code == 1);
  CHECK(run({"fit", a, "--model", "projective", "--propose", "20"}).code == 2);
  CHECK(run({"fit", table, "--model", "projective", "--reference", c}).code == 2);
}
