// The verbs submit and gather, as processes. Tasks are run by hand, as a scheduler runs them: the script with the
// number of a part in SLURM_ARRAY_TASK_ID.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <map>

#include "tests/cli/bench.h"
#include "tests/motion_scene.h"

using namespace fexel;
using namespace fexel::test;
namespace fs = std::filesystem;

namespace {

struct ClusterBench : Bench {
  std::string photos, job = (scratch / "a job's folder").string();
  explicit ClusterBench(int count = 10) : Bench(60, 40) {
    photos = (scratch / "photos").string();
    fs::create_directories(photos);
    for (int i = 1; i <= count; ++i)
      write_pictures(fmt::format("{}/p-{}.png", photos, i),
                     one_page(noise(60 + i, 40, 1, Depth::u8, static_cast<unsigned>(i))),
                     {Format::png, PixelSize{0.1, 0.1, "mm"}, false, {}});
  }
  Run submit(int parts, std::vector<std::string> command) const {
    std::vector<std::string> words{"submit", "--parts", std::to_string(parts), "--folder", job, "--"};
    words.insert(words.end(), command.begin(), command.end());
    return run(words);
  }
  /// Runs one task of a script; its exit code.
  int task(const std::string& script, int part) const {
    const int status = std::system(
        fmt::format("SLURM_ARRAY_TASK_ID={} SLURM_CPUS_PER_TASK=1 bash \"{}/{}\" 2> /dev/null", part, job, script)
            .c_str());
    return WEXITSTATUS(status);
  }
};

std::map<std::string, std::string> bytes_in(const fs::path& folder) {
  std::map<std::string, std::string> out;
  for (const auto& entry : fs::directory_iterator(folder))
    out[entry.path().filename().string()] = read_text(entry.path());
  return out;
}

std::string chain_with_measurements(Bench& b) {
  return b.put("m.fexel.json", R"({"fexel":1,"steps":[],"measurements":[
    {"measure":"length","name":"across, \"a\"","points":[[3,4],[40,21]],"station":0},
    {"measure":"rectangle","name":"patch","points":[[5,5],[30,20]],"station":0}]})");
}

}  // namespace

TEST_CASE("parts of a job make together what one machine makes, byte for byte, also after one was lost",
          "[cli][cluster]") {
  const ClusterBench b;
  const std::string alone = (b.scratch / "results").string(), other = (b.scratch / "other").string();
  const std::vector<std::string> words{"apply", b.chain, b.photos, "--out", alone};
  const Run made = b.submit(4, words);
  INFO(made.err);
  REQUIRE(made.code == 0);
  CHECK_FALSE(fs::exists(alone));
  // Nothing has run yet.
  const Run early = run({"gather", b.job, "--json"});
  CHECK(early.code == 1);
  CHECK(early.json()["lost"].size() == 4);
  for (const int part : {1, 3, 4}) CHECK(b.task("job.sh", part) == 0);
  const Run lost = run({"gather", b.job, "--json"});
  CHECK(lost.code == 1);
  REQUIRE(lost.json()["lost"].size() == 1);
  CHECK(lost.json()["lost"][0]["part"] == 2);
  CHECK(lost.json()["lost"][0]["why"] == "it has not begun");
  CHECK(read_text(fs::path(b.job) / "again.sh").find("--array=2\n") != std::string::npos);
  CHECK(b.task("again.sh", 2) == 0);
  const Run done = run({"gather", b.job, "--json"});
  CHECK(done.code == 0);
  CHECK(done.json()["counts"]["done"] == 10);
  CHECK(run({"gather", b.job}).code == 0);
  const auto parts = bytes_in(alone);
  CHECK(parts.size() == 21);  // ten results with their records, and the journal
  // One machine, to the same place.
  fs::rename(alone, other);
  REQUIRE(run({"apply", b.chain, b.photos, "--out", alone, "--journal", alone + "/turn.run.jsonl"}).code == 0);
  CHECK(bytes_in(alone) == parts);
}

