#include "chain/align_run.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <chrono>
#include <mutex>

#include "chain/evaluate.h"
#include "chain/masks.h"
#include "chain/sequence_writer.h"
#include "files/ome.h"
#include "filter/filter.h"
#include "resample/warp.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// The last picture that was read whole, for those whose bands are read one by one.
class BandReader {
 public:
  Image read(const FrameFile& frame, const Limits& limits, const Job& job) {
    if (frame.band == 0) return read_frame(frame, limits, job);
    std::shared_ptr<const Image> whole;
    {
      const std::scoped_lock lock(mutex_);
      if (path_ != frame.path || !whole_) {
        whole_ = std::make_shared<const Image>(read_picture(frame.path, frame.page, limits, {job.stop, {}}));
        path_ = frame.path;
      }
      whole = whole_;
    }
    return chosen_bands(*whole, {frame.band - 1});
  }

 private:
  std::mutex mutex_;
  fs::path path_;
  std::shared_ptr<const Image> whole_;
};

/// 1 inside a region of the reference, 0 elsewhere.
Image region_to_use(Region r, Size size, const std::string& where) {
  const int right = std::min(size.width, r.x + r.width), bottom = std::min(size.height, r.y + r.height);
  const int left = std::max(0, r.x), top = std::max(0, r.y);
  if (left >= right || top >= bottom)
    throw call_error("The region lies outside the reference.", where,
                     fmt::format("Give x, y, width and height within {} x {}.", size.width, size.height));
  Image use(size.width, size.height, 1, Depth::u8);
  for (int y = top; y < bottom; ++y) std::fill_n(use.row<std::uint8_t>(0, y) + left, right - left, std::uint8_t{1});
  return use;
}

/// Where pixels of the reference count; nothing where all do.
std::optional<Image> pixels_to_use(const AlignRunOptions& options, Size size) {
  std::optional<Image> region;
  if (options.region) region = region_to_use(*options.region, size, "--region");
  if (options.mask.empty()) return region;
  Image use = read_picture(options.mask, 1, options.limits);
  if (use.width() != size.width || use.height() != size.height)
    throw call_error(fmt::format("The mask is {} x {} px and the reference {} x {}.", use.width(), use.height(),
                                 size.width, size.height),
                     options.mask.string(), "Give a mask of the reference's size.");
  if (!region) return use;
  if (!use.has_mask()) use.make_mask(true);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (region->row<std::uint8_t>(0, y)[x] == 0) use.set_valid(x, y, false);
  return use;
}

const FileInfo& info_of_first(const std::vector<FrameFile>& frames) {
  for (const FrameFile& frame : frames)
    if (frame.info) return *frame.info;
  throw input_error(frames.front().trouble, frames.front().path.string());
}

/// How one stack is written: where its frames lie, and what they have in common.
struct StackPlan {
  std::vector<FrameFile> frames;
  fs::path out;
  FileInfo shape;
};

/// Whether the frames are the bands of one page.
bool one_page(const StackPlan& stack) {
  return stack.frames.front().band > 0;
}

/// The frame as the reference lies, or nothing in it.
Image laid_out(const FrameFile& frame, const Match& match, const StackPlan& stack, const CropRectangle& area,
               const AlignRunOptions& options, BandReader& reader, const Job& job) {
  const int bands = frame.band > 0 ? 1 : stack.shape.bands;
  Image nothing(area.width, area.height, bands, stack.shape.depth);
  nothing.make_mask(false);
  if (!frame.info || frame.info->depth != stack.shape.depth || frame.info->bands != stack.shape.bands) return nothing;
  Image source;
  try {
    source = reader.read(frame, options.limits, job);
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    return nothing;
  }
  WarpPlan plan;
  const Size own{source.width(), source.height()};
  plan.pull = match.matrix.inverse() * translation(area.x, area.y);
  plan.result = {area.width, area.height};
  Clip inside;
  inside.keep_inside(own);
  plan.clip = inside.through(Map(Matrix3(translation(-area.x, -area.y) * match.matrix)));
  const Pyramid pyramid(std::make_shared<const Image>(std::move(source)));
  return warp(pyramid, plan, {0, 0, area.width, area.height}, options.resampling, Quality::final, {job.stop, {}});
}

