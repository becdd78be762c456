#include "motion_run/motion_run.h"

#include <fmt/format.h>

#include "base/error.h"
#include "chain/evaluate.h"
#include "chain/masks.h"
#include "motion/texture.h"
#include "motion_run/backgrounds.h"
#include "run/align_search.h"

namespace fexel {
namespace {

constexpr std::int64_t most_memory = std::int64_t{1} << 30;  // bytes, of frames that a median is taken of

std::string said_of(const FrameFile& frame) {
  return frame.info && frame.info->frames > 1 ? fmt::format("{}, page {}", frame.path.string(), frame.page)
                                              : frame.path.string();
}

SourceShape shape_of(const FrameFile& frame, std::size_t index) {
  const FileInfo& info = *frame.info;
  return {{info.width, info.height}, info.bands, info.depth, info.pixel_size, {}, static_cast<int>(index)};
}

}  // namespace

StrainSettings strain_settings(const MotionSettings& settings, const MotionUnits& units) {
  return {settings.strain.value_or(5), settings.measure,
          units.pixel ? Point{units.pixel->x, units.pixel->y} : Point{1, 1}, settings.method == MotionMethod::subset};
}

void finish(MotionResultFrame& result, const MotionSettings& settings, const MotionUnits& units, const Job& job,
            std::vector<CleanEffect>* effects) {
  result.field = finished(result.matched, settings, effects);
  result.strain.clear();
  if (settings.strain) result.strain = strain_of(result.field, strain_settings(settings, units), settings.size(), job);
}

Point MotionUnits::coordinates(Point place) const {
  if (axes) return axes->coordinates(place);
  return pixel ? Point{place.x * pixel->x, place.y * pixel->y} : place;
}
Point MotionUnits::displacement(Point moved) const {
  return coordinates(moved) - coordinates({0, 0});
}

std::vector<std::size_t> measured_frames(const Chain& chain, const std::vector<FrameFile>& frames,
                                         const MotionSettings& settings, std::vector<std::string>* notes) {
  const std::vector<bool> out_of_it = left_out(chain, frames);
  std::vector<std::size_t> kept;
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (!out_of_it[i]) kept.push_back(i);
  if (settings.against != MotionAgainst::pairs) return kept;
  const auto alone = [&](std::size_t i) {
    if (notes) notes->push_back(fmt::format("{} has no other frame to be a pair with.", said_of(frames[i])));
  };
  std::vector<std::size_t> out;
  if (in_pairs(chain, frames)) {
    // As they are numbered: one that is left out moves no other.
    for (std::size_t i = 0; i < frames.size(); i += 2) {
      const bool second = i + 1 < frames.size() && !out_of_it[i + 1];
      if (!out_of_it[i] && second)
        out.insert(out.end(), {i, i + 1});
      else if (!out_of_it[i] || second)
        alone(out_of_it[i] ? i + 1 : i);
    }
    return out;
  }
  bool by_names = false;
  for (std::size_t i = 0; i + 1 < frames.size(); ++i) by_names = by_names || is_pair(frames[i], frames[i + 1]);
  by_names = by_names && chain.pairing == Pairing::names;
  for (std::size_t k = 0; k < kept.size(); ++k) {
    if (k + 1 < kept.size() && (!by_names || is_pair(frames[kept[k]], frames[kept[k + 1]]))) {
      out.insert(out.end(), {kept[k], kept[k + 1]});
      ++k;
    } else {
      alone(kept[k]);
    }
  }
  return out;
}

std::vector<int> motion_targets(const MotionSettings& settings, std::size_t frames) {
  if (frames < 2)
    throw call_error(frames == 0 ? "There is no frame." : "There is only one frame: nothing shows how it moved.", {},
                     "Give two frames or more, as files, a folder, or a stack.");
  std::vector<int> out;
  if (settings.method == MotionMethod::window && settings.window.ensemble)
    return {static_cast<int>(frames) - 1 - (settings.against == MotionAgainst::pairs && frames % 2 == 1 ? 1 : 0)};
  for (int i = 1; i < static_cast<int>(frames); ++i)
    if (settings.against != MotionAgainst::pairs || i % 2 == 1) out.push_back(i);
  return out;
}

MotionFrames::MotionFrames(Chain chain, int station, std::vector<FrameFile> frames, const Limits& limits,
                           bool as_written)
    : chain_(std::move(chain)), station_(station), frames_(std::move(frames)), limits_(limits) {
  skipped_ = left_out(chain_, frames_);
  if (as_written)
    chain_.masks.clear();
  else
    chain_.resampling.kernel = Kernel::bspline3;
  chain_.measurements.clear();
  chain_.marks.clear();
  const auto aligning = align_step_of(chain_);
  if (aligning && *aligning < station_) {
    const auto& found = std::get<AlignStep>(chain_.steps[static_cast<std::size_t>(*aligning)].kind).frames;
    if (found.size() != frames_.size())
      throw call_error(found.empty() ? "The chain's align step has not been searched yet."
                                     : fmt::format("The chain aligns {} frames, and {} are to be measured.",
                                                   found.size(), frames_.size()),
                       "/steps", "Search it on these frames in the window, and save the chain.");
  }
  for (std::size_t i = 0; i < frames_.size(); ++i)
    if (frames_[i].info && !skipped_[i]) {
      layout_ = layout_of(i);
      layout_.require_sound();
      return;
    }
  throw frames_.empty() ? call_error("There is no frame.", {}, "Give pictures, or a folder of them.")
                        : input_error(frames_.front().trouble, said_of(frames_.front()));
}

Layout MotionFrames::layout_of(std::size_t i) const {
  return lay_out(chain_, shape_of(frames_[i], i));
}

MotionUnits MotionFrames::units() const {
  const Station& at = layout_.stations[static_cast<std::size_t>(station_)];
  return {at.pixel, at.axes, chain_.time_step};
}

Image MotionFrames::read(std::size_t i, const Job& job) const {
  const FrameFile& frame = frames_[i];
  if (!frame.info) throw input_error(frame.trouble, said_of(frame), "Leave the frame out.");
  try {
    Image image = read_frame(frame, limits_, job.part(0, 0.5));
    const std::optional<Image> used = used_pixels(chain_.masks, static_cast<int>(i), {image.width(), image.height()});
    const Layout layout = layout_of(i);
    layout.require_sound();
    if (station_ > 0) {
      const auto source = std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(image)));
      image = RunPictures(source, chain_, layout).pixels(station_, job.part(0.5, 1));
    }
    if (used) leave_unused_out(image, layout, station_, *used, {job.stop, {}});
    return image;
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    throw error.where().empty() || error.where().starts_with('/') ? error.at(said_of(frame)) : error;
  }
}

