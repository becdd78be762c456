#include "run/align_search.h"
#include "base/statistics.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <chrono>
#include <mutex>

#include "chain/evaluate.h"
#include "chain/masks.h"
#include "filter/filter.h"
#include "resample/warp.h"

#include "run/output.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

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

/// Where pixels of the reference count: inside the region, and where `mask` is not zero; nothing where all do.
std::optional<Image> pixels_to_use(const std::optional<Region>& region, const Image* mask, Size size) {
  std::optional<Image> inside;
  if (region) inside = region_to_use(*region, size, "/region");
  if (!mask) return inside;
  if (mask->width() != size.width || mask->height() != size.height)
    throw call_error(fmt::format("The mask is {} x {} px and the reference {} x {}.", mask->width(), mask->height(),
                                 size.width, size.height),
                     "--mask", "Give a mask of the reference's size.");
  Image use = mask->clone();
  if (!inside) return use;
  if (!use.has_mask()) use.make_mask(true);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (inside->row<std::uint8_t>(0, y)[x] == 0) use.set_valid(x, y, false);
  return use;
}

/// A source frame as it is at the station that a step gets; what the chain's masks leave out of it is empty. `frame`
/// counts from 0; without it no mask counts.
Image at_step(const Chain& chain, int index, Image source, std::optional<int> frame, const Job& job) {
  const Size size{source.width(), source.height()};
  const auto used = frame ? used_pixels(chain.masks, *frame, size) : std::nullopt;
  if (index == 0 && !used) return source;
  Chain before = chain;
  before.steps.resize(static_cast<std::size_t>(index));
  const Layout layout = lay_out(before, {size, source.bands(), source.depth(), {}, {}, frame.value_or(0)});
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

Chain for_frames(Chain chain, int first, int count) {
  for (Step& step : chain.steps)
    if (auto* align = std::get_if<AlignStep>(&step.kind); align && !align->frames.empty()) {
      const auto all = static_cast<int>(align->frames.size());
      first = std::clamp(first, 0, all - 1);
      align->frames = {align->frames.begin() + first, align->frames.begin() + std::min(first + count, all)};
    }
  return chain;
}

SelfTest run_self_test(const Chain& chain, int index, Image source, int source_frame, int rounds, const Job& job,
                       const Image* mask) {
  const AlignStep& step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const Image frame = at_step(chain, index, std::move(source), source_frame, job);
  AlignOptions options;
  options.match.model = step.model;
  options.band = step.band;
  options.likeness = step.alike;
  // A region or mask of a picture of another size says nothing of this frame.
  const Size size{frame.width(), frame.height()};
  const bool of_this = !step.width || Size{*step.width, step.height.value_or(0)} == size;
  const auto use = of_this ? pixels_to_use(step.region, mask, size) : std::nullopt;
  if (use) options.use = &*use;
  return try_known_motions(frame, options, rounds, self_test_px, 1, job);
}

ResidualField residual_displacements(const Chain& chain, int index, Image reference, int reference_frame, Image shown,
                                     int shown_frame, const Job& job) {
  constexpr int window = 64;
  const AlignStep& step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const Image still = at_step(chain, index + 1, std::move(reference), reference_frame, job);
  const Image moved = at_step(chain, index + 1, std::move(shown), shown_frame, job);
  return residual_field(still, moved, step.band, step.alike, window, job);
}

AlignStep searched(const Chain& chain, int index, const FrameReader& frames, const Job& job,
                   const std::function<void(int, const FoundFrame&)>& told, const Image* mask) {
  AlignStep step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(index)].kind);
  const auto at_station = [&](Image source, std::optional<int> frame) {
    return at_step(chain, index, std::move(source), frame, job);
  };
  AlignOptions options;
  options.match.model = step.model;
  const AlignReference& against = step.against;
  options.against = against.mode;
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
  Image picture;
  std::optional<Image> use;
  Size size;
  if (against.mode == ReferenceMode::picture) {
    picture = at_station(read_picture(against.path, 1, {}, {job.stop, {}}), std::nullopt);
    options.picture = &picture;
    size = {picture.width(), picture.height()};
  }
  if (step.region || mask) {
    if (!options.picture) {
      const Image first = at_station(
          frames.read(against.mode == ReferenceMode::frame ? std::min(against.number, frames.count) - 1 : 0, job),
          std::nullopt);
      size = {first.width(), first.height()};
    }
    use = pixels_to_use(step.region, mask, size);
    options.use = &*use;
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

std::vector<AlignStep> variants_of(const AlignStep& step) {
  AlignStep bare = step;
  bare.frames.clear();
  std::vector<AlignStep> ways{bare};
  const auto add = [&](const auto& change) {
    AlignStep way = bare;
    change(way);
    if (std::ranges::find(ways, way) == ways.end()) ways.push_back(way);
  };
  for (const ReferenceMode mode :
       {ReferenceMode::first, ReferenceMode::neighbour, ReferenceMode::average, ReferenceMode::network})
    add([&](AlignStep& way) { way.against = {mode}; });
  for (const Model model : {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective})
    add([&](AlignStep& way) { way.model = model; });
  return ways;
}

std::vector<AlignVariant> compare_variants(const Chain& chain, int index, const std::vector<AlignStep>& ways,
                                           const FrameReader& frames, const Job& job) {
  constexpr int looked_at = 6;
  std::vector<AlignVariant> out;
  for (std::size_t k = 0; k < ways.size(); ++k) {
    const auto share = [&](double part) { return (static_cast<double>(k) + part) / static_cast<double>(ways.size()); };
    AlignVariant way;
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
        const ResidualField field = residual_displacements(now, index, frames.read(matched[0], job), matched[0],
                                                           frames.read(frame, job), frame, {job.stop, {}});
        for (const ResidualShift& shift : field.shifts)
          if (shift.sound) lengths.push_back(std::hypot(shift.moved.x, shift.moved.y));
        if (job.progress)
          job.progress(
              share(0.7 + 0.3 * static_cast<double>(n) / static_cast<double>(std::max<std::size_t>(count, 1))));
      }
      if (!lengths.empty()) way.still_px = median(lengths);
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

CropRectangle common_area(AlignStep& step, Size reference, const std::vector<Size>& sizes) {
  // The nearest first: a frame that lies far away does not take the area from the others.
  std::vector<std::pair<double, std::size_t>> nearest;
  for (std::size_t i = 0; i < step.frames.size(); ++i) {
    if (step.frames[i].status == MatchStatus::failed) continue;
    const auto middle = Map::apply(step.frames[i].matrix, sizes[i].middle());
    nearest.emplace_back(middle ? distance(*middle, reference.middle()) : 1e300, i);
  }
  std::ranges::sort(nearest);
  Clip shared;
  shared.keep_inside(reference);
  std::optional<CropRectangle> found = largest_valid(shared, reference);
  for (const auto& [away, i] : nearest) {
    Clip own;
    own.keep_inside(sizes[i]);
    Clip with = shared;
    with.keep(own.through(Map(step.frames[i].matrix)));
    if (const auto smaller = largest_valid(with, reference)) {
      shared = with;
      found = smaller;
      continue;
    }
    FoundFrame& frame = step.frames[i];
    if (frame.status == MatchStatus::ok) frame.status = MatchStatus::weak;
    frame.reason = "It shares no area with the other frames and does not count for the area that they share." +
                   (frame.reason.empty() ? "" : " " + frame.reason);
  }
  return *found;
}

}  // namespace fexel
