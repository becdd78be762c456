#include "chain/run.h"

#include <fmt/format.h>

#include <map>

#include "chain/evaluate.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

std::string replaced(std::string text, const std::string& word, const std::string& value) {
  for (auto at = text.find(word); at != std::string::npos; at = text.find(word, at + value.size()))
    text.replace(at, word.size(), value);
  return text;
}

/// What the chain makes of a file, from its header alone. Raises what keeps it from being used.
Size fits(const Chain& chain, const FileInfo& info, const RunOptions& options, Format format) {
  const Layout layout = lay_out(chain, {{info.width, info.height}, info.bands, info.depth, info.pixel_size});
  layout.require_sound();
  check_fill(chain, info.bands);
  check_fits(format, info.bands, options.depth.value_or(info.depth));
  if (info.frames > 1 && format != Format::tiff)
    throw call_error(fmt::format("{} cannot hold {} pages.", name_of(format), info.frames), "--format",
                     "Use TIFF (--format tiff).");
  return layout.result().size;
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
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    RunItem item;
    item.input = inputs[i];
    try {
      const FileInfo info = read_info(item.input);
      item.format = options.format ? *options.format : *format_named(info.format);
      const std::string ending = extension_of(item.format, info.bands);
      std::string name = replaced(options.name, "{stem}", item.input.stem().string());
      name = replaced(name, "{chain}", options.chain_name);
      name = replaced(name, "{index}", std::to_string(i + 1));
      const bool own_ending = name.find("{ext}") != std::string::npos;
      name = replaced(name, "{ext}", ending);
      if (name.find('{') != std::string::npos || name.find('/') != std::string::npos || name.empty())
        throw call_error(fmt::format("\"{}\" is not a name for a file.", name), "--name",
                         "Use {stem}, {chain}, {index} and {ext}, and no slash.");
      item.output = options.folder / (own_ending ? name : name + "." + ending);
      fits(chain, info, options, item.format);
    } catch (const Error& error) {
      // One picture: a chain that does not fit it is a wrong call. Several: the others can still be done.
      if (error.kind() == Error::Kind::call && (inputs.size() == 1 || error.where() == "--name")) throw;
      item.failure = error;
    }
    if (!item.output.empty()) {
      const fs::path key = fs::absolute(item.output).lexically_normal();
      if (const auto [at, fresh] = taken.emplace(key, item.input); !fresh)
        throw call_error(
            fmt::format("{} and {} would both be written to this file.", at->second.string(), item.input.string()),
            item.output.string(), "Use --name with {stem} or {index}.");
      WriteOptions checks{item.format, {}, true, inputs};
      check_target(item.output, checks);
      std::error_code code;
      if (fs::exists(item.output, code)) {
        item.skip = options.resume && !item.failure;
        checks.replace = options.replace || options.resume;
        check_target(item.output, checks);
      }
    }
    items.push_back(std::move(item));
  }
  return items;
}

RunResult run_one(const Chain& chain, const RunItem& item, const RunOptions& options,
                  const std::vector<fs::path>& sources, const Job& job) {
  if (item.failure) throw *item.failure;
  const FileInfo info = read_info(item.input);
  const Layout layout = lay_out(chain, {{info.width, info.height}, info.bands, info.depth, info.pixel_size});
  RunResult result{layout.result().size.width, layout.result().size.height, true, 0, 0};
  std::vector<Image> pages;
  for (int page = 1; page <= info.frames; ++page) {
    const Job part = job.part((page - 1.0) / info.frames, static_cast<double>(page) / info.frames);
    const Pyramid source(std::make_shared<const Image>(read_picture(item.input, page, {}, part.part(0, 0.4))));
    if (source.base().width() != info.width || source.base().height() != info.height ||
        source.base().bands() != info.bands)
      throw input_error(fmt::format("Page {} has another size than the first.", page), item.input.string(),
                        "Split the file into files of one size.");
    WarpReport report;
    Image out = evaluate(chain, layout, source, part.part(0.4, 0.8), &report);
    result.exact = result.exact && report.exact;
    result.clamped += report.clamped;
    result.empty_share +=
        static_cast<double>(report.empty) / (static_cast<double>(out.width()) * out.height()) / info.frames;
    if (options.depth && *options.depth != out.depth()) out = with_depth(out, *options.depth, result.clamped);
    pages.push_back(std::move(out));
  }
  WriteOptions how{item.format, layout.result().pixel, options.replace, sources, options.quality};
  write_pictures(item.output, pages, how, job.part(0.8, 1));
  return result;
}

}  // namespace fexel