/// Returns the files that were written.
std::vector<fs::path> write_stack(const StackPlan& stack, const Alignment& alignment, const CropRectangle& area,
                                  const AlignRunOptions& options, const std::vector<fs::path>& sources,
                                  const Job& job) {
  const bool as_bands = one_page(stack);
  WriteOptions how;
  how.replace = options.replace;
  how.sources = sources;
  how.compress = options.compress;
  how.pixel_size = stack.shape.pixel_size;
  how.attached = carried_on(stack.frames.front().path, stack.shape.bands, {});
  const auto count = static_cast<int>(stack.frames.size());
  std::vector<std::string> names;
  for (const FrameFile& frame : stack.frames)
    if (!frame.name.empty()) names.push_back(frame.name);
  if (names.size() == stack.frames.size())
    how.description = ome_description(names, {area.width, area.height}, stack.shape.depth, how.pixel_size);
  SequenceWriter pages(stack.out, {{area.width, area.height}, as_bands ? count : stack.shape.bands, stack.shape.depth},
                       as_bands ? 1 : count, how);
  BandReader reader;
  Image planes;
  if (as_bands) planes = Image(area.width, area.height, count, stack.shape.depth);
  for (int i = 0; i < count; ++i) {
    const auto k = static_cast<std::size_t>(i);
    job.check();
    const Image frame = laid_out(stack.frames[k], alignment.frames[k], stack, area, options, reader, job);
    if (as_bands) {
      for (int y = 0; y < area.height; ++y) std::copy_n(frame.bytes(0, y), frame.row_bytes(), planes.bytes(i, y));
    } else {
      pages.append(frame, {job.stop, {}});
    }
    if (job.progress) job.progress(static_cast<double>(i + 1) / count);
  }
  if (as_bands) pages.append(planes, {job.stop, {}});
  pages.commit();
  return pages.names();
}

/// A source frame as it is at the station that a step gets; what the chain's masks leave out of it is empty. `frame`
/// counts from 0; without it no mask counts.
Image at_step(const Chain& chain, int index, Image source, std::optional<int> frame, const Job& job) {
  const Size size{source.width(), source.height()};
  const auto used = frame ? used_pixels(chain.masks, *frame, size) : std::nullopt;
  if (index == 0 && !used) return source;
  Chain before = chain;
  before.steps.resize(static_cast<std::size_t>(index));
  const Layout layout = lay_out(before, {size, source.bands(), source.depth(), {}});
  layout.require_sound();
  Image out = index == 0 ? std::move(source)
                         : evaluate(before, layout, Pyramid(std::make_shared<const Image>(std::move(source))),
                                    {job.stop, {}}, nullptr);
  if (used) leave_unused_out(out, layout, index, *used, {job.stop, {}});
  return out;
}

/// A frame's place in its sequence.
int place_of(const FrameReader& frames, int index) {
  return frames.places.empty() ? index : frames.places[static_cast<std::size_t>(index)];
}

}  // namespace

std::optional<int> align_step_of(const Chain& chain) {
  for (std::size_t i = 0; i < chain.steps.size(); ++i)
    if (chain.steps[i].on && std::holds_alternative<AlignStep>(chain.steps[i].kind)) return static_cast<int>(i);
  return std::nullopt;
}

Chain for_frame(Chain chain, int index) {
  for (Step& step : chain.steps)
    if (auto* align = std::get_if<AlignStep>(&step.kind)) align->shown = index;
  return chain;
}

Chain for_frames(Chain chain, int first, int count) {
  for (Step& step : chain.steps)
    if (auto* align = std::get_if<AlignStep>(&step.kind); align && !align->frames.empty()) {
      const auto all = static_cast<int>(align->frames.size());
      first = std::clamp(first, 0, all - 1);
      align->frames = {align->frames.begin() + first, align->frames.begin() + std::min(first + count, all)};
      align->shown = 0;
    }
  return chain;
}