namespace {

/// One field of all pairs together, told as that of the last one.
MotionResultFrame ensemble_of(const MotionFrames& frames, const std::vector<std::size_t>& kept,
                              const MotionSequence& sequence, const MotionSettings& settings,
                              std::vector<std::string>& notes, const Job& job) {
  std::vector<std::pair<std::size_t, std::size_t>> pairs;
  const bool apart = settings.against == MotionAgainst::pairs;
  for (std::size_t k = 1; k < kept.size(); k += apart ? 2 : 1) {
    // Over twice the time the same flow moves twice as far: such pairs do not add up.
    if (pairs.empty() || kept[k] - kept[k - 1] == pairs.front().second - pairs.front().first)
      pairs.emplace_back(kept[k - 1], kept[k]);
    else
      notes.push_back(fmt::format("{} is farther from the frame before than the others, and is left out.",
                                  said_of(frames.file(kept[k]))));
  }
  const auto ready = [&](int k) {
    const auto [a, b] = pairs[static_cast<std::size_t>(k)];
    const Job quiet{job.stop, {}};
    return WindowPair{sequence.prepared(frames.read(a, quiet), false, quiet),
                      sequence.prepared(frames.read(b, quiet), apart, quiet)};
  };
  MotionResultFrame out;
  out.matched = match_ensemble(static_cast<int>(pairs.size()), ready, sequence.grid(), settings.window, job);
  const auto [a, b] = pairs.back();
  out.matched.from = out.matched.reference = static_cast<int>(a);
  out.matched.frame = static_cast<int>(b);
  out.number = static_cast<int>(b) + 1;
  out.file = frames.file(b).path;
  out.page = frames.file(b).page;
  return out;
}

}  // namespace

