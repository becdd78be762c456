#include <fmt/format.h>

#include <set>

#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/safe_file.h"
#include "report/marked_run.h"
#include "report/styles.h"
#include "run/align_search.h"
#include "run/run.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

struct ApplyOptions {
  std::string chain, format, depth = "keep", empty, range, shard, report, calibration, marks_format = "png", style;
  std::vector<std::string> inputs;
  double memory = 0, pixels = 0;
  RunOptions run;
  std::string folder;
  bool dry_run = false, salvage = false, marks = false;
};

/// "I/N": the I-th of N equal parts of the inputs, counted from 1.
std::pair<int, int> read_shard(const std::string& text) {
  const auto numbers = numbers_in(text, '/');
  const double part = numbers && numbers->size() == 2 ? numbers->front() : 0, parts = part > 0 ? numbers->back() : 0;
  if (part < 1 || parts < part || parts > 100000 || part != std::floor(part) || parts != std::floor(parts))
    throw call_error(fmt::format("\"{}\" is not a shard.", text), "--shard", "Give I/N, such as 1/4.");
  return {static_cast<int>(part), static_cast<int>(parts)};
}

/// "LO,HI": two numbers.
std::pair<double, double> read_range(const std::string& text) {
  const auto numbers = numbers_in(text, ',');
  const double low = numbers && numbers->size() == 2 ? numbers->front() : 0, high = numbers ? numbers->back() : 0;
  if (!numbers || numbers->size() != 2 || std::abs(low) >= 1e12 || std::abs(high) >= 1e12 || low == high)
    throw call_error(fmt::format("\"{}\" is not a range.", text), "--range",
                     "Give two different numbers, LO,HI, such as 100,4000.");
  return {low, high};
}

std::string how_made(const RunResult& result) {
  if (result.exact) return "exact";
  if (result.resamplings == 0) return "worked out of whole pixels";
  return result.resamplings == 1 ? "resampled once" : fmt::format("resampled {} times", result.resamplings);
}

Json entry(const RunItem& item) {
  return {{"input", item.input.string()},
          {"output", item.target.path.empty() ? Json() : Json(item.target.path.string())}};
}

/// The options of a run, from the words of the call.
RunOptions run_options(const ApplyOptions& options) {
  RunOptions run = options.run;
  std::string stem = fs::path(options.chain).filename().string();
  for (const std::string_view ending : {".json", ".fexel"})
    if (stem.ends_with(ending)) stem.resize(stem.size() - ending.size());
  run.chain_name = stem == "-" ? "chain" : stem;
  run.folder = options.folder;
  if (!options.format.empty()) run.format = format_named(options.format);
  if (options.depth != "keep")
    run.finish.depth = options.depth == "u8" ? Depth::u8 : options.depth == "u16" ? Depth::u16 : Depth::f32;
  const auto words = empty_words();
  run.keep_alpha = options.empty.empty();
  if (!options.empty.empty())
    run.finish.empty = static_cast<EmptyAs>(std::ranges::find(words, options.empty) - words.begin());
  if (!options.range.empty()) run.finish.range = read_range(options.range);
  if (options.memory > 0) run.memory = run.limits.memory = static_cast<std::int64_t>(options.memory * 1024 * 1024);
  if (options.pixels > 0) {
    run.limits.pixels = static_cast<std::int64_t>(options.pixels * 1e6);
    run.limits.bytes = std::max(run.limits.bytes, 16 * run.limits.pixels);
  }
  run.limits.salvage = options.salvage;
  if (options.chain != "-") run.keep.add(options.chain, "the chain");
  if (!options.report.empty()) run.keep.add(options.report, "the report");
  return run;
}

/// One call of the verb: what it plans, does and says.
class ApplyRun {
 public:
  ApplyRun(const Common& common, const ApplyOptions& options)
      : common_(common),
        options_(options),
        chain_(with_calibration(load_chain(options.chain), options.calibration)),
        run_(run_options(options)) {
    if (!options.style.empty()) chain_.mark_style = style_named(options.style);
  }