Trial tried(const Chain& chain, int index, Image source, int rounds, const Job& job) {
  const AlignStep& step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const Image frame = at_step(chain, index, std::move(source), step.shown, job);
  AlignOptions options;
  options.match.model = step.model;
  options.band = step.band;
  options.likeness = step.alike;
  Image use;
  if (step.region) {
    use = region_to_use(*step.region, {frame.width(), frame.height()}, "/region");
    options.use = &use;
  }
  return try_known_motions(frame, options, rounds, trial_reach, 1, job);
}

ResidualField still_moving(const Chain& chain, int index, Image reference, int reference_frame, Image shown,
                           int shown_frame, const Job& job) {
  constexpr int window = 64;
  const AlignStep& step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const Image still = at_step(for_frame(chain, reference_frame), index + 1, std::move(reference), reference_frame, job);
  const Image moved = at_step(for_frame(chain, shown_frame), index + 1, std::move(shown), shown_frame, job);
  return residual_field(still, moved, step.band, step.alike, window, job);
}

AlignStep searched(const Chain& chain, int index, const FrameReader& frames, const Job& job,
                   const std::function<void(int, const FoundFrame&)>& told) {
  AlignStep step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const auto at_station = [&](Image source, std::optional<int> frame) {
    return at_step(chain, index, std::move(source), frame, job);
  };
  AlignOptions options;
  options.match.model = step.model;
  const AgainstWhat against = against_of(step.against);
  options.against = against.kind;
  options.number = against.number;
  options.band = step.band;
  options.likeness = step.alike;
  options.memory = memory_to_use() / 4;
  const auto as_found = [](const Match& m) {
    return FoundFrame{m.matrix, m.score, m.uncertainty_px, m.status, m.reason};
  };
  // A frame that a person has put somewhere is searched from there.
  for (int i = 0; i < frames.count; ++i) {
    const auto place = static_cast<std::size_t>(place_of(frames, i));
    if (place < step.frames.size() && step.frames[place].by_hand) options.starts[i] = step.frames[place].matrix;
  }
  if (told) options.found = [&](int i, const Match& match) { told(i, as_found(match)); };
  Image picture, use;
  Size size;
  if (against.kind == Against::picture) {
    picture = at_station(read_picture(against.path, 1, {}, {job.stop, {}}), std::nullopt);
    options.picture = &picture;
    size = {picture.width(), picture.height()};
  }
  if (step.region) {
    if (!options.picture) {
      const Image first =
          at_station(frames.read(against.kind == Against::frame ? std::min(against.number, frames.count) - 1 : 0, job),
                     std::nullopt);
      size = {first.width(), first.height()};
    }
    use = region_to_use(*step.region, size, "/region");
    options.use = &use;
  }
  const FrameReader stations{
      frames.count, [&](int i, const Job& quiet) { return at_station(frames.read(i, quiet), place_of(frames, i)); }};
  const Alignment found = align_frames(stations, options, job);
  step.width = found.size.width;
  step.height = found.size.height;
  step.frames.clear();
  for (const Match& match : found.frames) step.frames.push_back(as_found(match));
  return step;
}

std::vector<AlignStep> ways_of(const AlignStep& step) {
  AlignStep bare = step;
  bare.frames.clear();
  std::vector<AlignStep> ways{bare};
  const auto add = [&](const auto& change) {
    AlignStep way = bare;
    change(way);
    if (std::ranges::find(ways, way) == ways.end()) ways.push_back(way);
  };
  for (const char* against : {"first", "neighbour", "average", "network"})
    add([&](AlignStep& way) { way.against = against; });
  for (const Model model : {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective})
    add([&](AlignStep& way) { way.model = model; });
  return ways;
}

