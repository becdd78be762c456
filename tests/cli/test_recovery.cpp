/// Nothing destroyed, and nothing wrong called right: the command line on faults, cuts, replaced files, unlike pages,
/// hostile names and broken runs.
#include <sys/resource.h>

#include "base/crash_note.h"
#include "tests/cli/safety.h"

namespace fexel::test::safety {
TEST_CASE("a source that is changed while it is read fails that input", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(2400, 2000, 3, Depth::u8)),
                    chain = f.chain(R"({"step":"rotate","degrees":3})");
  const std::string other = f.picture("b.png", noise(2400, 2000, 3, Depth::u8, 9));
  int failed = 0, done = 0;
  for (int round = 0; round < 8; ++round) {
    const std::string out = f.out + std::to_string(round);
    const test::Scratch said;
    const pid_t child = start({"apply", chain, source, "--out", out, "--quiet"}, said);
    std::this_thread::sleep_for(std::chrono::milliseconds(40 + 90 * round));
    fs::copy_file(other, f.at("c.png"), fs::copy_options::overwrite_existing);
    fs::rename(f.at("c.png"), source);
    const int code = wait_for(child);
    (code == 0 ? done : failed) += 1;
    if (code == 0) {
      // What is certified is what was read: made again of either file, it is one of the two.
      const std::string sum =
          parse_json(read_text(out + "/a-c.png.record.json")).at("sources")[0].at("sha256").get<std::string>();
      const bool now = sum == checksum(source);
      const Run check = run({"verify", out + "/a-c.png.record.json", "--json"});
      if (now) CHECK(check.json().at("same") == true);
    } else {
      CHECK_FALSE(fs::exists(out + "/a-c.png"));
    }
  }
  CHECK(failed > 0);
  INFO(done);
}

TEST_CASE("a resumed run takes as done what stands as its record says, and repairs the rest", "[safety]") {
  const Folder f;
  std::vector<std::string> words{"apply", f.chain(R"({"step":"rotate","degrees":5})")};
  for (int i = 0; i < 5; ++i)
    words.push_back(
        f.picture("p-" + std::to_string(i) + ".png", noise(40, 30, 1, Depth::u8, static_cast<unsigned>(i))));
  words.insert(words.end(), {"--out", f.out, "--empty", "mask", "--json", "--report", f.at("r.json")});
  auto resumed = words;
  resumed.push_back("--resume");
  REQUIRE(run(words).code == 0);
  const auto whole = sums(f.out);
  const Run nothing = run(resumed);
  CHECK(nothing.code == 0);
  CHECK(nothing.json().at("skipped").size() == 5);
  // A record without its result, a result that lost its mask, a result and a record that are gone.
  fs::remove(f.out + "/p-0-c.png");
  fs::remove(f.out + "/p-1-c.png.mask.png");
  fs::remove(f.out + "/p-2-c.png");
  fs::remove(f.out + "/p-2-c.png.record.json");
  fs::remove(f.out + "/p-2-c.png.mask.png");
  Run repaired = run(resumed);
  INFO(repaired.err << repaired.out);
  CHECK(repaired.code == 0);
  CHECK(repaired.json().at("skipped").size() == 2);
  CHECK(repaired.json().at("done").size() == 3);
  CHECK(sums(f.out) == whole);
  // What somebody else put there is kept.
  f.put("results/p-3-c.png", "mine");
  const Run kept = run(resumed);
  CHECK(kept.code == 1);
  CHECK(read_text(f.out + "/p-3-c.png") == "mine");
  // Another chain: what was made is made anew.
  f.chain(R"({"step":"rotate","degrees":6})");
  fs::remove(f.out + "/p-3-c.png");
  const Run other = run(resumed);
  CHECK(other.code == 0);
  CHECK(other.json().at("done").size() == 5);
  for (int i = 0; i < 5; ++i)
    CHECK(run({"verify", f.out + "/p-" + std::to_string(i) + "-c.png.record.json"}).code == 0);
}

