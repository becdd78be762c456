#include "run/write_frames.h"

#include <fmt/format.h>

#include "base/error.h"
#include "files/ome.h"
#include "run/align_search.h"
#include "run/axes.h"
#include "run/by_parts.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

SourceShape shape_of(const FrameFile& frame, std::size_t index = 0) {
  const FileInfo& info = *frame.info;
  return {{info.width, info.height}, frame.band > 0 ? 1 : info.bands, info.depth, info.pixel_size, {},
          static_cast<int>(index)};
}

bool aligns(const Chain& chain) {
  return align_step_of(chain).has_value();
}

const FoundFrame* found_of(const Chain& chain, std::size_t frame) {
  const auto at = align_step_of(chain);
  if (!at) return nullptr;
  const auto& frames = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(*at)].kind).frames;
  return frame < frames.size() ? &frames[frame] : nullptr;
}

/// Raises why a frame does not go with the first one, in a result whose pages are alike.
void check_alike(const FrameFile& frame, const FrameFile& first) {
  const SourceShape own = shape_of(frame), others = shape_of(first);
  if (own.bands != others.bands || own.depth != others.depth)
    throw input_error(fmt::format("It has {} band{} of {}, and the first frame {} of {}.", own.bands,
                                  own.bands == 1 ? "" : "s", name_of(own.depth), others.bands, name_of(others.depth)),
                      frame.path.string(), "Leave the frame out, or convert it.");
}

std::string said_of(const FrameFile& frame) {
  return frame.info && frame.info->frames > 1 ? fmt::format("{}, page {}", frame.path.string(), frame.page)
                                              : frame.path.string();
}

FrameOutcome outcome_of(const Chain& chain, const FrameFile& file, const WritePlan::Page& page) {
  FrameOutcome out{file.path, file.page, file.band, {}, MatchStatus::ok, {}};
  if (const FoundFrame* found = found_of(chain, page.frame)) {
    out.status = found->status;
    out.reason = found->reason;
  }
  if (page.failure) {
    out.status = MatchStatus::failed;
    out.reason = page.failure->message();
    out.empty_page = true;
    return out;
  }
  const Map& map = page.layout.result().from_source;
  if (map.planar()) out.matrix = map.matrix() / map.matrix()(2, 2);
  return out;
}

/// The pictures that frames are read from, the last one kept for those whose bands are frames.
class FrameSource {
 public:
  FrameSource(const WriteHow& how, const std::vector<WatchedFile>& files) : how_(how), files_(files) {}
  std::shared_ptr<const Pyramid> read(const FrameFile& frame, const Job& job) {
    auto out = pixels_of(frame, job);
    partly_there_ += out->base().partly_there();
    return out;
  }
  /// How many pixels an alpha said to be there in part, in all that was read.
  std::int64_t partly_there() const { return partly_there_; }

 private:
  std::shared_ptr<const Pyramid> pixels_of(const FrameFile& frame, const Job& job) {
    if (how_.at_hand && frame.band == 0)
      for (const WatchedFile& file : files_)
        if (file.path() == frame.path && file.identity() == how_.at_hand->identity) return how_.at_hand->pixels;
    Image image = frame.band > 0 ? band_of(frame, job) : read_frame(frame, how_.limits, job);
    return std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(image)));
  }
  Image band_of(const FrameFile& frame, const Job& job) {
    if (path_ != frame.path) {
      FrameFile all = frame;
      all.band = 0;
      whole_ = read_frame(all, how_.limits, job);
      path_ = frame.path;
    }
    return chosen_bands(whole_, {frame.band - 1});
  }
  const WriteHow& how_;
  const std::vector<WatchedFile>& files_;
  fs::path path_;
  Image whole_;
  std::int64_t partly_there_ = 0;
};

/// A frame that is one band of a page with all of them.
void put_band(const Image& band, int index, int count, Image& planes) {
  if (planes.bands() == 0) {
    planes = Image(band.width(), band.height(), count, band.depth());
    planes.make_mask(true);
    planes.set_largest(band.stated_largest());
  }
  planes.set_largest(static_cast<int>(std::max(planes.largest(), band.largest())));
  for (int y = 0; y < band.height(); ++y) std::copy_n(band.bytes(0, y), band.row_bytes(), planes.bytes(index, y));
  if (!band.has_mask()) return;
  for (int y = 0; y < band.height(); ++y)
    for (int x = 0; x < band.width(); ++x)
      if (!band.valid(x, y)) planes.set_valid(x, y, false);
}

/// One page, evaluated whole.
Image made_of(const Chain& chain, const FrameFile& frame, const WritePlan::Page& page, FrameSource& source,
              const Job& job, WarpReport& report) {
  const auto pixels = source.read(frame, job.part(0, 0.4));
  const Image& base = pixels->base();
  const SourceShape shape = shape_of(frame);
  if (base.width() != shape.size.width || base.height() != shape.size.height || base.bands() != shape.bands ||
      base.depth() != shape.depth)
    throw input_error("The file was changed while it was read; nothing was made of it.", frame.path.string(),
                      "Run it again when nothing else writes to it.");
  return evaluate(chain, page.layout, *pixels, job.part(0.4, 1), &report);
}

