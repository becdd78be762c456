#include "run/output.h"

#include <fmt/format.h>
#include <unistd.h>

namespace fexel {
namespace {

constexpr std::string_view empty_table[] = {"fill", "alpha", "nan", "mask"};

}  // namespace

std::string_view name_of(EmptyAs empty) {
  return empty_table[static_cast<std::size_t>(empty)];
}

std::vector<std::string> empty_words() {
  return {std::begin(empty_table), std::end(empty_table)};
}

OutputShape output_shape(const Layout& layout, const Finish& finish) {
  const Station& result = layout.result();
  return {result.size, result.bands + (finish.empty == EmptyAs::alpha ? 1 : 0), finish.depth.value_or(result.depth),
          result.pixel, result.plane};
}

void check_output(const Layout& layout, const Finish& finish, Format format, int pages) {
  const OutputShape shape = output_shape(layout, finish);
  if (finish.empty == EmptyAs::nan && shape.depth != Depth::f32)
    throw call_error(fmt::format("{} samples cannot be NaN.", name_of(shape.depth)), "--empty",
                     "Convert the samples (--depth f32), or tell empty pixels by --empty alpha or mask.");
  if (finish.empty == EmptyAs::alpha && format != Format::tiff && format != Format::png)
    throw call_error(fmt::format("{} cannot hold an alpha band.", name_of(format)), "--empty",
                     "Use TIFF or PNG (--format), or --empty mask.");
  if (finish.range && !(finish.range->first != finish.range->second))
    throw call_error("The range has no width.", "--range", "Give two different numbers, LO,HI.");
  const bool alpha = finish.empty == EmptyAs::alpha;
  check_fits(format, shape.bands - (alpha ? 1 : 0), shape.depth, alpha);
  if (pages > 1 && format != Format::tiff)
    throw call_error(fmt::format("{} cannot hold {} pages.", name_of(format), pages), "--format",
                     "Use TIFF (--format tiff).");
}

Image finished(Image image, const Finish& finish, std::int64_t& clamped) {
  const Depth depth = finish.depth.value_or(image.depth());
  if (finish.range)
    image = with_range(image, depth, finish.range->first, finish.range->second, clamped);
  else if (depth != image.depth())
    image = with_depth(image, depth, clamped);
  clamped += clamp_to_largest(image);
  if (finish.empty == EmptyAs::nan) put_nan(image);
  if (finish.empty == EmptyAs::alpha) image = with_alpha(image);
  return image;
}

Attached carried_on(const std::filesystem::path& source, const OutputShape& shape, const Finish& finish) {
  Attached attached = read_attached(source, shape.bands - (finish.empty == EmptyAs::alpha ? 1 : 0));
  if (finish.range) attached.profile.clear();
  return attached;
}

std::vector<std::string> not_held(Format format, const OutputShape& shape, const Attached& attached) {
  std::vector<std::string> out;
  if (format != Format::pnm && format != Format::pfm) return out;
  const std::string name = format == Format::pnm ? "PNM" : "PFM";
  if (const auto& pixel = shape.pixel_size)
    out.push_back(pixel->square() ? fmt::format("{} cannot hold the pixel size, {} {}.", name,
                                                short_number(pixel->x, 6), pixel->unit)
                                  : fmt::format("{} cannot hold the pixel size, {} x {} {}.", name,
                                                short_number(pixel->x, 6), short_number(pixel->y, 6), pixel->unit));
  if (!attached.profile.empty()) out.push_back(name + " cannot hold the colour profile.");
  if (!attached.camera.empty()) out.push_back(name + " cannot hold what the camera said.");
  return out;
}

std::vector<std::string> dropped_by(Format format, const Attached& attached) {
  std::vector<std::string> out = attached.dropped;
  constexpr std::size_t most_in_jpeg = 65000;
  const bool bare = format == Format::pnm || format == Format::pfm;
  if (bare && !attached.profile.empty()) out.emplace_back("colour profile");
  if (bare && !attached.camera.empty()) out.emplace_back("camera data");
  if (!attached.xmp.empty() && (bare || (format == Format::jpeg && attached.xmp.size() >= most_in_jpeg)))
    out.emplace_back("XMP");
  if (bare && !attached.iptc.empty()) out.emplace_back("IPTC");
  if (bare && !attached.comment.empty()) out.emplace_back("comment");
  return out;
}

std::int64_t memory_to_use() {
  return static_cast<std::int64_t>(::sysconf(_SC_PHYS_PAGES)) * ::sysconf(_SC_PAGE_SIZE) / 2;
}

}  // namespace fexel
