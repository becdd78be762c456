#include "chain/frames.h"

#include <fmt/format.h>

#include "base/error.h"
#include "chain/run.h"
#include "filter/filter.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// The number of the file, from 0, that each frame comes from.
std::vector<std::size_t> files_of(const std::vector<FrameFile>& frames) {
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < frames.size(); ++i)
    out.push_back(i == 0 ? 0 : out.back() + (frames[i].path != frames[i - 1].path ? 1 : 0));
  return out;
}

}  // namespace

std::vector<FrameFile> list_frames(const std::vector<fs::path>& inputs, bool bands, const Limits& limits) {
  std::vector<FrameFile> out;
  const auto files = expand_inputs(inputs);
  for (const fs::path& path : files) {
    FrameFile frame;
    frame.path = path;
    try {
      frame.info = read_info(path, limits);
    } catch (const Error& error) {
      frame.trouble = error.message();
      out.push_back(frame);
      continue;
    }
    const bool planes = bands && frame.info->frames == 1 && frame.info->bands > 1;
    if (planes && files.size() > 1)
      throw call_error(
          fmt::format("This picture has {} bands; several files are taken for one band each.", frame.info->bands),
          path.string(), "Give one file with all bands, or files with one band each.");
    for (int i = 1; i <= (planes ? frame.info->bands : frame.info->frames); ++i) {
      (planes ? frame.band : frame.page) = i;
      const auto& names = frame.info->page_names;
      frame.name = static_cast<int>(names.size()) == frame.info->frames ? names[static_cast<std::size_t>(i - 1)] : "";
      out.push_back(frame);
    }
  }
  if (out.empty()) throw call_error("There are no pictures here.", {}, "Name files, or a folder with pictures in it.");
  return out;
}

Image read_frame(const FrameFile& frame, const Limits& limits, const Job& job) {
  if (!frame.info) throw input_error(frame.trouble, frame.path.string());
  Image whole = read_picture(frame.path, frame.page, limits, {job.stop, {}});
  return frame.band > 0 ? chosen_bands(whole, {frame.band - 1}) : std::move(whole);
}

bool in_pairs(const std::vector<FrameFile>& frames) {
  if (frames.empty() || frames.size() % 2 != 0) return false;
  for (std::size_t i = 0; i < frames.size(); i += 2) {
    const fs::path &a = frames[i].path, &b = frames[i + 1].path;
    std::string first = a.stem().string(), second = b.stem().string();
    if (a.parent_path() != b.parent_path() || first.empty() || second.empty()) return false;
    const char x = first.back(), y = second.back();
    first.pop_back();
    second.pop_back();
    if (first != second || !((x == 'a' && y == 'b') || (x == 'A' && y == 'B'))) return false;
  }
  return true;
}

std::vector<bool> left_out(const Chain& chain, const std::vector<FrameFile>& frames) {
  std::vector<bool> out(frames.size(), false);
  const auto files = files_of(frames);
  if (frames.empty() || chain.sources.size() != files.back() + 1) return out;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const auto& skip = chain.sources[files[i]].skip;
    out[i] = std::ranges::find(skip, frames[i].page) != skip.end();
  }
  return out;
}

Chain with_left_out(Chain chain, const std::vector<FrameFile>& frames, std::size_t index, bool out) {
  if (index >= frames.size()) return chain;
  const auto files = files_of(frames);
  if (chain.sources.size() != files.back() + 1) {
    chain.sources.assign(files.back() + 1, {});
    for (std::size_t i = 0; i < frames.size(); ++i)
      chain.sources[files[i]].path = fs::absolute(frames[i].path).string();
  }
  auto& skip = chain.sources[files[index]].skip;
  std::erase(skip, frames[index].page);
  if (out) skip.push_back(frames[index].page);
  std::ranges::sort(skip);
  return chain;
}

}  // namespace fexel
