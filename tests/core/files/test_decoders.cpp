// Pictures of formats that are only read, each made here by an encoder or by hand from the format's description,
// against the numbers that were put in; and 1,000 broken ones of each.
#include "tests/core/files/foreign_files.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <chrono>
#include <fstream>
#include <random>

#include "base/error.h"
#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test::foreign;
namespace fs = std::filesystem;

namespace {

/// Changed bytes, cuts and doubled parts: each is read, or refused with a sentence, in time.
void besiege(const fs::path& path, const std::string& good, int rounds) {
  std::mt19937 random(11);
  int read = 0, refused = 0;
  double slowest = 0;
  const Limits limits{4'000'000, 64'000'000, 512 << 20};
  for (int round = 0; round < rounds; ++round) {
    std::string bad = good;
    const auto place = [&] {
      return random() % std::max<std::size_t>(1, round % 3 == 0 ? std::min<std::size_t>(bad.size(), 200) : bad.size());
    };
    for (unsigned i = 0; i < 1 + random() % 6; ++i) bad[place()] = static_cast<char>(random());
    if (random() % 4 == 0) bad.resize(place());
    if (random() % 6 == 0) bad.insert(place(), bad.substr(place(), random() % 64));
    save(path, bad);
    const auto begin = std::chrono::steady_clock::now();
    try {
      const FileInfo info = read_info(path, limits);
      const Image image = read_picture(path, 1, limits);
      CHECK(image.width() == info.width);
      CHECK(image.bands() == info.bands);
      read_attached(path, info.bands);
      ++read;
    } catch (const Error& error) {
      CHECK_FALSE(error.message().empty());
      CHECK_FALSE(error.remedy().empty());
      ++refused;
    }
    slowest = std::max(slowest, std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count());
  }
  INFO(read << " " << refused);
  CHECK(slowest < 5);
  CHECK(refused > 0);
}

}  // namespace

TEST_CASE("bitmaps of every depth are read, from below and from above", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.bmp";
  constexpr int width = 37, height = 21;
  for (const int bits : {1, 4, 8, 24, 32})
    for (const bool top_down : {false, true})
      for (const bool grey : {false, true}) {
        if (bits > 8 && grey) continue;
        INFO(bits << top_down << grey);
        std::string palette;
        const int count = bits <= 8 ? 1 << bits : 0;
        const auto colour = [&](int index, int band) {
          return grey ? index * 255 / std::max(1, count - 1) : (index * 41 + band * 83) % 256;
        };
        for (int i = 0; i < count; ++i)
          for (const int band : {2, 1, 0, 3}) palette += static_cast<char>(band == 3 ? 0 : colour(i, band));
        std::string rows;
        for (int k = 0; k < height; ++k) {
          const int y = top_down ? k : height - 1 - k;
          std::string row(static_cast<std::size_t>((width * bits + 31) / 32 * 4), '\0');
          for (int x = 0; x < width; ++x) {
            if (bits <= 8) {
              const int v = sample(x, y, 0) % count;
              auto& byte = row[static_cast<std::size_t>(x * bits / 8)];
              byte = static_cast<char>(byte | v << (8 - bits - x * bits % 8));
            } else {
              for (int band = 0; band < 3; ++band)
                row[static_cast<std::size_t>(x * bits / 8 + 2 - band)] = static_cast<char>(sample(x, y, band));
            }
          }
          rows += row;
        }
        save(path, bitmap(width, height, bits, top_down, palette, rows));
        const FileInfo info = read_info(path);
        CHECK(info.format == "bmp");
        CHECK_FALSE(info.alpha);
        REQUIRE(info.density);
        CHECK(info.density->x == Approx(25.4 / 300).epsilon(1e-4));
        const Image image = read_picture(path);
        REQUIRE(image.bands() == (grey ? 1 : 3));
        int differ = 0;
        for (int band = 0; band < image.bands(); ++band)
          for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
              differ += test::value(image, band, x, y) !=
                        (bits <= 8 ? colour(sample(x, y, 0) % count, band) : sample(x, y, band));
        CHECK(differ == 0);
      }
  // 5 bits a colour: 31 is 255.
  std::string rows;
  for (int i = 0; i < 32; ++i) put(rows, static_cast<std::uint32_t>(i << 10 | (31 - i) << 5 | 7), 2);
  save(path, bitmap(32, 1, 16, false, "", rows));
  const Image five = read_picture(path);
  for (int i = 0; i < 32; ++i) {
    CHECK(test::value(five, 0, i, 0) == std::round(i * 255 / 31.0));
    CHECK(test::value(five, 1, i, 0) == std::round((31 - i) * 255 / 31.0));
    CHECK(test::value(five, 2, i, 0) == std::round(7 * 255 / 31.0));
  }
  // Run lengths: three pixels of 7, then five of their own, end of the line, end.
  std::string ramp;
  for (int i = 0; i < 256; ++i) put(ramp, static_cast<std::uint32_t>(i * 0x010101), 4);
  const std::string runs("\x03\x07\x00\x05\x01\x02\x03\x04\x05\x00\x00\x00\x00\x01", 14);
  save(path, bitmap(8, 1, 8, false, ramp, runs, 1));
  const Image run = read_picture(path);
  const int expected[] = {7, 7, 7, 1, 2, 3, 4, 5};
  for (int x = 0; x < 8; ++x) CHECK(test::value(run, 0, x, 0) == expected[x]);
}

