#include <catch2/catch.hpp>

#include "tests/cli/bench.h"

// What lies beside a result and in it: its record, what verify says of it, and how empty pixels are told.

using namespace fexel;
using namespace fexel::test;

TEST_CASE("a record lies beside the result, and verify makes it again", "[cli]") {
  Bench b;
  const std::string turn =
      b.put("turn.fexel.json", R"({"fexel":1,"steps":[{"step":"rotate","degrees":7,"extent":"grow"}]})");
  REQUIRE(run({"apply", turn, b.picture, "--out", b.out, "--empty", "alpha"}).code == 0);
  const std::string record = b.out + "/photo-turn.png.record.json", result = b.out + "/photo-turn.png";
  const Json told = parse_json(read_text(record));
  CHECK(told.at("sources")[0].at("sha256") == checksum(b.picture));
  CHECK(std::filesystem::weakly_canonical(std::filesystem::path(b.out) /
                                          told.at("sources")[0].at("path").get<std::string>()) ==
        std::filesystem::weakly_canonical(b.picture));
  CHECK(told.at("results")[0].at("sha256") == checksum(result));
  CHECK(told.at("outcome").at("exact") == false);
  CHECK(told.at("outcome").at("empty_share").get<double>() > 0.1);
  CHECK(told.at("chain").at("steps")[0].at("degrees") == 7);
  const Run same = run({"verify", record, "--json"});
  CHECK(same.code == 0);
  CHECK(same.json().at("same") == true);

  // Another chain in the record makes another picture; verify says by how much.
  Json other = told;
  other["chain"]["resample"]["kernel"] = "linear";
  std::filesystem::remove(record);
  write_text(record, other.dump(), false);
  const Run differs = run({"verify", record, "--json"});
  CHECK(differs.code == 1);
  CHECK(differs.json().at("same") == false);
  CHECK(differs.json().at("largest_difference").get<double>() > 1);
  CHECK(differs.json().at("differing_share").get<double>() > 0.01);

  other["chain"]["steps"][0]["degrees"] = "seven";
  std::filesystem::remove(record);
  write_text(record, other.dump(), false);
  const Run wrong = run({"verify", record});
  CHECK(wrong.code == 2);
  CHECK(wrong.err.find("/chain/steps/0/degrees") != std::string::npos);
  CHECK(run({"verify", b.out + "/absent.record.json"}).code == 1);
  std::filesystem::remove(result);
  std::filesystem::remove(record);
  write_text(record, told.dump(), false);
  CHECK(run({"verify", record}).code == 1);
}

TEST_CASE("a result with its background taken off is made again, and not with another background", "[cli]") {
  Bench b;
  std::vector<Image> pages;
  pages.push_back(test::noise(300, 200, 1, Depth::u8, 9));
  write_pictures(b.scratch / "still.png", pages, {});
  const std::string sum = checksum(b.scratch / "still.png");
  const std::string off = b.put(
      "off.fexel.json", R"({"fexel":1,"steps":[{"step":"background","file":"still.png","sha256":")" + sum + R"("}]})");
  REQUIRE(run({"apply", off, b.picture, "--out", b.out}).code == 0);
  const std::string record = b.out + "/photo-off.png.record.json";
  // The record says the name alone; the picture is found beside the source.
  CHECK_THAT(read_text(record), Catch::Contains("\"still.png\"") && !Catch::Contains(b.scratch.path().string()));
  CHECK(run({"verify", record}).code == 0);
  // The background is no target: what a run reads is not written over.
  CHECK(run({"apply", off, b.picture, "--out", (b.scratch / "still.png").string(), "--replace"}).code != 0);
  CHECK(checksum(b.scratch / "still.png") == sum);
  pages.clear();
  pages.push_back(test::noise(300, 200, 1, Depth::u8, 10));
  WriteOptions again;
  again.replace = true;
  write_pictures(b.scratch / "still.png", pages, again);
  const Run changed = run({"verify", record});
  CHECK(changed.code != 0);
  CHECK_THAT(changed.err, Catch::Contains("any more"));
  CHECK(run({"apply", off, b.picture, "--out", b.out, "--replace"}).code == 2);
}

TEST_CASE("a source that changed since is said", "[cli]") {
  Bench b;
  REQUIRE(run({"apply", b.chain, b.picture, "--out", b.out, "--name", "r"}).code == 0);
  std::vector<Image> pages;
  pages.push_back(test::noise(300, 200, 3, Depth::u8, 99));
  WriteOptions how;
  how.format = Format::png;
  how.replace = true;
  write_pictures(b.picture, pages, how);
  const Run changed = run({"verify", b.out + "/r.png.record.json", "--json"});
  CHECK(changed.code == 1);
  CHECK(changed.json().at("source_changed") == true);
  CHECK(changed.json().at("same") == false);
}

