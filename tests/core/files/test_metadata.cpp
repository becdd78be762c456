// What files say beside their pixels goes on to what is made of them: written by Fexel, read by the metadata library.
#include <png.h>

#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>

#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

const std::pair<const char*, const char*> camera[] = {{"Exif.Image.Make", "Fexel"},
                                                      {"Exif.Image.Model", "Made up 1"},
                                                      {"Exif.Image.DateTime", "2026:03:04 05:06:07"},
                                                      {"Exif.Image.Artist", "A. Person"},
                                                      {"Exif.Image.Copyright", "Nobody"},
                                                      {"Exif.Photo.DateTimeOriginal", "2026:03:04 05:06:07"},
                                                      {"Exif.Photo.SubSecTimeOriginal", "123"},
                                                      {"Exif.Photo.OffsetTimeOriginal", "+05:30"},
                                                      {"Exif.Photo.ExposureProgram", "3"},
                                                      {"Exif.Photo.ExposureTime", "7/2400"},
                                                      {"Exif.Photo.FNumber", "28/10"},
                                                      {"Exif.Photo.ISOSpeedRatings", "400"},
                                                      {"Exif.Photo.FocalLength", "353/10"},
                                                      {"Exif.Photo.LensModel", "35 mm f/2.8"},
                                                      {"Exif.Photo.LensSpecification", "24/1 70/1 28/10 28/10"},
                                                      {"Exif.Photo.BodySerialNumber", "00042"},
                                                      {"Exif.Photo.WhiteBalance", "1"},
                                                      {"Exif.Photo.SubjectDistance", "1234/1000"},
                                                      {"Exif.GPSInfo.GPSLatitudeRef", "N"},
                                                      {"Exif.GPSInfo.GPSLatitude", "48/1 8/1 1234/100"},
                                                      {"Exif.GPSInfo.GPSLongitudeRef", "E"},
                                                      {"Exif.GPSInfo.GPSLongitude", "11/1 34/1 5678/100"},
                                                      {"Exif.GPSInfo.GPSAltitude", "5190/10"},
                                                      {"Exif.GPSInfo.GPSTimeStamp", "5/1 6/1 7123/1000"},
                                                      {"Exif.GPSInfo.GPSDateStamp", "2026:03:04"}};

const char* const xmp =
    "<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\">"
    "<rdf:Description rdf:about=\"\" xmlns:dc=\"http://purl.org/dc/elements/1.1/\" "
    "xmlns:tiff=\"http://ns.adobe.com/tiff/1.0/\" xmlns:lab=\"http://example.org/lab/1.0/\" lab:Sample=\"S-17\" "
    "tiff:Orientation=\"6\"><tiff:ImageWidth>9999</tiff:ImageWidth><dc:title><rdf:Alt><rdf:li xml:lang=\"x-default\">"
    "A title</rdf:li></rdf:Alt></dc:title></rdf:Description></rdf:RDF></x:xmpmeta>";

/// A JPEG that says all of this.
void make_source(const fs::path& path) {
  write_pictures(path, test::one_page(test::noise(40, 30, 3, Depth::u8)), {Format::jpeg, {}, true, {}});
  const auto file = Exiv2::ImageFactory::open(path.string());
  file->readMetadata();
  for (const auto& [key, value] : camera) {
    const Exiv2::ExifKey name(key);
    auto data = Exiv2::Value::create(name.defaultTypeId());
    data->read(value);
    file->exifData().add(name, data.get());
  }
  // Of a maker that the library knows no notes of: they stay one block.
  file->exifData()["Exif.Photo.MakerNote"] = std::string("notes that only the maker can read");
  file->xmpPacket() = xmp;
  file->writeXmpFromPacket(true);
  file->iptcData()["Iptc.Application2.Caption"] = std::string("A caption");
  file->iptcData()["Iptc.Application2.City"] = std::string("Nowhere");
  file->setComment("A comment");
  file->writeMetadata();
}

/// The text "Comment", by the codec library.
std::string comment_of_png(const fs::path& path) {
  std::FILE* file = std::fopen(path.c_str(), "rb");
  png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_init_io(png, file);
  png_read_info(png, info);
  png_textp texts = nullptr;
  int count = 0;
  png_get_text(png, info, &texts, &count);
  std::string out;
  for (int i = 0; i < count; ++i)
    if (std::string(texts[i].key) == "Comment") out = texts[i].text;
  png_destroy_read_struct(&png, &info, nullptr);
  std::fclose(file);
  return out;
}