TEST_CASE("a GIF gives what is seen at each moment", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.gif";
  gif(path, true, 1);
  CHECK(read_info(path).bands == 1);
  CHECK(read_info(path).frames == 1);
  CHECK(wrong(read_picture(path)) == 0);
  gif(path, false, 3);
  const auto pages = read_pages(path);
  REQUIRE(pages.size() == 3);
  CHECK(pages[2].info->time == Approx(0.2));
  const Image third = read_picture(path, 3);
  REQUIRE(third.bands() == 3);
  for (int y = 0; y < 30; ++y)
    for (int x = 0; x < 40; ++x) {
      const bool over = x >= 5 && x < 25 && y >= 6 && y < 16 && (x - 5) % 2 == 1;
      const int index = over ? 102 : sample(x, y, 0);
      CHECK(test::value(third, 0, x, y) == index);
      CHECK(test::value(third, 1, x, y) == 255 - index);
    }
  CHECK_THROWS_AS(read_picture(path, 4), Error);
}

TEST_CASE("a WebP without loss is read to the last sample, with its alpha and all pictures", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.webp";
  save(path, webp(false));
  CHECK(wrong(read_picture(path)) == 0);
  CHECK_FALSE(read_info(path).alpha);
  save(path, webp(true));
  CHECK(read_info(path).alpha);
  const Image image = read_picture(path);
  CHECK(image.valid(19, 3));
  CHECK_FALSE(image.valid(20, 3));
  CHECK(image.partly_there() == 300);
  Limits band;
  band.alpha_band = true;
  CHECK(test::value(read_picture(path, 1, band), 3, 25, 3) == 90);
  WebPAnimEncoderOptions options;
  ::WebPAnimEncoderOptionsInit(&options);
  WebPAnimEncoder* encoder = ::WebPAnimEncoderNew(40, 30, &options);
  for (int k = 0; k < 3; ++k) {
    WebPPicture picture;
    ::WebPPictureInit(&picture);
    picture.use_argb = 1;
    picture.width = 40;
    picture.height = 30;
    ::WebPPictureAlloc(&picture);
    for (int i = 0; i < 1200; ++i) picture.argb[i] = 0xff000000U | static_cast<std::uint32_t>((50 + 10 * k) * 0x010101);
    WebPConfig how;
    ::WebPConfigInit(&how);
    ::WebPConfigLosslessPreset(&how, 1);
    REQUIRE(::WebPAnimEncoderAdd(encoder, &picture, 40 * k, &how) != 0);
    ::WebPPictureFree(&picture);
  }
  ::WebPAnimEncoderAdd(encoder, nullptr, 120, nullptr);
  WebPData data;
  ::WebPDataInit(&data);
  ::WebPAnimEncoderAssemble(encoder, &data);
  save(path, {reinterpret_cast<const char*>(data.bytes), data.size});
  ::WebPDataClear(&data);
  ::WebPAnimEncoderDelete(encoder);
  const auto pages = read_pages(path);
  REQUIRE(pages.size() == 3);
  CHECK(pages[1].info->time == Approx(0.04));
  for (int k = 0; k < 3; ++k) CHECK(test::value(read_picture(path, k + 1), 1, 9, 9) == 50 + 10 * k);
}