/// What is kept of a run, but for the files that it wrote.
Record record_of(const Chain& chain, const std::vector<FrameFile>& frames, const Target& target, const WriteHow& how,
                 const WritePlan& plan, const std::vector<WatchedFile>& sources, const RunResult& result,
                 const Job& job) {
  const fs::path folder = fs::absolute(target.path).parent_path().lexically_normal();
  const auto relative = [&](const fs::path& file) {
    return fs::absolute(file).lexically_normal().lexically_relative(folder).string();
  };
  Record record{FEXEL_VERSION,
                {},
                {},
                target.path.filename().string(),
                target.format,
                target.finish,
                target.compress,
                plan.one_page_of_bands,
                how.leave_out_unmatched,
                how.keep_going,
                how.limits.alpha_band || (!frames.empty() && frames.front().alpha_band),
                target.first_number,
                result,
                for_record(chain)};
  const std::vector<bool> skipped = left_out(chain, frames);
  for (const WatchedFile& file : sources) {
    SourceReference named{target.record.empty() ? std::string() : relative(file.path()),
                          target.record.empty() ? std::string() : file.checked_checksum({job.stop, {}})};
    file.check();
    for (std::size_t i = 0; i < frames.size(); ++i)
      if (skipped[i] && frames[i].path == file.path()) named.skip.push_back(frames[i].page);
    record.sources.push_back(std::move(named));
  }
  return record;
}

}  // namespace

std::vector<WatchedFile> watched(const std::vector<FrameFile>& frames) {
  std::vector<WatchedFile> files;
  for (const FrameFile& frame : frames)
    if (files.empty() || files.back().path() != frame.path)
      if (identity_of(frame.path)) files.emplace_back(frame.path);
  return files;
}

WritePlan plan_frames(const Chain& chain, const std::vector<FrameFile>& frames, const Target& target,
                      const WriteHow& how) {
  WritePlan plan;
  const std::vector<bool> skipped = left_out(chain, frames);
  const bool alike = aligns(chain), numbered = is_numbered(target.path);
  plan.one_page_of_bands = !frames.empty() && frames.front().band > 0;
  const FrameFile* first = nullptr;
  for (const FrameFile& frame : frames)
    if (frame.info && !first) first = &frame;
  std::size_t kept = 0;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    if (skipped[i]) continue;
    const FoundFrame* found = found_of(chain, i);
    if (how.leave_out_unmatched && found && found->status == MatchStatus::failed) continue;
    ++kept;
    WritePlan::Page page{i, {}, {}};
    try {
      if (!frames[i].info) throw input_error(frames[i].trouble, said_of(frames[i]), "Leave the frame out.");
      if (alike) check_alike(frames[i], *first);
      page.layout = lay_out(chain, shape_of(frames[i], i));
      page.layout.require_sound();
      check_fill(chain, shape_of(frames[i]).bands);
      check_output(page.layout, target.finish, target.format, 1);
      page.by_parts = memory_for(chain, page.layout, *frames[i].info, target) > static_cast<double>(how.memory);
      if (page.by_parts) check_by_parts(chain, page.layout, frames[i], target, how);
    } catch (const Error& error) {
      // What no frame can be made of is a wrong call; one of several is that frame's trouble.
      if (!how.keep_going && error.kind() == Error::Kind::call) throw;
      page.failure = error.where().empty() || error.where().starts_with('/') ? error.at(said_of(frames[i])) : error;
    }
    plan.pages.push_back(std::move(page));
  }
  if (kept == 0) throw call_error("Every frame is left out.", {}, "Tick the frames that are to be written.");
  const auto sound = std::ranges::find_if(plan.pages, [](const auto& page) { return !page.failure; });
  if (sound == plan.pages.end()) throw *plan.pages.front().failure;
  if (plan.one_page_of_bands) {
    OutputShape shape = output_shape(sound->layout, target.finish);
    shape.bands += static_cast<int>(plan.pages.size()) - 1;
    plan.shapes = {shape};
  } else {
    for (const auto& page : plan.pages)
      plan.shapes.push_back(output_shape(page.failure ? sound->layout : page.layout, target.finish));
  }
  if (plan.shapes.size() > 1 && !numbered && target.format != Format::tiff)
    throw call_error(fmt::format("{} cannot hold {} pages.", name_of(target.format), plan.shapes.size()),
                     target.path.string(),
                     "Use TIFF, or a name with {index} for a file each, such as frame-{index}.png.");
  check_target_files(target, static_cast<int>(plan.shapes.size()));
  return plan;
}

