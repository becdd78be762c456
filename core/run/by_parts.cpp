#include "run/by_parts.h"

#include <fmt/format.h>

#include "base/error.h"
#include "files/parts.h"
#include "image/memory.h"
#include "resample/coordinates/source_region.h"

namespace fexel {
namespace {

constexpr int tile_width = 1024, tile_height = 64;  // what warp() splits its work by, from the region's corner

double bytes_for(double pixels, int bands, Depth depth) {
  return pixels * bands * static_cast<double>(bytes_of(depth));
}

/// Parts of a picture, and what is made of them within a budget.
class PartedPicture {
 public:
  PartedPicture(const PictureParts& parts, const FileInfo& info, double budget)
      : parts_(parts),
        size_{info.width, info.height},
        bands_(info.bands),
        depth_(info.depth),
        largest_(info.largest),
        converted_(!info.converted.empty()),
        budget_(budget) {}

  /// What warp() makes of the whole picture for a region, with the region's corner at multiples of 1024 x 64.
  Image warped(const WarpPlan& plan, Region region, const Resampling& resampling, const Job& job,
               WarpReport& report) const {
    const auto box = source_box(plan, region, resampling, size_);
    if (box && cost(*box, resampling) <= budget_) {
      Image source = parts_.read(*box, job.part(0, 0.4));
      take_nan(source);
      paint_empty(source);
      WarpReport found;
      Image out = warp(Pyramid(std::make_shared<const Image>(std::move(source))), plan_within(plan, *box), region,
                       resampling, Quality::final, job.part(0.4, 1), &found);
      report.exact = report.exact && found.exact;
      report.clamped += found.clamped;
      report.empty += found.empty;
      return out;
    }
    Region first = region, second = region;
    if (region.width > tile_width && region.width >= region.height) {
      first.width = (region.width / tile_width + 1) / 2 * tile_width;
      second.x += first.width;
      second.width -= first.width;
    } else if (region.height > tile_height) {
      first.height = (region.height / tile_height + 1) / 2 * tile_height;
      second.y += first.height;
      second.height -= first.height;
    }
    if (first == region || second.width <= 0 || second.height <= 0)
      throw input_error("A small part of the result is made of more of the picture than memory is allowed to hold.", {},
                        "Allow more memory (--max-memory), or make the picture smaller first (a reduce step).");
    Image out(region.width, region.height, bands_, depth_, Image::Start::unset);
    out.set_largest(largest_);
    put(warped(plan, first, resampling, job.part(0, 0.5), report), first, region, out);
    put(warped(plan, second, resampling, job.part(0.5, 1), report), second, region, out);
    return out;
  }

  int bands() const { return bands_; }
  Depth depth() const { return depth_; }
  int largest() const { return largest_; }

 private:
  double cost(Region box, const Resampling& resampling) const {
    const double pixels = static_cast<double>(box.width) * box.height;
    const double own = bytes_for(pixels, bands_ + (converted_ ? 4 : 0), depth_);
    return resampling.kernel == Kernel::bspline3 ? own + bytes_for(pixels, bands_, Depth::f32) : 1.34 * own;
  }
  static void put(const Image& part, Region at, Region region, Image& out) {
    const int left = at.x - region.x, top = at.y - region.y;
    const std::size_t offset = static_cast<std::size_t>(left) * bytes_of(out.depth());
    for (int band = 0; band < out.bands(); ++band)
      for (int y = 0; y < part.height(); ++y)
        std::copy_n(part.bytes(band, y), part.row_bytes(), out.bytes(band, top + y) + offset);
    if (!part.has_mask()) return;
    if (!out.has_mask()) out.make_mask(true);
    for (int y = 0; y < part.height(); ++y)
      for (int x = 0; x < part.width(); ++x)
        if (!part.valid(x, y)) out.set_valid(left + x, top + y, false);
  }

