#include "run/run.h"

#include <fmt/format.h>

#include <map>

#include "run/align_search.h"
#include "run/by_parts.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// The words of a name that stand in braces, each replaced once, from left to right: what a file's own name holds is no
/// word.
std::string named_by(const std::string& pattern, const std::map<std::string, std::string>& words, bool& own_ending) {
  std::string out;
  for (std::size_t at = 0; at < pattern.size();) {
    if (pattern[at] == '{') {
      const auto end = pattern.find('}', at);
      const std::string word = end == std::string::npos ? "" : pattern.substr(at + 1, end - at - 1);
      const auto found = words.find(word);
      if (found == words.end())
        throw call_error(fmt::format("\"{}\" is not a name for a file.", pattern), "--name",
                         "Use {stem}, {chain}, {index} and {ext}, and no slash.");
      out += found->second;
      own_ending = own_ending || word == "ext";
      at = end + 1;
    } else {
      out += pattern[at++];
    }
  }
  if (out.empty() || out.find('/') != std::string::npos)
    throw call_error(fmt::format("\"{}\" is not a name for a file.", out), "--name",
                     "Use {stem}, {chain}, {index} and {ext}, and no slash.");
  return out;
}

/// What is written of a source that itself has an alpha band.
Finish finish_for(const RunOptions& options, Format format, const FileInfo& info) {
  Finish finish = options.finish;
  if (options.keep_alpha && info.alpha && finish.empty == EmptyAs::fill &&
      (format == Format::tiff || format == Format::png))
    finish.empty = EmptyAs::alpha;
  return finish;
}

WriteHow how_of(const RunOptions& options) {
  WriteHow how;
  how.limits = options.limits;
  how.memory = options.memory;
  return how;
}

/// The record beside a result, if there is one that can be read.
std::optional<Record> record_beside(const Target& target) {
  std::error_code code;
  if (target.record.empty() || !fs::exists(target.record, code)) return std::nullopt;
  try {
    return load_record(target.record);
  } catch (const Error&) {
    return std::nullopt;
  }
}

/// Whether every file of a record is there as it was written.
bool whole(const Record& record, const fs::path& folder, const Job& job) {
  std::error_code code;
  return !record.results.empty() && std::ranges::all_of(record.results, [&](const Record::File& file) {
    const fs::path path = folder / file.file.path;
    return fs::is_regular_file(path, code) && checksum(path, {job.stop, {}}) == file.file.sha256;
  });
}

/// Whether a file may be replaced by a resumed run: it is not there, it is a record, or it is as the record says.
bool ours(const fs::path& file, const Target& target, const std::optional<Record>& record, const Job& job) {
  std::error_code code;
  if (!fs::exists(fs::symlink_status(file, code))) return true;
  if (!record) return false;
  if (file == target.record) return true;
  return std::ranges::any_of(record->results, [&](const Record::File& made) {
    return made.file.path == file.filename() && fs::is_regular_file(file, code) &&
           checksum(file, {job.stop, {}}) == made.file.sha256;
  });
}

/// Sees to it that nobody else writes the item's files, that none is protected, and that they are free.
void claim(RunItem& item, const Chain& chain, const RunOptions& options, std::map<std::string, fs::path>& taken,
           const Job& job) {
  const int pages = static_cast<int>(item.frames.size());
  const auto files = files_of(item.target, pages);
  const bool folds = folds_case(item.target.path.parent_path());
  for (const fs::path& file : files) {
    std::string key = fs::absolute(file).lexically_normal().string();
    if (folds)
      std::ranges::transform(key, key.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (const auto [at, fresh] = taken.emplace(key, item.input); !fresh)
      throw call_error(
          fmt::format("{} and {} would both be written to this file.", at->second.string(), item.input.string()),
          file.string(), "Use --name with {stem} or {index}.");
    check_name_length(file);
    item.target.keep->check(file);
  }
  if (item.failure) return;
  if (options.resume && !options.replace) {
    if (stands(item, chain, options.limits.alpha_band, job)) {
      item.skip = true;
      return;
    }
    // What a broken run, or one with another chain, left here is ours as long as nobody changed it.
    const auto record = record_beside(item.target);
    if (std::ranges::all_of(files, [&](const fs::path& file) { return ours(file, item.target, record, job); })) {
      item.target.replace = true;
      return;
    }
    item.failure = input_error("A file of this name is there, and it is not what a record beside it says; it was kept.",
                               item.target.path.string(), "Move it away, or say that it may be replaced (--replace).");
    return;
  }
  if (options.resume && stands(item, chain, options.limits.alpha_band, job)) item.skip = true;
  Target checked = item.target;
  // A record alone, of a run that was killed, holds nothing up.
  std::error_code code;
  if (!fs::exists(item.target.path, code) && record_beside(item.target)) checked.record.clear();
  check_target_files(checked, pages);
}

}  // namespace

