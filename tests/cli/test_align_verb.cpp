#include <catch2/catch.hpp>

#include <csignal>

#include "tests/cli/program.h"
#include "tests/scene.h"

using namespace fexel;
using namespace fexel::test;

namespace {

/// A folder of frames rendered from a formula: frame i lies 3 i px right and 2 i px up of the first.
struct Sequence {
  test::Scratch scratch;
  std::string folder, out;
  Size size{240, 180};
  explicit Sequence(int count, Depth depth = Depth::u8) {
    folder = (scratch / "frames").string();
    out = (scratch / "aligned.tif").string();
    std::filesystem::create_directories(folder);
    for (int i = 0; i < count; ++i) put(i, depth);
  }
  static test::Scene scene() { return test::textured(80, 0.01, 0.2, 40, 9); }
  Matrix3 lies(int i) const { return translation(3 * i, -2 * i); }
  std::string name(int i) const { return folder + "/frame-" + std::to_string(i + 1) + ".pgm"; }
  void put(int i, Depth depth) {
    std::vector<Image> pages;
    pages.push_back(test::frame_of(scene(), lies(i), size, depth, 2, static_cast<unsigned>(i)));
    write_pictures(name(i), pages, {Format::pnm, {}, true, {}});
  }
};

}  // namespace

TEST_CASE("align brings the frames of a folder to the first, says where they lay, and keeps depth") {
  Sequence sequence(11);
  const Run result =
      run({"align", sequence.folder, "--out", sequence.out, "--model", "translation", "--trim", "--json"});
  INFO(result.err);
  REQUIRE(result.code == 0);
  const Json json = result.json();
  REQUIRE(json["frames"].size() == 11);
  for (int i = 0; i < 11; ++i) {
    const Json& frame = json["frames"][static_cast<std::size_t>(i)];
    CHECK(frame["index"] == i + 1);
    CHECK(frame["file"] == sequence.name(i));  // 2 before 10
    CHECK(frame["status"] == "ok");
    CHECK(frame["matrix"][0][2].get<double>() == Approx(-3 * i).margin(0.02));
    CHECK(frame["matrix"][1][2].get<double>() == Approx(2 * i).margin(0.02));
    CHECK(frame["uncertainty_px"].get<double>() < 0.01);
  }
  // What is common lies within 30 px at the left and 20 at the top, give or take the rounding of a pixel.
  const Json& area = json["common_area"];
  CHECK(area["x"].get<int>() == 0);
  CHECK(area["y"].get<int>() == Approx(20).margin(1));
  CHECK(area["width"].get<int>() == Approx(210).margin(1));
  CHECK(area["height"].get<int>() == Approx(160).margin(1));
  CHECK(json["seconds"].get<double>() > 0);
  const FileInfo info = read_info(sequence.out);
  CHECK(info.frames == 11);
  CHECK(info.depth == Depth::u8);
  CHECK(info.width == area["width"].get<int>());
  // Every page shows the same thing: the mean difference to the first is that of the noise.
  const Image first = read_picture(sequence.out, 1), last = read_picture(sequence.out, 11);
  double sum = 0;
  for (int y = 2; y < first.height() - 2; ++y)
    for (int x = 2; x < first.width() - 2; ++x)
      sum += std::abs(first.row<std::uint8_t>(0, y)[x] - last.row<std::uint8_t>(0, y)[x]);
  CHECK(sum / ((first.width() - 4) * (first.height() - 4)) < 3.2);

  // It is there now: it is not written again unasked, and no source is ever written.
  CHECK(run({"align", sequence.folder, "--out", sequence.out}).code == 2);
  CHECK(run({"align", sequence.folder, "--out", sequence.folder + "/frame-1.pgm", "--replace"}).code == 2);
}

