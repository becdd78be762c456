/// Files by other hands from the command line: what is said of them, alpha as a band, channels, formats.
#include "tests/cli/safety.h"
#include "tests/tiff_maker.h"

namespace fexel::test::safety {
namespace {

/// Four bands of 8 bits, the last alpha: whole, half, a little, none, over and over.
std::string translucent(const Folder& f) {
  const std::string path = f.at("t.tif");
  TIFF* tiff = new_tiff(path, {.width = 40, .height = 30, .bands = 4, .photometric = PHOTOMETRIC_RGB});
  const std::uint16_t kinds[] = {EXTRASAMPLE_UNASSALPHA};
  TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, 1, kinds);
  const std::uint8_t alphas[] = {255, 128, 60, 0};
  for (std::uint32_t y = 0; y < 30; ++y) {
    std::vector<std::uint8_t> row;
    for (std::size_t x = 0; x < 40; ++x)
      for (const std::size_t v : {x, x + y, std::size_t{90}, std::size_t{alphas[x % 4]}})
        row.push_back(static_cast<std::uint8_t>(v));
    TIFFWriteScanline(tiff, row.data(), y, 0);
  }
  TIFFClose(tiff);
  return path;
}

}  // namespace

TEST_CASE("partly transparent pixels are said, and alpha can be a band from end to end", "[safety][readings]") {
  const Folder f;
  const std::string source = translucent(f), chain = f.chain(R"({"step":"rotate","degrees":90})");
  const Run mask = run({"apply", chain, source, "--out", f.out, "--json"});
  REQUIRE(mask.code == 0);
  const std::string notes = to_text(mask.json().at("done")[0].at("notes"));
  CHECK(notes.find("600 pixels of the source are partly transparent") != std::string::npos);
  CHECK(notes.find("--alpha band") != std::string::npos);
  const std::string out = f.out + "2";
  const Run band = run({"apply", chain, source, "--out", out, "--alpha", "band", "--json"});
  INFO(band.err);
  REQUIRE(band.code == 0);
  const Image image = read_picture(out + "/t-c.tif");
  REQUIRE(image.bands() == 4);
  // A quarter turn: column x of the source is row x, or row 39 - x.
  int wrong = 0;
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 30; ++x) {
      const int source_x = test::value(image, 0, x, y) == y ? y : 39 - y;
      const int alphas[] = {255, 128, 60, 0};
      wrong += test::value(image, 3, x, y) != alphas[source_x % 4];
    }
  CHECK(wrong == 0);
  CHECK(parse_json(read_text(out + "/t-c.tif.record.json")).at("written").at("alpha_band") == true);
  CHECK(run({"verify", out + "/t-c.tif.record.json"}).code == 0);
  // A result with alpha as the mask does not stand for one with it as a band.
  const Run other = run({"apply", chain, source, "--out", out, "--resume", "--json"});
  CHECK(other.json().at("done").size() == 1);
  CHECK(run({"apply", chain, source, "--out", out, "--alpha", "paper"}).code == 2);
}

TEST_CASE("every verb reads alpha as the chain says, and align and project say what becomes of it",
          "[safety][readings]") {
  const Folder f;
  const std::string source = translucent(f);
  const std::string chain = f.put("m.fexel.json", R"({"fexel":1,"sources":[{"path":"t.tif","alpha":"band"}],
    "steps":[{"step":"bands","take":[4]}],
    "measurements":[{"measure":"rectangle","name":"all","station":1,"points":[[0,0],[40,30]]}]})");
  const Run measured = run({"measure", chain, source, "--json"});
  INFO(measured.err << measured.out);
  REQUIRE(measured.code == 0);
  // The mean of 255, 128, 60 and 0.
  CHECK(measured.out.find("110.75") != std::string::npos);
  const Run made = run({"apply", chain, source, "--out", f.out, "--json"});
  REQUIRE(made.code == 0);
  CHECK(read_picture(f.out + "/t-m.tif").bands() == 1);
  CHECK(run({"apply", chain, source, "--out", f.out + "3", "--alpha", "mask"}).code == 2);
  const Run stacked = run({"project", source, "--chain", chain, "--out", f.at("p.tif"), "--json"});
  INFO(stacked.err << stacked.out);
  REQUIRE(stacked.code == 0);
  CHECK(test::value(read_picture(f.at("p.tif")), 0, 1, 5) == 128);
  // By parts nothing is counted, and it is said all the same.
  const Run aligned = run({"align", source, source, "--out", f.at("al.tif"), "--model", "translation"});
  CHECK(aligned.err.find("partly transparent") != std::string::npos);
  const std::string bits = f.put("b.pbm", std::string("P4\n16 2\n\xaa\xaa\x55\x55", 12));
  const Run projected = run({"project", bits, bits, "--out", f.at("q.tif")});
  CHECK((projected.err + projected.out).find("0 and 255") != std::string::npos);
}