TEST_CASE("JPEG 2000 without loss is read to the last sample, in files and bare, of every depth", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.jp2";
  for (const int bits : {1, 4, 8, 10, 12, 16})
    for (const int bands : {1, 2, 3, 5})
      for (const bool boxes : {false, true}) {
        INFO(bits << " " << bands << " " << boxes);
        jpeg2000(path, bits, bands == 5 ? 3 : bands, false, boxes);
        const FileInfo info = read_info(path);
        CHECK(info.format == "jpeg2000");
        CHECK(info.depth == (bits <= 8 ? Depth::u8 : Depth::u16));
        CHECK(info.largest == (bits == 8 || bits == 16 ? 0 : (1 << bits) - 1));
        CHECK(wrong(read_picture(path), (1 << bits) - 1) == 0);
      }
  jpeg2000(path, 8, 4, false, true);
  CHECK(read_info(path).alpha);
  CHECK(read_picture(path).bands() == 3);
  jpeg2000(path, 12, 1, true, true);
  const Image with_sign = read_picture(path);
  CHECK(with_sign.depth() == Depth::f32);
  for (int x = 0; x < 40; ++x) CHECK(test::value(with_sign, 0, x, 7) == sample(x, 7, 0, 4095) - 2048);
}

TEST_CASE("HEIF and AVIF are read to the last sample where they are without loss", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.heic";
  int made = 0;
  for (const auto format : {heif_compression_HEVC, heif_compression_AV1})
    for (const int bits : {8, 10, 12}) {
      // The encoder of AV1 is not up to more bits without loss.
      if (format == heif_compression_AV1 && bits > 8) continue;
      INFO(format << " " << bits);
      if (heif(path, format, bits, false, 1).empty()) continue;
      const FileInfo info = read_info(path);
      CHECK(info.format == "heif");
      CHECK(info.depth == (bits > 8 ? Depth::u16 : Depth::u8));
      CHECK(info.largest == (bits > 8 ? (1 << bits) - 1 : 0));
      CHECK(wrong(read_picture(path), (1 << bits) - 1) == 0);
      ++made;
    }
  CHECK(made >= 3);
  if (!heif(path, heif_compression_AV1, 8, true, 1).empty()) {
    CHECK(read_info(path).alpha);
    CHECK(read_picture(path).valid(31, 5));
    CHECK_FALSE(read_picture(path).valid(32, 5));
  }
  if (!heif(path, heif_compression_AV1, 8, false, 3).empty()) {
    const auto pages = read_pages(path);
    REQUIRE(pages.size() == 3);
    const Image second = read_picture(path, 2);
    for (int x = 0; x < 60; ++x) CHECK(test::value(second, 1, x, 9) == sample(x + 1, 9, 1));
  }
}

TEST_CASE("a camera's raw picture is made of its sensor's values, grey where the light is", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.dng";
  for (const int level : {800, 4000, 12000}) {
    INFO(level);
    negative(path, level, 1);
    const FileInfo info = read_info(path);
    REQUIRE(info.format == "raw");
    CHECK(info.width == 96);
    CHECK(info.height == 64);
    const Image image = read_picture(path);
    REQUIRE(image.bands() == 3);
    const double light = level / 16000.0;
    const double shown = light <= 0.0031308 ? 12.92 * light : 1.055 * std::pow(light, 1 / 2.4) - 0.055;
    for (int band = 0; band < 3; ++band) {
      INFO(band << " " << test::value(image, band, 40, 30) / 65535 << " " << shown);
      CHECK(std::abs(test::value(image, band, 40, 30) / 65535 - shown) < 0.02);
      CHECK(std::abs(test::value(image, band, 40, 30) - test::value(image, 0, 40, 30)) < 400);
    }
  }
  negative(path, 4000, 6);
  CHECK(read_info(path).width == 64);
  CHECK(read_picture(path).height() == 96);
  // A preview alone is never taken for the picture.
  TIFF* tiff = test::new_tiff(path, {.width = 16, .height = 16});
  TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, FILETYPE_REDUCEDIMAGE);
  TIFFSetField(tiff, TIFFTAG_MAKE, "Fexel");
  const std::uint8_t version[] = {1, 4, 0, 0};
  TIFFSetField(tiff, TIFFTAG_DNGVERSION, version);
  std::vector<std::uint8_t> row(16, 9);
  for (std::uint32_t y = 0; y < 16; ++y) TIFFWriteScanline(tiff, row.data(), y, 0);
  TIFFClose(tiff);
  CHECK_THROWS_AS(read_picture(path), Error);
}

