#include <fmt/format.h>

#include <set>

#include "cli/output.h"
#include "cli/shard.h"
#include "cli/verbs.h"
#include "run/align_run.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

struct AlignWords {
  std::vector<std::string> inputs, carry;
  std::string shard, out, model = "rigid", against = "first", region, mask, masks, kernel = "cubic", report;
  int band = 0, trial = 0, channel = 0, plane = 0;
  std::string failed = "keep";
  double memory = 0;
  std::string alpha = {};
  bool bands = false, trim = false, compress = false, replace = false, salvage = false;
};

Region read_region(const std::string& text) {
  const auto numbers = numbers_in(text, ',');
  constexpr double most = 100'000'000;
  const bool right =
      numbers && numbers->size() == 4 &&
      std::ranges::all_of(*numbers, [](double v) { return v == std::floor(v) && std::abs(v) <= most; }) &&
      (*numbers)[2] >= 1 && (*numbers)[3] >= 1;
  if (!right)
    throw call_error(fmt::format("\"{}\" is not a region.", text), "--region",
                     "Give x,y,width,height in pixels of the reference, such as 100,50,640,480.");
  const auto whole = [&](std::size_t i) { return static_cast<int>((*numbers)[i]); };
  return {whole(0), whole(1), whole(2), whole(3)};
}

Json as_json(const AlignRunResult& result) {
  Json frames = Json::array();
  for (std::size_t i = 0; i < result.files.size(); ++i) {
    const FoundFrame& match = result.step.frames[i];
    Json frame{{"index", i + 1},       {"file", result.files[i].path.string()},  {"matrix", rows_of(match.matrix)},
               {"score", match.score}, {"uncertainty_px", match.uncertainty_px}, {"status", name_of(match.status)}};
    if (result.files[i].band > 0)
      frame["band"] = result.files[i].band;
    else if (result.files[i].page > 1 || (result.files[i].info && result.files[i].info->frames > 1))
      frame["page"] = result.files[i].page;
    if (!result.files[i].name.empty()) frame["name"] = result.files[i].name;
    if (!match.reason.empty()) frame["reason"] = match.reason;
    // What went wrong when it was written counts, whatever the search had said.
    for (const FrameOutcome& outcome : result.stacks.front().frames)
      if (outcome.file == result.files[i].path && outcome.page == result.files[i].page &&
          outcome.band == result.files[i].band && outcome.status == MatchStatus::failed) {
        frame["status"] = name_of(outcome.status);
        frame["reason"] = outcome.reason;
      }
    frames.push_back(frame);
  }
  Json written = Json::array();
  for (const auto& path : result.written) written.push_back(path.string());
  const CropRectangle& c = result.common;
  return {{"frames", frames},
          {"common_area", {{"x", c.x}, {"y", c.y}, {"width", c.width}, {"height", c.height}}},
          {"seconds", result.seconds},
          {"written", written}};
}

/// One line a frame: where its middle goes, how it is turned and scaled, and how well it is known.
std::string line_of(const AlignRunResult& result, std::size_t i) {
  const FrameFile& file = result.files[i];
  FoundFrame match = result.step.frames[i];
  for (const FrameOutcome& outcome : result.stacks.front().frames)
    if (outcome.file == file.path && outcome.page == file.page && outcome.band == file.band &&
        outcome.status == MatchStatus::failed) {
      match.status = outcome.status;
      match.reason = outcome.reason;
    }
  std::string name = file.path.filename().string();
  if (!file.name.empty())
    name = file.name;
  else if (file.band > 0)
    name += fmt::format(", band {}", file.band);
  else if (file.info && file.info->frames > 1)
    name += fmt::format(", page {}", file.page);
  if (match.status == MatchStatus::failed) return fmt::format("{:>4}  failed     {}: {}", i + 1, name, match.reason);
  const Size size = file.info ? Size{file.info->width, file.info->height} : result.reference;
  const Motion motion = motion_of(match.matrix, size);
  return fmt::format("{:>4}  {:<9}  x {:>9} px  y {:>9} px  turn {:>8}°  scale {:.5f}  score {:.3f}  ±{} px  {}{}",
                     i + 1, name_of(match.status), number_text(motion.shift.x, 3), number_text(motion.shift.y, 3),
                     number_text(motion.degrees, 4), motion.scale, match.score, number_text(match.uncertainty_px, 4),
                     name, match.reason.empty() ? "" : ": " + match.reason);
}

