#include "files/metadata.h"

#include <lcms2.h>

#include <cmath>
#include <exiv2/exiv2.hpp>
#include <set>

#include "base/error.h"
#include "files/codec.h"
#include "files/colour.h"
#include "files/formats.h"
#include "files/xmp.h"

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

CameraData camera_data(const std::vector<unsigned char>& exif) {
  CameraData out;
  if (exif.empty()) return out;
  keep_quiet();
  try {
    Exiv2::ExifData data;
    Exiv2::ExifParser::decode(data, exif.data(), static_cast<std::uint32_t>(exif.size()));
    const auto orientation = static_cast<int>(number_of(data, "Exif.Image.Orientation"));
    if (orientation >= 1 && orientation <= 8) out.orientation = orientation;
    const double x = fraction_of(data, "Exif.Image.XResolution"), y = fraction_of(data, "Exif.Image.YResolution");
    const bool metric = static_cast<int>(number_of(data, "Exif.Image.ResolutionUnit")) == per_centimetre;
    const double per_metre = metric ? 100 : 1 / 0.0254;
    out.density = pixel_size_from_density(x * per_metre, y * per_metre);
    const auto has = [&](const char* key) { return data.findKey(Exiv2::ExifKey(key)) != data.end(); };
    if (has("Exif.Image.Software")) out.software = data["Exif.Image.Software"].toString();
    // Exif 2.32, FileSource: 1 a film scanner, 2 a scanner of prints, 3 a camera.
    const auto source = static_cast<int>(number_of(data, "Exif.Photo.FileSource"));
    out.scan = source == 1 || source == 2;
    out.photo = !out.scan && (has("Exif.Image.Make") || has("Exif.Image.Model") || has("Exif.Photo.ExposureTime") ||
                              has("Exif.Photo.FocalLength"));
  } catch (const std::exception&) {
    // Metadata that cannot be read is not there; the pixels are read by a codec of its own.
  }
  return out;
}

namespace {

/// What says how large the picture is, where it lies in the file, or what only its maker can read, is not carried.
bool carried(const Exiv2::Exifdatum& line) {
  static const std::set<std::string> of_picture = {
      "Make", "Model", "DateTime", "Artist", "Copyright", "ImageDescription", "HostComputer"};
  static const std::set<std::string> left_out = {
      "MakerNote",       "PixelXDimension",       "PixelYDimension",       "InteroperabilityTag",     "SubjectArea",
      "SubjectLocation", "FocalPlaneXResolution", "FocalPlaneYResolution", "FocalPlaneResolutionUnit"};
  const std::string group = line.groupName(), tag = line.tagName();
  if (group == "Image") return of_picture.contains(tag);
  return (group == "Photo" && !left_out.contains(tag) && !tag.starts_with("0x")) || group == "GPSInfo";
}

/// A fraction that some programs store with a sign, where the tag has none (Exif 2.32), gets the tag's own type.
void add_as_it_should_be(const Exiv2::Exifdatum& line, Exiv2::ExifData& kept) {
  const Exiv2::ExifKey key(line.key());
  bool positive = line.typeId() == Exiv2::signedRational && key.defaultTypeId() == Exiv2::unsignedRational;
  Exiv2::URationalValue value;
  for (long i = 0; positive && i < line.count(); ++i) {
    const Exiv2::Rational part = line.toRational(i);
    positive = part.first >= 0 && part.second >= 0;
    value.value_.emplace_back(static_cast<std::uint32_t>(part.first), static_cast<std::uint32_t>(part.second));
  }
  if (positive)
    kept.add(key, &value);
  else
    kept.add(line);
}

/// What people call a line that is not carried; empty for what tells how the file is stored.
std::string dropped_name(const Exiv2::Exifdatum& line) {
  const std::string group = line.groupName(), tag = line.tagName();
  if (tag == "MakerNote" || (group != "Image" && group != "Photo" && group != "GPSInfo" && group != "Iop" &&
                             group != "Thumbnail" && !group.starts_with("SubImage") && group != "MpfInfo"))
    return "maker notes";
  if (group == "Thumbnail") return "thumbnail";
  if (group == "Photo" && line.size() >= 4096) return tag;
  return {};
}

bool belongs(const std::vector<unsigned char>& bytes, int bands) {
  const std::unique_ptr<void, int (*)(void*)> profile(
      cmsOpenProfileFromMem(bytes.data(), static_cast<cmsUInt32Number>(bytes.size())), cmsCloseProfile);
  if (!profile) return false;
  const auto space = cmsGetColorSpace(profile.get());
  return (space == cmsSigGrayData && bands == 1) || (space == cmsSigRgbData && bands == 3);
}

constexpr std::size_t max_exif = 60000;  // what one segment of a JPEG holds

}  // namespace

