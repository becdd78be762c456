#include "files/metadata.h"

#include <cmath>
#include <exiv2/exiv2.hpp>

#include "base/error.h"
#include "files/codec.h"

namespace fexel::codec {
namespace {

constexpr int per_centimetre = 3;  // of the resolution unit
constexpr int denominator = 1'000'000;

void keep_quiet() {
  Exiv2::LogMsg::setLevel(Exiv2::LogMsg::mute);
}

double number_of(Exiv2::ExifData& data, const char* key) {
  const auto at = data.findKey(Exiv2::ExifKey(key));
  return at == data.end() || at->count() == 0 ? 0 : static_cast<double>(at->toFloat());
}

/// A fraction is taken apart by hand: as a float it would lose digits.
double fraction_of(Exiv2::ExifData& data, const char* key) {
  const auto at = data.findKey(Exiv2::ExifKey(key));
  if (at == data.end() || at->count() == 0) return 0;
  const Exiv2::Rational fraction = at->toRational();
  return fraction.second == 0 ? 0 : static_cast<double>(fraction.first) / fraction.second;
}

}  // namespace

CameraData camera_data(const fs::path& path) {
  CameraData out;
  keep_quiet();
  try {
    const auto file = Exiv2::ImageFactory::open(path.string());
    file->readMetadata();
    Exiv2::ExifData& data = file->exifData();
    const auto orientation = static_cast<int>(number_of(data, "Exif.Image.Orientation"));
    if (orientation >= 1 && orientation <= 8) out.orientation = orientation;
    const double x = fraction_of(data, "Exif.Image.XResolution"), y = fraction_of(data, "Exif.Image.YResolution");
    const bool metric = static_cast<int>(number_of(data, "Exif.Image.ResolutionUnit")) == per_centimetre;
    // Cameras write 72 or 96 dots an inch into everything; that says nothing of the scene.
    if (metric || (x != 72 && x != 96)) {
      const double per_metre = metric ? 100 : 1 / 0.0254;
      out.pixel_size = pixel_size_from_density(x * per_metre, y * per_metre);
    }
  } catch (const std::exception&) {
    // Metadata that cannot be read is not there; the pixels are read by a codec of its own.
  }
  return out;
}

std::vector<unsigned char> with_pixel_size(std::span<const unsigned char> jpeg, const PixelSize& size) {
  keep_quiet();
  const PixelSize millimetre = in_unit(size, "mm");
  const double x = 10 / millimetre.x, y = 10 / millimetre.y;  // pixels per centimetre
  const auto fits = [](double v) { return v * denominator < 2e9 && v * denominator >= 1; };
  // Very fine pixels are told in whole pixels per centimetre.
  const int below = fits(x) && fits(y) ? denominator : 1;
  if (!(x * below < 2e9) || !(y * below < 2e9)) return {jpeg.begin(), jpeg.end()};
  try {
    const auto file = Exiv2::ImageFactory::open(jpeg.data(), static_cast<long>(jpeg.size()));
    file->readMetadata();
    Exiv2::ExifData& data = file->exifData();
    data["Exif.Image.XResolution"] = Exiv2::Rational(static_cast<int>(std::lround(x * below)), below);
    data["Exif.Image.YResolution"] = Exiv2::Rational(static_cast<int>(std::lround(y * below)), below);
    data["Exif.Image.ResolutionUnit"] = std::uint16_t{per_centimetre};
    file->writeMetadata();
    Exiv2::BasicIo& io = file->io();
    io.open();
    const Exiv2::DataBuf bytes = io.read(static_cast<long>(io.size()));
    return {bytes.pData_, bytes.pData_ + bytes.size_};
  } catch (const Exiv2::AnyError& error) {
    throw input_error(std::string("The pixel size could not be written into the JPEG: ") + error.what() + ".");
  }
}

}  // namespace fexel::codec
