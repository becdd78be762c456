/// The verbs that make pictures of many frames: project, slice, mosaic.
#include <fmt/format.h>

#include "cli/output.h"
#include "cli/verbs.h"
#include "run/align_search.h"
#include "stacks/mosaic.h"
#include "stacks/projection.h"
#include "stacks/time_slice.h"
#include "stacks/write_stack.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

/// What all of them take.
struct StackWords {
  std::vector<std::string> inputs;
  std::string out, chain, depth = "keep", kernel = "cubic";
  double memory = 0;
  std::string alpha = {};
  bool replace = false, salvage = false;
};

/// The frames, and where what is made of them goes.
struct Taken {
  std::unique_ptr<FrameStack> frames;
  std::optional<Chain> chain;
  StackTarget target;
  std::int64_t memory = memory_to_use();
};

Taken take(const StackWords& words, const Common& common) {
  Taken out;
  Limits limits;
  limits.salvage = words.salvage;
  if (words.memory > 0) out.memory = limits.memory = static_cast<std::int64_t>(words.memory * 1024 * 1024);
  int left_out = 0;
  const auto inputs = expand_inputs({words.inputs.begin(), words.inputs.end()}, &left_out);
  if (left_out > 0 && !common.quiet)
    complain(fmt::format("Left out: {} picture{} that Fexel wrote, as records in the folder say.", left_out,
                         left_out == 1 ? "" : "s"));
  auto keep = std::make_shared<ProtectedPaths>();
  for (const auto& input : inputs) keep->add(input, "a source");
  if (!words.chain.empty()) keep->add(words.chain, "the chain");
  out.target.path = words.out;
  out.target.replace = words.replace;
  out.target.keep = keep;
  if (words.depth != "keep")
    out.target.depth = words.depth == "u8" ? Depth::u8 : words.depth == "u16" ? Depth::u16 : Depth::f32;
  WriteOptions how;
  how.replace = words.replace;
  how.keep = keep;
  if (!format_of_name(words.out))
    throw call_error("This name has no ending of a picture.", words.out, "End it with .tif, .png or .jpg.");
  check_target(words.out, how);
  if (!words.chain.empty()) {
    out.chain = load_chain(words.chain);
    limits = limits_for(*out.chain, limits);
    out.chain->sources.clear();
  }
  limits = with_alpha(words.alpha, limits);
  auto frames = list_frames(inputs, false, limits);
  if (words.chain.empty()) {
    out.frames = std::make_unique<FrameStack>(std::move(frames), limits);
    return out;
  }
  if (const auto at = align_step_of(*out.chain)) {
    Step& step = out.chain->steps[static_cast<std::size_t>(*at)];
    // What was found of as many frames holds; else it is searched.
    if (std::get<AlignStep>(step.kind).frames.size() != frames.size())
      step.kind = searched(
          *out.chain, *at,
          {static_cast<int>(frames.size()),
           [&](int i, const Job& quiet) { return read_frame(frames[static_cast<std::size_t>(i)], limits, quiet); }},
          job_of(common, "search"));
    end_progress(common);
  }
  out.frames = std::make_unique<FrameStack>(*out.chain, std::move(frames), limits);
  return out;
}

/// What was written, said; the exit code.
int say_written(const WrittenStack& written, const StackWords& words, const Common& common, Json json,
                const std::string& line) {
  end_progress(common);
  json["width"] = written.size.width;
  json["height"] = written.size.height;
  json["bands"] = written.bands;
  json["depth"] = name_of(written.depth);
  json["clamped"] = written.clamped;
  json["output"] = words.out;
  if (!written.notes.empty()) json["notes"] = written.notes;
  if (common.json)
    say_json(json);
  else
    say("{} -> {}: {} x {} px{}\n", line, words.out, written.size.width, written.size.height,
        written.clamped > 0 ? fmt::format(", {} samples clamped", written.clamped) : "");
  for (const std::string& note : written.notes)
    if (!common.json && !common.quiet) complain("note: " + note);
  return written.missing == 0 ? all_done : inputs_failed;
}

