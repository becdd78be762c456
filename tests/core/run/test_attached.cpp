#include <lcms2.h>

#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>

#include "run/run.h"
#include "tests/support.h"

using namespace fexel;

namespace {

std::vector<unsigned char> profile_of(bool grey) {
  cmsToneCurve* curve = cmsBuildGamma(nullptr, 2.2);
  cmsHPROFILE profile = grey ? cmsCreateGrayProfile(cmsD50_xyY(), curve) : cmsCreate_sRGBProfile();
  cmsUInt32Number size = 0;
  cmsSaveProfileToMem(profile, nullptr, &size);
  std::vector<unsigned char> bytes(size);
  cmsSaveProfileToMem(profile, bytes.data(), &size);
  cmsCloseProfile(profile);
  cmsFreeToneCurve(curve);
  return bytes;
}

/// A picture as a camera would leave it.
void make_photo(const std::filesystem::path& path, Format format, int bands,
                const std::vector<unsigned char>& profile) {
  std::vector<Image> pages;
  pages.push_back(test::noise(48, 32, bands, Depth::u8));
  write_pictures(path, pages, {format, {}, false, {}});
  const auto file = Exiv2::ImageFactory::open(path.string());
  file->readMetadata();
  Exiv2::ExifData& data = file->exifData();
  data["Exif.Image.Make"] = "Lantern Works";
  data["Exif.Image.Model"] = "L-2";
  data["Exif.Image.Copyright"] = "the yard";
  data["Exif.Photo.DateTimeOriginal"] = "2026:05:04 03:02:01";
  data["Exif.Photo.ExposureTime"] = Exiv2::Rational(1, 125);
  data["Exif.Photo.FNumber"] = Exiv2::Rational(56, 10);
  data["Exif.Photo.ISOSpeedRatings"] = std::uint16_t{200};
  data["Exif.Photo.LensModel"] = "35 mm";
  data["Exif.Photo.PixelXDimension"] = std::uint32_t{48};
  if (format == Format::jpeg) data["Exif.Image.Orientation"] = std::uint16_t{6};
  Exiv2::DataBuf icc(profile.data(), static_cast<long>(profile.size()));
  file->setIccProfile(icc, false);
  file->writeMetadata();
}

std::string line(Exiv2::Image& file, const char* key) {
  const auto at = file.exifData().findKey(Exiv2::ExifKey(key));
  return at == file.exifData().end() ? "" : at->toString();
}

}  // namespace

TEST_CASE("profile and camera data go from a source to its result, whatever the formats", "[attached]") {
  const Format from = GENERATE(Format::jpeg, Format::png), to = GENERATE(Format::tiff, Format::png, Format::jpeg);
  const int bands = GENERATE(1, 3);
  const test::Scratch scratch;
  const auto profile = profile_of(bands == 1);
  make_photo(scratch / "photo", from, bands, profile);
  Chain chain;
  chain.steps = {{RotateStep{90}, true, {}}};
  RunOptions options;
  options.folder = scratch.path();
  options.format = to;
  options.name = "result.{ext}";
  const RunItem item = plan_run(chain, {scratch / "photo"}, options).front();
  REQUIRE_FALSE(item.failure);
  run_one(chain, item, options, {});
  INFO(name_of(from) << " to " << name_of(to));
  const FileInfo info = read_info(item.target.path);
  CHECK(info.profile == "embedded");
  CHECK(info.orientation == 1);
  CHECK(info.width == (from == Format::jpeg ? 48 : 32));  // a quarter turn of what stands upright
  const auto file = Exiv2::ImageFactory::open(item.target.path.string());
  file->readMetadata();
  CHECK(line(*file, "Exif.Image.Make") == "Lantern Works");
  CHECK(line(*file, "Exif.Image.Copyright") == "the yard");
  CHECK(line(*file, "Exif.Photo.DateTimeOriginal") == "2026:05:04 03:02:01");
  CHECK(line(*file, "Exif.Photo.ISOSpeedRatings") == "200");
  CHECK(line(*file, "Exif.Photo.LensModel") == "35 mm");
  CHECK(file->exifData().findKey(Exiv2::ExifKey("Exif.Photo.ExposureTime"))->toFloat() == Approx(1.0 / 125));
  CHECK(file->exifData().findKey(Exiv2::ExifKey("Exif.Photo.FNumber"))->toFloat() == Approx(5.6));
  CHECK(line(*file, "Exif.Photo.PixelXDimension").empty());
  REQUIRE(file->iccProfile());
  CHECK(std::equal(profile.begin(), profile.end(), file->iccProfile()->pData_,
                   file->iccProfile()->pData_ + file->iccProfile()->size_));
  CHECK_FALSE(profile_name(profile).empty());
  if (to == Format::tiff)
    CHECK(std::system(("tiffinfo " + item.target.path.string() + " 2>&1 | grep -qi warning").c_str()) != 0);
  if (to == Format::png) CHECK(std::system(("pngcheck -q " + item.target.path.string()).c_str()) == 0);
}

TEST_CASE("a profile that does not belong to the bands, or is none, is left out", "[attached]") {
  const test::Scratch scratch;
  make_photo(scratch / "a.png", Format::png, 3, profile_of(true));
  CHECK(read_attached(scratch / "a.png", 3).profile.empty());
  CHECK_FALSE(read_attached(scratch / "a.png", 3).camera.empty());
  make_photo(scratch / "b.jpg", Format::jpeg, 3, std::vector<unsigned char>(500, 7));
  CHECK(read_attached(scratch / "b.jpg", 3).profile.empty());
  CHECK(profile_name({1, 2, 3}).empty());
  CHECK(read_attached(scratch / "missing.tif", 1) == Attached{});
}

TEST_CASE("a profile with padding behind it goes into every format", "[attached]") {
  const Format to = GENERATE(Format::tiff, Format::png, Format::jpeg);
  const test::Scratch scratch;
  auto profile = profile_of(false);
  profile.insert(profile.end(), 4, 0);
  WriteOptions how;
  how.format = to;
  how.attached.profile = profile;
  write_pictures(scratch / "a", test::one_page(test::noise(20, 16, 3, Depth::u8)), how);
  CHECK(read_info(scratch / "a").profile == "embedded");
  CHECK(read_attached(scratch / "a", 3).profile == profile);
}
