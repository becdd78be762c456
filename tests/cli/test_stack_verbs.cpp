/// The verbs that make pictures of many frames.
#include "tests/cli/safety.h"

namespace fexel::test::safety {

TEST_CASE("project writes each statistic, page by page where asked, and says what it is of", "[safety][stacks]") {
  const Folder f;
  std::vector<Image> pages;
  for (int k = 1; k <= 5; ++k) pages.push_back(level(20, 10, 1, Depth::u8, 10 * k));
  const std::string stack = f.stack("s.tif", pages);
  const auto value = [&](const std::string& statistic, const std::vector<std::string>& more = {}, int page = 1) {
    std::vector<std::string> words{"project",     stack,     "--out",     f.at("p.tif"),
                                   "--statistic", statistic, "--replace", "--json"};
    words.insert(words.end(), more.begin(), more.end());
    const Run made = run(words);
    INFO(made.err << made.out);
    CHECK(made.code == 0);
    return test::value(read_picture(f.at("p.tif"), page, {}, {}), 0, 3, 3);
  };
  CHECK(value("mean") == 30);
  CHECK(value("median") == 30);
  CHECK(value("min") == 10);
  CHECK(value("max") == 50);
  CHECK(value("range") == 40);
  CHECK(value("sum") == 150);
  CHECK(value("std") == Approx(std::sqrt(250.0)).epsilon(1e-6));
  CHECK(value("mean", {"--every", "2"}, 2) == 35);
  CHECK(value("mean", {"--every", "2"}, 3) == 50);
  CHECK(value("mean", {"--depth", "u8"}) == 30);
  const Json made = parse_json(read_text(f.at("p.tif.made.json")));
  CHECK(made.at("operation").at("statistic") == "mean");
  CHECK(made.at("sources")[0].at("sha256") == checksum(stack));
  CHECK(made.at("result").at("sha256") == checksum(f.at("p.tif")));
  // Never a source, never what is there.
  CHECK(run({"project", stack, "--out", stack, "--replace"}).code == 2);
  CHECK(run({"project", stack, "--out", f.at("p.tif")}).code == 2);
  CHECK(run({"project", stack, "--out", f.at("p.txt")}).code == 2);
  // Nor with the counts.
  const std::string before = checksum(stack);
  CHECK(run({"project", stack, "--out", f.at("q.tif"), "--counts", stack, "--replace"}).code == 2);
  CHECK(run({"project", stack, "--out", f.at("q.tif"), "--counts", f.at("q.tif"), "--replace"}).code == 2);
  CHECK(checksum(stack) == before);
  CHECK_FALSE(fs::exists(f.at("q.tif")));
}

TEST_CASE("a picture made of many frames is no input of the folder that it is in", "[safety][stacks]") {
  const Folder f;
  const auto frames = f.frames(4);
  const std::string in = fs::path(frames[0]).parent_path();
  REQUIRE(run({"project", in, "--out", in + "/mean.tif"}).code == 0);
  const Run again = run({"project", in, "--out", f.at("again.tif"), "--json"});
  INFO(again.err);
  REQUIRE(again.code == 0);
  CHECK(parse_json(read_text(f.at("again.tif.made.json"))).at("sources").size() == 4);
}

TEST_CASE("project goes by the chain: aligned frames have the scene's deviation, not the movement's",
          "[safety][stacks]") {
  const Folder f;
  const auto frames = f.frames(6);
  const std::string chain = f.chain(
      R"({"step":"align","model":"translation","against":"first"},{"step":"crop","x":20,"y":20,"width":100,"height":70})");
  const auto deviation = [&](bool aligned) {
    std::vector<std::string> words{"project"};
    words.insert(words.end(), frames.begin(), frames.end());
    words.insert(words.end(), {"--out", f.at("d.tif"), "--statistic", "std", "--replace"});
    if (aligned) words.insert(words.end(), {"--chain", chain});
    const Run made = run(words);
    INFO(made.err);
    CHECK(made.code == 0);
    const Image image = read_picture(f.at("d.tif"), 1, {}, {});
    double sum = 0;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) sum += test::value(image, 0, x, y);
    return sum / image.width() / image.height();
  };
  CHECK(deviation(true) < 2.5);  // the noise is 2 levels
  CHECK(deviation(false) > 10);
}

TEST_CASE("a slice has a row a frame, and says its step in time", "[safety][stacks]") {
  const Folder f;
  std::vector<Image> pages;
  for (int k = 0; k < 4; ++k) pages.push_back(level(30, 20, 1, Depth::u8, 40 + k));
  const std::string stack = f.stack("s.tif", pages);
  const Run made = run({"slice", stack, "--out", f.at("t.tif"), "--line", "2,10,27,10", "--json"});
  INFO(made.err << made.out);
  REQUIRE(made.code == 0);
  CHECK(made.json().at("width") == 25);
  CHECK(made.json().at("height") == 4);
  const Image slice = read_picture(f.at("t.tif"), 1, {}, {});
  for (int k = 0; k < 4; ++k) CHECK(test::value(slice, 0, 12, k) == Approx(40 + k));
  CHECK(run({"slice", stack, "--out", f.at("u.tif"), "--line", "2,10,27"}).code == 2);
  CHECK(run({"slice", stack, "--out", f.at("u.tif"), "--line", "200,10,270,10"}).code == 2);
  CHECK_FALSE(fs::exists(f.at("u.tif")));
}

TEST_CASE("mosaic lays overlapping frames, and says how well they fit", "[safety][stacks]") {
  const Folder f;
  const Scene scene = textured(60, 0.01, 0.15, 40, 5);
  std::vector<std::string> words{"mosaic"};
  for (int i = 0; i < 3; ++i)
    words.push_back(
        f.picture("m-" + std::to_string(i) + ".png", frame_of(scene, translation(-120.0 * i - 0.4 * i, -3.0 * i),
                                                              {200, 160}, Depth::u8, 1, static_cast<unsigned>(i))));
  words.insert(words.end(), {"--out", f.at("m.tif"), "--json"});
  const Run made = run(words);
  INFO(made.err << made.out);
  REQUIRE(made.code == 0);
  const Json said = made.json();
  CHECK(said.at("width") == 441);
  CHECK(said.at("height").get<int>() - 166 <= 1);
  CHECK(said.at("seams").size() == 2);
  CHECK(said.at("largest_seam_px").get<double>() < 0.1);
  for (int i = 0; i < 3; ++i) {
    CHECK(said.at("frames")[static_cast<std::size_t>(i)].at("status") == "ok");
    CHECK(said.at("frames")[static_cast<std::size_t>(i)].at("matrix")[0][2].get<double>() ==
          Approx(120.4 * i).margin(0.05));
  }
  // Of one frame there is none.
  CHECK(run({"mosaic", f.at("m-0.png"), "--out", f.at("n.tif")}).code == 1);
  CHECK_FALSE(fs::exists(f.at("n.tif")));
}

}  // namespace fexel::test::safety