RunResult write_frames(const Chain& chain, const std::vector<FrameFile>& frames, const Target& target,
                       const WriteHow& how, const Job& job) {
  const std::vector<WatchedFile> sources = how.sources.empty() ? watched(frames) : how.sources;
  for (const WatchedFile& file : sources) file.check();
  WritePlan plan = plan_frames(chain, frames, target, how);
  const auto sound = std::ranges::find_if(plan.pages, [](const auto& page) { return !page.failure; });
  const Layout& layout = sound->layout;
  RunResult result{
      layout.result().size.width, layout.result().size.height, true, resamplings(layout, layout.last()), 0, 0};
  const FrameFile& first = frames[sound->frame];
  Target goes = target;
  std::vector<std::string> names;
  for (const auto& page : plan.pages)
    if (!frames[page.frame].name.empty()) names.push_back(frames[page.frame].name);
  // Of a file for each frame no description of the whole would be true.
  const bool together = !is_numbered(target.path) && plan.shapes.front().bands == 1;
  if (names.size() == plan.pages.size() && together)
    goes.description =
        ome_description(names, plan.shapes.front().size, plan.shapes.front().depth, layout.result().pixel);
  if (goes.description.empty() && together && plan.pages.size() > 1) {
    std::vector<const FrameFile*> pages;
    for (const auto& page : plan.pages) pages.push_back(&frames[page.frame]);
    goes.description =
        description_of(pages, plan.shapes.front().size, plan.shapes.front().depth, layout.result().pixel);
  }
  const Attached attached = carried_on(first.path, plan.shapes.front(), target.finish);
  result.notes = not_held(target.format, plan.shapes.front(), attached);
  result.dropped = dropped_by(target.format, attached);
  if (!result.dropped.empty() && target.format != Format::pnm && target.format != Format::pfm)
    result.notes.push_back(
        fmt::format("Of what the source says this does not go on: {}.", fmt::join(result.dropped, ", ")));
  if (first.info) result.notes.insert(result.notes.end(), first.info->readings.begin(), first.info->readings.end());
  ResultWriter writer(goes, plan.shapes, attached);
  FrameSource source(how, sources);
  const auto count = static_cast<double>(plan.pages.size());
  Image planes;  // of frames that are bands
  for (std::size_t i = 0; i < plan.pages.size(); ++i) {
    WritePlan::Page& page = plan.pages[i];
    const FrameFile& frame = frames[page.frame];
    const Job part = job.part(0.95 * static_cast<double>(i) / count, 0.95 * static_cast<double>(i + 1) / count);
    part.check();
    WarpReport report;
    const Size size = page.failure ? layout.result().size : page.layout.result().size;
    const double pixels = static_cast<double>(size.width) * size.height;
    // What goes wrong in reading and making is the frame's trouble; in writing it is the end.
    std::optional<Image> made;
    if (!page.failure && !page.by_parts) {
      try {
        made = made_of(chain, frame, page, source, part.part(0, 0.8), report);
      } catch (const Error& error) {
        if (error.kind() != Error::Kind::input || !how.keep_going) throw;
        page.failure = error;
      }
    }
    if (made && plan.one_page_of_bands)
      put_band(*made, static_cast<int>(i), static_cast<int>(plan.pages.size()), planes);
    else if (made)
      writer.append(std::move(*made), part.part(0.8, 1));
    else if (page.by_parts && !page.failure)
      report = write_by_parts(chain, page.layout, frame, how, writer, part);
    FrameOutcome outcome = outcome_of(chain, frame, page);
    if (page.failure) {
      report = {true, 0, static_cast<std::int64_t>(pixels)};
      if (!plan.one_page_of_bands) writer.append_nothing({part.stop, {}});
      outcome.written = !is_numbered(target.path);
    }
    if (!plan.one_page_of_bands) writer.end_page();
    result.exact = result.exact && report.exact;
    result.clamped += report.clamped;
    result.empty_share += static_cast<double>(report.empty) / pixels / count;
    result.frames.push_back(std::move(outcome));
  }
  if (std::ranges::all_of(plan.pages, [](const auto& page) { return page.failure.has_value(); }))
    throw *plan.pages.front().failure;
  if (plan.one_page_of_bands) {
    writer.append(std::move(planes), {job.stop, {}});
    writer.end_page();
  }
  result.clamped += writer.clamped();
  result.empty_share = std::min(result.empty_share, 1.0);
  const bool unseen = std::ranges::any_of(
      plan.pages, [&](const auto& page) { return page.by_parts && !page.failure && frames[page.frame].info->alpha; });
  if (unseen)
    result.notes.emplace_back(
        "Pixels of the source that are partly transparent, if any, count as whole from half on, and as empty below; to "
        "keep alpha, read it as a band (--alpha band).");
  if (source.partly_there() > 0)
    result.notes.push_back(
        fmt::format("{} pixels of the source are partly transparent. Those of at least half are taken as whole, the "
                    "others as empty; to keep alpha, read it as a band (--alpha band).",
                    source.partly_there()));

  const Job ending = job.part(0.95, 1);
  Record record = record_of(chain, frames, target, how, plan, sources, result, ending);
  const auto written = writer.commit(
      [&](const std::vector<WrittenFile>& files) {
        for (const WrittenFile& file : files)
          record.results.push_back({{file.path.filename().string(), file.sha256}, file.mask});
        return write_record(record);
      },
      ending);
  for (const WrittenFile& file : written) result.written.push_back(file.path);
  return result;
}

}  // namespace fexel
