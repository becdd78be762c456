#include <fmt/format.h>

#include <set>

#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/shard.h"
#include "cli/verbs.h"
#include "files/safe_file.h"
#include "motion_run/flow_tables.h"
#include "motion_run/motion_result.h"
#include "motion_run/motion_tables.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

struct MotionWords {
  std::vector<std::string> inputs, clean;
  std::string out, method, background, mean, spacing, size, against, region, mask, preset, calibration, maps, vtk,
      shard, origin = "corner", time_step;
  std::vector<std::string> merge;
  int strain = 0, passes = -1;
  double reach = 0;
  bool back = false, fill = false, replace = false, still = false, trial = false, no_renew = false, green = false,
       robust = false, ensemble = false, apart = false, suggest = false;
};

[[noreturn]] void refuse(const std::string& text, const std::string& option, const std::string& accepted) {
  throw call_error(fmt::format("\"{}\" is not taken.", text), option, "Give " + accepted + ".");
}

std::vector<double> whole_numbers(const std::string& text, const std::string& option, std::size_t most,
                                  const std::string& accepted) {
  const auto numbers = numbers_in(text, ',');
  if (!numbers || numbers->empty() || numbers->size() > most ||
      !std::ranges::all_of(*numbers, [](double v) { return v == std::floor(v) && std::abs(v) < 1e8; }))
    refuse(text, option, accepted);
  return *numbers;
}