int run_align(const Common& common, const AlignWords& words) {
  AlignRunOptions run;
  run.step.model = *model_named(words.model);
  try {
    run.step.against = reference_from(words.against);
    if (run.step.against.mode == ReferenceMode::picture)
      run.step.against.path = fs::absolute(run.step.against.path).string();
  } catch (const Error& error) {
    throw error.at("--against");
  }
  if (!words.region.empty()) run.step.region = read_region(words.region);
  run.bands = words.bands;
  run.step.alike = words.bands ? SimilarityMetric::structure : SimilarityMetric::brightness;
  run.step.band = words.band;
  run.choice = {words.channel, words.plane};
  run.mask = words.mask;
  run.out = words.out;
  run.carry = {words.carry.begin(), words.carry.end()};
  run.trim = words.trim;
  run.leave_out_failed = words.failed == "leave-out";
  run.compress = words.compress;
  run.replace = words.replace;
  run.limits.salvage = words.salvage;
  run.limits = with_alpha(words.alpha, run.limits);
  run.resampling.kernel = *kernel_named(words.kernel);
  if (!words.masks.empty()) {
    run.masks = load_chain(words.masks).masks;
    run.keep.add(words.masks, "the file of masks");
  }
  if (words.memory > 0) run.memory = run.limits.memory = static_cast<std::int64_t>(words.memory * 1024 * 1024);
  if (!words.report.empty()) run.report = words.report;
  int left_out = 0;
  const auto inputs = expand_inputs({words.inputs.begin(), words.inputs.end()}, &left_out);
  if (!words.shard.empty()) {
    if (run.step.against.mode != ReferenceMode::picture || words.trim || words.bands || !words.carry.empty() ||
        words.channel > 0 || words.plane > 0)
      throw call_error(
          "Only frames that are aligned to a picture of their own have parts, without --trim, --bands, "
          "--carry, --channel and --plane.",
          "--shard", "Give --against file:PATH.");
    if (words.out.find("{index}") == std::string::npos)
      throw call_error("Parts cannot be written to one file.", "--out",
                       "Give a name with {index}, such as frame-{index}.tif.");
    const Shard shard = read_shard(words.shard);
    run.part = {shard.part, shard.parts};
  }
  if (left_out > 0 && !common.quiet)
    complain(fmt::format("Left out: {} picture{} that Fexel wrote, as records in the folder say.", left_out,
                         left_out == 1 ? "" : "s"));
  const auto result = align_files(inputs, run, job_of(common, fs::path(words.out).filename().string()));
  end_progress(common);
  Json json = as_json(result);
  // Of several stacks each thing is said once.
  std::set<std::string> notes;
  for (const RunResult& stack : result.stacks) notes.insert(stack.notes.begin(), stack.notes.end());
  if (!notes.empty()) json["notes"] = notes;
  SelfTest trial;
  if (words.trial > 0) {
    trial = run_self_test(run, result, words.trial, job_of(common, "trial"));
    end_progress(common);
    Json rounds = Json::array();
    for (const SelfTestRound& round : trial.rounds)
      rounds.push_back({{"moved", rows_of(round.moved)},
                        {"status", name_of(round.found.status)},
                        {"error_px", round.error_px},
                        {"seconds", round.seconds}});
    json["trial"] = {{"rounds", rounds},       {"error_px", trial.error_px}, {"stated_px", trial.stated_px},
                     {"failed", trial.failed}, {"noise", trial.noise},       {"seconds", trial.seconds}};
    if (trial.halves > 0)
      json["trial"]["halves"] = {{"pairs", trial.halves},
                                 {"failed", trial.halves_failed},
                                 {"error_px", trial.halves_error_px},
                                 {"stated_px", trial.halves_stated_px}};
  }
  if (common.json) {
    say_json((json));
  } else {
    for (std::size_t i = 0; i < result.files.size(); ++i) say("{}\n", line_of(result, i));
    const std::size_t count = result.files.size();
    say("{} in {:.2f} s; {} {} x {} px from {}, {}.\n", count == 1 ? "1 frame" : fmt::format("{} frames", count),
        result.seconds, count == 1 ? "it has" : "they share", result.common.width, result.common.height,
        result.common.x, result.common.y);
    const auto doubtful = std::ranges::count_if(result.step.frames, [](const FoundFrame& f) {
      return f.status == MatchStatus::weak || f.status == MatchStatus::ambiguous;
    });
    if (doubtful > 0)
      say("{} of them {} doubtful (weak or ambiguous): see why above before you measure.\n", doubtful,
          doubtful == 1 ? "is" : "are");
    if (words.trial > 0)
      say("trial: moved by known amounts {} times and searched again, it came back within {} px (stated {} px), in "
          "{:.0f} "
          "ms each{}.\n",
          words.trial, number_text(trial.error_px, 4), number_text(trial.stated_px, 4), 1000 * trial.seconds,
          trial.failed > 0 ? fmt::format("; {} times it was not found", trial.failed) : "");
    if (words.trial > 0 && trial.halves > trial.halves_failed)
      say("trial: of every second pixel, with its own detail and noise, it came back within {} px (stated {} px){}.\n",
          number_text(trial.halves_error_px, 4), number_text(trial.halves_stated_px, 4),
          trial.aliased() ? "; detail finer than those pixels makes it less sure than it says" : "");
    for (const auto& path : result.written) say("-> {}\n", path.string());
    for (const std::string& note : notes)
      if (!common.quiet) complain("note: " + note);
  }
  if (!words.report.empty()) write_text(words.report, to_text(json, 2) + "\n", words.replace);
  return result.all_matched() ? all_done : inputs_failed;
}

}  // namespace

