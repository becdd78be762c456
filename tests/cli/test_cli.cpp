#include <catch2/catch.hpp>
#include <csignal>
#include <thread>

#include "tests/cli/bench.h"

using namespace fexel;
using namespace fexel::test;

TEST_CASE("info says what a file is, as text and as JSON", "[cli]") {
  const Bench b;
  const Run text = run({"info", b.picture});
  CHECK(text.code == 0);
  CHECK_THAT(text.out, Catch::Contains("300 x 200 px") && Catch::Contains("0.1 mm/px"));
  const Json file = run({"info", b.picture, "--json"}).json().at("files")[0];
  for (const char* key : {"file", "format", "width", "height", "bands", "depth", "frames", "pixel_size", "unit",
                          "orientation", "profile"})
    CHECK(file.contains(key));
  CHECK(file.at("format") == "png");
  CHECK(file.at("bands") == 3);
  CHECK(double(file.at("pixel_size")[0]) == Approx(0.1));
  const Run missing = run({"info", "absent.png", b.picture, "--json"});
  CHECK(missing.code == 1);
  CHECK(missing.json().at("files").size() == 1);
  CHECK(missing.json().at("failed").size() == 1);
}

TEST_CASE("apply writes what the chain says, and says what it wrote", "[cli]") {
  const Bench b;
  const Run done = run({"apply", b.chain, b.picture, "--out", b.out, "--json"});
  CHECK(done.code == 0);
  const Json line = done.json().at("done")[0];
  CHECK(line.at("output") == b.out + "/photo-turn.png");
  CHECK(line.at("width") == 100);
  CHECK(line.at("height") == 50);
  CHECK(line.at("exact") == true);
  CHECK(line.at("empty_share") == 0.0);
  CHECK(line.at("clamped") == 0);
  const Image source = read_picture(b.picture), result = read_picture(b.out + "/photo-turn.png");
  // Counter-clockwise: column 10 + x of the turned picture is row 10 + x of the source.
  for (int y = 0; y < 50; ++y)
    for (int x = 0; x < 100; ++x) CHECK(test::value(result, 1, x, y) == test::value(source, 1, 299 - (20 + y), 10 + x));
  const auto size = read_info(b.out + "/photo-turn.png").pixel_size;
  REQUIRE(size);
  CHECK(size->x == Approx(0.1));
}

TEST_CASE("formats, depths and names are chosen", "[cli]") {
  const Bench b;
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out, "--format", "tiff", "--depth", "f32", "--name",
             "{index}-{stem}"})
            .code == 0);
  const FileInfo info = read_info(b.out + "/1-photo.tif");
  CHECK(info.depth == Depth::f32);
  CHECK(test::value(read_picture(b.out + "/1-photo.tif"), 0, 0, 0) == test::value(read_picture(b.picture), 0, 279, 10));
  const Run wrong = run({"apply", b.chain, b.picture, "--out", b.out, "--depth", "f32", "--json"});
  CHECK(wrong.code == 2);
  CHECK_THAT(std::string(wrong.json().at("error").at("message")), Catch::Contains("f32"));
}

TEST_CASE("a chain of moves is one resampling, and comes out as JPEG", "[cli]") {
  const Bench b;
  const std::string chain = b.scratch / "moves.fexel.json";
  write_text(chain,
             R"({"fexel":1,"resample":{"kernel":"bspline3","edge":"mirror"},"steps":[{"step":"rotate","degrees":-1.82},
                {"step":"mirror","reverse":"x"},{"step":"translate","dx":3,"dy":1.5},{"step":"resize","width":300}]})",
             false);
  const Run moved = run({"apply", chain, b.picture, "--out", b.out, "--format", "jpeg", "--quality", "80", "--json"});
  REQUIRE(moved.code == 0);
  const auto done = moved.json().at("done").at(0);
  CHECK(done.at("exact") == false);
  CHECK(done.at("width") == 300);
  const FileInfo info = read_info(std::string(done.at("output")));
  CHECK(info.format == "jpeg");
  CHECK(info.width == 300);
  CHECK(info.pixel_size);
  const Run sixteen = run({"apply", b.chain, b.picture, "--out", b.out, "--format", "jpeg", "--depth", "u16"});
  CHECK(sixteen.code == 2);
  CHECK_THAT(sixteen.err, Catch::Contains("--depth u8"));
}