TEST_CASE("a part that was killed or cut short is lost; one with failed inputs is done, and they are told",
          "[cli][cluster]") {
  const ClusterBench b;
  std::ofstream(b.photos + "/p-5.png") << "no picture";
  REQUIRE(b.submit(2, {"apply", b.chain, b.photos, "--out", b.out}).code == 0);
  const int first = b.task("job.sh", 1), second = b.task("job.sh", 2);
  CHECK(first + second == 1);
  Run gathered = run({"gather", b.job, "--json"});
  CHECK(gathered.code == 1);
  CHECK(gathered.json()["lost"].empty());
  REQUIRE(gathered.json()["failed"].size() == 1);
  CHECK(gathered.json()["failed"][0]["input"].get<std::string>().ends_with("p-5.png"));
  CHECK(gathered.json()["counts"]["done"] == 9);
  // As an end by a signal leaves it, then half of what it said, then its own word that it was cancelled.
  const auto why = [&] { return run({"gather", b.job, "--json"}).json()["lost"][0]["why"].get<std::string>(); };
  std::ofstream(b.job + "/part-1.code") << "137\n";
  CHECK(why().find("137") != std::string::npos);
  std::ofstream(b.job + "/part-1.code") << "0\n";
  const std::string said = read_text(b.job + "/part-1.json");
  std::ofstream(b.job + "/part-1.json") << said.substr(0, said.size() / 2);
  CHECK(why().find("cut short") != std::string::npos);
  std::ofstream(b.job + "/part-1.json") << R"({"done":[],"failed":[],"skipped":[],"cancelled":true})";
  CHECK(why().find("cancelled") != std::string::npos);
  fs::remove(b.job + "/part-1.code");
  CHECK(why().find("before it was done") != std::string::npos);
  // Run again, what stands is skipped.
  CHECK(b.task("again.sh", 1) == first);
  gathered = run({"gather", b.job, "--json"});
  CHECK(gathered.json()["lost"].empty());
  CHECK(gathered.json()["counts"]["skipped"].get<int>() + gathered.json()["counts"]["done"].get<int>() == 9);
}

TEST_CASE("a part that Slurm still has is under way, and not lost, however the script came to it", "[cli][cluster]") {
  const ClusterBench b(4);
  REQUIRE(b.submit(3, {"apply", b.chain, b.photos, "--out", b.out}).code == 0);
  // A stand-in for squeue: of job 77 part 3 waits.
  fs::create_directories(b.scratch / "bin");
  std::ofstream(b.scratch / "bin" / "squeue") << "#!/bin/sh\ncase \"$*\" in *--jobs=77*) echo 3;; *) exit 1;; esac\n";
  fs::permissions(b.scratch / "bin" / "squeue", fs::perms::owner_all);
  const std::string before = std::getenv("PATH");
  ::setenv("PATH", ((b.scratch / "bin").string() + ":" + before).c_str(), 1);
  ::setenv("SLURM_ARRAY_JOB_ID", "77", 1);
  CHECK(b.task("job.sh", 1) == 0);
  const Run said = run({"gather", b.job, "--json"});
  ::unsetenv("SLURM_ARRAY_JOB_ID");
  ::setenv("PATH", before.c_str(), 1);
  CHECK(said.code == 1);
  CHECK(said.json()["under_way"] == Json{3});
  REQUIRE(said.json()["lost"].size() == 1);
  CHECK(said.json()["lost"][0]["part"] == 2);
}

TEST_CASE("tables of measurements of parts are those of one machine", "[cli][cluster]") {
  ClusterBench b(7);
  const std::string chain = chain_with_measurements(b), one = (b.scratch / "one.csv").string(),
                    many = (b.scratch / "many.csv").string();
  REQUIRE(run({"measure", chain, b.photos, "--out", one}).code == 0);
  REQUIRE(b.submit(3, {"measure", chain, b.photos, "--out", many}).code == 0);
  for (const int part : {2, 1, 3}) CHECK(b.task("job.sh", part) == 0);
  REQUIRE(run({"gather", b.job}).code == 0);
  CHECK(read_text(many) == read_text(one));
  CHECK(run({"gather", b.job}).code != 0);  // it is there now, and may not be replaced
}

TEST_CASE("tables of movement of parts are those of one machine", "[cli][cluster]") {
  const ClusterBench b(0);
  const Speckle surface(11);
  for (int k = 0; k < 5; ++k)
    write_pictures(fmt::format("{}/f-{}.png", b.photos, k + 1),
                   one_page(moved_frame(
                       160, 140, surface,
                       [k](Point p) {
                         return Point{0.5 * k + 0.002 * k * (p.x - 80), -0.3 * k};
                       },
                       2, static_cast<unsigned>(k + 1), Depth::u8)),
                   {Format::png, {}, false, {}});
  const std::string one = (b.scratch / "one.csv").string(), many = (b.scratch / "many.csv").string();
  REQUIRE(run({"motion", b.photos, "--spacing", "20", "--out", one}).code == 0);
  REQUIRE(b.submit(3, {"motion", b.photos, "--spacing", "20", "--out", many}).code == 0);
  for (const int part : {3, 1, 2}) CHECK(b.task("job.sh", part) == 0);
  REQUIRE(run({"gather", b.job}).code == 0);
  CHECK(read_text(many) == read_text(one));
}

