#include <fmt/format.h>

#include <numeric>
#include <set>

#include "base/printable.h"
#include "batch/journal.h"
#include "batch/values.h"
#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/shard.h"
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
  std::string chain, format, depth = "keep", empty, range, shard, report, calibration, marks_format = "png", style,
                             include, values, journal;
  std::vector<std::string> inputs;
  double memory = 0, pixels = 0;
  RunOptions run;
  std::string folder;
  std::string alpha = {};
  bool dry_run = false, salvage = false, marks = false, subfolders = false;
};

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
    run_.limits = with_alpha(options.alpha, limits_for(chain_, run_.limits));
    if (!options.style.empty()) chain_.mark_style = style_named(options.style);
  }

  int run() {
    plan();
    try {
      if (align_step_of(chain_) && !options_.dry_run) search();
      if (options_.dry_run)
        for (const RunItem& item : items_) {
          if (item.failure)
            fail(item, *item.failure);
          else
            skip(item);
        }
      else
        make_all();
      if (journal_) journal_->tidy();
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
    const auto inputs = take_inputs(left_out);
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
    for (const RunItem& item : sequence_)
      if (!item.frames.empty() && item.frames.front().info && !common_.quiet)
        for (const std::string& note : item.frames.front().info->notes) complain(item.input.string() + ": " + note);
    if (options_.marks) check_copies(chain_, sequence_, copy_format(), run_);
    items_ = sequence_;
    if (!options_.shard.empty()) {
      const Shard shard = read_shard(options_.shard);
      items_.clear();
      for (std::size_t i = 0; i < sequence_.size(); ++i)
        if (static_cast<int>(i % static_cast<std::size_t>(shard.parts)) == shard.part - 1)
          items_.push_back(sequence_[i]);
    }
    if (options_.dry_run) return;
    fs::create_directories(options_.folder, code);
    if (code) throw call_error("This folder cannot be made.", options_.folder, "Choose another one with --out.");
    sweep_left_behind(options_.folder);
    if (!journal_file().empty()) begin_journal(inputs);
  }

  /// The inputs in their order; their subfolders, and the values that a table has for them, are in the options of the
  /// run.
  std::vector<fs::path> take_inputs(int& left_out) {
    std::vector<fs::path> inputs;
    if (options_.include.empty() && !options_.subfolders) {
      inputs = expand_inputs({options_.inputs.begin(), options_.inputs.end()}, &left_out);
    } else {
      const ChosenInputs chosen = choose_inputs({{options_.inputs.begin(), options_.inputs.end()},
                                                 options_.include,
                                                 options_.subfolders,
                                                 {},
                                                 options_.folder});
      left_out = chosen.results;
      for (const std::string& note : chosen.notes)
        if (!common_.quiet) complain(note);
      if (chosen.files.empty())
        throw input_error("There is no such picture.", options_.inputs.front(), "Name another folder or pattern.");
      for (const ChosenInput& input : chosen.files) {
        inputs.push_back(input.file);
        if (!input.subfolder.empty()) run_.own[input.file].subfolder = input.subfolder;
      }
    }
    if (!options_.values.empty()) take_values(inputs);
    // Corrections of a run in the window hold when it is resumed here.
    std::error_code code;
    for (const fs::path& journal : {fs::path(options_.journal), journal_path(options_.folder, run_.chain_name)})
      if (run_.resume && !journal.empty() && fs::exists(journal, code)) {
        const Journal before = load_journal(journal);
        if (!same_run(before, chain_)) {
          complain(journal.string() + ": this run went by another chain; its corrections are not used.");
          break;
        }
        for (const auto& [input, own] : before.options.own)
          for (const fs::path& file : inputs)
            if (own.chain && fs::absolute(file).lexically_normal() == input) {
              run_.own[file].chain = own.chain;
              corrected_[input] = *own.chain;
            }
        break;
      }
    if (align_step_of(chain_))
      for (const auto& [input, own] : run_.own)
        if (own.chain)
          throw call_error("Files of a chain that aligns are one sequence; they have no values of their own.",
                           input.string(), "Take the align step out, or the values.");
    return inputs;
  }

  void take_values(const std::vector<fs::path>& inputs) {
    try {
      const ValuesTable table = ValuesTable::parse(read_text(options_.values));
      for (const std::string& name : table.without_file(inputs))
        if (!common_.quiet) complain(fmt::format("{}: there is no input {}.", options_.values, printable(name)));
      for (const fs::path& input : inputs)
        if (const auto own = table.chain_for(input, chain_)) run_.own[input].chain = own;
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::call) throw;
      throw error.at(options_.values + ": " + error.where());
    }
  }

  /// Where the journal is kept: where it was asked for, or where a run from the window left one.
  fs::path journal_file() const {
    // Parts of a run that go on at the same time would write over each other's.
    if (!options_.journal.empty() || !options_.shard.empty()) return options_.journal;
    const fs::path usual = journal_path(options_.folder, run_.chain_name);
    std::error_code code;
    return run_.resume && fs::exists(usual, code) ? usual : fs::path();
  }

  void begin_journal(const std::vector<fs::path>& inputs) {
    Journal journal;
    std::error_code code;
    if (fs::exists(journal_file(), code)) {
      if (!run_.resume && !run_.replace)
        throw call_error("This file is there already.", journal_file().string(),
                         "Go on from it (--resume), say that it may be replaced (--replace), or name another one.");
      run_.keep.check(journal_file());
      // What is no journal is not replaced by one.
      journal = load_journal(journal_file());
      if (!run_.resume) journal = {};
    }
    const auto absolute = [](const fs::path& path) { return fs::absolute(path).lexically_normal(); };
    journal.chain = chain_;
    journal.options = run_;
    journal.options.own.clear();
    // What a table says stays with the table; the journal tells of corrections.
    for (const auto& [input, chain] : corrected_) journal.options.own[input].chain = chain;
    journal.inputs.clear();
    for (const fs::path& input : inputs) {
      const auto own = run_.own.find(input);
      journal.inputs.push_back({absolute(input), own == run_.own.end() ? fs::path() : own->second.subfolder});
    }
    journal_ = std::make_unique<JournalWriter>(journal_file(), std::move(journal));
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

  /// Makes all items, several at a time, and says in their order what became of them.
  void make_all() {
    std::vector<std::size_t> which(items_.size());
    std::iota(which.begin(), which.end(), std::size_t{0});
    std::vector<std::optional<BatchOutcome>> outcomes(items_.size());
    std::vector<std::vector<fs::path>> copies(items_.size());
    std::size_t told = 0;
    BatchHow how;
    if (options_.marks)
      how.after = [&](std::size_t i, const BatchOutcome&, const Job& job) {
        // A result that stands may lack its copy.
        copies[i] = write_copies(chain_for(items_[i].input, chain_, run_), items_[i], copy_format(), run_, job);
      };
    how.ended = [&](std::size_t i, const BatchOutcome& outcome) {
      outcomes[i] = outcome;
      keep(items_[i], outcome);
      for (; told < items_.size() && outcomes[told]; ++told) tell(items_[told], *outcomes[told], copies[told]);
    };
    const auto rest = [&] {
      for (; told < items_.size(); ++told)
        if (outcomes[told]) tell(items_[told], *outcomes[told], copies[told]);
    };
    const std::string what =
        items_.size() == 1 ? items_.front().input.filename().string() : fmt::format("{} pictures", items_.size());
    try {
      run_batch(chain_, items_, which, run_, how, job_of(common_, what));
    } catch (const Error&) {
      rest();
      throw;
    }
    end_progress(common_);
  }

  /// What became of an item, into the journal.
  void keep(const RunItem& item, const BatchOutcome& outcome) {
    if (!journal_) return;
    journal_->add(fs::absolute(item.input).lexically_normal(), entry_for(item, outcome, run_.folder));
  }

  void tell(const RunItem& item, const BatchOutcome& outcome, const std::vector<fs::path>& copies) {
    end_progress(common_);
    if (!outcome.failure) {
      if (outcome.result)
        done(item, *outcome.result, copies);
      else
        skip(item);
      return;
    }
    const Error& error = *outcome.failure;
    if (error.kind() == Error::Kind::call && !item.failure && items_.size() == 1) throw error;
    fail(item, error);
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
  std::unique_ptr<JournalWriter> journal_;
  std::map<fs::path, Chain> corrected_;  // of an earlier run
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
  add_alpha(*verb, options->alpha);
  verb->add_flag("--salvage", options->salvage, "use what there is of a stack that is cut short");
  verb->add_flag("--dry-run", options->dry_run, "say what would be written, and write nothing");
  verb->add_option("--include", options->include, "of folders only names that fit, such as \"IMG_*.tif *.png\"");
  verb->add_flag("--subfolders", options->subfolders,
                 "folders with all below them; results go to the same below --out");
  verb->add_option("--values", options->values,
                   "CSV of values that differ from file to file: file,/steps/0/degrees,... and a row a file");
  verb->add_option("--journal", options->journal,
                   "a file that tells of each input at once what became of it; a run in the window goes on from it");
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