  const PictureParts& parts_;
  Size size_;
  int bands_;
  Depth depth_;
  int largest_;
  bool converted_;  // read from other colours, which are held beside them for a while
  double budget_;
};

/// Rows at a time: a multiple of both numbers, as many as fit into the bytes, at least one such multiple.
int rows_at_once(double bytes, double row_bytes, int multiple) {
  const double fits = bytes / std::max(1.0, row_bytes * multiple);
  return multiple * static_cast<int>(std::clamp(fits, 1.0, 65536.0 / multiple));
}

const DownsampleStep* downsample_before(const Chain& chain, int run_start) {
  return std::get_if<DownsampleStep>(&chain.steps[static_cast<std::size_t>(run_start) - 1].kind);
}

/// Where the first run ends: the last station, or the one before the step that ends it.
int first_end(const Layout& layout) {
  int start = layout.last();
  int end = start;
  while ((start = layout.stations[static_cast<std::size_t>(end)].run_start) > 0) end = start - 1;
  return end;
}

/// The chain from a station on, for the picture that stands there.
Chain rest_of(const Chain& chain, int station) {
  Chain rest = chain;
  rest.calibration.reset();  // the station's pixel size goes by it already
  rest.steps.erase(rest.steps.begin(), rest.steps.begin() + station);
  return rest;
}

Layout rest_layout(const Chain& chain, const Layout& layout, int station, int bands, Depth depth) {
  const Station& at = layout.stations[static_cast<std::size_t>(station)];
  return lay_out(rest_of(chain, station), {at.size, bands, depth, at.pixel, at.clip});
}

/// The picture behind the step that ends the first run, small enough to be held.
Image downsampled(const Chain& chain, const Layout& layout, int station, const PartedPicture& picture, double budget,
                  const Job& job, WarpReport& report) {
  const Station& from = layout.stations[static_cast<std::size_t>(station) - 1];
  const Station& to = layout.stations[static_cast<std::size_t>(station)];
  const DownsampleStep& step = *downsample_before(chain, station);
  Resampling around = chain.resampling;
  if (around.edge == BorderMode::fill) around.edge = BorderMode::extend;
  Image out(to.size.width, to.size.height, picture.bands(), picture.depth(), Image::Start::unset);
  out.set_largest(picture.largest());
  // Bands of whole blocks: each is reduced by itself.
  int multiple = tile_height;
  while (multiple % step.factor_y != 0) multiple += tile_height;
  const int rows = rows_at_once(budget, bytes_for(from.size.width, picture.bands(), picture.depth()), multiple);
  for (int y = 0; y < from.size.height; y += rows) {
    const int count = std::min(rows, from.size.height - y), first = y / step.factor_y;
    if (first >= to.size.height) break;
    const Job part =
        job.part(static_cast<double>(y) / from.size.height, static_cast<double>(y + count) / from.size.height);
    Image band = picture.warped(plan_for(layout, station - 1), {0, y, from.size.width, count}, around, part, report);
    if (count < step.factor_y && !step.partial) break;
    paint_empty(band);
    const Image small = pixels_of(step, band, chain.resampling, {part.stop, {}}, report.clamped);
    if (small.has_mask() && !out.has_mask()) out.make_mask(true);
    for (int row = 0; row < std::min(small.height(), to.size.height - first); ++row) {
      for (int b = 0; b < out.bands(); ++b)
        std::copy_n(small.bytes(b, row), out.row_bytes(), out.bytes(b, first + row));
      for (int x = 0; small.has_mask() && x < out.width(); ++x)
        if (!small.valid(x, row)) out.set_valid(x, first + row, false);
    }
  }
  paint_empty(out);
  return out;
}

}  // namespace

double memory_for(const Chain& chain, const Layout& layout, const FileInfo& info, const Target& target) {
  const double pixels = static_cast<double>(info.width) * info.height;
  double bytes = 1.34 * bytes_for(pixels, info.bands, info.depth);
  if (!info.converted.empty()) bytes += bytes_for(pixels, 4, info.depth);  // as they are stored
  if (chain.resampling.kernel == Kernel::bspline3) bytes += bytes_for(pixels, info.bands, Depth::f32);
  // What runs of steps begin with, and the largest picture in between.
  const Size size = layout.result().size;
  const double result = static_cast<double>(size.width) * size.height;
  for (const Station& station : layout.stations)
    if (station.run_start > 0)
      bytes += bytes_for(static_cast<double>(station.size.width) * station.size.height, station.bands, station.depth);
  const OutputShape shape = output_shape(layout, target.finish);
  return bytes + bytes_for(result, layout.result().bands, layout.result().depth) +
         bytes_for(result, shape.bands, shape.depth);
}

void check_by_parts(const Chain& chain, const Layout& layout, const FrameFile& frame, const Target& target,
                    const WriteHow& how) {
  const double megabytes = 1024.0 * 1024.0;
  const auto refuse = [&](const std::string& why, const std::string& remedy) {
    throw call_error(fmt::format("The picture is larger than the {:.0f} MB of memory that a run may take, and {}.",
                                 static_cast<double>(how.memory) / megabytes, why),
                     frame.path.string(),
                     fmt::format("Allow more memory (--max-memory {:.0f}), or {}.",
                                 std::ceil(memory_for(chain, layout, *frame.info, target) / megabytes), remedy));
  };
  if (frame.band > 0) refuse("its bands are frames", "split it into a file for each band");
  if (!open_parts(frame.path, frame.page, limits_for(frame, how.limits)))
    refuse("it cannot be read by parts", "save it as an upright TIFF");
  if (target.format != Format::tiff)
    refuse(fmt::format("{} is not written by parts", name_of(target.format)), "write TIFF (--format tiff)");
  if (target.finish.empty == EmptyAs::mask)
    refuse("a mask beside the result is not written by parts", "tell empty pixels otherwise (--empty alpha)");
  if (chain.resampling.edge != BorderMode::fill && chain.resampling.edge != BorderMode::extend)
    refuse(fmt::format("the edge \"{}\" needs all of it", name_of(chain.resampling.edge)),
           "use the edge \"fill\" or \"extend\"");
  const int end = first_end(layout);
  if (end == layout.last()) return;
  if (!downsample_before(chain, end + 1))
    refuse(fmt::format("step {} needs all of it", end + 1), "make it smaller first (a reduce step)");
  const Station& small = layout.stations[static_cast<std::size_t>(end) + 1];
  const Layout rest = rest_layout(chain, layout, end + 1, small.bands, small.depth);
  const double held = bytes_for(static_cast<double>(small.size.width) * small.size.height, small.bands, small.depth);
  const Station& last = rest.result();
  const double made = bytes_for(static_cast<double>(last.size.width) * last.size.height, last.bands, Depth::f32);
  if (2 * held + 2 * made > static_cast<double>(how.memory))
    refuse(fmt::format("what is left behind step {} is so, too", end + 1), "reduce it further");
  const Station& whole = layout.result();
  if (last.size != whole.size || last.bands != whole.bands || last.depth != whole.depth)
    refuse(fmt::format("a step behind step {} goes by what is empty before it", end + 1), "give that step numbers");
}

WarpReport write_by_parts(const Chain& chain, const Layout& layout, const FrameFile& frame, const WriteHow& how,
                          ResultWriter& writer, const Job& job) {
  const double budget = static_cast<double>(how.memory);
  const KeptBlocksLimit few_kept(std::size_t{32} << 20);
  const FileInfo& info = *frame.info;
  const Station& result = layout.result();
  const int end = first_end(layout);
  const auto parts = open_parts(frame.path, frame.page, limits_for(frame, how.limits));
  if (!parts)
    throw input_error(fmt::format("Page {} cannot be read by parts.", frame.page), frame.path.string(),
                      "Allow more memory (--max-memory), or save it as an upright TIFF.");
  const PartedPicture picture(*parts, info, budget / 2);
  WarpReport report{true, 0, 0};
  if (end < layout.last()) {
    Image small = downsampled(chain, layout, end + 1, picture, budget / 5, job.part(0, 0.9), report);
    const Station& at = layout.stations[static_cast<std::size_t>(end) + 1];
    const RunPictures rest(std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(small))),
                           rest_of(chain, end + 1), rest_layout(chain, layout, end + 1, at.bands, at.depth));
    WarpReport found;
    Image whole = rest.pixels(rest.layout().last(), job.part(0.9, 0.95), &found);
    report = {is_exact_station(layout, layout.last()), report.clamped + found.clamped, found.empty};
    writer.append(std::move(whole), job.part(0.95, 1));
    return report;
  }
  const double row = 2 * bytes_for(result.size.width, result.bands + 1, Depth::f32);
  const int rows = rows_at_once(budget / 5, row, tile_height);
  for (int y = 0; y < result.size.height; y += rows) {
    const int count = std::min(rows, result.size.height - y);
    const Job part =
        job.part(static_cast<double>(y) / result.size.height, static_cast<double>(y + count) / result.size.height);
    WarpReport found{true, 0, 0};
    Image band = picture.warped(plan_for(layout, end), {0, y, result.size.width, count}, chain.resampling,
                                part.part(0, 0.8), found);
    report.exact = report.exact && found.exact;
    report.clamped += found.clamped;
    report.empty += found.empty;
    writer.append(std::move(band), part.part(0.8, 1));
  }
  return report;
}

}  // namespace fexel
