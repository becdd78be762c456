/// The largest value that a sample means goes with the picture: from the file, through chains, into the result.
#include <tiffio.h>

#include <catch2/catch.hpp>
#include <fstream>

#include "base/error.h"
#include "run/run.h"
#include "run/write_frames.h"
#include "tests/support.h"
#include "text/json.h"

using namespace fexel;

namespace {

/// A black-and-white checker of ten-bit samples in the PNM format, by hand.
std::string ten_bits(int width, int height, int largest, int bands = 1) {
  std::string text = std::string(bands == 1 ? "P5" : "P6") + "\n" + std::to_string(width) + " " +
                     std::to_string(height) + "\n" + std::to_string(largest) + "\n";
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      for (int band = 0; band < bands; ++band) {
        const int value = (x / 3 + y / 4 + band) % 2 == 0 ? 0 : largest;
        if (largest > 255) text += static_cast<char>(value >> 8);
        text += static_cast<char>(value & 255);
      }
  return text;
}

int largest_sample(const Image& image) {
  int most = 0;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x)
        if (image.valid(x, y)) most = std::max(most, static_cast<int>(test::value(image, band, x, y)));
  return most;
}

/// The result of steps for a picture, as a file of the format.
RunResult made(const std::filesystem::path& source, const std::string& steps, const std::filesystem::path& to,
               Format format, const Finish& finish = {}, std::int64_t memory = memory_to_use()) {
  const Chain chain = parse_chain(R"({"fexel":1,"resample":{"kernel":"lanczos3"},"steps":[)" + steps + "]}");
  Target target;
  target.path = to;
  target.format = format;
  target.finish = finish;
  target.replace = true;
  WriteHow how;
  how.memory = memory;
  return write_frames(chain, pages_of(source, {}), target, how, {});
}

}  // namespace

TEST_CASE("the largest value of a PNM goes through every step and every format") {
  const test::Scratch scratch;
  const int largest = GENERATE(100, 200, 255, 256, 1023, 4095, 16383, 65535);
  const int bands = GENERATE(1, 3);
  const auto source = scratch / (bands == 1 ? "a.pgm" : "a.ppm");
  write_text(source, ten_bits(48, 40, largest, bands), true);
  const Depth depth = largest < 256 ? Depth::u8 : Depth::u16;
  const bool own = largest == 255 || largest == 65535;
  const FileInfo info = read_info(source);
  CHECK(info.depth == depth);
  CHECK(info.largest == (own ? 0 : largest));
  CHECK(read_picture(source).largest() == largest);
  CAPTURE(largest, bands);
  // Whatever rings or adds: nothing comes out beyond what the picture can say.
  for (const char* steps : {"", R"({"step":"rotate","degrees":90})", R"({"step":"rotate","degrees":7})",
                            R"({"step":"translate","dx":0.5,"dy":0.5})", R"({"step":"resize","scale":2})",
                            R"({"step":"resize","scale":0.6})", R"({"step":"pad","left":3,"edge":"mirror"})",
                            R"({"step":"downsample","factor":2})", R"({"step":"convolve","kernel":[[1.5]]})",
                            R"({"step":"local-contrast"},{"step":"rotate","degrees":3})",
                            R"({"step":"highpass","radius":3})", R"({"step":"tilt","about_x":8})"}) {
    CAPTURE(steps);
    for (const Format format : {Format::pnm, Format::tiff, Format::png}) {
      CAPTURE(name_of(format));
      const auto out = scratch / "out";
      const RunResult result = made(source, steps, out, format);
      const FileInfo after = read_info(out);
      CHECK(after.largest == info.largest);
      CHECK(after.depth == depth);
      const Image image = read_picture(out);
      CHECK(image.largest() == largest);
      CHECK(largest_sample(image) <= largest);
      if (std::string(steps).find("turn\",\"degrees\":7") != std::string::npos) {
        CHECK(largest_sample(image) == largest);  // the kernel rings
        CHECK(result.clamped > 0);
      }
    }
  }
  // The second result is read as the first: from PNM over PNG and TIFF and back.
  made(source, "", scratch / "1.png", Format::png);
  made(scratch / "1.png", "", scratch / "2.tif", Format::tiff);
  made(scratch / "2.tif", "", scratch / "3.pnm", Format::pnm);
  CHECK(read_text(scratch / "3.pnm") == ten_bits(48, 40, largest, bands));
}