TEST_CASE("a resumed run of a sequence does not take frames for done that another sequence was aligned to",
          "[safety]") {
  const Folder f;
  const auto names = f.frames(4);
  const std::string chain = f.chain(R"({"step":"align","model":"translation"})");
  const std::vector<std::string> ending{"--out", f.out, "--format", "tiff", "--quiet", "--resume"};
  std::vector<std::string> later{"apply", chain, names[1], names[2]}, all{"apply", chain, names[0], names[1], names[2]};
  later.insert(later.end(), ending.begin(), ending.end());
  all.insert(all.end(), ending.begin(), ending.end());
  REQUIRE(run(later).code == 0);
  REQUIRE(run(all).code == 0);
  // Frame 2 was the reference of the first run; it lies 2 px from frame 1, that of the second.
  const Json record = parse_json(read_text(f.out + "/f-2-c.tif.record.json"));
  CHECK(record.at("transform").at("frames")[0].at("matrix")[0][2].get<double>() == Approx(-2).margin(0.05));
}

TEST_CASE("a signal ends every verb within two seconds, with one line", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(60, 40, 1, Depth::u8)), chain = f.chain("");
  std::string pairs = R"({"step":"fit","model":"thin-plate","pairs":[)";
  std::mt19937 random(3);
  for (int i = 0; i < 2000; ++i)
    pairs += fmt::format("{}{{\"from\":[{},{}],\"to\":[{},{}]}}", i > 0 ? "," : "", i % 50, i / 50,
                         i % 50 + static_cast<double>(random() % 100) / 1000, i / 50);
  const std::string spline = f.chain(pairs + "]}", "spline.fexel.json");
  ::mkfifo(f.at("pipe").c_str(), 0644);
  for (const int signal : {SIGINT, SIGTERM})
    for (const std::string what : {"trace", "spline"}) {
      const test::Scratch said;
      int ends[2];
      REQUIRE(::pipe(ends) == 0);
      const pid_t child = fork_plain();
      if (child == 0) {
        ::dup2(ends[0], 0);
        ::dup2(::open((said / "out").c_str(), O_WRONLY | O_CREAT, 0644), 1);
        ::dup2(::open((said / "err").c_str(), O_WRONLY | O_CREAT, 0644), 2);
        if (what == "trace")
          ::execl(program(), program(), "trace", chain.c_str(), source.c_str(), "--from", "source", "--to", "result",
                  nullptr);
        else
          ::execl(program(), program(), "apply", spline.c_str(), source.c_str(), "--out", f.out.c_str(), "--quiet",
                  nullptr);
        ::_exit(127);
      }
      REQUIRE(wait_until_it_listens(child));
      std::this_thread::sleep_for(std::chrono::milliseconds(200));
      const auto begin = std::chrono::steady_clock::now();
      ::kill(child, signal);
      const int code = wait_for(child);
      const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
      ::close(ends[0]);
      ::close(ends[1]);
      INFO(what << " " << seconds << " s");
      CHECK(code == 1);
      CHECK(seconds < (sanitized() ? 6 : 3));
      CHECK_THAT(read_text(said / "err"), Contains("Cancelled"));
    }
  // A named pipe is no picture, and is not waited for.
  CHECK(run({"info", f.at("pipe")}).code == 1);
  CHECK(run({"apply", chain, f.at("pipe"), "--out", f.out}).code != 0);
}

