#include "run/align_run.h"

#include <fmt/format.h>

#include <chrono>
#include <mutex>

#include "base/error.h"
#include "filter/filter.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// Frames are read for the search; the last picture is kept for those whose bands are frames.
class SearchSource {
 public:
  SearchSource(const std::vector<FrameFile>& files, const Limits& limits) : files_(files), limits_(limits) {}
  Image read(int index, const Job& job) {
    const FrameFile& frame = files_[static_cast<std::size_t>(index)];
    if (frame.band == 0) return read_frame(frame, limits_, job);
    std::shared_ptr<const Image> whole;
    {
      const std::scoped_lock lock(mutex_);
      if (!whole_) {
        FrameFile all = frame;
        all.band = 0;
        whole_ = std::make_shared<const Image>(read_frame(all, limits_, {job.stop, {}}));
      }
      whole = whole_;
    }
    return chosen_bands(*whole, {frame.band - 1});
  }

 private:
  const std::vector<FrameFile>& files_;
  const Limits& limits_;
  std::mutex mutex_;
  std::shared_ptr<const Image> whole_;
};

const FrameFile& first_usable(const std::vector<FrameFile>& frames) {
  for (const FrameFile& frame : frames)
    if (frame.info) return frame;
  throw input_error(frames.front().trouble, frames.front().path.string(), "Name files that can be read.");
}

/// Frames that do not go with the first one have failed, whatever the search says of them.
void fail_unlike(const std::vector<FrameFile>& files, AlignStep& step) {
  const FrameFile& first = first_usable(files);
  for (std::size_t i = 0; i < files.size() && i < step.frames.size(); ++i) {
    const auto& info = files[i].info;
    if (!info || (info->depth == first.info->depth && info->bands == first.info->bands)) continue;
    step.frames[i] = {
        Matrix3::Identity(), 0, 0, MatchStatus::failed,
        fmt::format("It has {} band{} of {}, and the first frame {} of {}.", info->bands, info->bands == 1 ? "" : "s",
                    name_of(info->depth), first.info->bands, name_of(first.info->depth))};
  }
}

Target target_of(const AlignRunOptions& options, const fs::path& path, int frames, int first_number) {
  Target target;
  target.path = path;
  const auto format = format_of_name(path);
  const bool numbered = is_numbered(path);
  if (numbered && !format)
    throw call_error("The files' ending tells no format.", path.string(),
                     "Give a name that ends in .tif, .png, .pgm or .jpg.");
  if (!numbered && format != Format::tiff)
    throw call_error("A sequence in one file is written as a TIFF.", path.string(),
                     "Give a name that ends in .tif, or one with {index} for a file each, such as frame-{index}.png.");
  target.format = *format;
  target.compress = options.compress;
  target.replace = options.replace;
  target.record = record_path(path, first_number + frames - 1, first_number);
  target.first_number = first_number;
  return target;
}

/// The frames of the channel and plane that were asked for.
std::vector<FrameFile> chosen_of(const std::vector<FrameFile>& all, const AlignRunOptions& options) {
  const auto axes = axes_of(all);
  const AxisChoice& choice = options.choice;
  if (!axes)
    throw call_error("This does not say which page is which channel, plane and time.", all.front().path.string(),
                     "Give one OME-TIFF, or leave --channel and --plane out.");
  if (!options.carry.empty())
    throw call_error("Other channels and planes go along by themselves.", "--carry", "Leave --carry out.");
  if (choice.channel > axes->channels || choice.plane > axes->planes)
    throw call_error(fmt::format("The file has {} channels and {} planes.", axes->channels, axes->planes),
                     choice.channel > axes->channels ? "--channel" : "--plane", "Channels and planes count from 1.");
  const std::vector<bool> in = of_choice(all, choice);
  std::vector<FrameFile> out;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (in[i]) out.push_back(all[i]);
  if (out.empty())
    throw input_error("Nothing of this channel and plane is in the file.", all.front().path.string(),
                      "Choose another.");
  return out;
}

}  // namespace

bool AlignRunResult::all_matched() const {
  return std::ranges::none_of(step.frames, [](const FoundFrame& f) { return f.status == MatchStatus::failed; }) &&
         std::ranges::none_of(stacks, [](const RunResult& s) { return s.count(MatchStatus::failed) > 0; });
}

std::vector<Target> align_targets(const AlignRunOptions& options, int frames, int first_number) {
  std::vector<Target> out{target_of(options, options.out, frames, first_number)};
  for (const fs::path& carried : options.carry) {
    const fs::path name = carried.filename().empty() ? carried.parent_path() : carried;
    // Numbered files, where the others are.
    const std::string ending = is_numbered(options.out)
                                   ? "-" + std::string(frame_number) + options.out.extension().string()
                                   : std::string(".tif");
    out.push_back(target_of(options, options.out.parent_path() / (name.stem().string() + "-aligned" + ending), frames,
                            first_number));
  }
  return out;
}