TEST_CASE("by parts the largest value is that of the whole") {
  const test::Scratch scratch;
  write_text(scratch / "a.pgm", ten_bits(900, 700, 4095), true);
  made(scratch / "a.pgm", "", scratch / "a.tif", Format::tiff);
  const std::string steps = R"({"step":"rotate","degrees":3})";
  const RunResult whole = made(scratch / "a.tif", steps, scratch / "whole.tif", Format::tiff);
  const RunResult parts = made(scratch / "a.tif", steps, scratch / "parts.tif", Format::tiff, {}, 1 << 20);
  CHECK(read_info(scratch / "parts.tif").largest == 4095);
  CHECK(test::same_samples(read_picture(scratch / "whole.tif"), read_picture(scratch / "parts.tif")));
  CHECK(parts.clamped == whole.clamped);
}

TEST_CASE("another depth or range of the result ends the source's largest value where it means no more") {
  const test::Scratch scratch;
  write_text(scratch / "a.pgm", ten_bits(32, 32, 1023), true);
  Finish range;
  range.range = std::pair(0.0, 1023.0);
  made(scratch / "a.pgm", "", scratch / "range.pgm", Format::pnm, range);
  CHECK(read_info(scratch / "range.pgm").largest == 0);
  CHECK(largest_sample(read_picture(scratch / "range.pgm")) == 65535);
  range.depth = Depth::u8;
  made(scratch / "a.pgm", "", scratch / "range8.pgm", Format::pnm, range);
  CHECK(largest_sample(read_picture(scratch / "range8.pgm")) == 255);
  write_text(scratch / "b.pgm", ten_bits(32, 32, 200), true);
  Finish words;
  words.depth = Depth::u16;
  made(scratch / "b.pgm", "", scratch / "words.tif", Format::tiff, words);
  CHECK(read_info(scratch / "words.tif").largest == 200);
  made(scratch / "b.pgm", "", scratch / "words.pgm", Format::pnm, words);  // two bytes a sample begin with 256
  CHECK(read_info(scratch / "words.pgm").depth == Depth::u16);
  CHECK(test::same_samples(read_picture(scratch / "words.tif"), read_picture(scratch / "words.pgm")));
  Finish floats;
  floats.depth = Depth::f32;
  made(scratch / "a.pgm", "", scratch / "f.tif", Format::tiff, floats);
  CHECK(read_info(scratch / "f.tif").largest == 0);
}

TEST_CASE("samples above the stated largest value are clamped and counted, and the result is not called exact") {
  const test::Scratch scratch;
  std::string text = "P5\n4 1\n1000\n";
  for (const int value : {0, 1000, 1001, 60000}) {
    text += static_cast<char>(value >> 8);
    text += static_cast<char>(value & 255);
  }
  write_text(scratch / "a.pgm", text, true);
  const RunResult result = made(scratch / "a.pgm", "", scratch / "out.pgm", Format::pnm);
  CHECK(result.clamped == 2);
  CHECK_FALSE(result.exact);
  CHECK(test::value(read_picture(scratch / "out.pgm"), 0, 3, 0) == 1000);
}

TEST_CASE("a TIFF's largest value counts where it is a whole number of bits, or Fexel's own") {
  const test::Scratch scratch;
  const auto written = [&](int largest, const char* software) {
    TIFF* tiff = TIFFOpen((scratch / "a.tif").c_str(), "w");
    REQUIRE(tiff);
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, 2);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, 1);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 16);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 1);
    if (largest > 0) TIFFSetField(tiff, TIFFTAG_MAXSAMPLEVALUE, largest);
    if (software) TIFFSetField(tiff, TIFFTAG_SOFTWARE, software);
    std::uint16_t row[] = {7, 700};
    REQUIRE(TIFFWriteScanline(tiff, row, 0, 0) == 1);
    TIFFClose(tiff);
    return read_info(scratch / "a.tif").largest;
  };
  CHECK(written(0, nullptr) == 0);
  CHECK(written(4095, nullptr) == 4095);
  CHECK(written(16383, "scope") == 16383);
  CHECK(written(3977, "scope") == 0);  // what is brightest in the picture
  CHECK(written(3977, "Fexel") == 3977);
  CHECK(written(65535, nullptr) == 0);
}

TEST_CASE("what a format cannot hold is said") {
  const test::Scratch scratch;
  WriteOptions how;
  how.pixel_size = PixelSize{0.25, 0.25, "mm"};
  write_pictures(scratch / "a.tif", test::one_page(test::noise(9, 7, 1, Depth::u8)), how);
  CHECK(made(scratch / "a.tif", "", scratch / "a.pgm", Format::pnm).notes ==
        std::vector<std::string>{"PNM cannot hold the pixel size, 0.25 mm."});
  for (const Format format : {Format::tiff, Format::png, Format::jpeg}) {
    CHECK(made(scratch / "a.tif", "", scratch / "out", format).notes.empty());
    CHECK(read_info(scratch / "out").pixel_size->x == Approx(0.25));
  }
}