TEST_CASE("streams that are closed or full are an exit code and no crash", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(60, 40, 1, Depth::u8)), chain = f.chain("");
  const auto shell = [&](const std::string& rest) {
    const int status = std::system((std::string(program()) + " " + rest).c_str());
    return WIFEXITED(status) ? WEXITSTATUS(status) : 1000;
  };
  CHECK(shell("apply " + chain + " " + source + " --out " + f.out + " --replace > /dev/full 2>/dev/null") == 1);
  CHECK(shell("info " + source + " > /dev/full 2>/dev/null") == 1);
  CHECK(shell("info " + source + " >&- 2>/dev/null") == 1);
  CHECK(shell("apply " + chain + " " + source + " --out " + f.out + " --replace > /dev/null 2>&-") == 0);
  CHECK(shell("apply " + chain + " " + source + " --out " + f.out + " --replace > /dev/null 2>/dev/full") == 0);
  CHECK(shell("info " + f.at("absent.png") + " > /dev/null 2>/dev/full") == 1);
  CHECK(run({"verify", f.out + "/a-c.png.record.json"}).code == 0);
}

TEST_CASE("memory keeps to its limit, or the least that would do is said", "[safety]") {
  if (sanitized()) return;
  const Folder f;
  std::vector<Image> pages;
  for (unsigned i = 0; i < 3; ++i) pages.push_back(noise(7000, 5200, 1, Depth::u16, i));
  const std::string large = f.stack("large.tif", pages);
  pages.clear();
  // The peak of the process, in megabytes, as the system tells it while it runs.
  const auto peak = [&](const std::vector<std::string>& words, int& code) {
    const test::Scratch said;
    const pid_t child = start(words, said);
    double most = 0;
    int status = 0;
    while (::waitpid(child, &status, WNOHANG) == 0) {
      std::ifstream in("/proc/" + std::to_string(child) + "/status");
      for (std::string line; std::getline(in, line);)
        if (line.starts_with("VmHWM:")) most = std::max(most, std::atof(line.c_str() + 6) / 1024);
      std::ifstream name("/proc/" + std::to_string(child) + "/comm");
      std::string comm;
      if (!(name >> comm) || !comm.starts_with("fexel")) most = 0;  // before it is the program
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    code = WIFEXITED(status) ? WEXITSTATUS(status) : 1000;
    return most;
  };
  int code = 0;
  const std::string chain = f.chain(R"({"step":"crop","x":3000,"y":2000,"width":50,"height":50})");
  const double cropped = peak({"apply", chain, large, "--out", f.out, "--max-memory", "64", "--quiet"}, code);
  CHECK(code == 0);
  CHECK(cropped < 64 + 60);  // and the program itself
  const double verified = peak({"verify", f.out + "/large-c.tif.record.json", "--max-memory", "64", "--quiet"}, code);
  CHECK(code == 0);
  CHECK(verified < 64 + 60);
  const Run refused =
      run({"apply", f.chain(R"({"step":"denoise","radius":2})"), large, "--out", f.out, "--max-memory", "64"});
  CHECK(refused.code == 2);
  CHECK_THAT(refused.err, Contains("--max-memory 30"));
}

TEST_CASE("low memory is a sentence, not a crash", "[safety]") {
  if (sanitized()) return;
  const Folder f;
  std::vector<Image> pages;
  for (int i = 0; i < 4; ++i) pages.push_back(Folder::frame(i, {1600, 1200}));
  const std::string stack = f.stack("stack.tif", pages);
  // The program and its libraries take some 190 MB of addresses by themselves.
  for (int megabytes = 330; megabytes <= 550; megabytes += 22) {
    const test::Scratch said;
    const pid_t child = fork_plain();
    if (child == 0) {
      const rlim_t bytes = static_cast<rlim_t>(megabytes) << 20;
      const rlimit limit{bytes, bytes};
      ::setrlimit(RLIMIT_AS, &limit);
      ::dup2(::open("/dev/null", O_WRONLY), 1);
      ::dup2(::open((said / "err").c_str(), O_WRONLY | O_CREAT, 0644), 2);
      const std::string out = f.at("low.tif");
      ::execl(program(), program(), "align", stack.c_str(), "--out", out.c_str(), "--replace", "--quiet", "--threads",
              "2", nullptr);
      ::_exit(127);
    }
    const int code = wait_for(child);
    INFO(megabytes << " MB: " << code << " " << read_text(said / "err"));
    CHECK((code == 0 || code == 1));
    if (code == 0) CHECK(run({"verify", f.at("low.tif.record.json")}).code == 0);
  }
}

TEST_CASE("files that say more than they hold are refused at once", "[safety]") {
  const Folder f;
  // One tile of 65536 x 65536 in a few bytes of deflate.
  std::string tiff("II*\0\x08\0\0\0", 8);
  const auto put16 = [&](unsigned v) { tiff += static_cast<char>(v & 255), tiff += static_cast<char>(v >> 8); };
  const auto put32 = [&](unsigned v) { put16(v & 0xffff), put16(v >> 16); };
  const std::vector<std::array<unsigned, 3>> tags = {{256, 4, 60000}, {257, 4, 60000}, {258, 3, 8},     {259, 3, 8},
                                                     {262, 3, 1},     {277, 3, 1},     {322, 4, 65536}, {323, 4, 65536},
                                                     {324, 4, 200},   {325, 4, 2000}};
  put16(static_cast<unsigned>(tags.size()));
  for (const auto& [tag, type, value] : tags) put16(tag), put16(type), put32(1), put32(value);
  put32(0);
  tiff.resize(3000, 'x');
  const std::string huge = f.put("huge.tif", tiff);
  const auto begin = std::chrono::steady_clock::now();
  const Run refused = run({"apply", f.chain(""), huge, "--out", f.out});
  CHECK(refused.code == 1);
  CHECK_THAT(refused.err, Contains("fewer samples"));
  CHECK(std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() < 5);
}

TEST_CASE("a PNG with much text and a JPEG that is cut are read or refused in no time", "[safety]") {
  const Folder f;
  const std::string png = f.picture("a.png", noise(40, 30, 1, Depth::u8));
  // Chunks of text, each of which would unpack to 4 MB.
  std::string bytes = read_text(png);
  const std::string packed = deflated(std::string(4 << 20, 'x'));
  std::string chunk = "zTXt" + std::string("Comment\0\0", 9) + packed, many;
  const auto big_endian = [](std::uint32_t v) {
    std::string out;
    for (int shift = 24; shift >= 0; shift -= 8) out += static_cast<char>(v >> shift);
    return out;
  };
  const std::uint32_t sum = crc(chunk);
  for (int i = 0; i < 200; ++i)
    many += big_endian(static_cast<std::uint32_t>(chunk.size() - 4)) + chunk + big_endian(sum);
  const std::string heavy = f.put("heavy.png", bytes.substr(0, 33) + many + bytes.substr(33));
  const std::string jpeg = f.at("a.jpg");
  REQUIRE(run({"apply", f.chain(R"({"step":"resize","width":9000,"height":9000})"), png, "--out", f.out, "--name",
               "large", "--format", "jpeg"})
              .code == 0);
  const std::string large = read_text(f.out + "/large.jpg");
  f.put("a.jpg", large.substr(0, 15000));
  const auto begin = std::chrono::steady_clock::now();
  CHECK(run({"info", heavy}).code == 0);
  CHECK(run({"apply", f.chain(""), heavy, "--out", f.out}).code == 0);
  CHECK(run({"apply", f.chain(""), jpeg, "--out", f.out}).code == 1);
  CHECK(std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() < 15);  // of some forty
}

TEST_CASE("a chain of thousands of steps takes time in proportion", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(60, 40, 1, Depth::u8));
  const auto seconds = [&](int count) {
    std::string steps;
    for (int i = 0; i < count; ++i)
      steps += (i > 0 ? "," : "") + std::string(R"({"step":"rotate","degrees":)") + (i % 2 == 0 ? "10" : "-10") +
               R"(,"extent":"keep"})";
    const std::string chain = f.chain(steps);
    // The processor's own time: what else runs on the machine does not count.
    const auto worked = [] {
      rusage used{};
      ::getrusage(RUSAGE_CHILDREN, &used);
      return static_cast<double>(used.ru_utime.tv_sec + used.ru_stime.tv_sec) +
             1e-6 * static_cast<double>(used.ru_utime.tv_usec + used.ru_stime.tv_usec);
    };
    const double begin = worked();
    CHECK(run({"apply", chain, source, "--out", f.out, "--replace"}).code == 0);
    return worked() - begin;
  };
  // Ten times the steps; a hundred times the time where each carries all before it along.
  const double few = seconds(sanitized() ? 50 : 300), many = seconds(sanitized() ? 500 : 3000);
  CHECK(many < 45 * std::max(few, 0.1));
}