void check_said(const fs::path& path, Format format) {
  const auto file = Exiv2::ImageFactory::open(path.string());
  file->readMetadata();
  const Exiv2::ExifData& exif = file->exifData();
  for (const auto& [key, value] : camera) {
    INFO(key);
    const auto at = exif.findKey(Exiv2::ExifKey(key));
    REQUIRE(at != exif.end());
    CHECK(at->toString() == value);
  }
  CHECK(exif.findKey(Exiv2::ExifKey("Exif.Photo.MakerNote")) == exif.end());
  const Exiv2::XmpData& packet = file->xmpData();
  REQUIRE(packet.findKey(Exiv2::XmpKey("Xmp.dc.title")) != packet.end());
  CHECK(packet.findKey(Exiv2::XmpKey("Xmp.dc.title"))->toString().find("A title") != std::string::npos);
  CHECK(std::string(file->xmpPacket()).find("S-17") != std::string::npos);
  CHECK(packet.findKey(Exiv2::XmpKey("Xmp.tiff.Orientation")) == packet.end());
  CHECK(packet.findKey(Exiv2::XmpKey("Xmp.tiff.ImageWidth")) == packet.end());
  const Exiv2::IptcData& iptc = file->iptcData();
  for (const auto& [key, value] :
       {std::pair("Iptc.Application2.Caption", "A caption"), std::pair("Iptc.Application2.City", "Nowhere")}) {
    INFO(key);
    const auto at = iptc.findKey(Exiv2::IptcKey(key));
    REQUIRE(at != iptc.end());
    CHECK(at->toString() == value);
  }
  if (format == Format::tiff)
    CHECK(exif.findKey(Exiv2::ExifKey("Exif.Image.ImageDescription"))->toString() == "A comment");
  if (format == Format::jpeg) CHECK(file->comment() == "A comment");
  if (format == Format::png) CHECK(comment_of_png(path) == "A comment");
}

}  // namespace

TEST_CASE("what goes in comes out: camera, place, times, XMP, IPTC and comment, from each format to each", "[files]") {
  Exiv2::XmpProperties::registerNs("http://example.org/lab/1.0/", "lab");
  const test::Scratch scratch;
  const fs::path source = scratch / "source.jpg";
  make_source(source);
  const Format formats[] = {Format::jpeg, Format::tiff, Format::png};
  const auto made = [&](const fs::path& from, Format format, const std::string& name, bool compress = true) {
    const fs::path path = scratch / (name + "." + extension_of(format, 3));
    WriteOptions how;
    how.format = format;
    how.replace = true;
    how.compress = compress;
    how.attached = read_attached(from, 3);
    write_pictures(path, test::one_page(test::noise(50, 20, 3, Depth::u8)), how);
    return path;
  };
  CHECK(read_attached(source, 3).dropped == std::vector<std::string>{"maker notes"});
  for (const Format first : formats) {
    const fs::path one = made(source, first, "one");
    {
      INFO(name_of(first));
      check_said(one, first);
    }
    if (first == Format::tiff) continue;  // its comment is a description from there on
    for (const Format second : formats) {
      INFO(name_of(first) << " to " << name_of(second));
      check_said(made(one, second, "two"), second);
    }
  }
  const fs::path tiff = made(source, Format::tiff, "tiff", false);
  CHECK(test::same_samples(read_picture(tiff), test::noise(50, 20, 3, Depth::u8)));
  for (const Format second : formats) {
    const auto file = Exiv2::ImageFactory::open(made(tiff, second, "three").string());
    file->readMetadata();
    CHECK(file->exifData().findKey(Exiv2::ExifKey("Exif.GPSInfo.GPSLongitude"))->toString() == "11/1 34/1 5678/100");
    CHECK(file->exifData().findKey(Exiv2::ExifKey("Exif.Image.ImageDescription"))->toString() == "A comment");
    CHECK(file->iptcData().findKey(Exiv2::IptcKey("Iptc.Application2.City"))->toString() == "Nowhere");
    CHECK(std::string(file->xmpPacket()).find("S-17") != std::string::npos);
  }
}

TEST_CASE("a TIFF of several pages keeps its samples beside what the camera says", "[files]") {
  const test::Scratch scratch;
  make_source(scratch / "source.jpg");
  const Attached attached = read_attached(scratch / "source.jpg", 3);
  WriteOptions how;
  how.attached = attached;
  std::vector<Image> pages;
  for (int k = 0; k < 3; ++k) pages.push_back(test::noise(30, 20, 3, Depth::u16, static_cast<unsigned>(k)));
  write_pictures(scratch / "a.tif", pages, how);
  check_said(scratch / "a.tif", Format::tiff);
  for (int k = 0; k < 3; ++k)
    CHECK(test::same_samples(read_picture(scratch / "a.tif", k + 1), pages[static_cast<std::size_t>(k)]));
}

TEST_CASE("broken XMP and IPTC are left out and named", "[files]") {
  const test::Scratch scratch;
  const fs::path path = scratch / "a.tif";
  WriteOptions how;
  const std::string bad = "<x:xmpmeta><rdf:RDF><unclosed>";
  how.attached.xmp.assign(bad.begin(), bad.end());
  write_pictures(path, test::one_page(test::noise(20, 20, 1, Depth::u8)), how);
  const Attached read = read_attached(path, 1);
  CHECK(read.xmp.empty());
  CHECK(read.dropped == std::vector<std::string>{"XMP (not well-formed)"});
}