AlignRunResult align_files(const std::vector<fs::path>& inputs, const AlignRunOptions& options, const Job& job) {
  const auto begin = std::chrono::steady_clock::now();
  AlignRunResult result;
  result.files = list_frames(inputs, options.bands, options.limits);
  const auto total = static_cast<std::int64_t>(result.files.size());
  const auto edge = [&](int k) { return static_cast<std::ptrdiff_t>(k * total / options.part.second); };
  const std::ptrdiff_t begin_of_part = edge(options.part.first - 1), end_of_part = edge(options.part.first);
  if (begin_of_part == end_of_part)
    throw call_error(fmt::format("There are more parts than frames, of which there are {}.", total), "--shard",
                     "Take fewer parts.");
  result.files = {result.files.begin() + begin_of_part, result.files.begin() + end_of_part};
  const std::vector<FrameFile> all = result.files;
  if (options.choice != AxisChoice{}) result.files = chosen_of(all, options);
  const FrameFile& first = first_usable(result.files);
  const auto count = static_cast<int>(result.files.size());
  std::vector<std::vector<FrameFile>> stacks{all};
  for (const fs::path& carried : options.carry) {
    stacks.push_back(list_frames({carried}, first.band > 0, options.limits));
    if (stacks.back().size() != result.files.size())
      throw call_error(fmt::format("It has {} frames, and {} were aligned.", stacks.back().size(), result.files.size()),
                       carried.string(), "Carry stacks with as many frames.");
    first_usable(stacks.back());
  }
  // What is read, and then what is written, is not written over by what comes after it.
  ProtectedPaths keep = options.keep;
  std::vector<std::vector<WatchedFile>> sources;
  for (const auto& stack : stacks) {
    for (const FrameFile& frame : stack) keep.add(frame.path, "a source");
    sources.push_back(watched(stack));
  }
  if (!options.mask.empty()) keep.add(options.mask, "the mask");
  const AlignReference& against = options.step.against;
  if (against.mode == ReferenceMode::picture) keep.add(against.path, "the reference that frames are aligned to");
  std::vector<Target> targets =
      align_targets(options, static_cast<int>(all.size()), static_cast<int>(begin_of_part) + 1);
  for (std::size_t i = 0; i < stacks.size(); ++i) {
    const int pages = stacks[i].front().band > 0 ? 1 : static_cast<int>(stacks[i].size());
    if (pages == 1) targets[i].record = record_path(targets[i].path, targets[i].first_number, targets[i].first_number);
    targets[i].keep = std::make_shared<const ProtectedPaths>(keep);
    check_target_files(targets[i], pages);
    const fs::path folder = targets[i].path.parent_path();
    if (std::error_code code; !folder.empty() && !fs::is_directory(folder, code))
      throw call_error("This folder does not exist.", folder.string(), "Make it, or choose another one.");
    for (const fs::path& file : files_of(targets[i], pages)) keep.add(file, "another result of this run");
  }

  if (!options.report.empty()) {
    WriteOptions checks;
    checks.replace = options.replace;
    checks.keep = std::make_shared<const ProtectedPaths>(keep);
    check_target(options.report, checks);
  }

  Chain chain;
  chain.masks = options.masks;
  chain.resampling = options.resampling;
  chain.steps.push_back({options.step, true, {}});
  std::optional<Image> mask;
  if (!options.mask.empty()) mask = read_picture(options.mask, 1, options.limits, {job.stop, {}});
  SearchSource source(result.files, options.limits);
  const FrameReader reader{count, [&](int i, const Job& quiet) { return source.read(i, quiet); }};
  result.step = searched(chain, 0, reader, job.part(0, 0.6), {}, mask ? &*mask : nullptr);
  fail_unlike(result.files, result.step);
  result.reference = {result.step.width.value_or(first.info->width), result.step.height.value_or(first.info->height)};
  std::vector<Size> sizes;
  for (const FrameFile& file : result.files)
    sizes.push_back(file.info ? Size{file.info->width, file.info->height} : Size{1, 1});
  result.common = common_area(result.step, result.reference, sizes);
  chain.steps.front().kind = result.step;
  if (options.trim) chain.steps.push_back({CropStep{result.common}, true, {}});
  chain.masks.clear();  // they have had their say
  result.chain = chain;
  // Every page of a file with axes lies as the one of its moment that was matched.
  if (all.size() != result.files.size()) {
    AlignStep spread = result.step;
    spread.frames.clear();
    for (const auto& from : same_moment(all, result.files, options.choice)) {
      FoundFrame none;
      none.reason = "Nothing of its moment is in the channel and plane that were matched.";
      spread.frames.push_back(from ? result.step.frames[*from] : none);
    }
    chain.steps.front().kind = spread;
  }

  WriteHow how;
  how.limits = options.limits;
  how.memory = options.memory;
  how.keep_going = true;
  how.leave_out_unmatched = options.leave_out_failed;
  for (std::size_t i = 0; i < stacks.size(); ++i) {
    const double part = 0.4 / static_cast<double>(stacks.size());
    how.sources = sources[i];
    result.stacks.push_back(
        write_frames(chain, stacks[i], targets[i], how,
                     job.part(0.6 + part * static_cast<double>(i), 0.6 + part * static_cast<double>(i + 1))));
    for (const fs::path& name : result.stacks.back().written) result.written.push_back(name);
  }
  result.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  return result;
}

SelfTest run_self_test(const AlignRunOptions& options, const AlignRunResult& result, int rounds, const Job& job) {
  const AlignReference& against = result.step.against;
  std::size_t at = 0;
  if (against.mode == ReferenceMode::frame)
    at = std::min(static_cast<std::size_t>(against.number), result.files.size()) - 1;
  else
    while (at + 1 < result.step.frames.size() && result.step.frames[at].status == MatchStatus::failed) ++at;
  Chain chain;
  chain.masks = options.masks;
  chain.steps.push_back({result.step, true, {}});
  std::optional<Image> mask;
  if (!options.mask.empty()) mask = read_picture(options.mask, 1, options.limits, {job.stop, {}});
  SearchSource source(result.files, options.limits);
  return run_self_test(chain, 0, source.read(static_cast<int>(at), {job.stop, {}}), static_cast<int>(at), rounds, job,
                       mask ? &*mask : nullptr);
}

}  // namespace fexel