int write(const Taken& taken, const StackWords& words, StackPicture picture, const Common& common, Json json,
          const std::string& line) {
  json["pages"] = picture.pages.size();
  const WrittenStack written = write_stack(*taken.frames, std::move(picture), taken.target, taken.chain,
                                           job_of(common, fs::path(words.out).filename().string()));
  return say_written(written, words, common, std::move(json), line);
}

void add_common_words(CLI::App& verb, StackWords& words, Common& common) {
  verb.add_option("INPUT", words.inputs, "pictures, stacks or folders, frame after frame")->required();
  verb.add_option("--out", words.out, "the picture to write; beside it NAME.made.json says what it was made of")
      ->required();
  verb.add_option("--depth", words.depth, "keep, u8, u16 or f32; clamps, never scales")
      ->check(CLI::IsMember({"keep", "u8", "u16", "f32"}));
  verb.add_option("--max-memory", words.memory, "MB that frames may take together (half of the machine's)")
      ->check(number_from(64.0, 1e9));
  verb.add_flag("--replace", words.replace, "an existing file may be replaced (never a source)");
  add_alpha(verb, words.alpha);
  verb.add_flag("--salvage", words.salvage, "use what there is of a stack that is cut short");
  add_common(verb, common);
}

void add_chain_word(CLI::App& verb, StackWords& words) {
  verb.add_option("--chain", words.chain, "of the frames as this chain makes them, such as aligned ones");
}

struct ProjectWords : StackWords {
  std::string statistic = "mean", counts;
  int every = 0;
};

int run_project(const Common& common, const ProjectWords& words) {
  const Taken taken = take(words, common);
  const auto what =
      static_cast<Projection>(std::ranges::find(projection_words(), words.statistic) - projection_words().begin());
  WriteOptions counts_go;
  counts_go.replace = words.replace;
  if (!words.counts.empty()) {
    // Beside the sources it must leave the result alone.
    auto keep = std::make_shared<ProtectedPaths>(*taken.target.keep);
    keep->add(words.out, "the result");
    counts_go.keep = keep;
    counts_go.format = format_of_name(words.counts).value_or(Format::tiff);
    check_target(words.counts, counts_go);
  }
  StackPicture picture;
  picture.pixel = taken.frames->pixel();
  picture.operation = {{"name", "project"}, {"statistic", words.statistic}, {"every", words.every}};
  std::vector<Image> counts;
  int used = 0;
  const auto groups = groups_of(taken.frames->count(), words.every);
  for (std::size_t g = 0; g < groups.size(); ++g) {
    const double n = static_cast<double>(groups.size());
    Projected made = project(*taken.frames, groups[g], what, taken.memory,
                             job_of(common, "frames").part(static_cast<double>(g) / n, static_cast<double>(g + 1) / n));
    used += made.frames;
    picture.notes.insert(picture.notes.end(), made.notes.begin(), made.notes.end());
    picture.pages.push_back(std::move(made.picture));
    counts.push_back(std::move(made.counts));
  }
  end_progress(common);
  Json json{{"statistic", words.statistic}, {"frames", used}};
  if (words.every > 0) json["frames_in_last"] = groups.back().size();
  if (!words.counts.empty()) write_pictures(words.counts, counts, counts_go);
  return write(
      taken, words, std::move(picture), common, std::move(json),
      fmt::format("{} of {} frames, {} page{}", words.statistic, used, groups.size(), groups.size() == 1 ? "" : "s"));
}

struct SliceWords : StackWords {
  std::string line;
  int width = 1;
};

