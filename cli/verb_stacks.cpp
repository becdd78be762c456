/// The verbs that make pictures of many frames: project, slice, mosaic.
#include <fmt/format.h>

#include "chain/layout.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/film.h"
#include "run/align_search.h"
#include "stacks/mosaic.h"
#include "stacks/projection.h"
#include "stacks/provenance.h"
#include "stacks/time_slice.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

/// What all of them take.
struct StackWords {
  std::vector<std::string> inputs;
  std::string out, chain, depth = "keep", kernel = "cubic";
  double memory = 0;
  bool replace = false, salvage = false;
};

/// The frames, and the files that they come from.
struct Taken {
  std::unique_ptr<FrameStack> frames;
  std::optional<Chain> chain;
  std::vector<WatchedFile> sources;
  Limits limits;
  std::int64_t memory = memory_to_use();
};

Taken take(const StackWords& words, const Common& common) {
  Taken out;
  out.limits.salvage = words.salvage;
  if (words.memory > 0) out.memory = out.limits.memory = static_cast<std::int64_t>(words.memory * 1024 * 1024);
  int left_out = 0;
  const auto inputs = expand_inputs({words.inputs.begin(), words.inputs.end()}, &left_out);
  if (left_out > 0 && !common.quiet)
    complain(fmt::format("Left out: {} picture{} that Fexel wrote, as records in the folder say.", left_out,
                         left_out == 1 ? "" : "s"));
  auto frames = list_frames(inputs, false, out.limits);
  WriteOptions how;
  how.replace = words.replace;
  auto keep = std::make_shared<ProtectedPaths>();
  for (const auto& input : inputs) keep->add(input, "a source");
  how.keep = keep;
  const auto format = format_of_name(words.out);
  if (!format) throw call_error("This name has no ending of a picture.", words.out, "End it with .tif, .png or .jpg.");
  how.format = *format;
  check_target(words.out, how);
  for (const FrameFile& frame : frames)
    if (frame.info && (out.sources.empty() || out.sources.back().path() != frame.path))
      out.sources.emplace_back(frame.path);
  if (words.chain.empty()) {
    out.frames = std::make_unique<FrameStack>(std::move(frames), out.limits);
  } else {
    out.chain = load_chain(words.chain);
    out.chain->sources.clear();
    if (const auto at = align_step_of(*out.chain)) {
      Step& step = out.chain->steps[static_cast<std::size_t>(*at)];
      // What was found of as many frames holds; else it is searched.
      if (std::get<AlignStep>(step.kind).frames.size() != frames.size())
        step.kind = searched(*out.chain, *at,
                             {static_cast<int>(frames.size()),
                              [&](int i, const Job& quiet) {
                                return read_frame(frames[static_cast<std::size_t>(i)], out.limits, quiet);
                              }},
                             job_of(common, "search"));
      end_progress(common);
    }
    out.frames = std::make_unique<FrameStack>(*out.chain, std::move(frames), out.limits);
  }
  return out;
}

/// As it is written: empty pixels are NaN in floats, else told by an alpha band where there are any.
Image shaped(Image image, const std::string& depth, bool& alpha, std::int64_t& clamped) {
  if (depth != "keep")
    image = with_depth(image, depth == "u8" ? Depth::u8 : depth == "u16" ? Depth::u16 : Depth::f32, clamped);
  alpha = image.depth() != Depth::f32 && image.has_mask();
  if (alpha) return with_alpha(image);
  if (image.depth() == Depth::f32) put_nan(image);
  return image;
}

