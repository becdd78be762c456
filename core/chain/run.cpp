#include "chain/run.h"

#include <fmt/format.h>
#include <unistd.h>

#include <map>

#include "chain/align_run.h"
#include "chain/evaluate.h"
#include "chain/stream.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

std::string replaced(std::string text, const std::string& word, const std::string& value) {
  for (auto at = text.find(word); at != std::string::npos; at = text.find(word, at + value.size()))
    text.replace(at, word.size(), value);
  return text;
}

SourceShape shape_of(const FileInfo& info) {
  return {{info.width, info.height}, info.bands, info.depth, info.pixel_size};
}

/// Raises what keeps a file from being used, from its header alone, and settles how it is gone through.
void fit(const Chain& chain, const FileInfo& info, const RunOptions& options, RunItem& item) {
  const Format format = item.format;
  item.finish = options.finish;
  if (options.keep_alpha && info.alpha && item.finish.empty == EmptyAs::fill &&
      (format == Format::tiff || format == Format::png))
    item.finish.empty = EmptyAs::alpha;
  const Layout layout = lay_out(chain, shape_of(info));
  layout.require_sound();
  check_fill(chain, info.bands);
  check_finish(item.finish, format, layout.result().bands, layout.result().depth);
  if (info.frames > 1 && format != Format::tiff)
    throw call_error(fmt::format("{} cannot hold {} pages.", name_of(format), info.frames), "--format",
                     "Use TIFF (--format tiff).");
  item.by_parts = memory_for(chain, layout, info, item.finish) > static_cast<double>(options.memory);
  if (item.by_parts && item.pages > 1 && align_step_of(chain))
    throw input_error("Its pages are too large to be aligned by a chain.", item.input.string(),
                      "Align it with fexel-cli align, which goes through it page by page.");
  if (item.by_parts) check_by_parts(chain, layout, item, options);
}

/// Sees to it that nobody else writes the item's files, that they are no sources, and that they are free.
void claim(RunItem& item, const RunOptions& options, const std::vector<fs::path>& inputs,
           std::map<fs::path, fs::path>& taken) {
  std::vector<fs::path> files = {item.output, item.record};
  if (item.finish.empty == EmptyAs::mask) files.push_back(mask_path(item.output, item.pages));
  for (const fs::path& file : files) {
    const fs::path key = fs::absolute(file).lexically_normal();
    if (const auto [at, fresh] = taken.emplace(key, item.input); !fresh)
      throw call_error(
          fmt::format("{} and {} would both be written to this file.", at->second.string(), item.input.string()),
          file.string(), "Use --name with {stem} or {index}.");
    WriteOptions checks;
    checks.replace = true;
    checks.sources = inputs;
    check_target(file, checks);
  }
  std::error_code code;
  if (options.resume && !item.failure && fs::exists(item.output, code)) item.skip = true;
  WriteOptions checks;
  checks.replace = options.replace || options.resume;
  for (const fs::path& file : files) check_target(file, checks);
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

std::int64_t memory_to_use() {
  return static_cast<std::int64_t>(::sysconf(_SC_PHYS_PAGES)) * ::sysconf(_SC_PAGE_SIZE) / 2;
}

std::vector<fs::path> expand_inputs(const std::vector<fs::path>& inputs) {
  std::vector<fs::path> out;
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
      if (entry.is_regular_file(code) && format_of_name(entry.path())) found.push_back(entry.path());
    std::ranges::sort(found, [](const fs::path& a, const fs::path& b) {
      return natural_less(a.filename().string(), b.filename().string());
    });
    if (found.empty()) throw input_error("There is no picture in this folder.", input.string());
    out.insert(out.end(), found.begin(), found.end());
  }
  return out;
}

std::vector<RunItem> plan_run(const Chain& chain, const std::vector<fs::path>& inputs, const RunOptions& options) {
  std::vector<RunItem> items;
  std::map<fs::path, fs::path> taken;
  int frames = 0;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    RunItem item;
    item.input = inputs[i];
    item.first_frame = frames;
    try {
      const FileInfo info = read_info(item.input, options.limits);
      item.pages = info.frames;
      item.format = options.format ? *options.format : *format_named(info.format);
      const std::string ending = extension_of(item.format, lay_out(chain, shape_of(info)).result().bands);
      std::string name = replaced(options.name, "{stem}", item.input.stem().string());
      name = replaced(name, "{chain}", options.chain_name);
      name = replaced(name, "{index}", std::to_string(i + 1));
      const bool own_ending = name.find("{ext}") != std::string::npos;
      name = replaced(name, "{ext}", ending);
      if (name.find('{') != std::string::npos || name.find('/') != std::string::npos || name.empty())
        throw call_error(fmt::format("\"{}\" is not a name for a file.", name), "--name",
                         "Use {stem}, {chain}, {index} and {ext}, and no slash.");
      item.output = options.folder / (own_ending ? name : name + "." + ending);
      fit(chain, info, options, item);
    } catch (const Error& error) {
      // One picture: a chain that does not fit it is a wrong call. Several: the others can still be done.
      if (error.kind() == Error::Kind::call && (inputs.size() == 1 || error.where() == "--name")) throw;
      item.failure = error;
    }
    if (!item.output.empty()) {
      item.record = record_path(item.output);
      claim(item, options, inputs, taken);
    }
    frames += item.pages;
    items.push_back(std::move(item));
  }
  return items;
}