int run_slice(const Common& common, const SliceWords& words) {
  const auto numbers = numbers_in(words.line, ',');
  if (!numbers || numbers->size() != 4)
    throw call_error(fmt::format("\"{}\" is not a line.", words.line), "--line", "Give two places: x1,y1,x2,y2.");
  const Taken taken = take(words, common);
  TimeSlice made = slice_along_time(*taken.frames, {(*numbers)[0], (*numbers)[1]}, {(*numbers)[2], (*numbers)[3]},
                                    words.width, *kernel_named(words.kernel), job_of(common, "frames"));
  end_progress(common);
  Json json{{"line", *numbers}, {"frames", taken.frames->count()}};
  const auto& pixel = taken.frames->pixel();
  if (pixel && pixel->square()) json["along"] = {{"value", pixel->x}, {"unit", pixel->unit}};
  if (taken.chain && taken.chain->time_step)
    json["time_step"] = {{"value", taken.chain->time_step->value}, {"unit", taken.chain->time_step->unit}};
  StackPicture picture;
  picture.operation = {{"name", "slice"}, {"line", *numbers}, {"width", words.width}, {"kernel", words.kernel}};
  for (const char* key : {"along", "time_step"})
    if (json.contains(key)) picture.operation[key] = json[key];
  picture.notes = made.notes;
  // No pixel size: it would be of both axes, and one of these is time.
  const int columns = made.picture.width();
  picture.pages.push_back(std::move(made.picture));
  return write(taken, words, std::move(picture), common, std::move(json),
               fmt::format("{} frames along {} px", taken.frames->count(), columns));
}

struct MosaicWords : StackWords {
  std::string model = "translation", blend = "feathered";
  int band = 0;
  bool keep_gain = false, keep_doubtful = false;
};

int run_mosaic(const Common& common, const MosaicWords& words) {
  const Taken taken = take(words, common);
  MosaicOptions options;
  options.match.model = *model_named(words.model);
  options.band = words.band;
  options.blend = static_cast<Blend>(std::ranges::find(blend_words(), words.blend) - blend_words().begin());
  options.even_gain = !words.keep_gain;
  options.keep_doubtful = words.keep_doubtful;
  options.resampling.kernel = *kernel_named(words.kernel);
  options.memory = taken.memory;
  Mosaic made = make_mosaic(*taken.frames, options, job_of(common, "mosaic"));
  end_progress(common);
  Json json;
  Json frames = Json::array(), seams = Json::array();
  int placed = 0, doubtful = 0;
  for (std::size_t i = 0; i < made.frames.size(); ++i) {
    const MosaicFrame& frame = made.frames[i];
    placed += frame.placed;
    doubtful += frame.placed && frame.status != MatchStatus::ok;
    frames.push_back({{"index", taken.frames->number(i)},
                      {"file", taken.frames->file(i).path.string()},
                      {"matrix", rows_of(frame.to_canvas)},
                      {"status", name_of(frame.status)},
                      {"uncertainty_px", frame.uncertainty_px},
                      {"gain", frame.gain},
                      {"placed", frame.placed}});
    if (!frame.reason.empty()) frames.back()["reason"] = frame.reason;
  }
  for (const MosaicSeam& seam : made.seams)
    seams.push_back({{"first", taken.frames->number(static_cast<std::size_t>(seam.first))},
                     {"second", taken.frames->number(static_cast<std::size_t>(seam.second))},
                     {"pixels", seam.pixels},
                     {"dx", seam.left_over.x},
                     {"dy", seam.left_over.y},
                     {"uncertainty_px", seam.uncertainty_px},
                     {"rms", seam.rms},
                     {"status", name_of(seam.status)}});
  json["frames"] = frames;
  json["seams"] = seams;
  json["largest_seam_px"] = made.largest_seam_px;
  json["origin"] = {made.origin.x, made.origin.y};
  StackPicture picture;
  picture.pixel = taken.frames->pixel();
  picture.notes = made.notes;
  picture.operation = {{"name", "mosaic"},          {"model", words.model}, {"blend", words.blend},
                       {"gain", options.even_gain}, {"frames", frames},     {"kernel", words.kernel},
                       {"origin", json["origin"]}};
  picture.pages.push_back(std::move(made.picture));
  return write(taken, words, std::move(picture), common, std::move(json),
               fmt::format("{} of {} frames{}, {} overlaps, the largest left over {} px", placed, made.frames.size(),
                           doubtful > 0 ? fmt::format(" ({} doubtful)", doubtful) : "", made.seams.size(),
                           number_text(made.largest_seam_px, 3)));
}

struct FilmWords : StackWords {
  std::string use = "lossless";
  double rate = 0;
};