void write(const Taken& taken, const StackWords& words, std::vector<Image> pages, Json operation,
           std::vector<std::string> notes, const std::optional<PixelSize>& pixel, const Common& common, Json& json) {
  std::int64_t clamped = 0;
  WriteOptions how;
  how.format = *format_of_name(words.out);
  how.replace = words.replace;
  how.pixel_size = pixel;
  auto keep = std::make_shared<ProtectedPaths>();
  for (const WatchedFile& source : taken.sources) keep->add(source.path(), "a source");
  how.keep = keep;
  // Of several pages all have an alpha band, or none has.
  bool any = false;
  for (const Image& page : pages) any = any || page.has_mask();
  for (Image& page : pages) {
    if (any && !page.has_mask()) page.make_mask(true);
    page = shaped(std::move(page), words.depth, how.alpha, clamped);
  }
  std::vector<std::string> all = taken.frames->notes();
  all.insert(all.end(), notes.begin(), notes.end());
  const Image& first = pages.front();
  json["width"] = first.width();
  json["height"] = first.height();
  json["bands"] = first.bands() - (how.alpha ? 1 : 0);
  json["depth"] = name_of(first.depth());
  json["pages"] = pages.size();
  json["clamped"] = clamped;
  json["output"] = words.out;
  if (!all.empty()) json["notes"] = all;
  write_made(words.out, pages, how, {std::move(operation), taken.chain, all}, taken.sources,
             job_of(common, fs::path(words.out).filename().string()));
  end_progress(common);
  for (const std::string& note : all)
    if (!common.json && !common.quiet) complain("note: " + note);
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
  if (!words.counts.empty()) {
    WriteOptions how;
    how.replace = words.replace;
    how.format = format_of_name(words.counts).value_or(Format::tiff);
    check_target(words.counts, how);
  }
  std::vector<Image> pages, counts;
  std::vector<std::string> notes;
  int used = 0;
  const auto groups = groups_of(taken.frames->count(), words.every);
  for (std::size_t g = 0; g < groups.size(); ++g) {
    const double n = static_cast<double>(groups.size());
    Projected made = project(*taken.frames, groups[g], what, taken.memory,
                             job_of(common, "frames").part(static_cast<double>(g) / n, static_cast<double>(g + 1) / n));
    used += made.frames;
    notes.insert(notes.end(), made.notes.begin(), made.notes.end());
    pages.push_back(std::move(made.picture));
    counts.push_back(std::move(made.counts));
  }
  end_progress(common);
  const bool all_used = notes.empty() && taken.frames->notes().empty();
  if (words.every > 0 && groups.back().size() < static_cast<std::size_t>(words.every))
    notes.push_back(fmt::format("The last page is of {} frames, the others of {}.", groups.back().size(), words.every));
  if (what == Projection::sum && pages.front().depth() == Depth::f32 && taken.frames->depth() == Depth::u16 &&
      taken.frames->count() > 256)
    notes.emplace_back("Sums above 16,777,216 are rounded, as 32-bit samples have 24 bits.");
  Json json{{"statistic", words.statistic}, {"frames", used}};
  write(taken, words, std::move(pages), {{"name", "project"}, {"statistic", words.statistic}, {"every", words.every}},
        notes, taken.frames->pixel(), common, json);
  if (!words.counts.empty()) {
    WriteOptions how;
    how.replace = words.replace;
    how.format = format_of_name(words.counts).value_or(Format::tiff);
    write_pictures(words.counts, counts, how);
  }
  if (common.json)
    say_json(json);
  else
    say("{} of {} frames -> {}: {} x {} px, {} page{}\n", words.statistic, used, words.out, json["width"].get<int>(),
        json["height"].get<int>(), groups.size(), groups.size() == 1 ? "" : "s");
  return all_used ? all_done : inputs_failed;
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
  Json operation{{"name", "slice"}, {"line", *numbers}, {"width", words.width}, {"kernel", words.kernel}};
  for (const char* key : {"along", "time_step"})
    if (json.contains(key)) operation[key] = json[key];
  std::vector<Image> pages;
  pages.push_back(std::move(made.picture));
  // A pixel size is of both axes, and one of these is time.
  write(taken, words, std::move(pages), std::move(operation), made.notes, std::nullopt, common, json);
  if (common.json)
    say_json(json);
  else
    say("{} frames along {} px -> {}\n", taken.frames->count(), json["width"].get<int>(), words.out);
  return made.notes.empty() && taken.frames->notes().empty() ? all_done : inputs_failed;
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
  std::vector<Image> pages;
  pages.push_back(std::move(made.picture));
  const Size size{pages.front().width(), pages.front().height()};
  Json operation{{"name", "mosaic"}, {"model", words.model},   {"blend", words.blend},    {"gain", options.even_gain},
                 {"frames", frames}, {"kernel", words.kernel}, {"origin", json["origin"]}};
  write(taken, words, std::move(pages), std::move(operation), made.notes, taken.frames->pixel(), common, json);
  if (common.json)
    say_json(json);
  else
    say("{} of {} frames{} -> {}: {} x {} px; {} overlaps, the largest left over {} px\n", placed, made.frames.size(),
        doubtful > 0 ? fmt::format(" ({} doubtful)", doubtful) : "", words.out, size.width, size.height,
        made.seams.size(), number_text(made.largest_seam_px, 3));
  return made.notes.empty() && taken.frames->notes().empty() ? all_done : inputs_failed;
}