TEST_CASE("stacks of thousands of pages take time in proportion", "[safety]") {
  if (sanitized()) return;
  const Folder f;
  const auto pages_of_count = [&](int count) {
    std::vector<Image> pages;
    for (int i = 0; i < count; ++i) pages.push_back(level(6, 5, 1, Depth::u8, i % 250));
    return f.stack("p-" + std::to_string(count) + ".tif", pages);
  };
  const std::string few = pages_of_count(500), many = pages_of_count(4000);
  const std::string chain = f.chain(R"({"step":"crop","x":1,"y":1,"width":3,"height":3})");
  const auto seconds = [&](const std::string& file) {
    const auto begin = std::chrono::steady_clock::now();
    CHECK(run({"apply", chain, file, "--out", f.out, "--quiet", "--replace"}).code == 0);
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  };
  const double small = seconds(few), large = seconds(many);
  // Eight times the pages; sixty-four times the time where each were looked for from the first.
  CHECK(large < 30 * std::max(small, 0.05));
  const Image page = read_picture(f.out + "/p-4000-c.tif", 3777);
  CHECK(page.row<std::uint8_t>(0, 0)[0] == 3776 % 250);
}

TEST_CASE("names with braces, of great length, in bytes that are no text, are handled or refused", "[safety]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":180})");
  const Image image = noise(20, 10, 1, Depth::u8);
  const std::string braces = f.picture("a{stem}{index}x.png", image);
  const Run done = run({"apply", chain, braces, "--out", f.out});
  INFO(done.err);
  CHECK(done.code == 2);  // numbers stand for {index} in a result's name
  const std::string stem = f.picture("a{stem}b.png", image);
  CHECK(run({"apply", chain, stem, "--out", f.out}).code == 0);
  CHECK(fs::exists(f.out + "/a{stem}b-c.png"));
  const std::string ext = f.picture("e.png", image);
  CHECK(run({"apply", chain, ext, "--out", f.out, "--name", "{stem}.{ext}"}).code == 0);
  CHECK(fs::exists(f.out + "/e.png"));
  for (const int length : {200, 236, 240, 245, 251}) {
    const std::string name = f.picture(std::string(static_cast<std::size_t>(length), 'n') + ".png", image);
    const Run longest = run({"apply", chain, name, "--out", f.out, "--name", "{stem}"});
    INFO(length << longest.err);
    CHECK((longest.code == 0 || (longest.code == 2 && longest.err.find("--name") != std::string::npos)));
    if (longest.code == 0)
      CHECK(
          run({"verify", f.out + "/" + std::string(static_cast<std::size_t>(length), 'n') + ".png.record.json"}).code ==
          0);
  }
  const std::string raw = f.picture("caf\xe9-\x1b[31m.png", image);
  const Run odd = run({"apply", chain, raw, "--out", f.out});
  CHECK(odd.code == 0);
  CHECK(odd.out.find('\x1b') == std::string::npos);
  CHECK(run({"verify", f.out + "/caf\xe9-\x1b[31m-c.png.record.json"}).code == 0);
  CHECK_NOTHROW(run({"info", raw, "--json"}).json());
}

