/// The command line besieged: random faults over random calls. No input changes, nothing wrong ends with 0, no result
/// stands without its record, nothing crashes, and a second run completes the first. FEXEL_SIEGE in the environment
/// says for how many seconds, FEXEL_SEED where to begin.
#include <sys/resource.h>

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <csignal>
#include <cstdlib>
#include <map>
#include <set>
#include <thread>

#include "tests/cli/program.h"
#include "tests/scene.h"

using namespace fexel;
using namespace fexel::test;
namespace fs = std::filesystem;

namespace {

using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point begin) {
  return std::chrono::duration<double>(Clock::now() - begin).count();
}

class Siege {
 public:
  explicit Siege(unsigned seed) : random_(seed) { fs::create_directory(in()); }

  void run_one() {
    make_inputs();
    make_call();
    const auto before = sums(in());
    std::string fault = of<std::string>({"none", "kill", "kill", "int", "term", "vanish", "replace", "cut", "file size",
                                         "memory", "two runs", "no folder"});
    if (fault == "no folder" && (fs::exists(out()) || verb_ == "trace")) fault = "none";
    INFO("fault: " << fault);
    std::string call;
    for (const auto& word : words_) call += " " + word;
    INFO("fexel-cli" << call);
    if (fault == "no folder") write_text(out(), "not a folder", true);
    const Scratch said, said_too;
    const pid_t child = begin(words_, said, fault);
    pid_t second = 0;
    std::set<std::string> touched;  // by the fault itself
    std::this_thread::sleep_for(std::chrono::milliseconds(whole(0, whole(0, 2) == 0 ? 15 : 220)));
    const fs::path victim = inputs_[static_cast<std::size_t>(whole(0, static_cast<int>(inputs_.size()) - 1))];
    const std::string kept = read_text(victim);
    if (fault == "kill") ::kill(child, SIGKILL);
    if (fault == "int") ::kill(child, SIGINT);
    if (fault == "term") ::kill(child, SIGTERM);
    if (fault == "vanish") fs::remove(victim), touched.insert(victim.string());
    if (fault == "cut") fs::resize_file(victim, kept.size() / 2), touched.insert(victim.string());
    if (fault == "replace") {
      write_text(victim, read_text(inputs_.front()), true);
      touched.insert(victim.string());
    }
    if (fault == "two runs") second = begin(words_, said_too, "none");
    const int code = ended(child), other = second > 0 ? ended(second) : 0;
    INFO("exit " << code << " and " << other << "; " << heard(said));
    // No crash: an exit code, or the signal that was sent.
    CHECK((code == 0 || code == 1 || code == 2 || (fault == "kill" && code == 1000 + SIGKILL) ||
           (fault == "int" && code == 1000 + SIGINT) || (fault == "term" && code == 1000 + SIGTERM)));
    CHECK((other == 0 || other == 1 || other == 2));
    // No input changed, but by the fault.
    auto after = sums(in());
    auto left = before;
    for (const std::string& name : touched) after.erase(name), left.erase(name);
    CHECK(after == left);
    if (fault == "no folder") {
      CHECK(code != 0);
      CHECK(read_text(out()) == "not a folder");
      fs::remove(out());
    }
    check_results(touched.empty());
    if (code == 0 && fault != "two runs") CHECK(complete());
    // Nothing hidden is left, but by a kill.
    if (fault != "kill" && fs::exists(out()))
      for (const auto& entry : fs::directory_iterator(out()))
        CHECK_FALSE(entry.path().filename().string().starts_with("."));
    // The second run completes the first.
    write_text(victim, kept, true);
    for (const auto& [name, sum] : before) CHECK(checksum(name) == sum);
    auto again = words_;
    if (verb_ == "apply") again.push_back("--resume");
    if (verb_ == "align") again.push_back("--replace");
    const Scratch said_again;
    const int whole_code = ended(begin(again, said_again, "none"));
    INFO("the second run: exit " << whole_code << "; " << heard(said_again));
    CHECK(whole_code == expected_);
    check_results(true);
    if (expected_ == 0) CHECK(complete());
    CHECK(sums(in()) == before);
  }

 private:
  fs::path in() const { return scratch_ / "in"; }
  fs::path out() const { return scratch_ / "out"; }
  int whole(int low, int high) { return low + static_cast<int>(random_() % static_cast<unsigned>(high - low + 1)); }
  template <class T>
  T of(std::initializer_list<T> list) {
    return *(list.begin() + whole(0, static_cast<int>(list.size()) - 1));
  }

