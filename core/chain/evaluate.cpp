#include "chain/evaluate.h"

#include "base/error.h"
#include "resample/coordinates/clip_spans.h"

#include <fmt/format.h>

namespace fexel {
namespace {

/// Leaves out of the mask what lies outside the clip, and returns how many pixels are empty.
std::int64_t mask_by(const Clip& clip, Image& image) {
  std::int64_t empty = 0;
  if (!image.has_mask()) image.make_mask(true);
  ClipSpans inside(clip, {0, 0, image.width(), image.height()});
  for (int y = 0; y < image.height(); ++y) {
    int x = 0;
    const auto leave_out_to = [&](int end) {
      for (; x < end; ++x) image.set_valid(x, y, false);
    };
    for (const auto& span : inside.spans(y)) {
      leave_out_to(span.begin);
      x = span.end;
    }
    leave_out_to(image.width());
    for (x = 0; x < image.width(); ++x) empty += !image.valid(x, y);
  }
  return empty;
}

}  // namespace

RunPictures::RunPictures(std::shared_ptr<const Pyramid> source, Chain chain, Layout layout, const RunPictures* before)
    : source_(std::move(source)), chain_(std::move(chain)), layout_(std::move(layout)) {
  if (!before || before->source_ != source_ || !(before->chain_.resampling == chain_.resampling)) return;
  const std::scoped_lock lock(before->mutex_);
  for (const auto& [start, made] : before->made_) {
    const auto steps = static_cast<std::size_t>(start);
    if (steps <= chain_.steps.size() && steps <= before->chain_.steps.size() &&
        std::equal(chain_.steps.begin(), chain_.steps.begin() + start, before->chain_.steps.begin()))
      made_.emplace(start, made);
  }
}

RunPictures::Made RunPictures::made_at(int run_start, const Job& job) const {
  if (run_start == 0) return {source_, {true, 0, 0}};
  const std::scoped_lock one_at_a_time(making_);
  {
    const std::scoped_lock lock(mutex_);
    if (const auto found = made_.find(run_start); found != made_.end()) return found->second;
  }
  // What lies outside is painted like its surroundings, so that no later kernel reads a fill.
  Resampling around = chain_.resampling;
  if (around.edge == BorderMode::fill) around.edge = BorderMode::extend;
  WarpReport report;
  Image input = resampled(run_start - 1, around, job.part(0, 0.6), report);
  paint_empty(input);
  const auto& step = chain_.steps[static_cast<std::size_t>(run_start) - 1];
  const auto make = [&](const auto& kind) -> Image {
    if constexpr (requires { pixels_of(kind, input, chain_.resampling, job, report.clamped); })
      return pixels_of(kind, input, chain_.resampling, job.part(0.6, 1), report.clamped);
    else
      return input.clone();
  };
  Image out;
  try {
    out = std::visit(make, step.kind);
  } catch (const Error& error) {
    if (error.kind() != Error::Kind::call) throw;
    throw error.at(fmt::format("/steps/{}{}", run_start - 1, error.where()));
  }
  if (out.depth() == input.depth()) out.set_largest(input.stated_largest());
  report.clamped += clamp_to_largest(out);
  paint_empty(out);
  report.exact = report.exact && layout_.stations[static_cast<std::size_t>(run_start)].exact;
  Made made{std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(out))), report};
  const std::scoped_lock lock(mutex_);
  made_.emplace(run_start, made);
  return made;
}

std::shared_ptr<const Pyramid> RunPictures::at(int run_start, const Job& job) const {
  return made_at(run_start, job).picture;
}

Image RunPictures::resampled(int station, const Resampling& how, const Job& job, WarpReport& report) const {
  const Station& at = layout_.stations[static_cast<std::size_t>(station)];
  const Made start = made_at(at.run_start, job.part(0, 0.5));
  const Size size = at.size;
  Image out = warp(*start.picture, plan_for(layout_, station), {0, 0, size.width, size.height}, how, Quality::final,
                   job.part(0.5, 1), &report);
  report.exact = report.exact && start.report.exact;
  report.clamped += start.report.clamped;
  return out;
}

Image RunPictures::pixels(int station, const Job& job, WarpReport* report) const {
  const Station& at = layout_.stations[static_cast<std::size_t>(station)];
  WarpReport found;
  Image out;
  if (at.own_fill) {
    const Made made = made_at(at.run_start, job);
    found = made.report;
    out = made.picture->base().clone();
    if (out.depth() == Depth::f32 && out.has_mask()) put_nan(out);
    found.empty = mask_by(at.clip, out);
  } else {
    out = resampled(station, chain_.resampling, job, found);
  }
  if (report) *report = found;
  return out;
}

namespace {

/// The plan whose pixels come from the source by `inverse_map`.
WarpPlan planned(const Map& inverse_map, Clip clip, Size size, Stride stride) {
  if (inverse_map.planar()) return {inverse_map.matrix(), std::move(clip), size, stride};
  return {Matrix3::Identity(), std::move(clip), size, stride, inverse_map};
}

}  // namespace

WarpPlan plan_for(const Layout& layout, int station) {
  const Station& at = layout.stations[static_cast<std::size_t>(station)];
  return planned(map_between(layout, at.run_start, station).inverse(), at.clip, at.size, at.stride);
}

WarpPlan plan_for_view(const Layout& layout, int station, const Map& station_from_view, Size size) {
  const Station& at = layout.stations[static_cast<std::size_t>(station)];
  return planned(map_between(layout, at.run_start, station).inverse().after(station_from_view),
                 at.clip.through(station_from_view.inverse()), size, at.stride);
}

namespace {

/// The last station of each run up to a station, from there back to the source.
std::vector<int> run_ends(const Layout& layout, int station) {
  std::vector<int> ends = {station};
  while (const int start = layout.stations[static_cast<std::size_t>(ends.back())].run_start) ends.push_back(start - 1);
  return ends;
}

}  // namespace

int resamplings(const Layout& layout, int station) {
  const auto ends = run_ends(layout, station);
  return static_cast<int>(std::ranges::count_if(ends, [&](int end) { return !is_exact(plan_for(layout, end)); }));
}

bool is_exact_station(const Layout& layout, int station) {
  for (const int end : run_ends(layout, station))
    if (end != station && !layout.stations[static_cast<std::size_t>(end) + 1].exact) return false;
  return resamplings(layout, station) == 0;
}

void check_fill(const Chain& chain, int bands) {
  const auto count = static_cast<int>(chain.resampling.fill.size());
  if (count != 1 && count != bands)
    throw call_error(fmt::format("The fill has {} values, but the picture has {} bands.", count, bands),
                     "/resample/fill", "Give one value, or one for each band.");
}

Image evaluate(const Chain& chain, const Layout& layout, const Pyramid& source, const Job& job, WarpReport* report) {
  layout.require_sound();
  check_fill(chain, source.base().bands());
  const RunPictures pictures(std::shared_ptr<const Pyramid>(std::shared_ptr<const Pyramid>(), &source), chain, layout);
  return pictures.pixels(layout.last(), job, report);
}

}  // namespace fexel