std::vector<Way> ways_compared(const Chain& chain, int index, const std::vector<AlignStep>& ways,
                               const FrameReader& frames, const Job& job) {
  constexpr int looked_at = 6;
  std::vector<Way> out;
  for (std::size_t k = 0; k < ways.size(); ++k) {
    const auto share = [&](double part) { return (static_cast<double>(k) + part) / static_cast<double>(ways.size()); };
    Way way;
    way.step = ways[k];
    Chain now = chain;
    StepKind& kind = now.steps[static_cast<std::size_t>(index)].kind;
    kind = way.step;
    try {
      const auto begin = std::chrono::steady_clock::now();
      way.step = searched(now, index, frames, job.part(share(0), share(0.7)));
      way.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
      kind = way.step;
      std::vector<int> matched;
      for (int i = 0; i < static_cast<int>(way.step.frames.size()); ++i) {
        const FoundFrame& frame = way.step.frames[static_cast<std::size_t>(i)];
        if (frame.status == MatchStatus::failed) continue;
        matched.push_back(i);
        way.score += frame.score;
        way.uncertainty_px = std::max(way.uncertainty_px, frame.uncertainty_px);
      }
      way.matched = static_cast<int>(matched.size());
      way.score /= std::max(1, way.matched);
      std::vector<double> lengths;
      const auto count = std::min<std::size_t>(looked_at, matched.size());
      for (std::size_t n = 1; n < count; ++n) {
        const int frame = matched[n * (matched.size() - 1) / (count - 1)];
        const ResidualField field = still_moving(now, index, frames.read(matched[0], job), matched[0],
                                                 frames.read(frame, job), frame, {job.stop, {}});
        for (const ResidualShift& shift : field.shifts)
          if (shift.sound) lengths.push_back(std::hypot(shift.moved.x, shift.moved.y));
        if (job.progress)
          job.progress(
              share(0.7 + 0.3 * static_cast<double>(n) / static_cast<double>(std::max<std::size_t>(count, 1))));
      }
      if (!lengths.empty()) {
        const auto middle = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
        std::ranges::nth_element(lengths, middle);
        way.still_px = *middle;
      }
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      way.trouble = error.message();
    }
    out.push_back(std::move(way));
  }
  return out;
}

Chain carried_to(Chain chain, const std::vector<FrameFile>& frames, std::vector<FrameFile>& others) {
  if (others.size() != frames.size())
    throw call_error(fmt::format("It has {} frames, and {} are open.", others.size(), frames.size()),
                     others.empty() ? std::string() : others.front().path.string(),
                     "Choose a stack with as many frames.");
  const std::vector<bool> out_of_it = left_out(chain, frames);
  chain.sources.clear();
  std::vector<FrameFile> kept;
  for (std::size_t i = 0; i < others.size(); ++i)
    if (!out_of_it[i]) kept.push_back(others[i]);
  others = std::move(kept);
  for (Step& step : chain.steps)
    if (auto* align = std::get_if<AlignStep>(&step.kind); align && align->frames.size() == out_of_it.size()) {
      std::vector<FoundFrame> found;
      for (std::size_t i = 0; i < out_of_it.size(); ++i)
        if (!out_of_it[i]) found.push_back(align->frames[i]);
      align->frames = std::move(found);
    }
  return chain;
}

bool AlignRunResult::all_matched() const {
  return std::ranges::none_of(alignment.frames, [](const Match& m) { return m.status == MatchStatus::failed; });
}

CropRectangle common_area(const Alignment& alignment, const std::vector<Size>& sizes) {
  Clip shared;
  shared.keep_inside(alignment.size);
  for (std::size_t i = 0; i < alignment.frames.size(); ++i) {
    if (alignment.frames[i].status == MatchStatus::failed) continue;
    Clip own;
    own.keep_inside(sizes[i]);
    shared.keep(own.through(Map(alignment.frames[i].matrix)));
  }
  const auto found = largest_valid(shared, alignment.size);
  if (!found)
    throw input_error("The frames have no area in common.", {}, "Leave out the frames that lie farthest away.");
  return *found;
}

