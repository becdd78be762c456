/// Nothing destroyed, and nothing wrong called right: the command line on faults, cuts, replaced files, unlike pages,
/// hostile names and broken runs.
#include <sys/resource.h>
#include <sys/stat.h>
#include <zlib.h>

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <csignal>
#include <map>
#include <set>
#include <thread>

#include "files/protected.h"
#include "tests/cli/program.h"
#include "tests/scene.h"

using namespace fexel;
using namespace fexel::test;
namespace fs = std::filesystem;
using Catch::Contains;

namespace {

/// A folder with pictures, chains and results, and the checksums of what must not change.
struct Folder {
  test::Scratch scratch;
  std::string out = (scratch / "results").string();
  std::string put(const std::string& name, const std::string& text) const {
    write_text(scratch / name, text, true);
    return (scratch / name).string();
  }
  std::string chain(const std::string& steps, const std::string& name = "c.fexel.json") const {
    return put(name, R"({"fexel":1,"steps":[)" + steps + "]}");
  }
  std::string picture(const std::string& name, const Image& image) const {
    return stack(name, one_page(image.clone()));
  }
  std::string stack(const std::string& name, const std::vector<Image>& pages) const {
    WriteOptions how;
    how.format = *format_of_name(name);
    how.replace = true;
    fs::create_directories((scratch / name).parent_path());
    write_pictures(scratch / name, pages, how);
    return (scratch / name).string();
  }
  /// Frames that show one scene, moved by whole pixels.
  std::vector<std::string> frames(int count, const std::string& folder = "frames") const {
    std::vector<std::string> names;
    for (int i = 0; i < count; ++i) names.push_back(picture(folder + "/f-" + std::to_string(i + 1) + ".pgm", frame(i)));
    return names;
  }
  static Image frame(int i, Size size = {160, 120}) {
    static const Scene scene = textured(60, 0.01, 0.2, 40, 5);
    return frame_of(scene, translation(2 * i, -i), size, Depth::u8, 2, static_cast<unsigned>(i));
  }
  std::string at(const std::string& name) const { return (scratch / name).string(); }
};

Image level(int width, int height, int bands, Depth depth, double value) {
  Image image(width, height, bands, depth);
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    for (int b = 0; b < bands; ++b)
      for (int y = 0; y < height; ++y) std::fill_n(image.row<T>(b, y), width, static_cast<T>(value));
  });
  return image;
}

/// As the PNG format packs text.
std::string deflated(const std::string& text) {
  std::string out(::compressBound(text.size()), '\0');
  auto size = static_cast<uLongf>(out.size());
  REQUIRE(::compress(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(text.data()),
                     text.size()) == Z_OK);
  out.resize(size);
  return out;
}

/// CRC-32 of ISO 3309, bit by bit.
std::uint32_t crc(const std::string& bytes) {
  std::uint32_t value = 0xffffffff;
  for (const char c : bytes) {
    value ^= static_cast<unsigned char>(c);
    for (int i = 0; i < 8; ++i) value = (value & 1) != 0 ? value >> 1 ^ 0xedb88320 : value >> 1;
  }
  return ~value;
}

/// Every file below a folder with its checksum.
std::map<std::string, std::string> sums(const fs::path& folder) {
  std::map<std::string, std::string> out;
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    if (entry.is_regular_file()) out[entry.path().string()] = checksum(entry.path());
  return out;
}

}  // namespace

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
    std::this_thread::sleep_for(std::chrono::milliseconds(150 + 40 * round));
    ::kill(child, SIGINT);
    const int code = wait_for(child);
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
      std::this_thread::sleep_for(std::chrono::milliseconds(400));
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
  for (int megabytes = 200; megabytes <= 420; megabytes += 22) {
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
    const auto begin = std::chrono::steady_clock::now();
    CHECK(run({"apply", chain, source, "--out", f.out, "--replace"}).code == 0);
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
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