void add_align(CLI::App& app, Common& common, Verbs& verbs) {
  auto words = std::make_shared<AlignWords>();
  CLI::App* verb = app.add_subcommand("align", "brings the frames of a sequence, or bands, to one of them");
  verb->add_option("INPUT", words->inputs, "pictures, stacks or folders; or one picture with --bands")->required();
  verb->add_option("--out", words->out, "the TIFF to write, one page a frame; or a name with {index}, for a file each")
      ->required();
  verb->add_option("--model", words->model, "translation, rigid, similarity, affine or projective (rigid)")
      ->check(CLI::IsMember({"translation", "rigid", "similarity", "affine", "projective"}));
  verb->add_option("--against", words->against,
                   "first, neighbour, average, average:N, frame:N, file:PATH or network (first)");
  verb->add_flag("--bands", words->bands, "the planes look unlike: bands of one picture, or of a file each");
  verb->add_option("--band", words->band, "match on this band, from 1; all of them without it")
      ->check(CLI::Range(1, 4096));
  verb->add_option("--channel", words->channel,
                   "of an OME-TIFF, from 1: match this channel over time; the others go with it")
      ->check(CLI::Range(1, 4096));
  verb->add_option("--plane", words->plane, "the same of a plane of the depth")->check(CLI::Range(1, 1000000));
  verb->add_option("--region", words->region, "x,y,width,height: match on this part of the reference");
  verb->add_option("--mask", words->mask, "a picture as large as the reference; where it is zero, nothing is matched");
  verb->add_option("--masks", words->masks,
                   "a file with masks, or a chain: its masks say what of the frames is not used");
  verb->add_flag("--trim", words->trim, "cut to the largest rectangle that all frames share");
  verb->add_option("--carry", words->carry, "another stack that gets the same transforms; may be repeated");
  verb->add_option("--kernel", words->kernel, "nearest, linear, cubic, lanczos3, bspline3 or area (cubic)")
      ->check(CLI::IsMember(std::vector<std::string>{"nearest", "linear", "cubic", "lanczos3", "bspline3", "area"}));
  verb->add_option("--trial", words->trial,
                   "N: move the reference by known amounts N times and say how well it is found")
      ->check(CLI::Range(1, 1000));
  verb->add_flag("--compress", words->compress, "compress the TIFF, without loss");
  verb->add_flag("--replace", words->replace, "existing files may be replaced (never a source)");
  verb->add_option("--failed", words->failed, "frames that did not match: keep (where they are) or leave-out (keep)")
      ->check(CLI::IsMember({"keep", "leave-out"}));
  verb->add_option("--max-memory", words->memory, "MB that writing may take for a frame (half of the machine's)")
      ->check(number_from(64.0, 1e9));
  add_alpha(*verb, words->alpha);
  verb->add_flag("--salvage", words->salvage, "use what there is of a stack that is cut short");
  verb->add_option("--shard", words->shard, "I/N: only the I-th of N parts of the frames; --against file:PATH");
  verb->add_option("--report", words->report, "write what --json says to this file too");
  add_common(*verb, common);
  verbs.emplace_back(verb, [words, &common] { return run_align(common, *words); });
}

}  // namespace fexel::cli