Attached attached_of(const Stored& stored, int bands) {
  Attached out;
  keep_quiet();
  cmsSetLogErrorHandler([](cmsContext, cmsUInt32Number, const char*) {});
  try {
    if (!stored.exif.empty()) {
      Exiv2::ExifData all, kept;
      Exiv2::ExifParser::decode(all, stored.exif.data(), static_cast<std::uint32_t>(stored.exif.size()));
      std::set<std::string> dropped;
      for (const Exiv2::Exifdatum& line : all) {
        if (carried(line) && line.size() < 4096)
          add_as_it_should_be(line, kept);
        else if (const std::string what = dropped_name(line); !what.empty())
          dropped.insert(what);
      }
      out.dropped.assign(dropped.begin(), dropped.end());
      Exiv2::Blob blob;
      if (!kept.empty()) Exiv2::ExifParser::encode(blob, Exiv2::littleEndian, kept);
      if (blob.size() < max_exif)
        out.camera.assign(blob.begin(), blob.end());
      else
        out.dropped.emplace_back("camera data (too long)");
    }
  } catch (const std::exception&) {
    // As above: what cannot be read is not there.
  }
  if (belongs(stored.profile, bands)) out.profile = stored.profile;
  out.xmp = carried_xmp(stored.xmp);
  if (stored.more_xmp) out.dropped.emplace_back("XMP beyond the first packet");
  if (out.xmp.empty() && !stored.xmp.empty()) out.dropped.emplace_back("XMP (not well-formed)");
  constexpr std::size_t most_iptc = 60000;
  if (stored.iptc.size() < most_iptc)
    out.iptc = stored.iptc;
  else
    out.dropped.emplace_back("IPTC (too long)");
  while (!out.iptc.empty() && out.iptc.back() == 0) out.iptc.pop_back();
  out.comment = stored.comment.substr(0, 60000);
  if (const auto end = out.comment.find('\0'); end != std::string::npos) out.comment.resize(end);
  return out;
}

std::vector<unsigned char> iptc_in(const std::vector<unsigned char>& resources) {
  const Exiv2::byte* record = nullptr;
  std::uint32_t head = 0, size = 0;
  if (resources.empty() || Exiv2::Photoshop::locateIptcIrb(resources.data(), static_cast<long>(resources.size()),
                                                           &record, &head, &size) != 0)
    return {};
  const std::size_t at = static_cast<std::size_t>(record - resources.data()) + head;
  if (at > resources.size() || size > resources.size() - at) return {};
  return {resources.begin() + static_cast<std::ptrdiff_t>(at),
          resources.begin() + static_cast<std::ptrdiff_t>(at + size)};
}

std::vector<unsigned char> resource_of(const std::vector<unsigned char>& iptc) {
  std::vector<unsigned char> out{'8', 'B', 'I', 'M', 4, 4, 0, 0};
  for (int shift = 24; shift >= 0; shift -= 8) out.push_back(static_cast<unsigned char>(iptc.size() >> shift));
  out.insert(out.end(), iptc.begin(), iptc.end());
  if (out.size() % 2 != 0) out.push_back(0);
  return out;
}