TEST_CASE("shapes that cannot be made exit with 2 at the key at fault, and change nothing", "[cli]") {
  const Bench b;
  const std::pair<std::string, std::string> rows[] = {
      {R"("step":"resize","scale":0)", "/steps/0/scale"},
      {R"("step":"resize","width":-5)", "/steps/0/width"},
      {R"("step":"resize","width":900000000)", "/steps/0/width"},
      {R"("step":"downsample","factor":0)", "/steps/0/factor"},
      {R"("step":"rotate","degrees":1e999)", "/steps/0/degrees"},
      {R"("step":"translate","dx":1e300,"dy":0)", "/steps/0/dx"},
      {R"("step":"tilt","about_x":90)", "/steps/0/about_x"},
      {R"("step":"matrix","matrix":[[1,2,0],[2,4,0],[0,0,1]])", "/steps/0/matrix"},
      {R"("step":"lens","k1":-9)", "/steps/0/k1"},
      {R"("step":"unwrap","centre":[-5000,-5000],"inner":10,"outer":20)", "/steps/0/centre"},
      {R"("step":"unwrap","centre":[50,50],"inner":20,"outer":10)", "/steps/0/outer"},
      {R"("step":"convolve","kernel":[[0,0],[0,0]])", "/steps/0/kernel"},
      {R"("step":"pad","left":-3)", "/steps/0/left"},
      {R"("step":"mirror","reverse":"z")", "/steps/0/reverse"},
      {R"("step":"local-contrast","tile":0)", "/steps/0/tile"},
      {R"("step":"denoise","radius":-1)", "/steps/0/radius"}};
  for (const auto& [step, where] : rows) {
    INFO(step);
    const std::string chain = b.scratch / "wrong.fexel.json";
    write_text(chain, R"({"fexel":1,"steps":[{)" + step + "}]}", true);
    const std::size_t before = b.scratch.entries();
    const Run wrong = run({"apply", chain, b.picture, "--out", b.out, "--json"});
    CHECK(wrong.code == 2);
    CHECK(b.scratch.entries() == before);
    const Json said = wrong.json();
    REQUIRE(said.contains("error"));
    CHECK_THAT(said.at("error").at("where").get<std::string>(), Catch::EndsWith(where));
    CHECK_FALSE(said.at("error").at("remedy").get<std::string>().empty());
  }
}

TEST_CASE("wrong chains exit with 2, change nothing, and name path, value and remedy", "[cli]") {
  const Bench b;
  const std::string corners = R"(,"width":10,"height":10,"unit":"mm"}]})";
  const std::string head = R"({"fexel":1,"steps":[{"step":"rectify","corners":)";
  const struct {
    std::string text, path, value;
  } rows[] = {{R"({"fexel":1,"steps":[{"step":"swirl"}]})", "/steps/0/step", "swirl"},
              {R"({"fexel":1,"steps":[{"step":"rotate","degrees":90,"speed":3}]})", "/steps/0/speed", "3"},
              {R"({"fexel":1,"steps":[{"step":"rotate"}]})", "/steps/0/degrees", "degrees"},
              {R"({"fexel":1,"steps":[{"step":"rotate","degrees":"left"}]})", "/steps/0/degrees", "left"},
              {head + "[[0,0],[90,90],[90,0],[0,90]]" + corners, "/steps/0/corners", "90"},
              {head + "[[0,0],[90,0],[90,0],[0,90]]" + corners, "/steps/0/corners", "90"},
              {head + "[[0,0],[45,0],[90,0],[0,90]]" + corners, "/steps/0/corners", "45"},
              {R"({"fexel":1,"steps":[{"step":"crop","x":0,"y":0,"width":900000,"height":900000}]})", "/steps/0/width",
               "900000"},
              {R"({"fexel":1,"steps":[{"step":"crop","x":1e999,"y":0,"width":9,"height":9}]})", "/steps/0/x", "1e999"},
              {"turn left, then crop", "/", "JSON"}};
  for (const auto& row : rows) {
    INFO(row.text);
    const std::string chain = b.scratch / "wrong.fexel.json";
    write_text(chain, row.text, true);
    const std::size_t before = b.scratch.entries();
    const Run wrong = run({"apply", chain, b.picture, "--out", b.out, "--json"});
    CHECK(wrong.code == 2);
    CHECK(b.scratch.entries() == before);
    const Json error = wrong.json().at("error");
    CHECK_THAT(std::string(error.at("where")), Catch::EndsWith(row.path));
    CHECK_THAT(std::string(error.at("message")), Catch::Contains(row.value));
    CHECK_FALSE(std::string(error.at("remedy")).empty());
    const Run plain = run({"apply", chain, b.picture, "--out", b.out});
    CHECK(plain.code == 2);
    CHECK(plain.out.empty());
    CHECK_THAT(plain.err, Catch::Contains(row.path));
  }
}