  int run() {
    plan();
    try {
      if (align_step_of(chain_) && !options_.dry_run) search();
      for (const RunItem& item : items_) {
        if (common_.stop.stop_requested()) throw cancelled_error();
        if (!item.failure && options_.dry_run)
          skip(item);
        else
          make(item);
      }
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::cancelled) throw;
      end_progress(common_);
      return ended(true);
    }
    return ended(false);
  }

 private:
  void plan() {
    std::error_code code;
    if (!fs::is_directory(options_.folder, code) && fs::exists(options_.folder, code))
      throw call_error("This is not a folder.", options_.folder, "Name a folder with --out.");
    int left_out = 0;
    const auto inputs = expand_inputs({options_.inputs.begin(), options_.inputs.end()}, &left_out);
    if (left_out > 0 && !common_.quiet)
      complain(fmt::format("Left out: {} picture{} that Fexel wrote, as records in the folder say.", left_out,
                           left_out == 1 ? "" : "s"));
    sequence_ = plan_run(chain_, inputs, run_, {common_.stop, {}});
    if (!options_.report.empty()) protect_from_report(inputs);
    if (chain_.calibration)
      for (const RunItem& item : sequence_)
        if (!item.frames.empty() && item.frames.front().info) {
          const FileInfo& info = *item.frames.front().info;
          if (const auto unfit = unfit_for(*chain_.calibration, {info.width, info.height}))
            complain(item.input.string() + ": " + *unfit);
        }
    if (options_.marks) check_copies(chain_, sequence_, copy_format(), run_);
    items_ = sequence_;
    if (!options_.shard.empty()) {
      const auto [part, parts] = read_shard(options_.shard);
      items_.clear();
      for (std::size_t i = 0; i < sequence_.size(); ++i)
        if (static_cast<int>(i % static_cast<std::size_t>(parts)) == part - 1) items_.push_back(sequence_[i]);
    }
    if (options_.dry_run) return;
    fs::create_directories(options_.folder, code);
    if (code) throw call_error("This folder cannot be made.", options_.folder, "Choose another one with --out.");
    sweep_left_behind(options_.folder);
  }

  /// Raises a call error where the report would replace what the run reads or writes.
  void protect_from_report(const std::vector<fs::path>& inputs) const {
    ProtectedPaths keep;
    if (options_.chain != "-") keep.add(options_.chain, "the chain");
    for (const fs::path& input : inputs) keep.add(input, "the source");
    for (const fs::path& also : read_by(chain_)) keep.add(also, "a reference of the chain");
    for (const RunItem& item : sequence_)
      if (!item.target.path.empty())
        for (const fs::path& file : files_of(item.target, static_cast<int>(item.frames.size())))
          keep.add(file, "a result of this run");
    if (options_.marks)
      for (const RunItem& item : sequence_)
        for (const fs::path& file : copies_of(item, copy_format())) keep.add(file, "a marked copy of this run");
    // A resumed run says anew what there is.
    check_report(options_.report, run_.replace || run_.resume, keep);
  }

  /// Finds the transforms of the sequence; frames that did not match fail.
  void search() {
    chain_ = with_sequence_searched(chain_, sequence_, run_, job_of(common_, "search"));
    end_progress(common_);
    const auto& found = std::get<AlignStep>(chain_.steps[static_cast<std::size_t>(*align_step_of(chain_))].kind).frames;
    for (RunItem& item : items_) {
      const FoundFrame& frame = found[static_cast<std::size_t>(item.first_frame)];
      if (frame.status == MatchStatus::failed && !item.failure && item.frames.size() == 1)
        item.failure = input_error("It was not matched: " + frame.reason, item.input.string(),
                                   "Look at it; take it out of the inputs, or widen what may be matched.");
    }
  }

  CopyFormat copy_format() const {
    return static_cast<CopyFormat>(std::ranges::find(copy_format_words(), options_.marks_format) -
                                   copy_format_words().begin());
  }

  void skip(const RunItem& item) {
    Json line = entry(item);
    line["reason"] = item.skip ? "exists" : "dry run";
    out_["skipped"].push_back(line);
    if (!common_.json)
      say("{} {} -> {}\n", item.skip ? "exists already:" : "would write:", item.input.string(),
          item.target.path.string());
  }

  void make(const RunItem& item) {
    try {
      const bool stands = item.skip && !item.failure;
      std::optional<RunResult> result;
      if (!stands) result = run_one(chain_, item, run_, job_of(common_, item.input.filename().string()));
      // A result that stands may lack its copy.
      const auto copies = options_.marks ? write_copies(chain_, item, copy_format(), run_, job_of(common_, "marks"))
                                         : std::vector<fs::path>();
      end_progress(common_);
      if (stands)
        skip(item);
      else
        done(item, *result, copies);
    } catch (const std::bad_alloc&) {
      fail(item, input_error("There is not enough memory for this picture.", item.input.string(),
                             "Give less (--max-memory), so that it goes by parts, or a smaller picture."));
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      if (error.kind() == Error::Kind::call && !item.failure && items_.size() == 1) {
        end_progress(common_);
        throw;
      }
      fail(item, error);
    }
  }

  void done(const RunItem& item, const RunResult& result, const std::vector<fs::path>& copies) {
    Json line = entry(item);
    line.update({{"width", result.width},
                 {"height", result.height},
                 {"exact", result.exact},
                 {"empty_share", result.empty_share},
                 {"clamped", result.clamped}});
    if (!result.notes.empty()) line["notes"] = result.notes;
    for (const fs::path& copy : copies) line["marked"].push_back(copy.string());
    out_["done"].push_back(line);
    if (!common_.json)
      say("{} -> {}: {} x {} px, {}{}{}\n", item.input.string(), item.target.path.string(), result.width, result.height,
          how_made(result), result.empty_share > 0 ? fmt::format(", {:.1f} % empty", 100 * result.empty_share) : "",
          result.clamped > 0 ? fmt::format(", {} samples clamped", result.clamped) : "");
    for (const fs::path& copy : copies)
      if (!common_.json) say("  with marks: {}\n", copy.string());
    // Of many results each thing is said once.
    for (const std::string& note : result.notes)
      if (!common_.json && !common_.quiet && said_.insert(note).second) complain("note: " + note);
  }

  void fail(const RunItem& item, const Error& error) {
    end_progress(common_);
    Json line = entry(item);
    line["error"] = logged_error(error);
    out_["failed"].push_back(line);
    if (!common_.json) complain(std::string("fexel-cli: ") + error.what());
  }

  int ended(bool cancelled) {
    if (cancelled) {
      out_["cancelled"] = true;
      complain(
          fmt::format("Cancelled: {} of {} are written whole, and no half file is left. Run it again with --resume "
                      "to do the rest.",
                      out_["done"].size(), items_.size()));
    }
    if (common_.json) say_json(out_);
    if (!options_.report.empty()) write_text(options_.report, to_text(out_, 2) + "\n", run_.replace || run_.resume);
    return out_["failed"].empty() && !cancelled ? all_done : inputs_failed;
  }

  const Common& common_;
  const ApplyOptions& options_;
  Chain chain_;
  RunOptions run_;
  std::vector<RunItem> sequence_, items_;  // all inputs, and this shard's
  std::set<std::string> said_;
  Json out_{{"done", Json::array()}, {"failed", Json::array()}, {"skipped", Json::array()}};
};

