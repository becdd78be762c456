/// A chain over many files from the command line: patterns, subfolders, values of their own, the journal.
#include <random>

#include "tests/cli/safety.h"

namespace fexel::test::safety {
namespace {

/// Every file of a folder by its name, with its checksum.
std::map<std::string, std::string> tree(const std::string& folder) {
  std::map<std::string, std::string> out;
  for (const auto& [path, sum] : sums(folder)) out[fs::path(path).lexically_relative(folder).string()] = sum;
  return out;
}

}  // namespace

TEST_CASE("folders below give their results to the same below the output, by pattern", "[safety][runs]") {
  const Folder f;
  for (const char* name : {"in/a-10.png", "in/a-9.png", "in/b.png", "in/deep/er/a-1.png"}) {
    fs::create_directories(fs::path(f.at(name)).parent_path());
    f.picture(name, noise(40, 30, 1, Depth::u8));
  }
  const std::string chain = f.chain(R"({"step":"rotate","degrees":90})");
  const Run made = run({"apply", chain, f.at("in"), "--out", f.out, "--include", "a-*", "--subfolders", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  std::vector<std::string> order;
  const Json said = made.json();
  for (const Json& one : said.at("done"))
    order.push_back(fs::path(one.at("output").get<std::string>()).lexically_relative(f.out).string());
  CHECK(order == std::vector<std::string>{"a-9-c.png", "a-10-c.png", "deep/er/a-1-c.png"});
  CHECK(run({"apply", chain, f.at("in"), "--out", f.out, "--include", "*.jpg", "--subfolders"}).code == 1);
}

TEST_CASE("values of a table go to their files, and rows without a file are said", "[safety][runs]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":0})");
  const std::string a = f.picture("a.png", noise(40, 30, 1, Depth::u8)),
                    b = f.picture("b.png", noise(40, 30, 1, Depth::u8));
  f.put("v.csv", "file,/steps/0/degrees\na.png,90\nnone.png,3\n");
  const Run made = run({"apply", chain, a, b, "--out", f.out, "--values", f.at("v.csv"), "--json"});
  REQUIRE(made.code == 0);
  CHECK(made.json().at("done")[0].at("width") == 30);
  CHECK(made.json().at("done")[1].at("width") == 40);
  CHECK(made.err.find("none.png") != std::string::npos);
  f.put("v.csv", "file,/steps/0/degrees\na.png,much\n");
  const Run refused = run({"apply", chain, a, "--out", f.out + "2", "--values", f.at("v.csv"), "--json"});
  CHECK(refused.code == 2);
  CHECK(refused.out.find("row 2") != std::string::npos);
  CHECK_FALSE(fs::exists(f.out + "2"));
  const std::string aligning = f.chain(R"({"step":"align","model":"translation","against":"first"})", "al.fexel.json");
  f.put("v.csv", "file,/steps/0/model\na.png,rigid\n");
  CHECK(run({"apply", aligning, a, b, "--out", f.out + "3", "--values", f.at("v.csv")}).code == 2);
}

TEST_CASE("a journal replaces no file that is none, and one that is there is said", "[safety][runs]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":90})"),
                    a = f.picture("a.png", noise(40, 30, 1, Depth::u8));
  const std::string mine = f.put("mine.txt", "mine");
  for (const char* how : {"--replace", "--resume", "--quiet"}) {
    CHECK(run({"apply", chain, a, "--out", f.out, "--journal", mine, how}).code == 2);
    CHECK(read_text(mine) == "mine");
  }
  // Nor a source.
  CHECK(run({"apply", chain, a, "--out", f.out, "--journal", a, "--replace"}).code == 2);
}

TEST_CASE("a run that is killed at random and resumed ends byte for byte as in one go", "[safety][runs]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":5})");
  for (int i = 0; i < 24; ++i) {
    const std::string name = "in/p-" + std::to_string(i) + (i % 2 == 0 ? ".png" : ".tif");
    fs::create_directories(f.at("in"));
    f.picture(name, noise(500, 400, 1, Depth::u8, static_cast<unsigned>(i)));
  }
  f.put("in/broken.png", "no picture");
  const auto words = [&](const std::string& out) {
    return std::vector<std::string>{"apply", chain,       f.at("in"),         "--out",
                                    out,     "--journal", out + "/run.jsonl", "--quiet"};
  };
  const std::string once = f.at("once");
  const auto begin = std::chrono::steady_clock::now();
  REQUIRE(run(words(once)).code == 1);
  const double takes = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  const auto whole = tree(once);
  CHECK(whole.size() == 2 * 24 + 1);
  std::mt19937 random(7);
  int killed = 0;
  const int rounds = sanitized() ? 4 : 20;
  for (int round = 0; round < rounds; ++round) {
    const std::string out = f.at("again");
    fs::remove_all(out);
    auto again = words(out);
    const test::Scratch said;
    const pid_t child = start(again, said);
    std::this_thread::sleep_for(
        std::chrono::duration<double>(takes * std::uniform_real_distribution(0.0, 0.9)(random)));
    ::kill(child, SIGKILL);
    killed += wait_for(child) == 1000 + SIGKILL;
    again.emplace_back("--resume");
    const Run rest = run(again);
    INFO(round << rest.err);
    CHECK(rest.code == 1);
    CHECK(tree(out) == whole);
  }
  CHECK(killed >= rounds / 2);
}

