#include "run/frames.h"

#include <fmt/format.h>

#include <set>

#include "base/error.h"
#include "filter/filter.h"
#include "run/record.h"

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

bool natural_less(const std::string& a, const std::string& b) {
  const auto digit = [](char c) { return c >= '0' && c <= '9'; };
  std::size_t i = 0, j = 0;
  while (i < a.size() && j < b.size()) {
    if (digit(a[i]) && digit(b[j])) {
      std::size_t i1 = i, j1 = j;
      while (i < a.size() && a[i] == '0') ++i;
      while (j < b.size() && b[j] == '0') ++j;
      i1 = i;
      j1 = j;
      while (i1 < a.size() && digit(a[i1])) ++i1;
      while (j1 < b.size() && digit(b[j1])) ++j1;
      if (i1 - i != j1 - j) return i1 - i < j1 - j;
      if (const int order = a.compare(i, i1 - i, b, j, j1 - j); order != 0) return order < 0;
      i = i1;
      j = j1;
    } else {
      if (a[i] != b[j]) return a[i] < b[j];
      ++i;
      ++j;
    }
  }
  if (a.size() - i != b.size() - j) return a.size() - i < b.size() - j;
  return a < b;
}

std::vector<fs::path> expand_inputs(const std::vector<fs::path>& inputs, int* results) {
  std::vector<fs::path> out;
  if (results) *results = 0;
  for (const fs::path& input : inputs) {
    std::error_code code;
    if (!fs::is_directory(input, code)) {
      out.push_back(input);
      continue;
    }
    std::vector<fs::path> found;
    auto entries = fs::directory_iterator(input, code);
    if (code) throw input_error("This folder cannot be read.", input.string(), "Check that it may be opened.");
    for (const auto& entry : entries)
      if (entry.is_regular_file(code) && format_of_name(entry.path()) &&
          !entry.path().filename().string().starts_with('.'))
        found.push_back(entry.path());
    if (found.empty()) throw input_error("There is no picture in this folder.", input.string(), "Name another folder.");
    std::set<std::string> made;
    for (const fs::path& result : results_in(input)) made.insert(result.filename().string());
    const auto before = found.size();
    std::erase_if(found, [&](const fs::path& path) { return made.contains(path.filename().string()); });
    if (found.empty())
      throw input_error("All pictures in this folder are results that Fexel wrote.", input.string(),
                        "Name the folder of the originals, or the files themselves.");
    if (results) *results += static_cast<int>(before - found.size());
    std::ranges::sort(found, [](const fs::path& a, const fs::path& b) {
      return natural_less(a.filename().string(), b.filename().string());
    });
    out.insert(out.end(), found.begin(), found.end());
  }
  return out;
}

std::vector<FrameFile> pages_of(const fs::path& path, const Limits& limits) {
  std::vector<FrameFile> out;
  int number = 0;
  for (PageInfo& page : read_pages(path, limits)) {
    FrameFile frame;
    frame.path = path;
    frame.page = ++number;
    frame.alpha_band = limits.alpha_band;
    frame.info = std::move(page.info);
    frame.trouble = std::move(page.trouble);
    out.push_back(std::move(frame));
  }
  return out;
}

std::vector<FrameFile> list_frames(const std::vector<fs::path>& inputs, bool bands, const Limits& limits) {
  std::vector<FrameFile> out;
  const auto files = expand_inputs(inputs);
  for (const fs::path& path : files) {
    std::vector<FrameFile> pages;
    try {
      pages = pages_of(path, limits);
    } catch (const Error& error) {
      FrameFile frame;
      frame.path = path;
      frame.trouble = error.message();
      out.push_back(frame);
      continue;
    }
    const FrameFile& first = pages.front();
    if (bands && pages.size() == 1 && first.info->bands > 1) {
      if (files.size() > 1)
        throw call_error(
            fmt::format("This picture has {} bands; several files are taken for one band each.", first.info->bands),
            path.string(), "Give one file with all bands, or files with one band each.");
      for (int band = 1; band <= first.info->bands; ++band) {
        out.push_back(first);
        out.back().band = band;
      }
      continue;
    }
    for (FrameFile& page : pages) {
      const auto& names = page.info ? page.info->page_names : std::vector<std::string>();
      if (names.size() == pages.size()) page.name = names[static_cast<std::size_t>(page.page) - 1];
      if (page.info) page.info->page_names.clear();
      out.push_back(std::move(page));
    }
  }
  if (out.empty()) throw call_error("There are no pictures here.", {}, "Name files, or a folder with pictures in it.");
  return out;
}

Limits limits_for(const Chain& chain, Limits limits) {
  if (!chain.sources.empty() && chain.sources.front().alpha_band) limits.alpha_band = true;
  return limits;
}

Limits limits_for(const FrameFile& frame, Limits limits) {
  limits.alpha_band = limits.alpha_band || frame.alpha_band;
  return limits;
}

Image read_frame(const FrameFile& frame, const Limits& limits, const Job& job) {
  if (!frame.info)
    throw input_error(frame.trouble, frame.path.string(), "Leave the frame out, or bring the file back.");
  Image whole = read_picture(frame.path, frame.page, limits_for(frame, limits), {job.stop, {}});
  return frame.band > 0 ? chosen_bands(whole, {frame.band - 1}) : std::move(whole);
}

bool is_pair(const FrameFile& one, const FrameFile& two) {
  const fs::path &a = one.path, &b = two.path;
  std::string first = a.stem().string(), second = b.stem().string();
  if (a.parent_path() != b.parent_path() || first.empty() || second.empty()) return false;
  const char x = first.back(), y = second.back();
  first.pop_back();
  second.pop_back();
  return first == second && ((x == 'a' && y == 'b') || (x == 'A' && y == 'B'));
}

bool in_pairs(const std::vector<FrameFile>& frames) {
  if (frames.empty() || frames.size() % 2 != 0) return false;
  for (std::size_t i = 0; i < frames.size(); i += 2)
    if (!is_pair(frames[i], frames[i + 1])) return false;
  return true;
}

bool in_pairs(const Chain& chain, const std::vector<FrameFile>& frames) {
  if (chain.pairing == Pairing::order) return frames.size() > 1;
  return chain.pairing == Pairing::names && in_pairs(frames);
}

std::vector<bool> left_out(const Chain& chain, const std::vector<FrameFile>& frames) {
  std::vector<bool> out(frames.size(), false);
  const auto files = files_of(frames);
  if (frames.empty() || chain.sources.size() != files.back() + 1) return out;
  // Of a stack with channels most pages may be left out: they are looked up, not gone through.
  std::vector<std::set<int>> skipped;
  for (const SourceReference& source : chain.sources) skipped.emplace_back(source.skip.begin(), source.skip.end());
  for (std::size_t i = 0; i < frames.size(); ++i) out[i] = skipped[files[i]].contains(frames[i].page);
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