  /// What a run said, if it came so far.
  static std::string heard(const Scratch& said) { return fs::exists(said / "err") ? read_text(said / "err") : ""; }

  static std::map<std::string, std::string> sums(const fs::path& folder) {
    std::map<std::string, std::string> out;
    for (const auto& entry : fs::recursive_directory_iterator(folder))
      if (entry.is_regular_file()) out[entry.path().string()] = checksum(entry.path());
    return out;
  }

  pid_t begin(const std::vector<std::string>& words, const Scratch& said, const std::string& fault) {
    const rlim_t megabyte = 1 << 20;
    const rlim_t memory = megabyte * static_cast<rlim_t>(whole(230, 540)), size = static_cast<rlim_t>(whole(2, 60))
                                                                                  << 10;
    { std::ofstream(said / "in") << "x,y\n1,2\n30,20\n"; }
    const pid_t child = fork_plain();
    if (child != 0) return child;
    if (fault == "memory") {
      const rlimit limit{memory, memory};
      ::setrlimit(RLIMIT_AS, &limit);
    }
    if (fault == "file size") {
      const rlimit limit{size, size};
      ::setrlimit(RLIMIT_FSIZE, &limit);
    }
    ::dup2(::open((said / "in").c_str(), O_RDONLY), 0);
    ::dup2(::open("/dev/null", O_WRONLY), 1);
    ::dup2(::open((said / "err").c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644), 2);
    std::vector<char*> arguments{const_cast<char*>(program())};
    for (const auto& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
    arguments.push_back(nullptr);
    ::execv(program(), arguments.data());
    ::_exit(127);
  }
  int ended(pid_t child) {
    const auto begin = Clock::now();
    int status = 0;
    while (::waitpid(child, &status, WNOHANG) == 0) {
      if (seconds_since(begin) > 60) {
        FAIL_CHECK("a run did not end");
        ::kill(child, SIGKILL);
        ::waitpid(child, &status, 0);
        break;
      }
      std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : 1000 + WTERMSIG(status);
  }

  void put(const std::string& name, const std::vector<Image>& pages) {
    WriteOptions how;
    how.format = *format_of_name(name);
    write_pictures(in() / name, pages, how);
    inputs_.push_back(in() / name);
  }

  void make_inputs() {
    const int kind = whole(0, 3), count = whole(2, 5);
    const Size size{whole(60, 500), whole(60, 400)};
    static const Scene scene = textured(60, 0.01, 0.2, 40, 5);
    const std::string stem = of<std::string>({"frame-", "caf\xe9 ", "{stem}", "a'b;c$(d)-", "line\nfeed-"});
    std::vector<Image> pages;
    for (int i = 0; i < count; ++i) {
      Image frame = frame_of(scene, translation(2 * i, -i), size, kind == 1 ? Depth::u16 : Depth::u8, 2,
                             static_cast<unsigned>(i), kind == 1 ? 100 : 1);
      if (kind == 3)
        pages.push_back(std::move(frame));
      else
        put(stem + std::to_string(i + 1) + of<std::string>({".png", ".tif"}), one_page(std::move(frame)));
    }
    unlike_ = kind == 3 && whole(0, 1) == 0;
    if (unlike_) pages.push_back(noise(size.width, size.height, 3, Depth::u8));
    if (kind == 3) put(stem + "stack.tif", pages);
  }

  void make_call() {
    const std::string steps =
        of<std::string>({R"({"step":"rotate","degrees":3})", R"({"step":"crop","x":2,"y":3,"width":40,"height":30})",
                         R"({"step":"denoise","radius":2},{"step":"rotate","degrees":-20})", ""});
    write_text(in() / "chain.fexel.json", R"({"fexel":1,"steps":[)" + steps + "]}", true);
    verb_ = of<std::string>({"apply", "apply", "align", "trace", "verify"});
    expected_ = 0;
    const std::string chain = (in() / "chain.fexel.json").string();
    if (verb_ == "apply") {
      words_ = {"apply", chain};
      for (const auto& input : inputs_) words_.push_back(input.string());
      words_.insert(words_.end(),
                    {"--out", out().string(), "--quiet", "--empty", of<std::string>({"fill", "mask", "alpha"})});
      words_.insert(words_.end(), {"--format", of<std::string>({"tiff", "tiff", inputs_.size() > 1 ? "png" : "tiff"})});
    } else if (verb_ == "align") {
      fs::create_directory(out());
      words_ = {"align"};
      for (const auto& input : inputs_) words_.push_back(input.string());
      words_.insert(words_.end(), {"--out", (out() / of<std::string>({"a.tif", "f-{index}.tif"})).string(), "--model",
                                   "translation", "--quiet"});
      // Small frames need not match: what a call without a fault says is what is expected.
      const Scratch said;
      expected_ = ended(begin(words_, said, "none"));
      CHECK(expected_ == (unlike_ ? 1 : expected_));
      fs::remove_all(out());
      fs::create_directory(out());
    } else if (verb_ == "trace") {
      words_ = {"trace", chain, inputs_.front().string(), "--from", "source", "--to", "result"};
    } else {
      const Scratch said;
      REQUIRE(ended(begin({"apply", chain, inputs_.front().string(), "--out", out().string(), "--name", "r", "--format",
                           "tiff"},
                          said, "none")) == 0);
      words_ = {"verify", (out() / "r.tif.record.json").string(), "--quiet"};
    }
  }

  /// Every picture in the folder is named by a record there and is as it says; with `verify` it is made again.
  void check_results(bool verify) {
    if (!fs::is_directory(out())) return;
    std::map<std::string, std::string> named;
    std::vector<fs::path> records;
    for (const auto& entry : fs::directory_iterator(out())) {
      const std::string name = entry.path().filename().string();
      if (!name.ends_with(".record.json")) continue;
      records.push_back(entry.path());
      const Json record = parse_json(read_text(entry.path()));
      for (const Json& file : record.at("results"))
        named[file.contains("path_bytes") ? bytes_of_text(file.at("path_bytes")) : file.at("path").get<std::string>()] =
            file.at("sha256");
    }
    for (const auto& entry : fs::directory_iterator(out())) {
      const std::string name = entry.path().filename().string();
      if (name.ends_with(".json") || name.starts_with(".")) continue;
      INFO(name);
      REQUIRE(named.contains(name));
      CHECK(named[name] == checksum(entry.path()));
    }
    for (const auto& record : records) {
      const Json text = parse_json(read_text(record));
      bool there = true;
      for (const Json& file : text.at("results"))
        there = there && fs::exists(out() / (file.contains("path_bytes") ? bytes_of_text(file.at("path_bytes"))
                                                                         : file.at("path").get<std::string>()));
      if (!there || !verify) continue;
      const Scratch said;
      INFO(record.string());
      CHECK(ended(begin({"verify", record.string(), "--quiet"}, said, "none")) == 0);
    }
  }
  static std::string bytes_of_text(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i + 1 < text.size(); i += 2)
      out += static_cast<char>(std::stoi(text.substr(i, 2), nullptr, 16));
    return out;
  }

  /// All results of the call are there.
  bool complete() const {
    if (verb_ == "trace") return true;
    std::size_t records = 0;
    for (const auto& entry : fs::directory_iterator(out()))
      records += entry.path().filename().string().ends_with(".record.json");
    return records == (verb_ == "apply" ? inputs_.size() : 1);
  }

  std::mt19937 random_;
  Scratch scratch_;
  std::vector<fs::path> inputs_;
  std::vector<std::string> words_;
  std::string verb_;
  bool unlike_ = false;
  int expected_ = 0;
};

}  // namespace

TEST_CASE("under random faults no input changes, nothing wrong is called right, and a second run completes the first",
          "[siege]") {
  const double seconds = std::getenv("FEXEL_SIEGE") ? std::atof(std::getenv("FEXEL_SIEGE")) : 6;
  unsigned seed = std::getenv("FEXEL_SEED") ? static_cast<unsigned>(std::atoi(std::getenv("FEXEL_SEED"))) : 1;
  const auto begin = Clock::now();
  int rounds = 0;
  for (; seconds_since(begin) < seconds; ++rounds, ++seed) {
    INFO("FEXEL_SEED=" << seed);
    Siege(seed).run_one();
  }
  CHECK(rounds > 2);
  if (std::getenv("FEXEL_SIEGE")) WARN(rounds << " rounds");
}