TEST_CASE("a correction in the journal holds when the run is resumed", "[safety][runs]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":0})");
  const std::string a = f.picture("a.png", noise(40, 30, 1, Depth::u8)),
                    b = f.picture("b.png", noise(40, 30, 1, Depth::u8));
  const std::string journal = f.out + "/c.run.jsonl";
  REQUIRE(run({"apply", chain, a, b, "--out", f.out, "--journal", journal}).code == 0);
  std::string text = read_text(journal);
  text += R"({"input":")" + b + R"(","chain":{"fexel":1,"steps":[{"step":"rotate","degrees":90}]}})" + "\n";
  write_text(journal, text, true);
  const Run resumed = run({"apply", chain, a, b, "--out", f.out, "--resume", "--json"});
  INFO(resumed.err);
  REQUIRE(resumed.code == 0);
  CHECK(resumed.json().at("skipped").size() == 1);
  CHECK(resumed.json().at("done")[0].at("width") == 30);
}

TEST_CASE("corrections of another chain are kept beside, and do not hold", "[safety][runs]") {
  const Folder f;
  const std::string a = f.picture("a.png", noise(40, 30, 1, Depth::u8)), journal = f.out + "/c.run.jsonl";
  REQUIRE(run({"apply", f.chain(R"({"step":"rotate","degrees":0})"), a, "--out", f.out, "--journal", journal}).code ==
          0);
  write_text(journal,
             read_text(journal) + R"({"input":")" + a +
                 R"(","chain":{"fexel":1,"steps":[{"step":"rotate","degrees":90}]}})" + "\n",
             true);
  const std::string before = read_text(journal);
  const Run made = run({"apply", f.chain(R"({"step":"rotate","degrees":180})"), a, "--out", f.out, "--journal", journal,
                        "--replace", "--json"});
  INFO(made.err);
  REQUIRE(made.code == 0);
  CHECK(made.json().at("done")[0].at("width") == 40);
  CHECK(read_text(journal + ".before") == before);
}

TEST_CASE("values of the table are no corrections in the journal", "[safety][runs]") {
  const Folder f;
  const std::string a = f.picture("a.png", noise(40, 30, 1, Depth::u8)), journal = f.out + "/c.run.jsonl";
  f.put("v.csv", "file,/steps/0/degrees\na.png,90\n");
  const std::string chain = f.chain(R"({"step":"rotate","degrees":0})");
  REQUIRE(run({"apply", chain, a, "--out", f.out, "--values", f.at("v.csv"), "--journal", journal}).code == 0);
  CHECK(read_picture(f.out + "/a-c.png").width() == 30);
  // Another table later on: what it says holds.
  f.put("v.csv", "file,/steps/0/degrees\na.png,180\n");
  const Run again = run({"apply", chain, a, "--out", f.out, "--values", f.at("v.csv"), "--journal", journal, "--resume",
                         "--replace", "--json"});
  INFO(again.err << again.out);
  CHECK(read_picture(f.out + "/a-c.png").width() == 40);
}

TEST_CASE("shards share a folder without sharing a journal", "[safety][runs]") {
  const Folder f;
  fs::create_directories(f.at("in"));
  for (int i = 0; i < 5; ++i) f.picture("in/p" + std::to_string(i) + ".png", noise(30, 20, 1, Depth::u8));
  const std::string chain = f.chain(R"({"step":"rotate","degrees":90})");
  for (const char* shard : {"1/2", "2/2"})
    REQUIRE(run({"apply", chain, f.at("in"), "--out", f.out, "--shard", shard, "--resume"}).code == 0);
  int journals = 0, pictures = 0;
  for (const auto& [name, sum] : tree(f.out)) {
    journals += name.ends_with(".jsonl");
    pictures += name.ends_with(".png");
  }
  CHECK(pictures == 5);
  CHECK(journals == 0);
}

}  // namespace fexel::test::safety