TEST_CASE("empty pixels are told by fill, alpha, nan or a mask beside", "[cli]") {
  Bench b;
  const std::string turn =
      b.put("turn.fexel.json",
            R"({"fexel":1,"resample":{"fill":9},"steps":[{"step":"rotate","degrees":45,"extent":"grow"}]})");
  const auto apply = [&](const std::string& empty, std::vector<std::string> more) {
    std::vector<std::string> words = {"apply", turn, b.picture, "--out", b.out, "--empty", empty, "--name", empty};
    words.insert(words.end(), more.begin(), more.end());
    return run(words);
  };
  // A turn by 45 degrees leaves the corners empty, and the middle not.
  REQUIRE(apply("fill", {}).code == 0);
  const Image fill = read_picture(b.out + "/fill.png");
  const int w = fill.width(), h = fill.height();
  CHECK(test::value(fill, 0, 0, 0) == 9);
  REQUIRE(apply("alpha", {}).code == 0);
  const Image alpha = read_picture(b.out + "/alpha.png");
  CHECK(run({"info", b.out + "/alpha.png", "--json"}).json().at("files").at(0).at("alpha") == true);
  REQUIRE(alpha.bands() == 3);
  CHECK_FALSE(alpha.valid(0, 0));
  CHECK_FALSE(alpha.valid(w - 1, h - 1));
  CHECK(alpha.valid(w / 2, h / 2));
  CHECK(test::value(alpha, 0, w / 2, h / 2) == test::value(fill, 0, w / 2, h / 2));
  REQUIRE(apply("mask", {}).code == 0);
  const Image mask = read_picture(b.out + "/mask.png.mask.png");
  int differing = 0;
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) differing += test::value(mask, 0, x, y) != (alpha.valid(x, y) ? 255 : 0);
  CHECK(differing == 0);
  REQUIRE(apply("nan", {"--depth", "f32", "--format", "tiff"}).code == 0);
  const Image nan = read_picture(b.out + "/nan.tif");
  differing = 0;
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) differing += nan.valid(x, y) != alpha.valid(x, y);  // NaN is read as empty
  CHECK(differing == 0);
  CHECK(run({"verify", b.out + "/nan.tif.record.json"}).code == 0);
  CHECK(run({"verify", b.out + "/mask.png.record.json"}).code == 0);

  // A source with an alpha band gives a result with one, unless something else is asked for.
  REQUIRE(run({"apply", turn, b.out + "/alpha.png", "--out", b.out, "--name", "again"}).code == 0);
  CHECK(read_info(b.out + "/again.png").alpha);
  CHECK(run({"verify", b.out + "/again.png.record.json"}).code == 0);
  REQUIRE(run({"apply", turn, b.out + "/alpha.png", "--out", b.out, "--name", "filled", "--empty", "fill"}).code == 0);
  CHECK_FALSE(read_info(b.out + "/filled.png").alpha);

  const Run no_nan = run({"apply", turn, b.picture, "--out", b.out, "--empty", "nan", "--name", "x"});
  CHECK(no_nan.code == 2);
  CHECK(no_nan.err.find("--depth f32") != std::string::npos);
  CHECK(run({"apply", turn, b.picture, "--out", b.out, "--empty", "alpha", "--format", "jpeg", "--name", "x"}).code ==
        2);
  CHECK(run({"apply", turn, b.picture, "--out", b.out, "--empty", "half", "--name", "x"}).code == 2);
}