/// x,y,width,height, or at least three corners x,y x,y ...
std::vector<Point> region_of(const std::string& text) {
  std::vector<Point> out;
  const std::string accepted = "x,y,width,height in px, or three corners and more as x,y x,y x,y";
  if (text.find(' ') == std::string::npos) {
    const auto n = numbers_in(text, ',');
    if (!n || n->size() != 4 || !((*n)[2] > 0 && (*n)[3] > 0)) refuse(text, "--region", accepted);
    const double x = (*n)[0], y = (*n)[1], w = (*n)[2], h = (*n)[3];
    return {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
  }
  std::size_t begin = 0;
  while (begin < text.size()) {
    const auto end = std::min(text.find(' ', begin), text.size());
    const auto n = numbers_in(text.substr(begin, end - begin), ',');
    if (!n || n->size() != 2) refuse(text, "--region", accepted);
    out.push_back({(*n)[0], (*n)[1]});
    begin = end + 1;
  }
  if (out.size() < 3) refuse(text, "--region", accepted);
  return out;
}

/// NAME or NAME:LIMIT; without a limit one is proposed from the first field.
std::pair<CleanRule, bool> rule_of(const std::string& text) {
  const auto colon = text.find(':');
  const std::string name = text.substr(0, colon);
  const auto at = std::ranges::find(clean_words(), name);
  if (at == clean_words().end() || name == "limits")
    refuse(text, "--clean",
           "texture, glare, correlation, noise, back, deviation, neighbours or peak-ratio, with :LIMIT if you like");
  CleanRule rule{static_cast<CleanRule::Kind>(at - clean_words().begin()), 0, {}};
  if (colon == std::string::npos) return {rule, true};
  const auto n = numbers_in(text.substr(colon + 1), ',');
  if (!n || n->size() != 1 || !((*n)[0] >= 0)) refuse(text, "--clean", "a limit of 0 or more, such as neighbours:2");
  rule.limit = (*n)[0];
  return {rule, false};
}

std::pair<int, int> shard_of(const std::string& text, int fields) {
  const auto [first, last] = read_shard(text).block(static_cast<std::size_t>(fields));
  return {static_cast<int>(first) + 1, static_cast<int>(last)};
}

/// The probe: that of the chain, or one of its own, with what the words change.
MotionProbe probe_of(const MotionWords& words, const Chain& chain) {
  MotionProbe probe;
  if (!chain.motions.empty()) probe = chain.motions.front();
  MotionSettings& s = probe.settings;
  if (!words.method.empty()) {
    const bool window = words.method == "window", other = window != (s.method == MotionMethod::window);
    s.method = window ? MotionMethod::window : MotionMethod::subset;
    // What suits the method, where nothing else is said.
    if (other && window) s.against = MotionAgainst::pairs;
    if (other) s.step_x = s.step_y = window ? 16 : 10;
  }
  const bool window = s.method == MotionMethod::window;
  if (!window && (words.robust || words.ensemble || words.passes >= 0 || !words.mean.empty() || words.suggest))
    throw call_error("This is for flows.", "--method", "Give --method window, or leave it out.");
  if (words.passes >= 0) s.window.passes = words.passes;
  if (words.robust) s.window.robust = true;
  if (words.ensemble) s.window.ensemble = true;
  if (!words.background.empty())
    s.prepare.background = static_cast<MotionBackground>(
        std::ranges::find(motion_background_words(), words.background) - motion_background_words().begin());
  if (words.apart) s.prepare.apart = true;
  if (!words.spacing.empty()) {
    const auto n = whole_numbers(words.spacing, "--spacing", 2, "SX or SX,SY in whole px");
    s.step_x = static_cast<int>(n.front());
    s.step_y = static_cast<int>(n.back());
  }
  if (!words.size.empty() && window) {
    s.window.sizes.clear();
    for (const double size : whole_numbers(words.size, "--size", 8, "even numbers of px, from large to small"))
      s.window.sizes.push_back(static_cast<int>(size));
    if (words.spacing.empty() && s.window.sizes.back() > 1) s.step_x = s.step_y = s.window.sizes.back() / 2;
  } else if (!words.size.empty())
    s.subset.size = static_cast<int>(whole_numbers(words.size, "--size", 1, "one odd number of px").front());
  if (!words.against.empty())
    s.against = static_cast<MotionAgainst>(std::ranges::find(motion_against_words(), words.against) -
                                           motion_against_words().begin());
  if (!words.region.empty()) s.region = region_of(words.region);
  if (words.reach > 0) s.subset.reach = words.reach;
  if (words.back) s.subset.back = true;
  if (words.fill) s.fill = true;
  if (words.no_renew) s.renew = false;
  if (words.strain > 0) s.strain = words.strain;
  if (words.green) s.measure = StrainMeasure::green_lagrange;
  check_motion(s);
  if (s.strain && (*s.strain < 3 || *s.strain % 2 == 0))
    throw call_error(fmt::format("A window of {} points is not possible.", *s.strain), "--strain",
                     "Give an odd number of points, 3 and more.");
  return probe;
}

Json counts_of(const MotionField& field) {
  Json out = Json::object();
  for (const MotionStatus status :
       {MotionStatus::ok, MotionStatus::weak, MotionStatus::masked, MotionStatus::rejected, MotionStatus::filled})
    out[name_of(status)] = field.count(status);
  return out;
}

/// Where results go; each file is checked before the work.
struct Outputs {
  std::unique_ptr<SafeFile> csv;
  std::unique_ptr<MotionResultWriter> maps;
  std::vector<std::string> written;
};

int run_trial(const Common& common, const MotionFrames& frames, const MotionProbe& probe) {
  const Job job = job_of(common, "trying a known movement");
  const ReadyFrame first = ready_frame(frames, 0, probe.settings, job.part(0, 0.2));
  const double noise = first.noise;
  const MotionTrial trial = motion_trial(first.image, probe.settings, noise, job.part(0.2, 1));
  end_progress(common);
  if (common.json)
    say_json({{"noise", noise},
              {"rms_px", trial.rms},
              {"bias_px", trial.bias},
              {"largest_px", trial.largest},
              {"error_over_stated", trial.ratio},
              {"found", trial.found}});
  else
    say("Noise {} grey levels: error {} px RMS along each axis, pull at parts of a pixel {} px, largest {} px; errors "
        "are {} "
        "times what is stated; {} % of the points are ok.\n",
        number_text(noise, 2), number_text(trial.rms, 4), number_text(trial.bias, 4), number_text(trial.largest, 3),
        number_text(trial.ratio, 2), number_text(100 * trial.found, 1));
  return all_done;
}

int run_suggest(const Common& common, const MotionFrames& frames, const MotionSettings& settings) {
  const Job job = job_of(common, "looking at the grains");
  const GrainSigns signs = grains_in(frames, settings, {}, job);
  end_progress(common);
  const int spacing = signs.proposed.last() / 2;
  const double each = signs.proposed.last() * signs.proposed.last() / signs.for_each;
  if (common.json)
    say_json({{"grain_diameter_px", signs.diameter},
              {"px2_for_each_grain", signs.for_each},
              {"largest_movement_px", signs.largest},
              {"size", signs.proposed.sizes},
              {"grains_a_window", each},
              {"spacing", spacing}});
  else
    say("Grains of {} px, one in {} px²; the largest movement is {} px.\n--size {} --spacing {}: {} grains a window.\n",
        number_text(signs.diameter, 1), number_text(signs.for_each, 0), number_text(signs.largest, 1),
        fmt::join(signs.proposed.sizes, ","), spacing, number_text(each, 1));
  return all_done;
}

int run_motion_verb(const Common& common, const MotionWords& words) {
  if (!words.merge.empty()) return merge_motion(common, words.merge, words.out, words.replace);
  if (words.inputs.empty()) throw call_error("There is no input.", "INPUT", "Give pictures, a folder, or a stack.");
  Chain chain;
  if (!words.preset.empty()) chain = load_chain(words.preset);
  if (!words.calibration.empty()) chain = with_calibration(chain, words.calibration);
  if (!words.time_step.empty()) {
    const auto n = numbers_in(words.time_step, ',');
    if (!n || n->size() != 1 || !((*n)[0] > 0)) refuse(words.time_step, "--time-step", "seconds, more than 0");
    chain.time_step = TimeStep{(*n)[0], "s"};
  }
  MotionRunOptions run;
  run.limits = limits_for(chain, run.limits);
  run.probe = probe_of(words, chain);
  if (!words.mask.empty()) run.mask = words.mask;
  if (!words.clean.empty()) run.probe.settings.clean.clear();
  std::vector<std::pair<CleanRule, bool>> rules;
  for (const std::string& text : words.clean) rules.push_back(rule_of(text));
  if (std::ranges::any_of(rules, [](const auto& r) { return r.first.kind == CleanRule::Kind::back; }))
    run.probe.settings.subset.back = true;
  const auto inputs = expand_inputs({words.inputs.begin(), words.inputs.end()});
  const auto files = list_frames({inputs.begin(), inputs.end()}, false, run.limits);
  const MotionFrames frames(chain, run.probe.station, files, run.limits);
  if (words.trial) return run_trial(common, frames, run.probe);
  if (words.suggest) return run_suggest(common, frames, run.probe.settings);

  const auto targets = motion_targets(run.probe.settings, frames.measured(run.probe.settings).size());
  if (run.probe.settings.window.ensemble && !words.mean.empty())
    throw call_error("All pairs as one are one field: there is nothing to take a mean of.", "--mean",
                     "Leave --ensemble or --mean out.");
  if (!words.shard.empty() && (run.probe.settings.window.ensemble || !words.mean.empty()))
    throw call_error("What goes over all pairs has no parts.", "--shard", "Leave --shard out.");
  if (!words.shard.empty()) run.shard = shard_of(words.shard, static_cast<int>(targets.size()));
  // A limit that is proposed is one of a part's own first field: parts would not be of one whole.
  if (run.shard && std::ranges::any_of(rules, [](const auto& r) { return r.second; }))
    throw call_error("A part cannot propose limits for the whole.", "--clean",
                     "Give each rule its limit, such as neighbours:2.");
  ProtectedPaths keep;
  for (const FrameFile& file : files) keep.add(file.path, "a frame");
  if (!words.preset.empty() && words.preset != "-") keep.add(words.preset, "the chain");
  if (!words.mask.empty()) keep.add(words.mask, "the mask");
  Outputs to;
  if (!words.out.empty()) {
    check_report(words.out, words.replace, keep);
    to.csv = std::make_unique<SafeFile>(words.out, words.replace);
  } else if (words.maps.empty() && words.vtk.empty() && words.mean.empty() && !words.still && !common.json) {
    throw call_error("Nothing says where the result goes.", "--out", "Give a CSV file with --out.");
  }
  if (!words.maps.empty()) {
    check_report(words.maps, words.replace, keep);
    if (!words.out.empty() && fs::absolute(words.maps).lexically_normal() == fs::absolute(words.out).lexically_normal())
      throw call_error("Two results have the same name.", words.maps, "Give each a name of its own.");
  }
  if (!words.mean.empty()) check_report(words.mean, words.replace, keep);
  const MotionUnits units = frames.units();
  std::optional<FlowStatistics> flow;
  const double shift = words.origin == "corner" ? 0 : words.origin == "centre0" ? -0.5 : 0.5;
  const MotionTable table = table_of(run.probe.settings, units, shift);
  if (to.csv) {
    const std::string head = motion_csv_head(table);
    to.csv->write(head.data(), head.size());
  }
  if (!words.vtk.empty()) fs::create_directories(words.vtk);
  Json fields = Json::array();
  std::optional<StillNoise> still;
  const int size = run.probe.settings.size();
  const auto found = [&](const MotionResultFrame& matched) {
    // Limits that are proposed are those of the first field, and then the same for all.
    for (auto& [rule, open] : rules)
      if (open) {
        rule = proposed_rule(matched.matched, rule.kind);
        open = false;
      }
    MotionSettings settings = run.probe.settings;
    for (const auto& [rule, open] : rules) settings.clean.push_back(rule);
    MotionResultFrame result = matched;
    std::vector<CleanEffect> effects;
    finish(result, settings, units, {common.stop, {}}, &effects);
    if (!words.mean.empty()) {
      if (!flow) flow.emplace(result.field.grid);
      flow->add(result.field);
    }
    if (to.csv) {
      const std::string rows = motion_csv_rows(result, units, table);
      to.csv->write(rows.data(), rows.size());
    }
    if (!words.maps.empty() && !to.maps) {
      MotionResultHead head{run.probe, result.field.grid, units, frames.size(), {}, {}};
      head.probe.settings.clean = settings.clean;
      std::set<fs::path> named;
      for (const FrameFile& file : files)
        if (named.insert(file.path).second)
          head.sources.push_back({file.path.string(), checksum(file.path, {common.stop, {}})});
      const auto [first, last] = run.shard.value_or(std::pair(1, static_cast<int>(targets.size())));
      to.maps = std::make_unique<MotionResultWriter>(words.maps, head, last - first + 1, words.replace, &keep);
    }
    if (to.maps) to.maps->append(result);
    if (!words.vtk.empty()) {
      const fs::path name = fs::path(words.vtk) / fmt::format("frame-{:04}.vtk", result.number);
      write_text(name, motion_vtk(result, units, run.probe.name, run.probe.settings.method == MotionMethod::window),
                 words.replace, &keep);
      to.written.push_back(name.string());
    }
    if (words.still && !still) {
      still = still_noise(result.field, strain_settings(settings, units), size, {common.stop, {}});
    }
    const Point mean = mean_of(result.field), real = units.displacement(mean);
    Json one{{"frame", result.number},
             {"file", result.file.string()},
             {"reference", result.field.reference + 1},
             {"points", counts_of(result.field)},
             {"mean_px", {mean.x, mean.y}}};
    if (units.pixel) one["mean"] = {real.x, real.y};
    for (std::size_t k = 0; k < effects.size(); ++k)
      one["clean"].push_back({{"rule", name_of(settings.clean[k].kind)},
                              {"limit", settings.clean[k].limit},
                              {"taken", effects[k].taken},
                              {"mean_moves_px", {effects[k].mean_moves.x, effects[k].mean_moves.y}}});
    fields.push_back(one);
    if (!common.json && !common.quiet && to.csv)
      say("{:>4}  {} of {} points ok, {} weak; mean {}, {} px  {}\n", result.number,
          result.field.count(MotionStatus::ok), result.field.used(), result.field.count(MotionStatus::weak),
          number_text(mean.x, 3), number_text(mean.y, 3), result.file.filename().string());
  };
  const MotionRunSummary summary = run_motion(frames, run, found, job_of(common, "movement"));
  end_progress(common);
  if (to.csv) {
    to.csv->commit();
    to.written.insert(to.written.begin(), words.out);
  }
  if (to.maps) {
    to.maps->finish();
    to.written.push_back(words.maps);
  }
  if (flow) {
    write_text(words.mean, flow_csv(*flow, units, shift), words.replace, &keep);
    to.written.push_back(words.mean);
  }
  for (const std::string& note : summary.notes) complain(note);
  const auto [gauge_x, gauge_y] = [&] {
    const Point g = gauge_length(summary.grid, {run.probe.settings.strain.value_or(5), {}, {1, 1}}, size);
    return std::pair(g.x, g.y);
  }();
  if (common.json) {
    Json out{{"grid",
              {{"first", {summary.grid.first.x, summary.grid.first.y}},
               {"spacing", {summary.grid.step_x, summary.grid.step_y}},
               {"columns", summary.grid.columns},
               {"rows", summary.grid.rows}}},
             {"size", size},
             {"unit", units.unit()},
             {"fields", fields},
             {"notes", summary.notes},
             {"written", to.written}};
    if (run.probe.settings.strain) out["gauge_length_px"] = {gauge_x, gauge_y};
    if (still)
      out["still"] = {{"points", still->points},
                      {"deviation_px", {still->deviation.x, still->deviation.y}},
                      {"mean_px", {still->mean.x, still->mean.y}},
                      {"stated_px", still->stated},
                      {"strain", still->strain ? Json(*still->strain) : Json()}};
    say_json(out);
  } else {
    if (still)
      say("Still pair: {} points scatter by {} and {} px (stated {} px), strain by {}.\n", still->points,
          number_text(still->deviation.x, 4), number_text(still->deviation.y, 4), number_text(still->stated, 4),
          still->strain ? fmt::format("{:.2g}", *still->strain) : "-");
    if (!to.written.empty()) say("{} fields -> {}\n", summary.fields, fmt::join(to.written, ", "));
  }
  return summary.notes.empty() ? all_done : inputs_failed;
}

}  // namespace

