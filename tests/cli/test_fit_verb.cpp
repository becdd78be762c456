#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "tests/cli/bench.h"

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