TEST_CASE("numbers that are none are refused, and exit codes tell a wrong call from a bad input", "[safety]") {
  const Folder f;
  f.frames(3);
  const std::string chain = f.chain(""), good = f.at("frames/f-1.pgm");
  CHECK(run({"align", f.at("frames"), "--out", f.at("a.tif"), "--against", "frame:4294967297"}).code == 2);
  CHECK(run({"align", f.at("frames"), "--out", f.at("a.tif"), "--against", "frame:9"}).code == 2);
  CHECK(run({"apply", chain, good, "--out", f.out, "--max-memory", "nan"}).code == 2);
  CHECK(run({"apply", chain, good, "--out", f.out, "--max-pixels", "inf"}).code == 2);
  CHECK(run({"apply", f.at("absent.fexel.json"), good, "--out", f.out}).code == 2);
  CHECK(run({"trace", f.at("absent.fexel.json"), good, "--from", "source", "--to", "result"}, "x,y\n1,1\n").code == 2);
  CHECK(run({"apply", chain, good, f.at("absent.pgm"), "--out", f.out}).code == 1);
  const Run record =
      run({"apply", f.put("k.fexel.json", R"({"fexel":1,")" + std::string(5000, 'k') + "\":1}"), good, "--out", f.out});
  CHECK(record.code == 2);
  CHECK(record.err.size() < 1500);
}

