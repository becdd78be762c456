#include "report/marked_run.h"

#include <fmt/format.h>

#include <set>

#include "base/error.h"
#include "run/align_search.h"

namespace fexel {
namespace fs = std::filesystem;

std::vector<fs::path> copies_of(const RunItem& item, CopyFormat format) {
  std::vector<fs::path> out;
  if (item.target.path.empty()) return out;
  const std::string ending = copy_format_words()[static_cast<std::size_t>(format)];
  for (std::size_t page = 0; page < item.frames.size(); ++page) {
    const std::string number = item.frames.size() > 1 ? fmt::format("-{}", page + 1) : std::string();
    out.push_back(item.target.path.parent_path() / fmt::format("{}-marked{}.{}", item.target.path.stem().string(),
                                                               number,
                                                               ending == "tiff"   ? "tif"
                                                               : ending == "jpeg" ? "jpg"
                                                                                  : ending));
  }
  return out;
}

void check_copies(const Chain& chain, std::vector<RunItem>& items, CopyFormat format, const RunOptions& options) {
  if (chain.marks.empty())
    throw call_error("This chain has no marks.", "/marks",
                     "Add a scale bar or another mark in the window, or leave --marks out.");
  for (RunItem& item : items) {
    if (item.failure || item.frames.empty() || !item.frames.front().info) continue;
    const FileInfo& info = *item.frames.front().info;
    SourceShape shape{{info.width, info.height}, info.bands, info.depth, info.pixel_size};
    const Layout layout = lay_out(for_frames(chain, item.first_frame, static_cast<int>(item.frames.size())), shape);
    const auto problems = mark_problems(chain, shape, layout);
    if (problems.empty()) continue;
    const Error error = call_error(problems.front(), item.input.string());
    if (items.size() == 1) throw error;
    item.failure = error;
  }
  std::set<fs::path> taken;
  for (const RunItem& item : items)
    if (!item.target.path.empty())
      for (const fs::path& file : files_of(item.target, static_cast<int>(item.frames.size())))
        taken.insert(fs::absolute(file).lexically_normal());
  for (RunItem& item : items)
    for (const fs::path& copy : copies_of(item, format)) {
      if (!taken.insert(fs::absolute(copy).lexically_normal()).second)
        throw call_error("A marked copy and another file of this run would have the same name.", copy.string(),
                         "Use --name with {stem} or {index}.");
      check_name_length(copy);
      if (item.target.keep) item.target.keep->check(copy);
      std::error_code code;
      if (options.replace || item.skip || !fs::exists(fs::symlink_status(copy, code))) continue;
      const Error error =
          call_error("This file exists.", copy.string(), "Choose another folder or name, or say --replace.");
      // Nothing says whose it is.
      if (!options.resume) throw error;
      if (!item.failure) item.failure = error;
    }
}

std::vector<fs::path> write_copies(const Chain& chain, const RunItem& item, CopyFormat format,
                                   const RunOptions& options, const Job& job) {
  const std::vector<fs::path> paths = copies_of(item, format);
  const Chain own = for_frames(chain, item.first_frame, static_cast<int>(item.frames.size()));
  for (std::size_t page = 0; page < item.frames.size(); ++page) {
    std::error_code code;
    if (item.skip && !options.replace && fs::exists(fs::symlink_status(paths[page], code))) continue;
    const auto count = static_cast<double>(paths.size());
    const Job part = job.part(static_cast<double>(page) / count, static_cast<double>(page + 1) / count);
    // The picture as it is read and as it is drawn on, with what reading takes.
    const FileInfo& info = *item.frames[page].info;
    const double needed = 3.0 * info.width * info.height *
                          (static_cast<double>(info.bands) * static_cast<double>(bytes_of(info.depth)) + 3);
    if (needed > static_cast<double>(options.memory))
      throw input_error("This picture is too large to be drawn on in the memory that the run may take.",
                        item.input.string(),
                        "Allow more (--max-memory), or mark a smaller copy: its chain may end with a resize.");
    auto source = std::make_shared<const Pyramid>(
        std::make_shared<const Image>(read_frame(item.frames[page], options.limits, part.part(0, 0.3))));
    const Image& base = source->base();
    SourceShape shape{{base.width(), base.height()}, base.bands(), base.depth(), info.pixel_size};
    shape.frame = static_cast<int>(page);
    const Layout layout = lay_out(own, shape);
    layout.require_sound();
    auto pictures = std::make_shared<const RunPictures>(std::move(source), own, layout);
    MarkedResult result(own, shape, layout, std::move(pictures), options.finish.range);
    result.set_frame(item.first_frame + static_cast<int>(page) + 1);
    write_marked_copy(result, paths[page], format, options.replace, item.target.keep, part.part(0.3, 1));
  }
  return paths;
}

}  // namespace fexel
