#include "run/axes.h"

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

#include "base/error.h"
#include "files/ome.h"

namespace fexel {

std::optional<StackAxes> axes_of(const std::vector<FrameFile>& frames) {
  if (frames.size() < 2 || !frames.front().info || !frames.front().info->axes) return std::nullopt;
  for (const FrameFile& frame : frames)
    if (frame.path != frames.front().path || frame.band > 0) return std::nullopt;
  const StackAxes& axes = *frames.front().info->axes;
  if (axes.channels * axes.planes * axes.times < 2) return std::nullopt;
  return axes;
}

std::vector<bool> of_choice(const std::vector<FrameFile>& frames, const AxisChoice& choice) {
  std::vector<bool> out;
  for (const FrameFile& frame : frames) {
    const auto place = frame.info ? frame.info->place : std::nullopt;
    out.push_back(place && (choice.channel == 0 || place->channel == choice.channel - 1) &&
                  (choice.plane == 0 || place->plane == choice.plane - 1));
  }
  return out;
}

std::vector<std::optional<std::size_t>> same_moment(const std::vector<FrameFile>& frames,
                                                    const std::vector<FrameFile>& chosen, const AxisChoice& choice) {
  std::vector<std::optional<std::size_t>> out(frames.size());
  const auto moment = [&](const StackPlace& at) {
    return std::tuple(at.time, choice.channel > 0 ? 0 : at.channel, choice.plane > 0 ? 0 : at.plane);
  };
  std::map<std::tuple<int, int, int>, std::size_t> first;
  for (std::size_t k = 0; k < chosen.size(); ++k) first.emplace(moment(*chosen[k].info->place), k);
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (frames[i].info && frames[i].info->place)
      if (const auto found = first.find(moment(*frames[i].info->place)); found != first.end()) out[i] = found->second;
  return out;
}

std::optional<AxisChoice> choice_in(const Chain& chain, const std::vector<FrameFile>& frames) {
  const auto axes = axes_of(frames);
  if (!axes) return std::nullopt;
  const std::vector<bool> out = left_out(chain, frames);
  // That of the first frame that takes part, or all of one axis.
  const auto first = std::ranges::find(out, false);
  if (first == out.end()) return std::nullopt;
  const auto& place = frames[static_cast<std::size_t>(first - out.begin())].info->place;
  if (!place) return std::nullopt;
  for (const AxisChoice choice : {AxisChoice{0, 0}, AxisChoice{place->channel + 1, 0}, AxisChoice{0, place->plane + 1},
                                  AxisChoice{place->channel + 1, place->plane + 1}}) {
    const std::vector<bool> in = of_choice(frames, choice);
    bool same = true;
    for (std::size_t i = 0; i < in.size() && same; ++i) same = in[i] != out[i];
    if (same) return choice;
  }
  return std::nullopt;
}

Chain with_choice(Chain chain, const std::vector<FrameFile>& frames, const AxisChoice& choice) {
  if (frames.empty()) return chain;
  const std::vector<bool> in = of_choice(frames, choice);
  const std::string path = std::filesystem::absolute(frames.front().path).string();
  if (chain.sources.size() != 1) chain.sources.assign(1, {path, {}, {}});
  auto& skip = chain.sources.front().skip;
  skip.clear();
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (!in[i]) skip.push_back(frames[i].page);
  return chain;
}

Chain with_transforms_carried(Chain chain, const std::vector<FrameFile>& frames) {
  const auto choice = choice_in(chain, frames);
  if (!choice)
    throw call_error("Frames are left out by themselves, and not by channel or plane.", {},
                     "Choose a channel or plane, and align its frames.");
  AlignStep* align = nullptr;
  for (Step& step : chain.steps)
    if (auto* found = std::get_if<AlignStep>(&step.kind)) align = found;
  if (!align || align->frames.size() != frames.size())
    throw call_error("No frame has been aligned yet.", {}, "Align the frames of this channel first.");
  const std::vector<bool> in = of_choice(frames, *choice);
  std::vector<FrameFile> chosen;
  std::vector<std::size_t> numbers;
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (in[i]) {
      chosen.push_back(frames[i]);
      numbers.push_back(i);
    }
  const auto from = same_moment(frames, chosen, *choice);
  const std::vector<FoundFrame> before = align->frames;
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (!in[i] && from[i]) align->frames[i] = before[numbers[*from[i]]];
  return with_choice(std::move(chain), frames, {});
}

std::string description_of(const std::vector<const FrameFile*>& pages, Size size, Depth depth,
                           const std::optional<PixelSize>& pixel) {
  if (pages.empty() || !pages.front()->info || !pages.front()->info->axes) return {};
  std::set<int> channels, planes, times;
  std::set<std::tuple<int, int, int>> all;
  for (const FrameFile* page : pages) {
    if (page->path != pages.front()->path || page->band > 0 || !page->info || !page->info->place) return {};
    const StackPlace& at = *page->info->place;
    channels.insert(at.channel);
    planes.insert(at.plane);
    times.insert(at.time);
    all.insert({at.channel, at.plane, at.time});
  }
  if (all.size() != pages.size() || channels.size() * planes.size() * times.size() != pages.size()) return {};
  StackAxes axes = *pages.front()->info->axes;
  std::vector<std::string> names;
  for (const int channel : channels)
    if (static_cast<std::size_t>(channel) < axes.channel_names.size())
      names.push_back(axes.channel_names[static_cast<std::size_t>(channel)]);
  axes.channels = static_cast<int>(channels.size());
  axes.planes = static_cast<int>(planes.size());
  axes.times = static_cast<int>(times.size());
  axes.channel_names = std::move(names);
  const auto number = [](const std::set<int>& of, int value) {
    return static_cast<int>(std::distance(of.begin(), of.find(value)));
  };
  std::vector<StackPlace> places;
  for (const FrameFile* page : pages)
    places.push_back({number(channels, page->info->place->channel), number(planes, page->info->place->plane),
                      number(times, page->info->place->time)});
  return ome_description(axes, places, size, depth, pixel);
}

}  // namespace fexel