TEST_CASE("align does what it can with frames that are broken, black, larger or of another depth") {
  Sequence sequence(6);
  { std::ofstream(sequence.name(1)) << "P5 240 180 255\nshort"; }
  std::vector<Image> pages;
  pages.emplace_back(240, 180, 1, Depth::u8);
  write_pictures(sequence.name(2), pages, {Format::pnm, {}, true, {}});
  sequence.put(3, Depth::u16);
  pages.clear();
  pages.push_back(test::frame_of(Sequence::scene(), sequence.lies(4), {280, 200}, Depth::u8, 2, 4));
  write_pictures(sequence.name(4), pages, {Format::pnm, {}, true, {}});
  const Run result = run({"align", sequence.folder, "--out", sequence.out, "--json"});
  REQUIRE(result.code == 1);
  const Json json = result.json();
  const auto status = [&](std::size_t i) { return json["frames"][i]["status"].get<std::string>(); };
  CHECK(status(0) == "ok");
  for (const std::size_t i : {1U, 2U, 3U}) {
    CHECK(status(i) == "failed");
    CHECK_FALSE(json["frames"][i]["reason"].get<std::string>().empty());
    CHECK(json["frames"][i]["matrix"] == Json::parse("[[1.0,0.0,0.0],[0.0,1.0,0.0],[0.0,0.0,1.0]]"));
  }
  CHECK(status(4) == "ok");
  CHECK(status(5) == "ok");
  CHECK(read_info(sequence.out).frames == 6);
  const Run trial = run({"align", sequence.name(0), sequence.name(5), "--out", (sequence.scratch / "t.tif").string(),
                         "--trial", "4", "--json"});
  REQUIRE(trial.code == 0);
  CHECK(trial.json()["trial"]["rounds"].size() == 4);
  CHECK(trial.json()["trial"]["failed"] == 0);
  CHECK(trial.json()["trial"]["error_px"].get<double>() < 0.03);
  // Of a quarter of the frame, and of what a mask leaves of it, less is known, and the trial says so.
  const double whole = trial.json()["trial"]["stated_px"].get<double>();
  const auto masks = (sequence.scratch / "masks.fexel.json").string();
  write_text(masks, R"({"fexel":1,"masks":[{"shape":"rectangle","x":0,"y":0,"width":240,"height":100}]})", false);
  for (const std::vector<std::string>& where :
       {std::vector<std::string>{"--region", "60,45,120,90"}, {"--masks", masks}}) {
    std::vector<std::string> words{
        "align", sequence.name(0), sequence.name(5), "--out", sequence.out, "--replace", "--trial", "4", "--json"};
    words.insert(words.end(), where.begin(), where.end());
    const Run part = run(words);
    INFO(where.front() << part.err);
    REQUIRE(part.code == 0);
    CHECK(part.json()["trial"]["stated_px"].get<double>() > 1.3 * whole);
  }
  // One frame is aligned with itself.
  const Run one = run({"align", sequence.name(0), "--out", (sequence.scratch / "one.tif").string(), "--json"});
  CHECK(one.code == 0);
  CHECK(one.json()["frames"].size() == 1);
}

TEST_CASE("align carries other stacks along, and refuses wrong calls before it writes") {
  Sequence sequence(3), other(3, Depth::u16), fewer(2);
  const std::string beside = (sequence.scratch / "frames-aligned.tif").string();
  const Run result =
      run({"align", sequence.folder, "--out", sequence.out, "--carry", other.folder, "--model", "translation"});
  INFO(result.err);
  REQUIRE(result.code == 0);
  CHECK(read_info(beside).depth == Depth::u16);
  CHECK(read_info(beside).frames == 3);
  const std::string fresh = (sequence.scratch / "fresh.tif").string();
  for (const std::vector<std::string>& wrong : std::vector<std::vector<std::string>>{{"--against", "last"},
                                                                                     {"--against", "frame:7"},
                                                                                     {"--against", "average:0"},
                                                                                     {"--model", "thin-plate"},
                                                                                     {"--region", "1,2,3"},
                                                                                     {"--region", "500,500,10,10"},
                                                                                     {"--carry", fewer.folder},
                                                                                     {"--kernel", "square"}}) {
    std::vector<std::string> words{"align", sequence.folder, "--out", fresh};
    words.insert(words.end(), wrong.begin(), wrong.end());
    INFO(wrong[0] << " " << wrong[1]);
    const Run refused = run(words);
    CHECK(refused.code == 2);
    CHECK_FALSE(refused.err.empty());
    CHECK_FALSE(std::filesystem::exists(fresh));
  }
  CHECK(run({"align", sequence.folder, "--out", (sequence.scratch / "a.png").string()}).code == 2);
  CHECK(run({"align", (sequence.scratch / "nothing").string(), "--out", fresh}).code == 1);
}