std::vector<unsigned char> with_metadata(std::span<const unsigned char> jpeg, const std::optional<PixelSize>& size,
                                         const Attached& attached) {
  keep_quiet();
  try {
    const auto file = Exiv2::ImageFactory::open(jpeg.data(), static_cast<long>(jpeg.size()));
    file->readMetadata();
    Exiv2::ExifData& data = file->exifData();
    if (!attached.camera.empty())
      Exiv2::ExifParser::decode(data, attached.camera.data(), static_cast<std::uint32_t>(attached.camera.size()));
    if (size) {
      const PixelSize millimetre = in_unit(*size, "mm");
      const double x = 10 / millimetre.x, y = 10 / millimetre.y;  // pixels per centimetre
      const auto fits = [](double v) { return v * denominator < 2e9 && v * denominator >= 1; };
      // Very fine pixels are told in whole pixels per centimetre.
      const int below = fits(x) && fits(y) ? denominator : 1;
      if (x * below < 2e9 && y * below < 2e9) {
        data["Exif.Image.XResolution"] = Exiv2::Rational(static_cast<int>(std::lround(x * below)), below);
        data["Exif.Image.YResolution"] = Exiv2::Rational(static_cast<int>(std::lround(y * below)), below);
        data["Exif.Image.ResolutionUnit"] = std::uint16_t{per_centimetre};
        data["Exif.Image.Software"] = std::string(own_name);
      }
    }
    if (!attached.xmp.empty() && attached.xmp.size() < 65000) {
      file->xmpPacket().assign(attached.xmp.begin(), attached.xmp.end());
      file->writeXmpFromPacket(true);
    }
    if (!attached.iptc.empty())
      Exiv2::IptcParser::decode(file->iptcData(), attached.iptc.data(),
                                static_cast<std::uint32_t>(attached.iptc.size()));
    if (!attached.comment.empty()) file->setComment(attached.comment);
    if (!attached.profile.empty()) {
      Exiv2::DataBuf profile(attached.profile.data(), static_cast<long>(attached.profile.size()));
      file->setIccProfile(profile, false);  // the source's own, whatever is thought of it
    }
    file->writeMetadata();
    Exiv2::BasicIo& io = file->io();
    io.open();
    const Exiv2::DataBuf bytes = io.read(static_cast<long>(io.size()));
    return {bytes.pData_, bytes.pData_ + bytes.size_};
  } catch (const Exiv2::AnyError& error) {
    throw input_error(std::string("The metadata could not be written into the JPEG: ") + error.what() + ".", {},
                      "Write TIFF or PNG instead.");
  }
}

}  // namespace fexel::codec

namespace fexel {

std::string profile_name(const std::vector<unsigned char>& bytes) {
  const std::unique_ptr<void, int (*)(void*)> profile(
      cmsOpenProfileFromMem(bytes.data(), static_cast<cmsUInt32Number>(bytes.size())), cmsCloseProfile);
  char text[128] = {};
  if (!profile || cmsGetProfileInfoASCII(profile.get(), cmsInfoDescription, "en", "US", text, sizeof text) == 0)
    return {};
  return text;
}

Attached read_attached(const std::filesystem::path& path, int bands) {
  try {
    const FileInfo info = read_info(path, {.salvage = true});
    const codec::Door& door = codec::door_of(path);
    if (!door.attached) return {};
    const codec::Stored stored = door.attached(path);
    Attached out = codec::attached_of(stored, bands);
    if (!info.converted.empty() && bands == 3) out.profile = codec::srgb_profile();
    if (out.profile.empty() && !stored.profile.empty() && info.converted.empty())
      out.dropped.emplace_back("colour profile (of other bands)");
    return out;
  } catch (const Error&) {
    return {};
  }
}

}  // namespace fexel