MotionRunSummary run_motion(const MotionFrames& frames, const MotionRunOptions& options,
                            const std::function<void(const MotionResultFrame&)>& found, const Job& whole_job) {
  const MotionSettings& settings = options.probe.settings;
  // Frames that are left out are as if they were not there.
  std::vector<std::string> notes;
  std::vector<std::size_t> kept = frames.measured(settings, &notes);
  if (options.only)
    kept = {static_cast<std::size_t>(options.only->first), static_cast<std::size_t>(options.only->second)};
  const std::vector<int> targets = motion_targets(settings, kept.size());
  const auto [first, last] = options.shard.value_or(std::pair(1, static_cast<int>(targets.size())));
  std::shared_ptr<const Image> use;
  if (options.mask) {
    Image mask = read_picture(*options.mask, 1, options.limits, {whole_job.stop, {}});
    if (Size{mask.width(), mask.height()} != frames.size())
      throw call_error(fmt::format("The mask has {} x {} pixels, and the frames have {} x {}.", mask.width(),
                                   mask.height(), frames.size().width, frames.size().height),
                       options.mask->string(), "Give a mask as large as the frames.");
    use = std::make_shared<const Image>(std::move(mask));
  }
  MotionSequence sequence(settings, frames.size(), use);
  MotionRunSummary out{sequence.grid(), frames.units(), frames.size(), 0, {}};
  if (!options.only) out.notes = std::move(notes);
  const bool ahead = settings.prepare.background != MotionBackground::none;
  if (ahead) {
    // Of all frames, whichever are measured.
    const auto [one, two] = backgrounds_for(frames, frames.measured(settings), settings,
                                            std::min(options.limits.memory, most_memory), whole_job.part(0, 0.2));
    sequence.set_backgrounds(one, two);
  }
  const Job job = whole_job.part(ahead ? 0.2 : 0, 1);
  if (settings.method == MotionMethod::window && settings.window.ensemble && !options.only) {
    found(ensemble_of(frames, kept, sequence, settings, out.notes, job));
    out.fields = 1;
    return out;
  }
  int number = 0;  // of the field, from 1
  const bool apart = settings.against == MotionAgainst::pairs;
  for (std::size_t k = 0; k < kept.size(); ++k) {
    const int next = number + 1;
    if (next > last) break;
    // Pairs before the part are not even read.
    if (apart && next < first) {
      sequence.skip();
      if (k % 2 == 1) ++number;
      continue;
    }
    const Job part = job.part(static_cast<double>(k) / static_cast<double>(kept.size()),
                              static_cast<double>(k + 1) / static_cast<double>(kept.size()));
    std::optional<MotionField> field;
    try {
      const Image image = frames.read(kept[k], part.part(0, 0.2));
      field = sequence.next(image, part.part(0.2, 1));
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled || k == 0 || apart) throw;
      out.notes.push_back(error.message() + " " + said_of(frames.file(kept[k])) + " is left out.");
      sequence.skip();
      ++number;
      continue;
    }
    if (!field) continue;
    ++number;
    if (number < first) continue;
    MotionResultFrame result;
    result.matched = std::move(*field);
    // Frames as the sequence counts them, those that are left out, too.
    for (int* index : {&result.matched.from, &result.matched.reference, &result.matched.frame})
      *index = static_cast<int>(kept[static_cast<std::size_t>(*index)]);
    result.number = static_cast<int>(kept[k]) + 1;
    result.file = frames.file(kept[k]).path;
    result.page = frames.file(kept[k]).page;
    found(result);
    ++out.fields;
  }
  return out;
}

GrainSigns grains_in(const MotionFrames& frames, const MotionSettings& settings,
                     std::optional<std::pair<std::size_t, std::size_t>> pair, const Job& job) {
  const std::vector<std::size_t> kept = frames.measured(settings);
  motion_targets(settings, kept.size());
  if (!pair) pair = std::pair(kept[0], kept[1]);
  const auto [one, two] = backgrounds_for(frames, kept, settings, most_memory, job.part(0, 0.6));
  const Job quiet{job.stop, {}};
  const MotionFrame a(frames.read(pair->first, quiet), settings.prepare, nullptr, quiet, one.get());
  const MotionFrame b(frames.read(pair->second, quiet), settings.prepare, nullptr, quiet, two.get());
  return grain_signs(a, b, settings.region, job.part(0.6, 1));
}

ReadyFrame ready_frame(const MotionFrames& frames, std::size_t number, const MotionSettings& settings, const Job& job) {
  const Job quiet{job.stop, {}};
  const bool off = settings.prepare.background != MotionBackground::none;
  const auto measured = off ? frames.measured(settings) : std::vector<std::size_t>{};
  const auto [one, two] = off ? backgrounds_for(frames, measured, settings, most_memory, job.part(0, 0.6))
                              : std::pair<std::shared_ptr<const Image>, std::shared_ptr<const Image>>{};
  const auto background = [&](std::size_t i) {
    const auto at = std::ranges::find(measured, i) - measured.begin();
    return at % 2 == 1 ? two.get() : one.get();
  };
  const Image given = frames.read(number, quiet);
  ReadyFrame out;
  out.frame = std::make_shared<const MotionFrame>(given, settings.prepare, nullptr, quiet, background(number));
  std::optional<MotionFrame> beside;
  if (frames.count() > 1) {
    const std::size_t other = number > 0 ? number - 1 : 1;
    beside.emplace(frames.read(other, quiet), settings.prepare, nullptr, quiet, background(other));
  }
  out.noise = noise_at_most(*out.frame, beside ? &*beside : nullptr);
  out.image = without_background(given, background(number), quiet);
  return out;
}

}  // namespace fexel