struct FilmWords : StackWords {
  std::string use = "lossless";
  double rate = 0;
};

/// The rate of the frames' own times, where they have such; else of the chain's time step.
double rate_of(const Taken& taken) {
  const FrameStack& frames = *taken.frames;
  const std::size_t last = frames.count() - 1;
  if (const auto end = frames.file(last).info->time; end && *end > 0 && last > 0)
    return static_cast<double>(last) / (*end - frames.file(0).info->time.value_or(0));
  if (taken.chain && taken.chain->time_step && taken.chain->time_step->unit == "s")
    return std::clamp(1 / taken.chain->time_step->value, 0.001, 10000.0);
  return 25;
}

int run_film(const Common& common, const FilmWords& words) {
  if (const auto format = format_of_name(words.out);
      format != Format::film || (!words.out.ends_with(".mkv") && !words.out.ends_with(".webm")))
    throw call_error("A film's name ends with .mkv or .webm.", words.out, "Give such a name.");
  const Taken taken = take(words, common);
  const FrameStack& frames = *taken.frames;
  FilmLook look;
  look.size = frames.size();
  look.bands = frames.bands();
  look.depth = words.depth == "u8" ? Depth::u8 : words.depth == "u16" ? Depth::u16 : frames.depth();
  look.use = words.use == "showing" ? FilmUse::showing : FilmUse::lossless;
  if (look.use == FilmUse::lossless && words.out.ends_with(".webm"))
    throw call_error("WebM holds no film without loss.", words.out,
                     "Name it .mkv, or write it for showing (--for showing).");
  const bool own_times = words.rate == 0 && frames.file(0).info->time.has_value();
  look.rate = words.rate > 0 ? words.rate : rate_of(taken);
  WriteOptions how;
  how.replace = words.replace;
  auto keep = std::make_shared<ProtectedPaths>();
  for (const WatchedFile& source : taken.sources) keep->add(source.path(), "a source");
  how.keep = keep;
  std::vector<std::string> notes = frames.notes();
  std::unique_ptr<FilmWriter> writer;
  std::int64_t clamped = 0;
  int written = 0;
  const Job job = job_of(common, fs::path(words.out).filename().string());
  for (std::size_t i = 0; i < frames.count(); ++i) {
    job.check();
    Image frame;
    try {
      frame = frames.read(i, {job.stop, {}});
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::input) throw;
      notes.push_back(fmt::format("Frame {} is left out: {}", frames.number(i), error.message()));
      continue;
    }
    if (frame.depth() != look.depth) frame = with_depth(frame, look.depth, clamped);
    frame.drop_mask();
    if (!writer) {
      look.largest = frame.stated_largest();
      writer = std::make_unique<FilmWriter>(words.out, look, how);
    }
    writer->add(frame, own_times ? frames.file(i).info->time : std::nullopt);
    ++written;
    if (job.progress) job.progress(static_cast<double>(i + 1) / static_cast<double>(frames.count()));
  }
  end_progress(common);
  if (!writer) throw input_error("None of the frames can be used.", words.out, "Name other pictures.");
  writer->finish();
  Json made{{"fexel_made", 1}, {"operation", {{"name", "film"}, {"for", words.use}, {"rate", look.rate}}}};
  for (const WatchedFile& source : taken.sources)
    made["sources"].push_back({{"path", source.path().string()}, {"sha256", source.checked_checksum({})}});
  if (taken.chain) made["chain"] = parse_json(write_chain(for_record(*taken.chain)));
  made["result"] = {{"path", fs::path(words.out).filename().string()}, {"sha256", checksum(words.out)}};
  if (!notes.empty()) made["notes"] = notes;
  write_text(provenance_path(words.out), to_text(made, 2) + "\n", true);
  Json json{{"frames", written},   {"width", look.size.width},     {"height", look.size.height},
            {"bands", look.bands}, {"depth", name_of(look.depth)}, {"rate", look.rate},
            {"clamped", clamped},  {"output", words.out}};
  if (!notes.empty()) json["notes"] = notes;
  if (common.json)
    say_json(json);
  else
    say("{} frames -> {}: {} x {} px, {} frames a second, {}\n", written, words.out, look.size.width, look.size.height,
        short_number(look.rate, 4), look.use == FilmUse::lossless ? "without loss" : "for showing");
  for (const std::string& note : notes)
    if (!common.json && !common.quiet) complain("note: " + note);
  return notes.empty() ? all_done : inputs_failed;
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
      ->check(number_from(0.001, 10000));
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
