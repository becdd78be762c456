#include "chain/stream.h"

#include <fmt/format.h>

#include "base/error.h"
#include "files/parts.h"
#include "image/memory.h"
#include "resample/reach.h"

namespace fexel {
namespace {

constexpr int tile_width = 1024, tile_height = 64;  // what warp() splits its work by, from the region's corner

double bytes_for(double pixels, int bands, Depth depth) {
  return pixels * bands * static_cast<double>(bytes_of(depth));
}

/// Parts of a picture, and what is made of them within a budget.
class PartedPicture {
 public:
  PartedPicture(const PictureParts& parts, Size size, int bands, Depth depth, double budget)
      : parts_(parts), size_(size), bands_(bands), depth_(depth), budget_(budget) {}

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
      report.exact = found.exact;
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
    put(warped(plan, first, resampling, job.part(0, 0.5), report), first, region, out);
    put(warped(plan, second, resampling, job.part(0.5, 1), report), second, region, out);
    return out;
  }

  int bands() const { return bands_; }
  Depth depth() const { return depth_; }

 private:
  double cost(Region box, const Resampling& resampling) const {
    const double pixels = static_cast<double>(box.width) * box.height;
    const double own = bytes_for(pixels, bands_, depth_);
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
  double budget_;
};

/// Rows at a time: a multiple of both numbers, as many as fit into the bytes, at least one such multiple.
int rows_at_once(double bytes, double row_bytes, int multiple) {
  const double fits = bytes / std::max(1.0, row_bytes * multiple);
  return multiple * static_cast<int>(std::clamp(fits, 1.0, 65536.0 / multiple));
}

const ReduceStep* reduce_before(const Chain& chain, int run_start) {
  return std::get_if<ReduceStep>(&chain.steps[static_cast<std::size_t>(run_start) - 1].kind);
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
Image reduced(const Chain& chain, const Layout& layout, int station, const PartedPicture& picture, double budget,
              const Job& job, WarpReport& report) {
  const Station& from = layout.stations[static_cast<std::size_t>(station) - 1];
  const Station& to = layout.stations[static_cast<std::size_t>(station)];
  const ReduceStep& step = *reduce_before(chain, station);
  Resampling around = chain.resampling;
  if (around.edge == Edge::fill) around.edge = Edge::extend;
  Image out(to.size.width, to.size.height, picture.bands(), picture.depth(), Image::Start::unset);
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
    const Image small = pixels_of(step, band, chain.resampling, {part.stop, {}});
    if (small.has_mask() && !out.has_mask()) out.make_mask(true);
    for (int row = 0; row < std::min(small.height(), to.size.height - first); ++row) {
      for (int b = 0; b < out.bands(); ++b)
        std::copy_n(small.bytes(b, row), out.row_bytes(), out.bytes(b, first + row));
      for (int x = 0; small.has_mask() && x < out.width(); ++x)
        if (!small.valid(x, row)) out.set_valid(x, first + row, false);
    }
  }
  return out;
}

}  // namespace

double memory_for(const Chain& chain, const Layout& layout, const FileInfo& info, const Finish& finish) {
  const double pixels = static_cast<double>(info.width) * info.height;
  double bytes = 1.34 * bytes_for(pixels, info.bands, info.depth);
  if (chain.resampling.kernel == Kernel::bspline3) bytes += bytes_for(pixels, info.bands, Depth::f32);
  // Every page of the result is held until all are written.
  const Size size = layout.result().size;
  const double result = static_cast<double>(size.width) * size.height;
  bytes += bytes_for(result, info.bands, info.depth);
  return bytes + bytes_for(result, info.bands, finish.depth.value_or(info.depth)) * info.frames;
}

void check_by_parts(const Chain& chain, const Layout& layout, const RunItem& item, const RunOptions& options) {
  const double megabytes = 1024.0 * 1024.0;
  const auto refuse = [&](const std::string& why, const std::string& remedy) {
    throw call_error(fmt::format("The picture is larger than the {:.0f} MB of memory that a run may take, and {}.",
                                 static_cast<double>(options.memory) / megabytes, why),
                     item.input.string(), "Allow more memory (--max-memory), or " + remedy + ".");
  };
  if (!open_parts(item.input, 1, options.limits)) refuse("it cannot be read by parts", "save it as an upright TIFF");
  if (item.format != Format::tiff)
    refuse(fmt::format("{} is not written by parts", name_of(item.format)), "write TIFF (--format tiff)");
  if (item.finish.empty == EmptyAs::mask)
    refuse("a mask beside the result is not written by parts", "tell empty pixels otherwise (--empty alpha)");
  if (chain.resampling.edge != Edge::fill && chain.resampling.edge != Edge::extend)
    refuse(fmt::format("the edge \"{}\" needs all of it", name_of(chain.resampling.edge)),
           "use the edge \"fill\" or \"extend\"");
  const int end = first_end(layout);
  if (end == layout.last()) return;
  if (!reduce_before(chain, end + 1))
    refuse(fmt::format("step {} needs all of it", end + 1), "make it smaller first (a reduce step)");
  const Station& small = layout.stations[static_cast<std::size_t>(end) + 1];
  const FileInfo info = read_info(item.input, options.limits);
  const Layout rest = rest_layout(chain, layout, end + 1, info.bands, info.depth);
  const double held = bytes_for(static_cast<double>(small.size.width) * small.size.height, info.bands, info.depth);
  const double made =
      bytes_for(static_cast<double>(rest.result().size.width) * rest.result().size.height, info.bands, Depth::f32);
  if (2 * held + 2 * made > static_cast<double>(options.memory))
    refuse(fmt::format("what is left behind step {} is so, too", end + 1), "reduce it further");
  if (rest.result().size != layout.result().size)
    refuse(fmt::format("a step behind step {} goes by what is empty before it", end + 1), "give that step numbers");
}

RunResult run_by_parts(const Chain& chain, const Layout& layout, const FileInfo& info, const RunItem& item,
                       const RunOptions& options, const std::vector<std::filesystem::path>& sources, const Job& job) {
  check_fill(chain, info.bands);
  const double budget = static_cast<double>(options.memory);
  const KeptBlocksLimit few_kept(std::size_t{32} << 20);
  const Size size = layout.result().size;
  RunResult result{size.width, size.height, true, resamplings(layout, layout.last()), 0, 0};
  const WriteOptions how = write_options(item, options, layout, info.bands, sources);
  const Depth depth = item.finish.depth.value_or(info.depth);
  PictureRows out(item.output, size, info.bands + (how.alpha ? 1 : 0), depth, info.frames, how);
  const int end = first_end(layout);
  const double row = bytes_for(size.width, info.bands, info.depth) + bytes_for(size.width, info.bands + 1, depth);
  const int rows = rows_at_once(budget / 5, row, tile_height);
  std::int64_t empty = 0;
  for (int page = 1; page <= info.frames; ++page) {
    const Job all = job.part((page - 1.0) / info.frames, static_cast<double>(page) / info.frames);
    const auto parts = open_parts(item.input, page, options.limits);
    if (!parts) throw input_error(fmt::format("Page {} cannot be read by parts.", page), item.input.string());
    const PartedPicture picture(*parts, {info.width, info.height}, info.bands, info.depth, budget / 2);
    std::optional<RunPictures> rest;
    WarpReport report{true, 0, 0};
    if (end < layout.last()) {
      Image small = reduced(chain, layout, end + 1, picture, budget / 5, all.part(0, 0.9), report);
      report.empty = 0;
      rest.emplace(std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(small))),
                   rest_of(chain, end + 1), rest_layout(chain, layout, end + 1, info.bands, info.depth));
      WarpReport found;
      Image whole = rest->pixels(rest->layout().last(), all.part(0.9, 0.95), &found);
      result.exact = false;
      report.clamped += found.clamped;
      report.empty = found.empty;
      out.append(finished(std::move(whole), item.finish, report.clamped), all.part(0.95, 1));
    } else {
      for (int y = 0; y < size.height; y += rows) {
        const int count = std::min(rows, size.height - y);
        const Job part = all.part(static_cast<double>(y) / size.height, static_cast<double>(y + count) / size.height);
        Image band = picture.warped(plan_for(layout, end), {0, y, size.width, count}, chain.resampling,
                                    part.part(0, 0.8), report);
        result.exact = result.exact && report.exact;
        out.append(finished(std::move(band), item.finish, report.clamped), part.part(0.8, 1));
      }
    }
    out.end_page();
    result.clamped += report.clamped;
    empty += report.empty;
  }
  out.commit();
  result.empty_share = static_cast<double>(empty) / (static_cast<double>(size.width) * size.height * info.frames);
  return result;
}

}  // namespace fexel
