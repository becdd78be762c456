/// Nothing destroyed, and nothing wrong called right: the command line on faults, cuts, replaced files, unlike pages,
/// hostile names and broken runs.
#include "tests/cli/safety.h"

namespace fexel::test::safety {
TEST_CASE("by parts the output has the shape of the result, not of the source", "[safety]") {
  const Folder f;
  const std::string large = f.picture("large.tif", noise(3000, 2600, 3, Depth::u8));
  struct Case {
    const char *steps, *name;
    int bands;
    Depth depth;
  };
  for (const Case& c :
       {Case{R"({"step":"downsample","factor":4},{"step":"bands","take":"grey"})", "grey", 1, Depth::u8},
        Case{R"({"step":"downsample","factor":4},{"step":"convolve","kernel":[[1,2,1]],"scale":0.3,"depth":"f32"})",
             "f32", 3, Depth::f32}}) {
    const std::string chain = f.chain(c.steps);
    const Run parts = run({"apply", chain, large, "--out", f.out, "--name", c.name, "--max-memory", "64"});
    const Run whole = run({"apply", chain, large, "--out", f.out, "--name", std::string(c.name) + "-whole"});
    INFO(parts.err);
    REQUIRE(parts.code == 0);
    REQUIRE(whole.code == 0);
    const FileInfo info = read_info(f.out + "/" + c.name + ".tif");
    CHECK(info.bands == c.bands);
    CHECK(info.depth == c.depth);
    CHECK(same_samples(read_picture(f.out + "/" + c.name + ".tif"), read_picture(f.out + "/" + c.name + "-whole.tif")));
  }
}

TEST_CASE("five bands made grey are written as PNG", "[safety]") {
  const Folder f;
  const std::string five = f.picture("five.tif", noise(40, 30, 5, Depth::u8));
  const Run grey = run({"apply", f.chain(R"({"step":"bands","take":"grey","weights":[1,1,1,1,1]})"), five, "--out",
                        f.out, "--format", "png"});
  INFO(grey.err);
  CHECK(grey.code == 0);
  CHECK(read_info(f.out + "/five-c.png").bands == 1);
}

TEST_CASE("infinite samples are empty, and nothing else is", "[safety]") {
  const Folder f;
  Image image = noise(80, 60, 1, Depth::f32);
  for (int y = 20; y < 22; ++y)
    for (int x = 30; x < 32; ++x) image.row<float>(0, y)[x] = std::numeric_limits<float>::infinity();
  const std::string source = f.picture("inf.tif", image);
  const std::string chain =
      f.put("c.fexel.json",
            R"({"fexel":1,"resample":{"kernel":"bspline3"},"steps":[{"step":"rotate","degrees":3,"extent":"keep"}]})");
  REQUIRE(run({"apply", chain, source, "--out", f.out}).code == 0);
  const Image made = read_picture(f.out + "/inf-c.tif");
  int empty = 0;
  for (int y = 10; y < 50; ++y)
    for (int x = 10; x < 70; ++x) empty += !made.valid(x, y);
  CHECK(empty >= 2);
  CHECK(empty <= 8);
}

TEST_CASE("folders leave out what Fexel wrote there, and say so", "[safety]") {
  const Folder f;
  f.frames(3);
  const std::string folder = f.at("frames");
  REQUIRE(run({"align", folder, "--out", folder + "/line-up.tif"}).code == 0);
  REQUIRE(run({"apply", f.chain(""), folder, "--out", folder, "--empty", "mask"}).code == 0);
  const Run again = run({"align", folder, "--out", f.at("second.tif"), "--json"});
  INFO(again.err);
  CHECK(again.code == 0);
  CHECK(again.json().at("frames").size() == 3);
  CHECK_THAT(again.err, Contains("Left out") && Contains("records"));
  CHECK(run({"apply", f.chain(""), folder, "--out", f.out, "--json"}).json().at("done").size() == 3);
  // A file that is named is taken.
  CHECK(run({"info", folder + "/line-up.tif"}).code == 0);
}

TEST_CASE("records stand beside aligned and carried stacks, with every frame's transform, and verify", "[safety]") {
  const Folder f;
  f.frames(3);
  f.frames(3, "other");
  const Run done = run({"align", f.at("frames"), "--out", f.at("a.tif"), "--model", "translation", "--carry",
                        f.at("other"), "--trim", "--json"});
  INFO(done.err);
  REQUIRE(done.code == 0);
  for (const char* name : {"a.tif", "other-aligned.tif"}) {
    const Json record = parse_json(read_text(f.at(std::string(name) + ".record.json")));
    CHECK(record.at("sources").size() == 3);
    const Json& frames = record.at("transform").at("frames");
    REQUIRE(frames.size() == 3);
    CHECK_THAT(std::string(record.at("transform").at("convention")),
               Contains("source to result") && Contains("corner"));
    // Frame 3 was moved by 4 px right and 2 up; the crop's corner is taken off.
    const Json& crop = record.at("chain").at("steps")[1];
    CHECK(frames[2].at("matrix")[0][2].get<double>() == Approx(-4 - crop.at("x").get<double>()).margin(0.05));
    CHECK(frames[2].at("matrix")[1][2].get<double>() == Approx(2 - crop.at("y").get<double>()).margin(0.05));
    CHECK(run({"verify", f.at(std::string(name) + ".record.json")}).code == 0);
  }
  const Run numbered = run({"align", f.at("frames"), "--out", f.at("n/f-{index}.png")});
  CHECK(numbered.code == 2);  // the folder is not there
  fs::create_directory(f.at("n"));
  REQUIRE(run({"align", f.at("frames"), "--out", f.at("n/f-{index}.png")}).code == 0);
  CHECK(run({"verify", f.at("n/f-1-to-3.png.record.json")}).code == 0);
  WriteOptions replacing;
  replacing.format = Format::png;
  replacing.replace = true;
  write_pictures(f.at("n/f-2.png"), one_page(Folder::frame(0)), replacing);
  const Run changed = run({"verify", f.at("n/f-1-to-3.png.record.json"), "--json"});
  CHECK(changed.code == 1);
  CHECK(changed.json().at("result_changed") == true);
}

TEST_CASE("the record of a rectified picture holds its matrix", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(300, 200, 1, Depth::u8));
  const std::string chain = f.chain(
      R"({"step":"rectify","corners":[[20,30],[280,20],[270,190],[30,180]],"width":30,"height":20,"unit":"mm","pixel_size":0.1})");
  REQUIRE(run({"apply", chain, source, "--out", f.out}).code == 0);
  const Json matrix =
      parse_json(read_text(f.out + "/a-c.png.record.json")).at("transform").at("frames")[0].at("matrix");
  Matrix3 m;
  for (int r = 0; r < 3; ++r)
    for (int c = 0; c < 3; ++c)
      m(r, c) = matrix[static_cast<std::size_t>(r)][static_cast<std::size_t>(c)].get<double>();
  // The corners go to the corners of 300 x 200 px.
  const Point corners[] = {{20, 30}, {280, 20}, {270, 190}, {30, 180}},
              places[] = {{0, 0}, {300, 0}, {300, 200}, {0, 200}};
  for (int i = 0; i < 4; ++i) {
    const Point p = *Map::apply(m, corners[i]);
    CHECK(std::hypot(p.x - places[i].x, p.y - places[i].y) < 1e-6);
  }
}