TEST_CASE("plain and packed PNM, and PAM with its bands and alpha", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.pnm";
  save(path, "P1\n# two rows\n5 2\n10101\n0 1 0 1 0\n");
  Image image = read_picture(path);
  CHECK(image.depth() == Depth::u8);
  for (int x = 0; x < 5; ++x) {
    CHECK(test::value(image, 0, x, 0) == (x % 2 == 0 ? 0 : 255));
    CHECK(test::value(image, 0, x, 1) == (x % 2 == 0 ? 255 : 0));
  }
  save(path, "P2\n3 2 1000\n0 1 2 998 999 1000\n");
  image = read_picture(path);
  CHECK(image.stated_largest() == 1000);
  CHECK(test::value(image, 0, 1, 1) == 999);
  save(path, "P3 2 1 255 1 2 3\n4 5 6");
  image = read_picture(path);
  CHECK(test::value(image, 2, 1, 0) == 6);
  save(path, std::string("P4 10 2 ") + "\xaa\x80\x00\x40");
  save(path, std::string("P4\n10 2\n") + std::string("\xaa\x80\x00\x40", 4));
  image = read_picture(path);
  for (int x = 0; x < 10; ++x) CHECK(test::value(image, 0, x, 0) == (x % 2 == 0 ? 0 : 255));
  CHECK(test::value(image, 0, 9, 1) == 0);
  CHECK(test::value(image, 0, 8, 1) == 255);
  save(path, std::string("P7\nWIDTH 2\nHEIGHT 1\nDEPTH 4\nMAXVAL 255\nTUPLTYPE RGB_ALPHA\nENDHDR\n") +
                 std::string("\x01\x02\x03\xff\x04\x05\x06\x10", 8));
  CHECK(read_info(path).alpha);
  image = read_picture(path);
  CHECK(image.bands() == 3);
  CHECK(image.valid(0, 0));
  CHECK_FALSE(image.valid(1, 0));
  save(path, std::string("P7\nWIDTH 1\nHEIGHT 1\nDEPTH 6\nMAXVAL 4095\nTUPLTYPE SPECTRUM\nENDHDR\n") +
                 std::string("\x00\x01\x00\x02\x00\x03\x00\x04\x00\x05\x0f\xff", 12));
  image = read_picture(path);
  REQUIRE(image.bands() == 6);
  CHECK(image.stated_largest() == 4095);
  CHECK(test::value(image, 5, 0, 0) == 4095);
  for (const char* bad :
       {"P2\n3 2 255\n1 2 3 4 5", "P2\n1 1 9\n10", "P1\n2 1\n1x", "P7\nWIDTH 2\nENDHDR\n", "P3 1 1 255 1 2 -3"}) {
    save(path, bad);
    CHECK_THROWS_AS(read_picture(path), Error);
  }
}

TEST_CASE("alpha of ten and twelve bits is measured by its own largest number", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "deep";
  // All of the alpha of these is the largest number: nothing is empty.
  for (const int bits : {4, 8, 10, 12, 16}) {
    INFO(bits);
    jpeg2000(path, bits, 4, false, true);
    REQUIRE(read_info(path).alpha);
    const Image image = read_picture(path);
    CHECK(image.bands() == 3);
    CHECK(empty_share(image) == 0);
    CHECK(image.partly_there() == 0);
    CHECK(wrong(image, (1 << bits) - 1) == 0);
  }
  for (const int top : {1, 100, 255, 1000, 4095, 65535}) {
    INFO(top);
    std::string pam = fmt::format("P7\nWIDTH 3\nHEIGHT 1\nDEPTH 2\nMAXVAL {}\nTUPLTYPE GRAYSCALE_ALPHA\nENDHDR\n", top);
    for (const int v : {top, top, top, (top + 1) / 2, top, 0}) {
      if (top > 255) pam += static_cast<char>(v >> 8);
      pam += static_cast<char>(v);
    }
    save(path, pam);
    const Image image = read_picture(path);
    REQUIRE(image.bands() == 1);
    CHECK(image.valid(0, 0));
    CHECK(image.valid(1, 0));
    CHECK_FALSE(image.valid(2, 0));
  }
  if (!heif(path, heif_compression_HEVC, 10, true, 1).empty()) {
    REQUIRE(read_info(path).alpha);
    const Image image = read_picture(path);
    CHECK(image.valid(31, 5));
    CHECK_FALSE(image.valid(32, 5));
  }
}