TEST_CASE("a chain with an align step takes all inputs for one sequence, and its records hold") {
  Sequence sequence(4);
  const std::string chain = (sequence.scratch / "line-up.fexel.json").string();
  write_text(
      chain,
      R"({"fexel":1,"steps":[{"step":"align","model":"translation"},{"step":"crop","x":0,"y":10,"width":200,"height":150}]})",
      true);
  const std::string out = (sequence.scratch / "results").string();
  const Run result = run({"apply", chain, sequence.folder, "--out", out, "--format", "tiff", "--json"});
  INFO(result.err);
  REQUIRE(result.code == 0);
  const Image first = read_picture(out + "/frame-1-line-up.tif"), last = read_picture(out + "/frame-4-line-up.tif");
  double sum = 0;
  for (int y = 2; y < 148; ++y)
    for (int x = 2; x < 188; ++x) sum += std::abs(first.row<std::uint8_t>(0, y)[x] - last.row<std::uint8_t>(0, y)[x]);
  CHECK(sum / (146 * 186) < 3.2);
  CHECK(run({"verify", out + "/frame-3-line-up.tif.record.json"}).code == 0);
}

TEST_CASE("a name with {index} writes a file for each frame, and carried stacks beside them") {
  Sequence sequence(3, Depth::u16);
  const auto numbered = (sequence.scratch / "frame-{index}.png").string();
  const Run result = run(
      {"align", sequence.folder, "--out", numbered, "--model", "translation", "--carry", sequence.folder, "--json"});
  INFO(result.err << result.out);
  REQUIRE(result.code == 0);
  CHECK(result.json()["written"].size() == 6);
  for (const std::string name : {"frame-", "frames-aligned-"})
    for (const int i : {1, 2, 3}) {
      const FileInfo info = read_info(sequence.scratch / (name + std::to_string(i) + ".png"));
      CHECK(info.format == "png");
      CHECK(info.depth == Depth::u16);
      CHECK(info.width == 240);
    }
  // They exist now; nothing is replaced without being asked, and nothing is written.
  std::filesystem::remove(sequence.scratch / "frame-1.png");
  CHECK(run({"align", sequence.folder, "--out", numbered, "--model", "translation"}).code == 2);
  CHECK_FALSE(std::filesystem::exists(sequence.scratch / "frame-1.png"));
  const Run wrong = run({"align", sequence.folder, "--out", (sequence.scratch / "all.png").string()});
  CHECK(wrong.code == 2);
  CHECK(wrong.err.find("{index}") != std::string::npos);
}