void add_motion(CLI::App& app, Common& common, Verbs& verbs) {
  auto words = std::make_shared<MotionWords>();
  CLI::App* verb = app.add_subcommand("motion", "measures how every part of a sequence moved");
  verb->add_option("INPUT", words->inputs, "frames: pictures, folders of them, stacks");
  verb->add_option("--out", words->out, "the CSV file: a row a point and frame");
  verb->add_option("--method", words->method, "subset: a surface that deforms; window: a fluid with grains in it")
      ->check(CLI::IsMember(motion_method_words()));
  verb->add_option("--spacing", words->spacing, "px between points: S or SX,SY (10; half of the last window)");
  verb->add_option("--size", words->size, "px of a subset's side, odd (21); of windows, from large to small (64,32)");
  verb->add_option("--against", words->against,
                   "what each frame is matched against: first, neighbour or pairs (first; pairs of flows)")
      ->check(CLI::IsMember(motion_against_words()));
  verb->add_option("--passes", words->passes, "passes with deformed frames at the last size of windows (2)")
      ->check(CLI::Range(0, 20));
  verb->add_flag("--robust", words->robust, "products of correlations of shifted windows");
  verb->add_flag("--ensemble", words->ensemble, "add the correlations of all pairs up: one field of a steady flow");
  verb->add_option("--background", words->background,
                   "for matching: mean, median or minimum of the frames is taken off")
      ->check(CLI::IsMember(motion_background_words()));
  verb->add_flag("--apart", words->apart, "first and second frames of pairs have a background each");
  verb->add_option("--mean", words->mean, "a CSV file: means, medians, fluctuations and stresses over the fields");
  verb->add_flag("--suggest", words->suggest, "look at the grains, and say which windows suit them");
  verb->add_option("--region", words->region, "where: x,y,width,height, or corners x,y x,y x,y in px");
  verb->add_option("--mask", words->mask, "a picture as large as the frames: nothing is measured where it is 0");
  verb->add_option("--preset", words->preset, "a chain: its steps, calibration, masks and movement");
  verb->add_option("--calibration", words->calibration, "a name in the library, a file, or none");
  verb->add_option("--reach", words->reach, "px that a first match is looked for in (64)")
      ->check(number_from(1, 10000));
  verb->add_option("--clean", words->clean, "a rule, or RULE:LIMIT; may be given more than once");
  verb->add_flag("--fill", words->fill, "fill holes from their neighbours; they stay marked");
  verb->add_flag("--back", words->back, "match the way back, too");
  verb->add_flag("--no-renew", words->no_renew, "never renew the reference");
  verb->add_option("--strain", words->strain, "strain, or vorticity and the like, over a window of so many points")
      ->check(CLI::Range(3, 101));
  verb->add_flag("--green-lagrange", words->green, "strain of Green and Lagrange, for large ones");
  verb->add_option("--maps", words->maps, "a TIFF of maps: a page a frame, 32-bit, which opens again");
  verb->add_option("--vtk", words->vtk, "a folder for VTK files, one a frame");
  verb->add_option("--time-step", words->time_step, "seconds from frame to frame");
  verb->add_option("--pixel-origin", words->origin, "corner, centre0 or centre1")
      ->check(CLI::IsMember({"corner", "centre0", "centre1"}));
  verb->add_flag("--still", words->still, "the first two frames show the same: say the noise");
  verb->add_flag("--trial", words->trial, "move the first frame by a known field, and say the error");
  verb->add_option("--shard", words->shard, "I/N: the I-th of N parts of the fields");
  verb->add_option("--merge", words->merge, "put the tables of parts together");
  verb->add_flag("--replace", words->replace, "replace files that are there");
  add_common(*verb, common);
  verbs.emplace_back(verb, [words, &common] { return run_motion_verb(common, *words); });
}

}  // namespace fexel::cli
