#include <catch2/catch.hpp>

#include "tests/cli/bench.h"

// The verb measure, as a process.

using namespace fexel;
using namespace fexel::test;

namespace {

/// The rows of a table as lists of cells, without quotes.
std::vector<std::vector<std::string>> table_of(const std::string& csv) {
  std::vector<std::vector<std::string>> out(1, {""});
  bool quoted = false;
  for (const char c : csv) {
    if (c == '"')
      quoted = !quoted;
    else if (c == ',' && !quoted)
      out.back().emplace_back();
    else if (c == '\n' && !quoted)
      out.push_back({""});
    else
      out.back().back() += c;
  }
  out.pop_back();
  return out;
}

double number_of(const std::string& cell) {
  return parse_json(cell).get<double>();
}

constexpr const char* chain_text = R"({"fexel":1,
  "calibration":{"name":"bench","pixel_size":[0.1,0.1],"unit":"mm","uncertainty":0.0002},
  "steps":[{"step":"rotate","degrees":90}],
  "measurements":[
    {"measure":"length","name":"across, \"wide\"","station":0,"points":[[10,20],[90,20]],"expected":0.81,"unit":"cm"},
    {"measure":"rectangle","name":"field","station":0,"points":[[10,10],[30,20]]},
    {"measure":"polygon","name":"crossed","station":0,"points":[[0,0],[50,50],[50,0],[0,50]]},
    {"measure":"profile","name":"bar","station":0,"width":11,"points":[[10,50],[110,50]]}]})";

}  // namespace

TEST_CASE("measure reads every measurement on every input, as a table and as JSON", "[cli]") {
  const Scratch scratch;
  // A light bar from x = 40 to 72, of 200 on 80.
  std::vector<std::string> pictures;
  for (int i = 0; i < 3; ++i) {
    Image image(120, 100, 1, Depth::u8);
    for (int y = 0; y < 100; ++y)
      for (int x = 0; x < 120; ++x) image.row<std::uint8_t>(0, y)[x] = x >= 40 && x < 72 ? 200 : 80;
    pictures.push_back(scratch / ("frame-" + std::to_string(i + 1) + ".png"));
    std::vector<Image> pages;
    pages.push_back(std::move(image));
    write_pictures(pictures.back(), pages, {Format::png, {}, true, {}});
  }
  const std::string chain = scratch / "chain.fexel.json", out = scratch / "table.csv";
  write_text(chain, chain_text, false);
  const Run made = run({"measure", chain, pictures[0], pictures[1], pictures[2], "--out", out});
  INFO(made.err);
  REQUIRE(made.code == 0);
  CHECK_THAT(made.err, Catch::Contains("3 of 12 measurements have no value"));
  const auto table = table_of(read_text(out));
  REQUIRE(table.size() == 13);
  const std::vector<std::string> head(table[0].begin(), table[0].begin() + 10);
  CHECK(head == std::vector<std::string>{"input", "frame", "name", "kind", "value", "unit", "uncertainty", "expected",
                                         "error", "problem"});
  const auto cell = [&](std::size_t row, const std::string& name) {
    const auto at = std::ranges::find(table[0], name);
    REQUIRE(at != table[0].end());
    return table[row][static_cast<std::size_t>(at - table[0].begin())];
  };
  CHECK(cell(1, "input") == pictures[0]);
  CHECK(cell(1, "name") == "across, wide");  // its quotes are doubled in the file
  CHECK(number_of(cell(1, "value")) == Approx(8));
  CHECK(cell(1, "unit") == "mm");
  // 80 px: by placing 0.1 mm x 0.5 x sqrt 2, and by the calibration 80 x 0.0002.
  CHECK(number_of(cell(1, "uncertainty")) == Approx(std::hypot(0.1 * 0.5 * std::sqrt(2), 80 * 0.0002)));
  CHECK(number_of(cell(1, "error")) == Approx(-0.1));
  CHECK(number_of(cell(1, "expected")) == Approx(8.1));  // one unit a row
  CHECK(number_of(cell(2, "covered")) == Approx(1));
  CHECK(number_of(cell(2, "value")) == Approx(2));
  CHECK(cell(2, "unit") == "mm²");
  CHECK(number_of(cell(2, "n")) == Approx(200));
  CHECK(number_of(cell(2, "mean")) == Approx(80));
  CHECK(cell(3, "value").empty());
  CHECK_THAT(cell(3, "problem"), Catch::Contains("cross"));
  CHECK(number_of(cell(4, "edges")) == 2);
  CHECK(number_of(cell(4, "width")) == Approx(3.2).margin(0.003));

  const Run told = run({"measure", chain, pictures[0], "--json", "--station", "0"});
  REQUIRE(told.code == 0);
  const Json json = told.json();
  REQUIRE(json["measurements"].size() == 4);
  CHECK(json["measurements"][0]["value"].get<double>() == Approx(8));
  CHECK(json["measurements"][1]["details"]["perimeter"]["unit"] == "mm");
  CHECK(json["measurements"][2]["value"].is_null());
  CHECK(json["failed"].empty());

  // It is there now; a source is never written; a broken file fails alone.
  CHECK(run({"measure", chain, pictures[0], "--out", out}).code == 2);
  CHECK(run({"measure", chain, pictures[0], "--out", pictures[0], "--replace"}).code == 2);
  const std::string broken = scratch / "broken.png";
  write_text(broken, "no picture", false);
  const Run some = run({"measure", chain, pictures[0], broken, "--json"});
  CHECK(some.code == 1);
  CHECK(some.json()["measurements"].size() == 4);
  CHECK(some.json()["failed"].size() == 1);
}

TEST_CASE("measure refuses chains without measurements, stations that are not there, and unsearched sequences",
          "[cli]") {
  Bench b;
  const std::string none = b.put("none.fexel.json", R"({"fexel":1})");
  CHECK(run({"measure", none, b.picture}).code == 2);
  const std::string some = b.put("some.fexel.json", chain_text);
  CHECK(run({"measure", some, b.picture, "--station", "2"}).code == 2);
  const std::string align = b.put("align.fexel.json", R"({"fexel":1,"steps":[{"step":"align","model":"rigid"}],
    "measurements":[{"measure":"point","station":0,"points":[[1,1]]}]})");
  const Run unsearched = run({"measure", align, b.picture});
  CHECK(unsearched.code == 2);
  CHECK_THAT(unsearched.err, Catch::Contains("searched"));
}