TEST_CASE("a name that has its ending gets no second one", "[safety]") {
  const Folder f;
  const std::string source = f.picture("a.png", noise(8, 8, 1, Depth::u8));
  CHECK(run({"apply", f.chain(""), source, "--out", f.out, "--name", "b.jpg", "--format", "jpeg"}).code == 0);
  CHECK(fs::exists(fs::path(f.out) / "b.jpg"));
  CHECK(run({"apply", f.chain(""), source, "--out", f.out, "--name", "b.png", "--format", "tiff"}).code == 0);
  CHECK(fs::exists(fs::path(f.out) / "b.png.tif"));
  // The source's own name is no such wish.
  const std::string odd = f.picture("c.png.tif", noise(8, 8, 1, Depth::u8));
  CHECK(run({"apply", f.chain(""), odd, "--out", f.out, "--name", "{stem}", "--format", "png"}).code == 0);
  CHECK(fs::exists(fs::path(f.out) / "c.png.png"));
}

TEST_CASE("clamped counts what every step clamps", "[safety]") {
  const Folder f;
  // Samples 0, 10, ... 250 across; a pixel is 40 times 30 times.
  Image ramp(26, 40, 1, Depth::u8);
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 26; ++x) ramp.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(10 * x);
  const std::string source = f.picture("ramp.png", ramp);
  const auto clamped = [&](const std::string& steps, const std::vector<std::string>& more = {}) {
    std::vector<std::string> words{"apply", f.chain(steps), source, "--out", f.out, "--replace", "--json"};
    words.insert(words.end(), more.begin(), more.end());
    return run(words).json().at("done").at(0).at("clamped").get<int>();
  };
  // Twice the sample: beyond 255 from 130 on, 13 columns. Less 60: below 0 up to 50, 6 columns.
  CHECK(clamped(R"({"step":"convolve","kernel":[[2]]})") == 13 * 40);
  CHECK(clamped(R"({"step":"convolve","kernel":[[1]],"offset":-60})") == 6 * 40);
  CHECK(clamped(R"({"step":"convolve","kernel":[[1]],"offset":-60},{"step":"convolve","kernel":[[2]]})") ==
        6 * 40 + 7 * 40);  // 190 to 250, less 60, are beyond 255 when doubled
  CHECK(clamped(R"({"step":"convolve","kernel":[[2]],"depth":"f32"})", {"--format", "tiff", "--depth", "u8"}) ==
        13 * 40);
  CHECK(clamped(R"({"step":"bands","take":"grey","weights":[1.5]})") == 8 * 40);  // 180 and above
  CHECK(clamped(R"({"step":"rotate","degrees":90})") == 0);
}