TEST_CASE("masks from a file are left out of every frame") {
  Sequence sequence(3);
  // A patch that does not move along with the scene, stark enough to win.
  const Scene patch = textured(60, 0.02, 0.2, 70, 77);
  for (int i = 0; i < 3; ++i) {
    Image frame = read_picture(sequence.name(i));
    const Image still =
        frame_of(patch, Matrix3::Identity(), sequence.size, Depth::u8, 2, 60 + static_cast<unsigned>(i));
    for (int y = 10; y < 170; ++y)
      for (int x = 60; x < 190; ++x) frame.row<std::uint8_t>(0, y)[x] = still.row<std::uint8_t>(0, y)[x];
    std::vector<Image> pages;
    pages.push_back(std::move(frame));
    write_pictures(sequence.name(i), pages, {Format::pnm, {}, true, {}});
  }
  const auto masks = (sequence.scratch / "masks.fexel.json").string();
  write_text(masks, R"({"fexel":1,"masks":[{"shape":"rectangle","x":58,"y":8,"width":134,"height":164}]})", false);
  const std::vector<std::string> words{"align",   sequence.folder, "--out",  sequence.out,
                                       "--model", "translation",   "--json", "--replace"};
  CHECK(std::abs(run(words).json()["frames"][2]["matrix"][0][2].get<double>()) < 0.5);  // the patch is followed
  auto with = words;
  with.insert(with.end(), {"--masks", masks});
  const Json json = run(with).json();
  CHECK(json["frames"][2]["matrix"][0][2].get<double>() == Approx(-6).margin(0.1));
  CHECK(json["frames"][2]["matrix"][1][2].get<double>() == Approx(4).margin(0.1));
  auto broken = words;
  broken.insert(broken.end(), {"--masks", sequence.name(0)});
  CHECK(run(broken).code == 2);
}

TEST_CASE("a kill in the middle leaves no half file") {
  Sequence sequence(12, Depth::u16);
  const auto everything = [&] {
    std::vector<std::string> names;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(sequence.scratch.path()))
      names.push_back(entry.path().filename().string());
    std::ranges::sort(names);
    return names;
  };
  const test::Scratch said;
  const auto before = everything();
  std::vector<std::string> words{"align", sequence.folder, "--out", sequence.out, "--against", "network"};
  // From at once to later than the whole takes, which is a whole file.
  int left = 0;
  for (const int ms : {1, 20, 60, 120, 200, 300, 450}) {
    const pid_t child = start(words, said);
    ::usleep(static_cast<useconds_t>(ms) * 1000);
    ::kill(child, SIGKILL);
    wait_for(child);
    if (std::filesystem::exists(sequence.out)) {
      CHECK(read_info(sequence.out).frames == 12);
      CHECK(read_picture(sequence.out, 12).width() == 240);
      std::filesystem::remove(sequence.out);
      std::filesystem::remove(sequence.out + ".record.json");
    } else {
      ++left;
    }
    CHECK(everything() == before);
  }
  CHECK(left > 0);
}

TEST_CASE("a frame far away does not stop the others: it is weak, and does not count for the shared area", "[cli]") {
  const test::Scratch scratch;
  const Size size{400, 300};
  const Scene scene = textured(60, 0.01, 0.2, 35, 9);
  const double shifts[] = {0, 5, -230, 235};  // the last two share nothing with each other
  for (int i = 0; i < 4; ++i) {
    std::vector<Image> page;
    page.push_back(frame_of(scene, translation(shifts[i], 0), size, Depth::u8, 2, static_cast<unsigned>(i)));
    write_pictures(scratch / ("frame-" + std::to_string(i + 1) + ".pgm"), page, {Format::pnm, {}, false, {}});
  }
  const Run run = test::run({"align", scratch.path().string(), "--model", "translation", "--out",
                             (scratch / "out.tif").string(), "--trim", "--json"});
  INFO(run.err);
  CHECK(run.code == 0);
  const Json json = run.json();
  CHECK(json["frames"][1]["status"] == "ok");
  CHECK(json["frames"][2]["status"] == "ok");
  CHECK(json["frames"][3]["status"] == "weak");
  CHECK_THAT(json["frames"][3]["reason"].get<std::string>(), Catch::Contains("shares no area"));
  // From 5 to 400 − 230 and the whole height.
  CHECK(json["common_area"]["width"] == 165);
  CHECK(json["common_area"]["height"] == 300);
}