int run_film(const Common& common, const FilmWords& words) {
  const Taken taken = take(words, common);
  const WrittenStack written = write_film(*taken.frames, words.use == "showing" ? FilmUse::showing : FilmUse::lossless,
                                          words.rate > 0 ? std::optional(words.rate) : std::nullopt, taken.target,
                                          taken.chain, job_of(common, fs::path(words.out).filename().string()));
  return say_written(written, words, common, {{"frames", written.frames}, {"rate", written.rate}},
                     fmt::format("{} frames, {} a second, {}", written.frames, short_number(written.rate, 4),
                                 words.use == "showing" ? "for showing" : "without loss"));
}

const std::vector<std::string> kernels{"nearest", "linear", "cubic", "lanczos3", "bspline3"};

}  // namespace

void add_stacks(CLI::App& app, Common& common, Verbs& verbs) {
  auto project = std::make_shared<ProjectWords>();
  CLI::App* verb = app.add_subcommand("project", "one picture of many frames: their mean, median, minimum and so on");
  add_common_words(*verb, *project, common);
  add_chain_word(*verb, *project);
  verb->add_option("--statistic", project->statistic, "mean, median, min, max, std, range or sum (mean)")
      ->check(CLI::IsMember(projection_words()));
  verb->add_option("--every", project->every, "N: a page for each N frames; all in one without it")
      ->check(CLI::Range(1, 1000000));
  verb->add_option("--counts", project->counts, "a picture of how many frames each pixel is of");
  verbs.emplace_back(verb, [project, &common] { return run_project(common, *project); });

  auto slice = std::make_shared<SliceWords>();
  verb = app.add_subcommand("slice", "a line through all frames as a picture, time downwards");
  add_common_words(*verb, *slice, common);
  add_chain_word(*verb, *slice);
  verb->add_option("--line", slice->line, "x1,y1,x2,y2: from here to there")->required();
  verb->add_option("--width", slice->width, "px across the line that are averaged (1)")->check(CLI::Range(1, 10000));
  verb->add_option("--kernel", slice->kernel, "nearest, linear, cubic, lanczos3 or bspline3 (cubic)")
      ->check(CLI::IsMember(kernels));
  verbs.emplace_back(verb, [slice, &common] { return run_slice(common, *slice); });

  auto film = std::make_shared<FilmWords>();
  verb = app.add_subcommand("film", "frames as a film: without loss for measuring, or for showing");
  add_common_words(*verb, *film, common);
  add_chain_word(*verb, *film);
  verb->add_option("--for", film->use, "lossless (FFV1 in Matroska) or showing (VP9, 8 bits) (lossless)")
      ->check(CLI::IsMember({"lossless", "showing"}));
  verb->add_option("--rate", film->rate,
                   "frames a second; the frames' own times, the chain's time step or 25 without it")
      ->check(number_from(least_film_rate, most_film_rate));
  verbs.emplace_back(verb, [film, &common] { return run_film(common, *film); });

  auto mosaic = std::make_shared<MosaicWords>();
  verb = app.add_subcommand("mosaic", "frames that overlap on one canvas, aligned with each other");
  add_common_words(*verb, *mosaic, common);
  add_chain_word(*verb, *mosaic);
  verb->add_option("--model", mosaic->model, "translation, rigid, similarity, affine or projective (translation)")
      ->check(CLI::IsMember({"translation", "rigid", "similarity", "affine", "projective"}));
  verb->add_option("--blend", mosaic->blend,
                   "of what several frames show: first, last, mean, median or feathered (feathered)")
      ->check(CLI::IsMember(blend_words()));
  verb->add_flag("--keep-gain", mosaic->keep_gain, "do not even out exposures");
  verb->add_flag("--keep-doubtful", mosaic->keep_doubtful, "lay frames that no overlap confirms, too");
  verb->add_option("--band", mosaic->band, "match on this band, from 1; all of them without it")
      ->check(CLI::Range(1, 4096));
  verb->add_option("--kernel", mosaic->kernel, "nearest, linear, cubic, lanczos3 or bspline3 (cubic)")
      ->check(CLI::IsMember(kernels));
  verbs.emplace_back(verb, [mosaic, &common] { return run_mosaic(common, *mosaic); });
}

}  // namespace fexel::cli