int run_apply(const Common& common, const ApplyOptions& options) {
  return ApplyRun(common, options).run();
}

}  // namespace

void add_apply(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<ApplyOptions>();
  CLI::App* verb = app.add_subcommand("apply", "runs a chain over pictures");
  verb->add_option("CHAIN", options->chain, "the chain; - for standard input")->required();
  verb->add_option("INPUT", options->inputs, "pictures or folders")->required();
  verb->add_option("--out", options->folder, "the folder to write to; made when missing")->required();
  verb->add_option("--name", options->run.name, "the result's name, from {stem}, {chain}, {index} and {ext}");
  verb->add_option("--format", options->format, "tiff, png, jpeg, pnm or pfm; the source's without it")
      ->check(CLI::IsMember({"tiff", "png", "jpeg", "pnm", "pfm"}));
  verb->add_option("--quality", options->run.finish.quality, "of JPEG, 1 to 100 (92)")->check(CLI::Range(1, 100));
  verb->add_option("--depth", options->depth, "keep, u8, u16 or f32; clamps, never scales")
      ->check(CLI::IsMember({"keep", "u8", "u16", "f32"}));
  verb->add_option("--range", options->range, "LO,HI: these samples become the depth's lowest and highest");
  verb->add_option("--empty", options->empty,
                   "how empty pixels are told: fill, alpha, nan or mask (a picture beside); as the source without it")
      ->check(CLI::IsMember(empty_words()));
  verb->add_option("--max-memory", options->memory,
                   "MB that a run may take; larger TIFFs are read and written by parts (half of the machine's)")
      ->check(number_from(64.0, 1e9));
  verb->add_option("--max-pixels", options->pixels, "megapixels of a page; a file that says more is refused (4000)")
      ->check(number_from(0.001, 1e6));
  verb->add_flag("--replace", options->run.replace, "existing files may be replaced (never a source)");
  verb->add_flag("--resume", options->run.resume,
                 "results that stand as their records say are skipped; what a broken run left is made whole");
  verb->add_flag("--salvage", options->salvage, "use what there is of a stack that is cut short");
  verb->add_flag("--dry-run", options->dry_run, "say what would be written, and write nothing");
  verb->add_option("--shard", options->shard, "I/N: only the I-th of N parts of the inputs");
  verb->add_option("--calibration", options->calibration,
                   "a name in the library, a file, or none, in place of the chain's calibration");
  verb->add_flag("--marks", options->marks, "beside each result a copy with the chain's marks, NAME-marked.png");
  verb->add_option("--marks-format", options->marks_format, "of these copies: png, tiff, jpeg, svg or pdf (png)")
      ->check(CLI::IsMember(copy_format_words()));
  verb->add_option("--style", options->style,
                   "a name in the library, or a file: how the marks look, in place of the chain's style");
  verb->add_option("--report", options->report, "write what --json says to this file too");
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_apply(common, *options); });
}

}  // namespace fexel::cli