TEST_CASE("frames that are aligned to a picture in parts are those of one machine", "[cli][cluster]") {
  const ClusterBench b(0);
  const Image wide = noise(140, 120, 1, Depth::u8, 5);
  for (int i = 0; i < 5; ++i) {
    Image frame(100, 90, 1, Depth::u8);
    for (int y = 0; y < 90; ++y)
      for (int x = 0; x < 100; ++x) {
        // A smooth texture, moved by whole pixels.
        double sum = 0;
        for (int dy = 0; dy < 4; ++dy)
          for (int dx = 0; dx < 4; ++dx) sum += value(wide, 0, x + dx + 3 * i, y + dy + 2 * i);
        frame.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(sum / 16);
      }
    write_pictures(fmt::format("{}/f-{}.png", b.photos, i + 1), one_page(std::move(frame)),
                   {Format::png, {}, false, {}});
  }
  const std::string to = b.photos + "/f-1.png", one = (b.scratch / "one").string(),
                    many = (b.scratch / "many").string();
  fs::create_directories(one);
  fs::create_directories(many);
  const auto words = [&](const std::string& folder) {
    return std::vector<std::string>{"align",   b.photos,      "--against", "file:" + to,
                                    "--model", "translation", "--out",     folder + "/a-{index}.tif"};
  };
  const Run whole = run(words(one));
  INFO(whole.err << whole.out);
  REQUIRE(whole.code == 0);
  REQUIRE(b.submit(2, words(many)).code == 0);
  for (const int part : {1, 2}) CHECK(b.task("job.sh", part) == 0);
  REQUIRE(run({"gather", b.job}).code == 0);
  for (int i = 1; i <= 5; ++i)
    CHECK(read_text(fmt::format("{}/a-{}.tif", many, i)) == read_text(fmt::format("{}/a-{}.tif", one, i)));
  for (const char* record : {"/a-1-to-2.tif.record.json", "/a-3-to-5.tif.record.json"})
    CHECK(run({"verify", many + record}).code == 0);
  auto parted = words(many);
  parted.insert(parted.end(), {"--shard", "9/9", "--replace"});
  CHECK(run(parted).code == 0);
  parted[parted.size() - 2] = "1/9";
  CHECK(run(parted).code == 2);  // more parts than frames: it has none
  CHECK(run({"align", b.photos, "--out", many + "/s.tif", "--shard", "1/2"}).code == 2);
  CHECK(run({"align", b.photos, "--against", "file:" + to, "--out", many + "/s.tif", "--shard", "1/2"}).code == 2);
}

TEST_CASE("a job that cannot be made is refused before there is a script", "[cli][cluster]") {
  const ClusterBench b(2);
  const auto refused = [&](std::vector<std::string> command, const std::string& word) {
    const Run said = b.submit(2, std::move(command));
    INFO(said.err);
    CHECK(said.code == 2);
    CHECK(said.err.find(word) != std::string::npos);
    CHECK_FALSE(fs::exists(b.job));
  };
  refused({"info", b.picture}, "has no parts");
  refused({"apply", b.chain, b.photos}, "--out");
  refused({"apply", b.chain, b.photos, "--out", b.out, "--shard", "1/2"}, "--shard");
  refused({"apply", b.chain, b.photos, "--out", b.out, "--threads=2"}, "--threads");
  refused({"apply", "none.json", b.photos, "--out", b.out}, "none.json");
  refused({"motion", b.photos, "--out", "m.csv", "--maps", "m.tif"}, "--maps");
  refused({"motion", b.photos, "--vtk", "v"}, "--out");
  refused({"apply", "-", b.photos, "--out", b.out}, "standard input");
  CHECK(run({"submit", "--parts", "2", "--folder", b.job, "--option", "account=x", "--", "apply", b.chain, b.photos,
             "--out", b.out})
            .code == 2);
  CHECK(run({"gather", b.out}).code == 2);
  fs::create_directories(b.job);
  std::ofstream(b.job + "/job.json")
      << R"({"fexel_job":1,"program":"x","directory":"/","command":["info"],"parts":2,"cpus":1,"options":[],"ids":[]})";
  CHECK(run({"gather", b.job}).code == 2);
  CHECK(b.submit(2, {"apply", b.chain, b.photos, "--out", b.out}).code == 2);  // the folder holds a job
}