TEST_CASE("writing over a source is refused, also with --replace", "[cli]") {
  const Bench b;
  const std::string before = checksum(b.picture);
  const Run over =
      run({"apply", b.chain, b.picture, "--out", b.scratch.path().string(), "--name", "{stem}", "--replace", "--json"});
  CHECK(over.code == 2);
  CHECK_THAT(std::string(over.json().at("error").at("message")), Catch::Contains("source"));
  CHECK(checksum(b.picture) == before);
}

TEST_CASE("an existing file is kept without --replace, and skipped with --resume", "[cli]") {
  const Bench b;
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out}).code == 0);
  const std::string target = b.out + "/photo-turn.png";
  write_text(target, "mine", true);
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out}).code == 2);
  CHECK(read_text(target) == "mine");
  // What is there is not what its record says: a resumed run keeps it, and says so.
  const Run resumed = run({"apply", b.chain, b.picture, "--out", b.out, "--resume", "--json"});
  CHECK(resumed.code == 1);
  CHECK(resumed.json().at("failed").size() == 1);
  CHECK(read_text(target) == "mine");
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out, "--replace"}).code == 0);
  CHECK(read_info(target).width == 100);
  const Run again = run({"apply", b.chain, b.picture, "--out", b.out, "--resume", "--json"});
  CHECK(again.code == 0);
  CHECK(again.json().at("skipped").size() == 1);
}

TEST_CASE("a dry run and a shard write what they say", "[cli]") {
  const Bench b;
  const Run dry = run({"apply", b.chain, b.picture, "--out", b.out, "--dry-run"});
  CHECK(dry.code == 0);
  CHECK_FALSE(std::filesystem::exists(b.out));
  std::filesystem::copy_file(b.picture, b.scratch / "second.png");
  CHECK(
      run({"apply", b.chain, b.picture, (b.scratch / "second.png").string(), "--out", b.out, "--shard", "2/2"}).code ==
      0);
  CHECK_FALSE(std::filesystem::exists(b.out + "/photo-turn.png"));
  CHECK(std::filesystem::exists(b.out + "/second-turn.png"));
  CHECK(run({"apply", b.chain, b.picture, "--out", b.out, "--shard", "3/2"}).code == 2);
}

TEST_CASE("an unreadable input fails alone, and the rest is done", "[cli]") {
  Bench b;
  b.put("broken.png", "not a picture");
  const Run mixed =
      run({"apply", b.chain, b.picture, (b.scratch / "broken.png").string(), (b.scratch / "absent.png").string(),
           "--out", b.out, "--json", "--report", (b.scratch / "report.json").string()});
  CHECK(mixed.code == 1);
  CHECK(mixed.json().at("done").size() == 1);
  CHECK(mixed.json().at("failed").size() == 2);
  CHECK(parse_json(read_text(b.scratch / "report.json")).at("failed").size() == 2);
}

TEST_CASE("a run killed at any moment leaves no half file", "[cli]") {
  Bench b(2600, 2000);
  const std::string chain = b.put(
      "tilt.fexel.json",
      R"({"fexel":1,"steps":[{"step":"rectify","corners":[[200,150],[2400,300],[2300,1800],[300,1700]],"width":300,"height":200,"unit":"mm","pixel_size":0.1}]})");
  int killed = 0, finished = 0;
  for (int round = 0; round < 14; ++round) {
    const std::string out = b.out + std::to_string(round);
    const test::Scratch scratch;
    const pid_t child = start({"apply", chain, b.picture, "--out", out, "--format", "tiff", "--quiet"}, scratch);
    std::this_thread::sleep_for(std::chrono::milliseconds(20 + 110 * round));
    ::kill(child, round % 3 == 2 ? SIGINT : SIGKILL);
    const int code = wait_for(child);
    (code == 0 ? finished : killed) += 1;
    int files = 0;
    if (std::filesystem::exists(out))
      for (const auto& entry : std::filesystem::directory_iterator(out)) {
        ++files;
        if (entry.path().filename() == "photo-tilt.tif.record.json") {
          CHECK(parse_json(read_text(entry.path())).at("fexel_record") == 2);
          --files;
          continue;
        }
        CHECK(entry.path().filename() == "photo-tilt.tif");
        const Image whole = read_picture(entry.path());
        CHECK(whole.width() == 3000);
      }
    CHECK(files <= 1);
    if (code == 0) CHECK(files == 1);
  }
  CHECK(killed > 0);
  INFO(finished);
}