TEST_CASE("marked copies are written beside results, and what cannot be drawn is refused before", "[cli]") {
  const Scratch scratch;
  for (const std::string name : {"one", "two"}) {
    std::vector<Image> pages;
    pages.push_back(noise(200, 150, 1, Depth::u16, 3));
    if (name == "two") pages.push_back(noise(200, 150, 1, Depth::u16, 4));
    write_pictures(scratch / (name + ".tif"), pages, {Format::tiff, PixelSize{0.1, 0.1, "mm"}, false, {}});
  }
  const auto with_marks = [&](const std::string& marks) {
    const std::string chain = scratch / "chain.fexel.json";
    write_text(chain, R"({"fexel":1,"steps":[{"step":"rotate","degrees":90}],"marks":[)" + marks + "]}", true);
    return chain;
  };
  const std::string one = scratch / "one.tif", two = scratch / "two.tif", out = scratch / "out";
  const std::string good = with_marks(R"({"mark":"scale-bar"},{"mark":"time","show":"frame"})");
  const Run made = run({"apply", good, one, two, "--out", out, "--marks", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  const Json json = parse_json(made.out);
  REQUIRE(json.at("done").size() == 2);
  CHECK(json.at("done")[0].at("marked") == Json::array({out + "/one-chain-marked.png"}));
  CHECK(json.at("done")[1].at("marked") ==
        Json::array({out + "/two-chain-marked-1.png", out + "/two-chain-marked-2.png"}));
  const Image copy = read_picture(out + "/one-chain-marked.png");
  CHECK((copy.width() == 150 && copy.height() == 200 && copy.bands() == 3 && copy.depth() == Depth::u8));
  // A folder of results has no inputs in it: not the copies either.
  const Run again = run({"apply", good, out, "--out", scratch / "again"});
  CHECK(again.code == 1);
  CHECK_THAT(again.err, Catch::Contains("All pictures in this folder are results"));
  // Resumed: what stands is left as it is, a copy that is gone is made again, and what is there beside a result that is
  // made anew may be anybody's.
  const auto first = read_text(out + "/one-chain-marked.png");
  std::filesystem::remove(out + "/two-chain-marked-2.png");
  write_text(out + "/two-chain-marked-1.png", "mine", true);
  REQUIRE(run({"apply", good, one, two, "--out", out, "--marks", "--resume"}).code == 0);
  CHECK(read_text(out + "/one-chain-marked.png") == first);
  CHECK(std::filesystem::exists(out + "/two-chain-marked-2.png"));
  CHECK(read_text(out + "/two-chain-marked-1.png") == "mine");
  std::filesystem::remove(out + "/two-chain.tif");
  std::filesystem::remove(out + "/two-chain.tif.record.json");
  const Run anew = run({"apply", good, one, two, "--out", out, "--marks", "--resume"});
  CHECK(anew.code == 1);
  CHECK_THAT(anew.err, Catch::Contains("This file exists"));
  CHECK(read_text(out + "/two-chain-marked-1.png") == "mine");
  // The data are what they are without marks.
  const std::string plain = scratch / "plain";
  REQUIRE(run({"apply", good, one, "--out", plain}).code == 0);
  CHECK(same_samples(read_picture(plain + "/one-chain.tif"), read_picture(out + "/one-chain.tif")));
  CHECK(run({"apply", good, one, "--out", plain, "--marks"}).code == 2);  // the result is there
  std::filesystem::remove(plain + "/one-chain.tif");
  std::filesystem::remove(plain + "/one-chain.tif.record.json");
  write_text(plain + "/one-chain-marked.png", "mine", false);
  const Run kept = run({"apply", good, one, "--out", plain, "--marks"});
  CHECK(kept.code == 2);
  CHECK_THAT(kept.err, Catch::Contains("This file exists"));
  CHECK(read_text(plain + "/one-chain-marked.png") == "mine");
  const std::string other = scratch / "other";
  const Run none = run({"apply", with_marks(""), one, "--out", other, "--marks"});
  CHECK(none.code == 2);
  CHECK_THAT(none.err, Catch::Contains("no marks"));
  const Run long_bar =
      run({"apply", with_marks(R"({"mark":"scale-bar","length":9,"unit":"cm"})"), one, "--out", other, "--marks"});
  CHECK(long_bar.code == 2);
  CHECK_THAT(long_bar.err, Catch::Contains("does not fit"));
  CHECK_FALSE(std::filesystem::exists(other));
  with_marks(R"({"mark":"scale-bar"})");
  const Run style = run({"apply", good, one, "--out", other, "--marks", "--style", "no such style"});
  CHECK(style.code == 2);
  CHECK_THAT(style.err, Catch::Contains("no style"));
  for (const std::string format : {"svg", "pdf", "tiff", "jpeg"})
    CHECK(run({"apply", good, one, "--out", scratch / ("as-" + format), "--marks", "--marks-format", format}).code ==
          0);
}

TEST_CASE("a thumbnail is what the chain makes of its picture, small, and replaces no source", "[cli]") {
  Bench b;
  Image flag(300, 200, 3, Depth::u8);  // red at the left, blue at the right
  for (int y = 0; y < 200; ++y)
    for (int x = 0; x < 300; ++x) {
      flag.row<std::uint8_t>(0, y)[x] = x < 150 ? 200 : 10;
      flag.row<std::uint8_t>(1, y)[x] = 20;
      flag.row<std::uint8_t>(2, y)[x] = x < 150 ? 10 : 220;
    }
  WriteOptions how{Format::png, {}, true, {}};
  write_pictures(b.picture, test::one_page(std::move(flag)), how);
  const std::string chain = b.put("turned.fexel.json", R"({"fexel":1,"sources":[{"path":"photo.png"}],
    "steps":[{"step":"rotate","degrees":90}]})");
  const std::string out = (b.scratch / "small.png").string();
  REQUIRE(run({"thumbnail", chain, out, "--size", "64"}).code == 0);
  const Image small = read_picture(out);
  CHECK(small.height() == 64);
  CHECK(std::abs(small.width() - 43) <= 1);
  // Counter-clockwise: the right side comes to lie above.
  CHECK(std::abs(test::value(small, 2, 20, 8) - 220) < 3);
  CHECK(std::abs(test::value(small, 0, 20, 56) - 200) < 3);
  CHECK(run({"thumbnail", chain, out}).code == 0);
  CHECK(read_picture(out).height() == 256);
  CHECK(run({"thumbnail", chain, b.picture}).code == 2);
  CHECK(run({"thumbnail", chain, chain}).code == 2);
  CHECK(run({"thumbnail", b.chain, out}).code == 2);
  CHECK(run({"thumbnail", b.picture, out}).code == 2);
}