AlignRunResult align_files(const std::vector<fs::path>& inputs, const AlignRunOptions& options, const Job& job) {
  const auto begin = std::chrono::steady_clock::now();
  AlignRunResult result;
  result.files = list_frames(inputs, options.bands, options.limits);
  std::vector<StackPlan> stacks{{result.files, options.out, info_of_first(result.files)}};
  for (const fs::path& carried : options.carry) {
    StackPlan stack{list_frames({carried}, result.files.front().band > 0, options.limits), {}, {}};
    stack.shape = info_of_first(stack.frames);
    if (stack.frames.size() != result.files.size())
      throw call_error(fmt::format("It has {} frames, and {} were aligned.", stack.frames.size(), result.files.size()),
                       carried.string(), "Carry stacks with as many frames.");
    const fs::path name = carried.filename().empty() ? carried.parent_path() : carried;
    // Numbered files, where the others are.
    const bool numbered = options.out.filename().string().find(frame_number) != std::string::npos;
    stack.out = options.out.parent_path() /
                (name.stem().string() + "-aligned" +
                 (numbered ? "-" + std::string(frame_number) + options.out.extension().string() : ".tif"));
    stacks.push_back(std::move(stack));
  }
  std::vector<fs::path> sources;
  for (const StackPlan& stack : stacks)
    for (const FrameFile& frame : stack.frames)
      if (sources.empty() || sources.back() != frame.path) sources.push_back(frame.path);
  for (const fs::path& also : {options.picture, options.mask})
    if (!also.empty()) sources.push_back(also);
  for (std::size_t i = 0; i < stacks.size(); ++i) {
    WriteOptions checks;
    checks.replace = options.replace;
    checks.sources = sources;
    check_sequence(stacks[i].out, one_page(stacks[i]) ? 1 : static_cast<int>(stacks[i].frames.size()), checks);
    for (std::size_t k = 0; k < i; ++k)
      if (fs::absolute(stacks[i].out).lexically_normal() == fs::absolute(stacks[k].out).lexically_normal())
        throw call_error("Two results would be written to this file.", stacks[i].out.string(),
                         "Give --out another name or folder.");
  }

  AlignOptions align = options.align;
  Image picture;
  if (align.against == Against::picture) {
    picture = read_picture(options.picture, 1, options.limits, {job.stop, {}});
    align.picture = &picture;
  }
  const auto reference = static_cast<std::size_t>(
      align.against == Against::frame ? std::clamp(align.number - 1, 0, static_cast<int>(result.files.size()) - 1) : 0);
  const FileInfo& shape = result.files[reference].info ? *result.files[reference].info : stacks.front().shape;
  const Size size = align.picture ? Size{picture.width(), picture.height()} : Size{shape.width, shape.height};
  const auto use = pixels_to_use(options, size);
  if (use) align.use = &*use;
  BandReader reader;
  Chain masked;
  masked.masks = options.masks;
  const FrameReader frames{static_cast<int>(result.files.size()), [&](int i, const Job& quiet) {
                             Image frame =
                                 reader.read(result.files[static_cast<std::size_t>(i)], options.limits, quiet);
                             return at_step(masked, 0, std::move(frame), i, quiet);
                           }};
  result.alignment = align_frames(frames, align, job.part(0, 0.6));
  std::vector<Size> sizes;
  for (std::size_t i = 0; i < result.files.size(); ++i) {
    const auto& info = result.files[i].info;
    sizes.push_back(info ? Size{info->width, info->height} : Size{1, 1});
    Match& match = result.alignment.frames[i];
    if (info && (info->depth != stacks.front().shape.depth || info->bands != stacks.front().shape.bands)) {
      match.status = MatchStatus::failed;
      match.matrix = Matrix3::Identity();
      match.reason =
          fmt::format("It has {} band{} of {}, and the first frame {} of {}.", info->bands, info->bands == 1 ? "" : "s",
                      name_of(info->depth), stacks.front().shape.bands, name_of(stacks.front().shape.depth));
    }
  }
  result.common = common_area(result.alignment, sizes);
  const CropRectangle area =
      options.trim ? result.common : CropRectangle{0, 0, result.alignment.size.width, result.alignment.size.height};
  for (std::size_t i = 0; i < stacks.size(); ++i) {
    const double part = 0.4 / static_cast<double>(stacks.size());
    for (const fs::path& name :
         write_stack(stacks[i], result.alignment, area, options, sources,
                     job.part(0.6 + part * static_cast<double>(i), 0.6 + part * static_cast<double>(i + 1))))
      result.written.push_back(name);
  }
  result.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  return result;
}