TEST_CASE("what a disk or a system does not take is said, and leaves no half file", "[cli]") {
  Bench b;
  const std::string format = GENERATE("tiff", "png", "pnm", "jpeg");
  // Two blocks of 512 bytes are less than any of the results takes.
  const std::string call = "ulimit -f 2; '" + std::string(FEXEL_CLI) + "' apply '" + b.chain + "' '" + b.picture +
                           "' --out '" + b.out + "' --quality 100 --format " + format + " --json > '" +
                           (b.scratch / "said").string() + "'";
  // What is said fits into the limit, too.
  const int status = std::system(call.c_str());
  REQUIRE(WIFEXITED(status));
  CHECK(WEXITSTATUS(status) == 1);
  const Json said = parse_json(read_text(b.scratch / "said"));
  REQUIRE(said.at("failed").size() == 1);
  CHECK(said.at("failed").at(0).at("error").at("message").get<std::string>().size() > 10);
  CHECK(said.at("failed").at(0).at("error").at("remedy").get<std::string>().size() > 10);
  int files = 0;
  if (std::filesystem::exists(b.out))
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(b.out)) ++files;
  CHECK(files == 0);
}

TEST_CASE("memory and pixels have limits that can be set", "[cli]") {
  Bench b;
  const std::string large = (b.scratch / "large.tif").string();
  std::vector<Image> pages;
  pages.push_back(test::noise(4200, 3100, 1, Depth::u16));
  write_pictures(large, pages, {});
  const std::string turn = b.put("turn.json", R"({"fexel":1,"steps":[{"step":"rotate","degrees":1.8}]})");
  const Run whole = run({"apply", turn, large, "--out", b.out, "--name", "whole", "--json"});
  const Run parts = run({"apply", turn, large, "--out", b.out, "--name", "parts", "--max-memory", "64", "--json"});
  REQUIRE(whole.code == 0);
  REQUIRE(parts.code == 0);
  CHECK(whole.json().at("done").at(0).at("empty_share") == parts.json().at("done").at(0).at("empty_share"));
  CHECK(test::same_samples(read_picture(b.out + "/whole.tif"), read_picture(b.out + "/parts.tif")));
  CHECK(run({"verify", b.out + "/parts.tif.record.json"}).code == 0);
  const Run png = run({"apply", turn, large, "--out", b.out, "--name", "x", "--max-memory", "64", "--format", "png"});
  CHECK(png.code == 2);
  CHECK(png.err.find("--max-memory") != std::string::npos);
  const Run few = run({"apply", turn, large, "--out", b.out, "--name", "x", "--max-pixels", "13"});
  CHECK(few.code == 1);
  CHECK(few.err.find("limit of 13000000 pixels") != std::string::npos);
  CHECK(run({"apply", turn, large, "--out", b.out, "--name", "y", "--max-pixels", "13.1"}).code == 0);
}

TEST_CASE("a range becomes the depth's range, and what lies outside is counted", "[cli]") {
  Bench b;
  const std::string none = b.put("none.fexel.json", R"({"fexel":1,"steps":[]})");
  const Run scaled = run(
      {"apply", none, b.picture, "--out", b.out, "--depth", "u16", "--range", "50,150", "--format", "tiff", "--json"});
  REQUIRE(scaled.code == 0);
  const Image before = read_picture(b.picture), after = read_picture(b.out + "/photo-none.tif");
  std::int64_t outside = 0;
  double worst = 0;
  for (int band = 0; band < before.bands(); ++band)
    for (int y = 0; y < before.height(); ++y)
      for (int x = 0; x < before.width(); ++x) {
        const double v = test::value(before, band, x, y);
        outside += v < 50 || v > 150;
        worst = std::max(worst, std::abs(test::value(after, band, x, y) - std::clamp((v - 50) * 655.35, 0.0, 65535.0)));
      }
  CHECK(worst < 0.51);
  CHECK(outside > 100);
  CHECK(scaled.json().at("done")[0].at("clamped") == outside);
  for (const char* wrong : {"5", "5,5", "a,b", "1,2,3", "1,1e30"})
    CHECK(run({"apply", none, b.picture, "--out", b.out, "--range", wrong, "--replace"}).code == 2);
}