const Chain& chain_for(const fs::path& input, const Chain& chain, const RunOptions& options) {
  const auto own = options.own.find(input);
  return own != options.own.end() && own->second.chain ? *own->second.chain : chain;
}

double memory_for(const RunItem& item, const Chain& chain, const RunOptions& options) {
  if (item.failure) return 0;
  double most = 0;
  for (std::size_t page = 0; page < item.frames.size(); ++page) {
    if (!item.frames[page].info) continue;
    const FileInfo& info = *item.frames[page].info;
    const Layout layout = lay_out(chain_for(item.input, chain, options), {{info.width, info.height},
                                                                          info.bands,
                                                                          info.depth,
                                                                          info.pixel_size,
                                                                          {},
                                                                          item.first_frame + static_cast<int>(page)});
    most = std::max(most, memory_for(chain, layout, info, item.target));
  }
  return most;
}

std::vector<fs::path> read_by(const Chain& chain) {
  std::vector<fs::path> out;
  for (const Step& step : chain.steps)
    if (const auto* align = std::get_if<AlignStep>(&step.kind))
      if (const AlignReference& against = align->against; against.mode == ReferenceMode::picture)
        out.emplace_back(against.path);
  Chain copy = chain;
  for (const std::string* file : files_of_steps(copy)) out.emplace_back(*file);
  return out;
}

bool stands(const RunItem& item, const Chain& chain, bool alpha_band, const Job& job) {
  const auto record = record_beside(item.target);
  if (!record || !whole(*record, item.target.record.parent_path(), job)) return false;
  const Chain asked = for_record(for_frames(chain, item.first_frame, static_cast<int>(item.frames.size())));
  // What an align step finds depends on all frames of its sequence: unless the chain says it, it is searched anew.
  return write_chain(record->chain) == write_chain(asked) && record->name == item.target.path.filename().string() &&
         record->format == item.target.format && record->finish == item.target.finish &&
         record->compress == item.target.compress && record->alpha_band == alpha_band && record->sources.size() == 1 &&
         record->sources.front().sha256 == checksum(item.input, {job.stop, {}});
}