TEST_CASE("no run writes over anything that it reads, under any name", "[safety]") {
  const Folder f;
  f.frames(3);
  const std::string folder = f.at("frames"), first = folder + "/f-1.pgm", second = folder + "/f-2.pgm";
  const std::string masks = f.put(
      "masks.fexel.json",
      R"({"fexel":1,"masks":[{"name":"m","shape":"rectangle","points":[[1,1],[9,9]],"use":"leave-out","frames":"all"}]})");
  const std::string chain = f.chain(R"({"step":"crop","x":1,"y":1,"width":20,"height":20})");
  const std::string reference = f.picture("reference.tif", Folder::frame(0));
  const std::string by_file =
      f.put("file.fexel.json", R"({"fexel":1,"steps":[{"step":"align","against":"file:)" + reference + "\"}]}");
  const std::string weights = f.picture("weights.png", level(160, 120, 1, Depth::u8, 255));
  fs::create_hard_link(first, f.at("twin.pgm"));
  fs::create_symlink(reference, f.at("alias.tif"));
  const auto before = sums(f.scratch.path());
  const std::vector<std::vector<std::string>> calls = {
      {"apply", chain, first, "--out", folder, "--name", "f-1", "--replace"},
      {"apply", chain, first, second, "--out", folder, "--name", "f-{index}", "--replace"},
      {"apply", chain, first, "--out", f.scratch.path().string(), "--name", "twin", "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", first, "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", chain, "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", f.out + "/f-1-c.pgm", "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", f.out + "/f-1-c.pgm.record.json", "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", f.scratch.path().string(), "--replace"},
      {"apply", chain, first, "--out", f.out, "--report", f.at("nowhere/r.json"), "--replace"},
      {"apply", by_file, first, "--out", f.scratch.path().string(), "--name", "reference", "--format", "tiff",
       "--replace"},
      {"apply", by_file, first, "--out", f.scratch.path().string(), "--name", "alias", "--format", "tiff", "--replace"},
      {"align", folder, "--out", reference, "--against", "file:" + reference, "--replace"},
      {"align", folder, "--out", f.at("alias.tif"), "--against", "file:" + reference, "--replace"},
      {"align", folder, "--out", f.at("a.tif"), "--masks", masks, "--report", masks, "--replace"},
      {"align", folder, "--out", f.at("a.tif"), "--mask", weights, "--report", weights, "--replace"},
      {"align", folder, "--out", f.at("a.tif"), "--report", second, "--replace"},
      {"align", folder, "--out", f.at("a.tif"), "--report", f.at("a.tif"), "--replace"},
      {"align", folder, "--out", folder + "/f-{index}.pgm", "--replace"}};
  for (const auto& call : calls) {
    const Run done = run(call);
    std::string said;
    for (const auto& word : call) said += word + " ";
    INFO(said << done.err);
    CHECK(done.code == 2);
    CHECK(sums(f.scratch.path()) == before);
  }
}