TEST_CASE("bitmaps with an alpha mask say what is empty; without one they do not", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.bmp";
  for (const bool masked : {false, true}) {
    std::string rows;
    for (int x = 0; x < 4; ++x)
      for (const int v : {10 + x, 20 + x, 30 + x, x < 2 ? 255 : 0}) rows += static_cast<char>(v);
    // A header of 108 bytes: the masks of red, green, blue and alpha behind the first 40.
    std::string bytes = bitmap(4, 1, 32, false, "", "", 3).substr(0, 54);
    bytes[14] = 108;
    for (const std::uint32_t mask : {0x00ff0000U, 0x0000ff00U, 0x000000ffU, masked ? 0xff000000U : 0U})
      put(bytes, mask, 4);
    bytes += std::string(108 - 40 - 16, '\0');
    bytes[10] = static_cast<char>(bytes.size());
    bytes[2] = static_cast<char>(bytes.size() + rows.size());
    save(path, bytes + rows);
    INFO(masked);
    CHECK(read_info(path).alpha == masked);
    const Image image = read_picture(path);
    REQUIRE(image.bands() == 3);
    for (int x = 0; x < 4; ++x) {
      CHECK(image.valid(x, 0) == (!masked || x < 2));
      if (image.valid(x, 0))
        for (int band = 0; band < 3; ++band) CHECK(test::value(image, band, x, 0) == 30 - 10 * band + x);
    }
  }
}

TEST_CASE("a WebP stands upright as its Exif says", "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "turned.webp";
  const std::string plain = webp(false);
  const WebPData data{reinterpret_cast<const std::uint8_t*>(plain.data()), plain.size()};
  // One entry: orientation 6, a quarter turn clockwise to be upright.
  const std::uint8_t exif[] = {'I', 'I', 42, 0, 8, 0, 0, 0, 1, 0, 0x12, 0x01, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0, 0, 0, 0, 0};
  const WebPData block{exif, sizeof exif};
  WebPMux* mux = ::WebPMuxCreate(&data, 1);
  REQUIRE(::WebPMuxSetChunk(mux, "EXIF", &block, 1) == WEBP_MUX_OK);
  WebPData whole;
  REQUIRE(::WebPMuxAssemble(mux, &whole) == WEBP_MUX_OK);
  save(path, {reinterpret_cast<const char*>(whole.bytes), whole.size});
  ::WebPDataClear(&whole);
  ::WebPMuxDelete(mux);
  CHECK(read_info(path).orientation == 6);
  CHECK(read_info(path).width == 30);
  const Image image = read_picture(path);
  REQUIRE(image.width() == 30);
  int differ = 0;
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 40; ++y)
      for (int x = 0; x < 30; ++x) differ += test::value(image, band, x, y) != sample(y, 29 - x, band);
  CHECK(differ == 0);
}

TEST_CASE("a GIF that is covered from the start has no alpha, and one with a picture of no size is no crash",
          "[decoders]") {
  const test::Scratch scratch;
  const auto path = scratch / "b.gif";
  std::string bytes = gif(path, false, 3);
  CHECK_FALSE(read_info(path).alpha);
  // The first picture's descriptor: a comma, its place, its size.
  const auto at = bytes.find(',', 13 + 768);
  REQUIRE(at != std::string::npos);
  bytes[at + 5] = bytes[at + 6] = 0;
  save(path, bytes);
  for (int page = 1; page <= 3; ++page) try {
      const int width = read_picture(path, page).width();
      CHECK(width == 40);
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
    }
}

TEST_CASE("a thousand broken files of each kind are read or refused with a sentence", "[decoders][long]") {
  const test::Scratch scratch;
  const auto path = scratch / "bad";
  const std::string kind = GENERATE("gif", "webp", "jp2", "heic", "avif", "dng", "bmp", "pam");
  INFO(kind);
  std::string good;
  if (kind == "gif") good = gif(path, false, 3);
  if (kind == "webp") good = webp(true);
  if (kind == "jp2") good = jpeg2000(path, 8, 4, false, true);
  if (kind == "heic") good = heif(path, heif_compression_HEVC, 8, false, 1);
  if (kind == "avif") good = heif(path, heif_compression_AV1, 8, true, 2);
  if (kind == "dng") good = negative(path, 4000, 1);
  if (kind == "bmp") good = bitmap(30, 20, 24, false, "", std::string(92 * 20, 'x'));
  if (kind == "pam")
    good = "P7\nWIDTH 20\nHEIGHT 10\nDEPTH 4\nMAXVAL 255\nTUPLTYPE RGB_ALPHA\nENDHDR\n" + std::string(800, 'y');
  if (good.empty()) return;
  besiege(path, good, 1000);
}