Trial tried(const AlignRunOptions& options, const AlignRunResult& result, int rounds, const Job& job) {
  const int at = std::max(0, result.alignment.reference);
  Chain masked;
  masked.masks = options.masks;
  BandReader reader;
  const Image frame = at_step(
      masked, 0, reader.read(result.files[static_cast<std::size_t>(at)], options.limits, {job.stop, {}}), at, job);
  const Size size{frame.width(), frame.height()};
  AlignOptions align = options.align;
  // A region or mask of a picture of another size says nothing of this frame.
  std::optional<Image> use;
  if (size == result.alignment.size) use = pixels_to_use(options, size);
  if (use) align.use = &*use;
  return try_known_motions(frame, align, rounds, trial_reach, 1, job);
}

RunResult write_sequence(const Chain& chain, const std::vector<FrameFile>& frames, const fs::path& out,
                         const WriteOptions& options, const Job& job) {
  const FileInfo& first = info_of_first(frames);
  const auto shape = [](const FileInfo& info) {
    return SourceShape{{info.width, info.height}, info.bands, info.depth, info.pixel_size};
  };
  const Layout plan = lay_out(for_frame(chain, 0), shape(first));
  plan.require_sound();
  const Station& made = plan.result();
  RunResult result{made.size.width, made.size.height, true, resamplings(plan, plan.last()), 0, 0};
  WriteOptions how = options;
  how.pixel_size = made.pixel;
  how.attached = carried_on(frames.front().path, first.bands, {});
  const auto count = static_cast<int>(frames.size());
  const std::vector<bool> out_of_it = left_out(chain, frames);
  const auto kept = static_cast<int>(std::ranges::count(out_of_it, false));
  if (kept == 0) throw call_error("Every frame is left out.", {}, "Tick the frames that are to be written.");
  check_sequence(out, kept, how);
  SequenceWriter pages(out, {made.size, made.bands, made.depth}, kept, how);
  for (int i = 0; i < count; ++i) {
    job.check();
    if (out_of_it[static_cast<std::size_t>(i)]) continue;
    const FrameFile& frame = frames[static_cast<std::size_t>(i)];
    Image page;
    WarpReport report;
    try {
      Image source = read_frame(frame, {}, job);
      const Chain now = for_frame(chain, i);
      const Layout layout = lay_out(now, shape(*frame.info));
      layout.require_sound();
      page = evaluate(now, layout, Pyramid(std::make_shared<const Image>(std::move(source))), {job.stop, {}}, &report);
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::input) throw;
      page = Image(made.size.width, made.size.height, made.bands, made.depth);
      report.empty = std::int64_t{page.width()} * page.height();
    }
    if (page.width() != made.size.width || page.height() != made.size.height || page.bands() != made.bands ||
        page.depth() != made.depth)
      throw input_error(fmt::format("Frame {} gives {} x {} px, and the first frame {} x {}.", i + 1, page.width(),
                                    page.height(), made.size.width, made.size.height),
                        frame.path.string(), "Leave the frame out, or crop to a size that all frames have.");
    result.exact = result.exact && report.exact;
    result.clamped += report.clamped;
    result.empty_share +=
        static_cast<double>(report.empty) / (static_cast<double>(page.width()) * page.height()) / kept;
    pages.append(page, {job.stop, {}});
    if (job.progress) job.progress(static_cast<double>(i + 1) / count);
  }
  pages.commit();
  return result;
}

}  // namespace fexel