TEST_CASE("trace carries points by the chain, in any convention, and says what is beyond", "[cli]") {
  Bench b;
  const Run there = run({"trace", b.chain, b.picture, "--from", "source", "--to", "result"}, "x,y\n270,15\n0,0\n");
  CHECK(there.code == 0);
  CHECK(there.out == "x,y,status\n5,10,ok\n-10,280,empty\n");
  const Run back =
      run({"trace", b.chain, b.picture, "--from", "2", "--to", "0", "--pixel-origin", "centre0"}, "x,y\n0,0\n");
  CHECK(back.out == "x,y,status\n279,10,ok\n");
  const std::string steep = b.put(
      "steep.json",
      R"({"fexel":1,"steps":[{"step":"rectify","corners":[[100,100],[200,100],[260,190],[40,190]],"width":10,"height":10,"unit":"mm"}]})");
  const Run beyond = run({"trace", steep, b.picture, "--from", "source", "--to", "result"}, "x,y\n150,120\n150,-100\n");
  CHECK(beyond.code == 1);
  CHECK_THAT(beyond.out, Catch::EndsWith(",,beyond-horizon\n"));
  const Run bad = run({"trace", b.chain, b.picture, "--from", "source", "--to", "result", "--json"}, "x,y\n1,two\n");
  CHECK(bad.code == 2);
  CHECK(bad.json().at("error").at("where") == "row 2");
  CHECK(run({"trace", b.chain, b.picture, "--from", "source", "--to", "9"}, "x,y\n").code == 2);
}

TEST_CASE("a wrong call is answered in words and exit code 2", "[cli]") {
  CHECK(run({}).code == 2);
  CHECK(run({"apply"}).code == 2);
  CHECK(run({"dance", "--json"}).json().contains("error"));
  CHECK(run({"--help"}).code == 0);
  CHECK(run({"--version"}).code == 0);
  // The page of the manual and the completion know every verb that --help lists, and its options.
  const std::string page = run({"manual"}).out, completion = run({"manual", "completion"}).out;
  std::istringstream help(run({"--help"}).out);
  int verbs = 0;
  bool listed = false;
  for (std::string line; std::getline(help, line);) {
    listed = listed || line.starts_with("Subcommands");
    std::istringstream words(line);
    std::string verb;
    if (!listed || !line.starts_with("  ") || line.starts_with("   ") || !(words >> verb)) continue;
    INFO(verb);
    CHECK(page.find(".SS " + verb) != std::string::npos);
    CHECK(completion.find("    " + verb + ") words=") != std::string::npos);
    ++verbs;
  }
  CHECK(verbs > 15);
  CHECK(page.find("\\-\\-resume") != std::string::npos);
  CHECK(completion.find("--resume") != std::string::npos);
}

TEST_CASE(
    "a chain comes from standard input, angles come in radians, and a verb that is none is answered by the nearest",
    "[cli]") {
  const Bench b;
  const Run piped = run({"apply", "-", b.picture, "--out", b.out, "--json"},
                        R"({"fexel":1,"steps":[{"step":"rotate","degrees":"1.5707963267948966 rad"}]})");
  INFO(piped.err);
  CHECK(piped.code == 0);
  CHECK(read_info(b.out + "/photo-chain.png").width == 200);
  CHECK(run({"apply", "-", b.picture, "--out", b.out, "--name", "x"},
            R"({"fexel":1,"steps":[{"step":"rotate","degrees":"7 deg"}]})")
            .code == 2);
  const Run wrong = run({"aply", b.chain, b.picture});
  CHECK(wrong.code == 2);
  CHECK_THAT(wrong.err, Catch::Contains("\"aply\"") && Catch::Contains("Did you mean apply"));
}

TEST_CASE("what was run, written and failed is in the log, and nothing where it is off or cannot be", "[cli]") {
  const test::Scratch scratch;
  const std::string state = (scratch / "state").string(), log = state + "/fexel/fexel-cli.log";
  const char* const before = std::getenv("XDG_STATE_HOME");
  const std::string kept = before ? before : "";
  const std::string gone = (scratch / "gone.png").string();
  ::setenv("XDG_STATE_HOME", state.c_str(), 1);
  CHECK(run({"info", gone, "--log-level", "off"}).code == 1);
  CHECK_FALSE(std::filesystem::exists(log));
  CHECK(run({"info", gone}).code == 1);
  CHECK_THAT(read_text(log), Catch::Contains("info " + gone) && Catch::Contains("error"));
  CHECK(run({"info", gone, "--log-level", "loud"}).code == 2);
  // A folder that cannot be made is no error of the work.
  ::setenv("XDG_STATE_HOME", "/proc/none", 1);
  CHECK(run({"info", gone}).code == 1);
  before ? ::setenv("XDG_STATE_HOME", kept.c_str(), 1) : ::unsetenv("XDG_STATE_HOME");
}