TEST_CASE("the chain is not replaced by a record of its name", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(30, 20, 1, Depth::u8));
  fs::create_directory(f.out);
  const std::string chain =
      f.put("results/a-x.png.record.json", R"({"fexel":1,"steps":[{"step":"rotate","degrees":90}]})");
  const std::string before = read_text(chain);
  const Run done = run({"apply", chain, source, "--out", f.out, "--name", "a-x", "--replace"});
  CHECK(done.code == 2);
  CHECK_THAT(done.err, Contains("the chain"));
  CHECK(read_text(chain) == before);
}

TEST_CASE("results of one stem have records of their own", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(30, 20, 1, Depth::u8)), chain = f.chain("");
  REQUIRE(run({"apply", chain, source, "--out", f.out, "--format", "png", "--empty", "mask"}).code == 0);
  REQUIRE(run({"apply", chain, source, "--out", f.out, "--format", "tiff", "--empty", "mask"}).code == 0);
  CHECK(run({"verify", f.out + "/a-c.png.record.json"}).code == 0);
  CHECK(run({"verify", f.out + "/a-c.tif.record.json"}).code == 0);
}

TEST_CASE("a frame that cannot be read fails by name, in table, record and exit code", "[safety]") {
  const Folder f;
  auto names = f.frames(4);
  // Its header is whole and its samples are not.
  fs::resize_file(names[2], fs::file_size(names[2]) / 2);
  const Run done = run({"align", f.at("frames"), "--out", f.at("a.tif"), "--json"});
  CHECK(done.code == 1);
  CHECK(done.json().at("frames")[2].at("status") == "failed");
  CHECK_THAT(std::string(done.json().at("frames")[2].at("reason")), Contains("shorter"));
  const Json record = parse_json(read_text(f.at("a.tif.record.json")));
  CHECK(record.at("transform").at("frames")[2].at("status") == "failed");
  CHECK(record.at("transform").at("frames")[2].at("written") == "empty");
  CHECK(read_info(f.at("a.tif")).frames == 4);
  // Left out of the file it has no page.
  REQUIRE(run({"align", f.at("frames"), "--out", f.at("b.tif"), "--failed", "leave-out"}).code == 1);
  CHECK(read_info(f.at("b.tif")).frames == 3);
}