std::vector<RunItem> plan_run(const Chain& chain, const std::vector<fs::path>& inputs, const RunOptions& options,
                              const Job& job) {
  std::vector<RunItem> items;
  std::map<std::string, fs::path> taken;
  auto keep = std::make_shared<ProtectedPaths>(options.keep);
  for (const fs::path& input : inputs) keep->add(input, "the source");
  for (const fs::path& also : read_by(chain)) keep->add(also, "a reference of the chain");
  for (const auto& [input, own] : options.own)
    if (own.chain)
      for (const fs::path& also : read_by(*own.chain)) keep->add(also, "a reference of the chain");
  int frames = 0;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    job.check();
    RunItem item;
    item.input = inputs[i];
    const auto found = options.own.find(item.input);
    const OwnOfInput* own = found == options.own.end() ? nullptr : &found->second;
    const Chain& its = chain_for(item.input, chain, options);
    item.first_frame = frames;
    try {
      item.frames = pages_of(item.input, options.limits);
      const FileInfo& info = *item.frames.front().info;
      const int pages = static_cast<int>(item.frames.size());
      Target& target = item.target;
      target.format = options.format ? *options.format : *format_named(info.format);
      // The frames of a film become pages; other formats are only read.
      if (target.format >= Format::film) target.format = Format::tiff;
      target.replace = options.replace;
      target.compress = options.compress;
      target.keep = keep;
      target.finish = finish_for(options, target.format, info);
      const Layout layout =
          lay_out(its, {{info.width, info.height}, info.bands, info.depth, info.pixel_size, {}, frames});
      const std::string ending = extension_of(target.format, layout.result().bands);
      bool own_ending = false;
      std::string name = named_by(options.name,
                                  {{"stem", item.input.stem().string()},
                                   {"chain", options.chain_name},
                                   {"index", std::to_string(static_cast<int>(i) + options.first_index)},
                                   {"ext", ending}},
                                  own_ending);
      // A name that is given with the ending of such files needs no second one.
      if (!own_ending && format_of_name(options.name) != target.format) name += "." + ending;
      // The file's own name may hold braces; those are no word for numbers here.
      target.path = (own ? options.folder / own->subfolder : options.folder) / name;
      if (is_numbered(target.path))
        throw call_error("A result cannot have {index} in its own name.", target.path.string(),
                         "Give another name with --name.");
      target.record = record_path(target.path);
      check_name_length(target.record);
      if (pages > 1 && target.format != Format::tiff)
        throw call_error(fmt::format("{} cannot hold {} pages.", name_of(target.format), pages), "--format",
                         "Use TIFF (--format tiff).");
      // The files themselves are checked below, so that a resumed run may find them there.
      Target free = target;
      free.replace = true;
      plan_frames(for_frames(its, frames, pages), item.frames, free, how_of(options));
    } catch (const Error& error) {
      // One picture: a chain that does not fit it is a wrong call. Several: the others can still be done.
      if (error.kind() == Error::Kind::call &&
          (error.where() == "--name" || (inputs.size() == 1 && !options.each_by_itself)))
        throw;
      if (error.kind() == Error::Kind::cancelled) throw;
      item.failure = error;
    }
    if (!item.target.path.empty()) {
      try {
        claim(item, its, options, taken, job);
      } catch (const Error& error) {
        if (error.kind() != Error::Kind::call || !options.each_by_itself) throw;
        item.failure = input_error(error.message(), error.where(), error.remedy());
      }
    }
    frames += std::max(1, static_cast<int>(item.frames.size()));
    items.push_back(std::move(item));
  }
  return items;
}

Chain with_sequence_searched(const Chain& chain, const std::vector<RunItem>& items, const RunOptions& options,
                             const Job& job) {
  const auto at = align_step_of(chain);
  if (!at || items.empty()) return chain;
  std::vector<std::pair<std::size_t, std::size_t>> pages;
  for (std::size_t i = 0; i < items.size(); ++i)
    for (std::size_t page = 0; page < std::max<std::size_t>(1, items[i].frames.size()); ++page)
      pages.emplace_back(i, page);
  Chain out = chain;
  Step& step = out.steps[static_cast<std::size_t>(*at)];
  if (std::get<AlignStep>(step.kind).frames.size() == pages.size()) return out;
  const FrameReader reader{static_cast<int>(pages.size()), [&](int i, const Job& quiet) {
                             const auto [item, page] = pages[static_cast<std::size_t>(i)];
                             if (items[item].failure) throw *items[item].failure;
                             return read_frame(items[item].frames[page], options.limits, quiet);
                           }};
  step.kind = searched(chain, *at, reader, job);
  return out;
}

RunResult run_one(const Chain& chain, const RunItem& item, const RunOptions& options, const Job& job,
                  std::optional<AtHand> at_hand) {
  if (item.failure) throw *item.failure;
  WriteHow how = how_of(options);
  how.at_hand = std::move(at_hand);
  how.sources = watched(item.frames);
  // Headers are read again: the file may be another one since the run was planned.
  const std::vector<FrameFile> frames = pages_of(item.input, options.limits);
  if (frames.size() != item.frames.size())
    throw input_error("The file has another number of pages than when the run began.", item.input.string(),
                      "Run it again when nothing else writes to it.");
  std::error_code code;
  fs::create_directories(item.target.path.parent_path(), code);  // a missing one is said when the file is made
  return write_frames(
      for_frames(chain_for(item.input, chain, options), item.first_frame, static_cast<int>(frames.size())), frames,
      item.target, how, job);
}

}  // namespace fexel