void check_finish(const Finish& finish, Format format, int bands, Depth source) {
  const Depth depth = finish.depth.value_or(source);
  if (finish.empty == EmptyAs::nan && depth != Depth::f32)
    throw call_error(fmt::format("{} samples cannot be NaN.", name_of(depth)), "--empty",
                     "Convert the samples (--depth f32), or tell empty pixels by --empty alpha or mask.");
  if (finish.empty == EmptyAs::alpha && format != Format::tiff && format != Format::png)
    throw call_error(fmt::format("{} cannot hold an alpha band.", name_of(format)), "--empty",
                     "Use TIFF or PNG (--format), or --empty mask.");
  if (finish.range && !(finish.range->first != finish.range->second))
    throw call_error("The range has no width.", "--range", "Give two different numbers, LO,HI.");
  check_fits(format, bands, depth, finish.empty == EmptyAs::alpha);
}

fs::path mask_path(const fs::path& result, int pages) {
  fs::path path = result;
  return path.replace_extension(pages > 1 ? ".mask.tif" : ".mask.png");
}

Image finished(Image image, const Finish& finish, std::int64_t& clamped) {
  const Depth depth = finish.depth.value_or(image.depth());
  if (finish.range)
    image = with_range(image, depth, finish.range->first, finish.range->second, clamped);
  else if (depth != image.depth())
    image = with_depth(image, depth, clamped);
  if (finish.empty == EmptyAs::nan) put_nan(image);
  if (finish.empty == EmptyAs::alpha) image = with_alpha(image);
  return image;
}

Attached carried_on(const fs::path& source, int bands, const Finish& finish) {
  Attached attached = read_attached(source, bands);
  if (finish.range) attached.profile.clear();
  return attached;
}

WriteOptions write_options(const RunItem& item, const RunOptions& options, const Layout& layout, int bands,
                           const std::vector<fs::path>& sources) {
  WriteOptions how;
  how.format = item.format;
  how.pixel_size = layout.result().pixel;
  how.replace = options.replace || options.resume;
  how.sources = sources;
  how.attached = carried_on(item.input, bands, item.finish);
  how.alpha = item.finish.empty == EmptyAs::alpha;
  return how;
}

void write_finished(const fs::path& path, const std::vector<Image>& pages, WriteOptions how, const Finish& finish,
                    const Job& job) {
  how.quality = finish.quality;
  how.alpha = finish.empty == EmptyAs::alpha;
  const bool with_mask = finish.empty == EmptyAs::mask;
  write_pictures(path, pages, how, job.part(0, with_mask ? 0.8 : 1));
  if (!with_mask) return;
  std::vector<Image> masks;
  for (const Image& page : pages) masks.push_back(mask_picture(page));
  how.format = pages.size() > 1 ? Format::tiff : Format::png;
  write_pictures(mask_path(path, static_cast<int>(pages.size())), masks, how, job.part(0.8, 1));
}

Chain with_sequence_searched(const Chain& chain, const std::vector<RunItem>& items, const RunOptions& options,
                             const Job& job) {
  const auto at = align_step_of(chain);
  if (!at || items.empty()) return chain;
  std::vector<std::pair<std::size_t, int>> pages;
  for (std::size_t i = 0; i < items.size(); ++i)
    for (int page = 1; page <= items[i].pages; ++page) pages.emplace_back(i, page);
  Chain out = chain;
  Step& step = out.steps[static_cast<std::size_t>(*at)];
  if (std::get<AlignStep>(step.kind).frames.size() == pages.size()) return out;
  const FrameReader reader{static_cast<int>(pages.size()), [&](int i, const Job& quiet) {
                             const auto [item, page] = pages[static_cast<std::size_t>(i)];
                             if (items[item].failure) throw *items[item].failure;
                             return read_picture(items[item].input, page, options.limits, quiet);
                           }};
  step.kind = searched(chain, *at, reader, job);
  return out;
}

RunResult run_one(const Chain& whole, const RunItem& item, const RunOptions& options,
                  const std::vector<fs::path>& sources, const Job& job) {
  if (item.failure) throw *item.failure;
  const Chain chain = for_frames(whole, item.first_frame, item.pages);
  const FileInfo info = read_info(item.input, options.limits);
  const Layout layout = lay_out(chain, shape_of(info));
  if (item.by_parts) {
    const RunResult made = run_by_parts(chain, layout, info, item, options, sources, job.part(0, 0.9));
    if (!item.record.empty())
      save_record(item.record, {item.input}, item.output, item.format, item.finish, made, chain,
                  options.replace || options.resume, job.part(0.9, 1));
    return made;
  }
  RunResult result{
      layout.result().size.width, layout.result().size.height, true, resamplings(layout, layout.last()), 0, 0};
  std::vector<Image> pages;
  for (int page = 1; page <= info.frames; ++page) {
    const Chain now = for_frame(chain, page - 1);
    const Layout here = lay_out(now, shape_of(info));
    const Job part = job.part((page - 1.0) / info.frames, static_cast<double>(page) / info.frames);
    const Pyramid source(
        std::make_shared<const Image>(read_picture(item.input, page, options.limits, part.part(0, 0.4))));
    if (source.base().width() != info.width || source.base().height() != info.height ||
        source.base().bands() != info.bands)
      throw input_error(fmt::format("Page {} has another size than the first.", page), item.input.string(),
                        "Split the file into files of one size.");
    WarpReport report;
    Image out = evaluate(now, here, source, part.part(0.4, 0.8), &report);
    result.exact = result.exact && report.exact;
    result.clamped += report.clamped;
    result.empty_share +=
        static_cast<double>(report.empty) / (static_cast<double>(out.width()) * out.height()) / info.frames;
    pages.push_back(finished(std::move(out), item.finish, result.clamped));
  }
  const WriteOptions how = write_options(item, options, layout, layout.result().bands, sources);
  write_finished(item.output, pages, how, item.finish, job.part(0.8, 0.95));
  if (!item.record.empty())
    save_record(item.record, {item.input}, item.output, item.format, item.finish, result, chain, how.replace,
                job.part(0.95, 1));
  return result;
}

}  // namespace fexel