TEST_CASE("a run that is cancelled while it writes JPEG leaves nothing and does not crash", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(2600, 2200, 3, Depth::u8)), chain = f.chain("");
  for (int round = 0; round < 14; ++round) {
    const std::string out = f.out + std::to_string(round);
    const test::Scratch said;
    const pid_t child = start({"apply", chain, source, "--out", out, "--format", "jpeg", "--quiet"}, said);
    REQUIRE(wait_until_it_listens(child));
    std::this_thread::sleep_for(std::chrono::milliseconds(40 * round));
    ::kill(child, SIGINT);
    const int code = wait_for(child);
    INFO(round << " " << code);
    CHECK((code == 0 || code == 1));
    if (code == 0) CHECK(read_info(out + "/a-c.jpg").width == 2600);
    if (code == 1 && fs::exists(out)) CHECK(fs::is_empty(out));
  }
}

TEST_CASE("pages of unlike depth, bands and size go by their own shape or are refused, whole and by parts",
          "[safety]") {
  const Folder f;
  const std::vector<std::tuple<int, int, Depth>> shapes = {{40, 1, Depth::u8},  {40, 3, Depth::u8},
                                                           {40, 1, Depth::u16}, {40, 1, Depth::f32},
                                                           {70, 1, Depth::u8},  {20, 5, Depth::u16}};
  const std::string chain = f.chain(R"({"step":"rotate","degrees":90.5})");
  int n = 0;
  for (const auto& [wa, ba, da] : shapes)
    for (const auto& [wb, bb, db] : shapes) {
      std::vector<Image> pages;
      pages.push_back(noise(wa, 30, ba, da, 1));
      pages.push_back(noise(wb, 30, bb, db, 2));
      // Written by hand, page by page.
      const std::string source = f.stack("pair-" + std::to_string(n++) + ".tif", pages);
      for (const char* empty : {"fill", "alpha", "nan"}) {
        const std::string out = f.out + std::to_string(n) + empty;
        const Run done = run({"apply", chain, source, "--out", out, "--empty", empty});
        INFO(n << " " << empty << " " << done.err);
        const bool nan_fits = da == Depth::f32 && db == Depth::f32;
        if (std::string(empty) == "nan" && !nan_fits) {
          CHECK(done.code == 2);
          continue;
        }
        REQUIRE(done.code == 0);
        const auto written = out + "/pair-" + std::to_string(n - 1) + "-c.tif";
        const auto made = read_pages(written);
        REQUIRE(made.size() == 2);
        CHECK(made[0].info->depth == da);
        CHECK(made[1].info->depth == db);
        CHECK(made[0].info->bands == ba);
        CHECK(made[1].info->bands == bb);
        CHECK(made[1].info->height - made[0].info->height == wb - wa);
        CHECK(run({"verify", written + ".record.json"}).code == 0);
      }
      const Run aligned = run({"align", source, "--out", f.out + std::to_string(n) + ".tif", "--json"});
      if (ba != bb || da != db) {
        CHECK(aligned.code == 1);
        CHECK(aligned.json().at("frames")[1].at("status") == "failed");
      }
    }
}

TEST_CASE("a stack that is cut short is said, and read only when it is salvaged", "[safety]") {
  const Folder f;
  std::vector<Image> pages;
  for (int i = 0; i < 16; ++i) pages.push_back(noise(60, 50, 1, Depth::u16, static_cast<unsigned>(i)));
  const std::string whole = f.stack("whole.tif", pages);
  const std::string bytes = read_text(whole);
  for (const int percent : {20, 35, 50, 65, 80, 95}) {
    const std::string cut = f.put("cut.tif", bytes.substr(0, bytes.size() * static_cast<std::size_t>(percent) / 100));
    const Run info = run({"info", cut});
    INFO(percent << " " << info.err);
    CHECK(info.code == 1);
    CHECK_THAT(info.err, Contains("cut short") && Contains("--salvage"));
    CHECK(run({"apply", f.chain(""), cut, "--out", f.out}).code == 1);
    CHECK(run({"align", cut, "--out", f.at("a.tif")}).code == 1);
    const Run salvaged = run({"apply", f.chain(""), cut, "--out", f.out, "--salvage", "--replace", "--json"});
    CHECK(salvaged.code == 0);
    const int frames = read_info(f.out + "/cut-c.tif").frames;
    CHECK(frames >= 1);
    CHECK(frames < 16);
  }
}

}  // namespace fexel::test::safety