TEST_CASE("every picture of a PNM file is a frame", "[safety]") {
  const Folder f;
  std::string text;
  for (int i = 0; i < 3; ++i) text += "P5\n4 2\n255\n" + std::string(8, static_cast<char>(10 * i + 5));
  const std::string file = f.put("three.pgm", text);
  CHECK(read_info(file).frames == 3);
  CHECK(read_picture(file, 3).row<std::uint8_t>(0, 1)[3] == 25);
  CHECK(run({"apply", f.chain(""), file, "--out", f.out}).code == 2);  // PNM cannot hold them as pages
  CHECK(run({"apply", f.chain(""), file, "--out", f.out, "--format", "tiff"}).code == 0);
  CHECK(read_info(f.out + "/three-c.tif").frames == 3);
  const std::string cut = f.put("cut.pgm", text.substr(0, text.size() - 3));
  CHECK(run({"info", cut}).code == 1);
}

TEST_CASE("what would be written twice under folded names is refused where case is folded", "[safety]") {
  // Few file systems here fold case; what decides is asked of the folder.
  const Folder f;
  f.picture("A.png", noise(8, 8, 1, Depth::u8));
  CHECK_FALSE(folds_case(f.scratch.path()));
  ProtectedPaths keep;
  keep.add(f.at("A.png"), "the source");
  CHECK_THROWS_WITH(keep.check(f.at("A.png")), Contains("the source"));
  CHECK_NOTHROW(keep.check(f.at("a.png")));
  fs::create_symlink(f.at("A.png"), f.at("a.png"));  // as a folder that folds case would have it
  CHECK_THROWS_WITH(keep.check(f.at("a.png")), Contains("the source"));
}

TEST_CASE("runs at once in one folder leave whole sets: every result has the record that names it", "[safety]") {
  const Folder f;
  const std::string chain = f.chain(R"({"step":"rotate","degrees":3})");
  const std::string source = f.picture("a.png", noise(12, 9, 1, Depth::u8));
  for (int round = 0; round < (sanitized() ? 15 : 60); ++round) {
    fs::remove_all(f.out);
    std::vector<pid_t> children;
    std::vector<std::unique_ptr<Scratch>> said;
    for (int i = 0; i < 4; ++i) {
      said.push_back(std::make_unique<Scratch>());
      children.push_back(start(
          {"apply", chain, source, "--out", f.out, "--quiet", "--empty", "mask", "--format", "png"}, *said.back()));
    }
    for (const pid_t child : children) {
      int status = 0;
      REQUIRE(::waitpid(child, &status, 0) == child);
      REQUIRE(WIFEXITED(status));
      CHECK(WEXITSTATUS(status) <= 2);
    }
    INFO("round " << round);
    const fs::path result = fs::path(f.out) / "a-c.png";
    REQUIRE(fs::exists(result));
    const fs::path record = fs::path(f.out) / "a-c.png.record.json";
    REQUIRE(fs::exists(record));
    CHECK(run({"verify", record.string(), "--quiet"}).code == 0);
  }
}

TEST_CASE("an exception that nobody takes leaves a note with its words and the stack", "[safety]") {
  const test::Scratch scratch;
  const pid_t child = test::fork_plain();
  if (child == 0) {
    ::setenv("XDG_STATE_HOME", scratch.path().c_str(), 1);
    leave_crash_notes("trial", "1.2.3");
    std::thread([] { throw std::runtime_error("the bearings are lost"); }).join();
    ::_exit(0);
  }
  CHECK(test::wait_for(child) == 1000 + SIGABRT);
  std::vector<std::string> notes;
  for (const auto& entry : std::filesystem::directory_iterator(scratch / "fexel"))
    notes.push_back(read_text(entry.path()));
  REQUIRE(notes.size() == 1);
  CHECK(notes[0].starts_with("trial 1.2.3, begun at "));
  CHECK(notes[0].find("an exception that nobody took: the bearings are lost") != std::string::npos);
  CHECK(std::ranges::count(notes[0], '\n') > 5);
}
}  // namespace fexel::test::safety