TEST_CASE("what becomes of samples that are stored otherwise is said by info and apply", "[safety][readings]") {
  const Folder f;
  const std::string source = f.put("bits.pbm", std::string("P4\n16 2\n\xaa\xaa\x55\x55", 12));
  const Run info = run({"info", source, "--json"});
  REQUIRE(info.code == 0);
  CHECK(to_text(info.json().at("files")[0].at("readings")).find("0 and 255") != std::string::npos);
  CHECK(run({"info", source}).out.find("1-bit") != std::string::npos);
  const Run made = run({"apply", f.chain(R"({"step":"rotate","degrees":90})"), source, "--out", f.out});
  REQUIRE(made.code == 0);
  CHECK(made.err.find("1-bit samples are read as 0 and 255") != std::string::npos);
  CHECK(read_picture(f.out + "/bits-c.pgm").width() == 2);
}

TEST_CASE("a format that is only read gives a TIFF, and cannot be asked for", "[safety][readings]") {
  const Folder f;
  std::string bmp = "BM";
  const auto put = [&](std::uint32_t value, int bytes) {
    for (int i = 0; i < bytes; ++i) bmp += static_cast<char>(value >> (8 * i));
  };
  for (const auto& [value, bytes] : std::vector<std::pair<std::uint32_t, int>>{{54 + 24, 4},
                                                                               {0, 4},
                                                                               {54, 4},
                                                                               {40, 4},
                                                                               {3, 4},
                                                                               {2, 4},
                                                                               {1, 2},
                                                                               {24, 2},
                                                                               {0, 4},
                                                                               {24, 4},
                                                                               {0, 4},
                                                                               {0, 4},
                                                                               {0, 4},
                                                                               {0, 4}})
    put(value, bytes);
  const std::string source = f.put("p.bmp", bmp + std::string("abcdefghi\0\0\0jklmnopqr\0\0\0", 24));
  const std::string chain = f.chain(R"({"step":"rotate","degrees":90})");
  const Run made = run({"apply", chain, source, "--out", f.out});
  INFO(made.err);
  REQUIRE(made.code == 0);
  CHECK(read_info(f.out + "/p-c.tif").width == 2);
  CHECK(run({"apply", chain, source, "--out", f.out, "--format", "bmp"}).code == 2);
}

TEST_CASE("formats lists what is read and written, and the page of the documents is what it says",
          "[safety][readings]") {
  const Run said = run({"formats", "--json"});
  REQUIRE(said.code == 0);
  std::map<std::string, Json> all;
  const Json json = said.json();
  for (const Json& one : json.at("formats")) all[one.at("format").get<std::string>()] = one;
  for (const char* name :
       {"tiff", "png", "pnm", "pfm", "jpeg", "film", "bmp", "gif", "webp", "jpeg2000", "heif", "raw"})
    CHECK(all.count(name) == 1);
  CHECK(all["webp"].at("writes").is_null());
  CHECK(all["tiff"].at("library").get<std::string>().find("libtiff") == 0);
  CHECK(run({"formats"}).out.find("tiff") != std::string::npos);
  CHECK(run({"--version"}).out.find("libtiff") != std::string::npos);
  const fs::path page = fs::path(FEXEL_DOCS) / "formats.md";
  CHECK(read_text(page) == run({"formats", "--markdown"}).out);
}

TEST_CASE("align takes a channel of an OME-TIFF, and says what has none", "[safety][readings]") {
  const Folder f;
  const auto frames = f.frames(3);
  CHECK(run({"align", frames[0], frames[1], "--out", f.at("a.tif"), "--channel", "1"}).code == 2);
  CHECK_FALSE(fs::exists(f.at("a.tif")));
}

}  // namespace fexel::test::safety
