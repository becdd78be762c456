#include <fmt/format.h>

#include <set>

#include "base/log.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "run/frames.h"

namespace fexel::cli {
namespace {

struct InfoOptions {
  std::vector<std::string> files;
};

double dots_per_inch(double millimetres) {
  return 25.4 / millimetres;
}

Json as_json(const std::string& file, const FileInfo& info) {
  Json out{{"file", file},        {"format", info.format},        {"width", info.width},  {"height", info.height},
           {"bands", info.bands}, {"depth", name_of(info.depth)}, {"frames", info.frames}};
  out["largest"] = info.largest > 0 ? Json(info.largest) : info.depth == Depth::f32 ? Json() : Json(top_of(info.depth));
  out["pixel_size"] = info.pixel_size ? Json::array({info.pixel_size->x, info.pixel_size->y}) : Json();
  out["unit"] = info.pixel_size ? Json(info.pixel_size->unit) : Json();
  out["density"] =
      info.density ? Json::array({dots_per_inch(info.density->x), dots_per_inch(info.density->y)}) : Json();
  out["orientation"] = info.orientation;
  out["alpha"] = info.alpha;
  out["converted_from"] = info.converted.empty() ? Json() : Json(info.converted);
  if (!info.notes.empty()) out["notes"] = info.notes;
  if (!info.readings.empty()) out["readings"] = info.readings;
  if (info.axes) {
    Json& axes = out["axes"];
    axes = {{"channels", info.axes->channels}, {"planes", info.axes->planes}, {"times", info.axes->times}};
    if (!info.axes->channel_names.empty()) axes["channel_names"] = info.axes->channel_names;
    if (info.axes->plane_step) axes["plane_step_mm"] = *info.axes->plane_step;
    if (info.axes->time_step) axes["time_step_s"] = *info.axes->time_step;
  }
  out["profile"] = info.profile.empty() ? Json() : Json(info.profile);
  return out;
}

std::string as_text(const std::string& file, const FileInfo& info) {
  std::string text = fmt::format("{}: {}, {} x {} px, {} band{}, {}", file, info.format, info.width, info.height,
                                 info.bands, info.bands == 1 ? "" : "s", name_of(info.depth));
  if (info.largest > 0) text += fmt::format(" to {}", info.largest);
  if (info.frames > 1) text += fmt::format(", {} frames", info.frames);
  if (info.pixel_size)
    text += info.pixel_size->square()
                ? fmt::format(", {} {}/px", short_number(info.pixel_size->x, 6), info.pixel_size->unit)
                : fmt::format(", {} x {} {}/px", short_number(info.pixel_size->x, 6),
                              short_number(info.pixel_size->y, 6), info.pixel_size->unit);
  else
    text += ", pixel size not known";
  if (info.density) text += fmt::format(" ({} dpi, for printing)", short_number(dots_per_inch(info.density->x), 4));
  if (info.orientation != 1) text += fmt::format(", orientation {}", info.orientation);
  if (!info.converted.empty())
    text += fmt::format(", {} converted to {}", info.converted, info.format == "film" ? "RGB" : "sRGB");
  if (info.alpha) text += info.associated ? ", with an alpha band (associated)" : ", with an alpha band";
  if (info.axes)
    text += fmt::format(", {} channel{} x {} plane{} x {} time{}", info.axes->channels,
                        info.axes->channels == 1 ? "" : "s", info.axes->planes, info.axes->planes == 1 ? "" : "s",
                        info.axes->times, info.axes->times == 1 ? "" : "s");
  if (!info.profile.empty()) text += ", with a colour profile";
  return text;
}

int run_info(const Common& common, const InfoOptions& options) {
  Json list = Json::array(), failed = Json::array();
  std::vector<std::filesystem::path> inputs(options.files.begin(), options.files.end());
  for (const auto& path : expand_inputs(inputs)) {
    try {
      const FileInfo info = read_info(path);
      if (common.json)
        list.push_back(as_json(path.string(), info));
      else
        say("{}\n", as_text(path.string(), info));
      if (common.json) continue;
      for (const auto* sentences : {&info.readings, &info.notes})
        for (const std::string& sentence : *sentences) say("  {}\n", sentence);
    } catch (const Error& error) {
      failed.push_back({{"file", path.string()}, {"error", logged_error(error)}});
      if (!common.json) complain(std::string("fexel-cli: ") + error.what());
    }
  }
  if (common.json) say_json((Json{{"files", list}, {"failed", failed}}));
  return failed.empty() ? all_done : inputs_failed;
}

/// Tables for people: what is read, and what each format that is written can hold.
void say_markdown() {
  say("# Formats\n\nWhat this build reads and writes, as `fexel-cli formats --markdown` says it.\n\n");
  say("| format | endings | reads | pages | library |\n|---|---|---|---|---|\n");
  for (const FormatFacts& facts : known_formats())
    say("| {} | {} | {} | {} | {} |\n", name_of(facts.format), facts.endings, facts.reads,
        facts.pages ? "several" : "one",
        facts.library.empty() ? "none in this build" : facts.library.substr(0, facts.library.find(' ')));
  say("\n## Written\n\nEach cell is what the format holds of pictures with so many bands, and with an alpha band "
      "beside "
      "them: 8 and 16 bits, and floating point of 32 bits.\n\n"
      "| format | 1 band | 1 and alpha | 2 bands | 3 bands | 3 and alpha | 5 bands | pages | compression |\n"
      "|---|---|---|---|---|---|---|---|---|\n");
  for (const FormatFacts& facts : known_formats()) {
    if (facts.format >= Format::film) continue;
    std::string row;
    for (const auto& [bands, alpha] : {std::pair(1, false), std::pair(1, true), std::pair(2, false),
                                       std::pair(3, false), std::pair(3, true), std::pair(5, false)}) {
      std::string cell;
      for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32}) try {
          check_fits(facts.format, bands, depth, alpha);
          cell += fmt::format("{}{}", cell.empty() ? "" : ", ",
                              depth == Depth::u8    ? "8"
                              : depth == Depth::u16 ? "16"
                                                    : "32f");
        } catch (const Error&) {
          // It cannot: the cell does not name it.
        }
      row += fmt::format("{} | ", cell.empty() ? "-" : cell);
    }
    say("| {} | {}{} | {} |\n", name_of(facts.format), row, facts.format == Format::tiff ? "several" : "one",
        facts.format == Format::tiff   ? "none, or deflate without loss"
        : facts.format == Format::png  ? "deflate, without loss"
        : facts.format == Format::jpeg ? "JPEG, with loss"
                                       : "none");
  }
  say("\nFilms are written by the verb `film`: FFV1 without loss (8 to 16 bits, 1 or 3 bands), VP9 for showing (8 "
      "bits).\n");
}

int run_formats(const Common& common, bool markdown) {
  if (markdown) {
    say_markdown();
    return all_done;
  }
  Json list = Json::array();
  for (const FormatFacts& facts : known_formats()) {
    std::string endings = facts.endings;
    for (std::size_t at = 0; (at = endings.find(' ', at)) != std::string::npos; at += 2) endings.insert(at + 1, ".");
    if (common.json)
      list.push_back({{"format", name_of(facts.format)},
                      {"endings", facts.endings},
                      {"reads", facts.library.empty() ? Json() : Json(facts.reads)},
                      {"writes", facts.writes.empty() ? Json() : Json(facts.writes)},
                      {"pages", facts.pages},
                      {"library", facts.library.empty() ? Json() : Json(facts.library)}});
    else
      say("{:<9} .{}\n  reads:   {}{}\n  writes:  {}\n  library: {}\n", name_of(facts.format), endings,
          facts.library.empty() ? "nothing in this build; with its library: " : "", facts.reads,
          facts.writes.empty() ? "-" : facts.writes, facts.library.empty() ? "none" : facts.library);
  }
  if (common.json) say_json({{"formats", list}});
  return all_done;
}

}  // namespace

std::string version_text() {
  std::string out = "fexel-cli " FEXEL_VERSION "\n";
  std::set<std::string> said;
  for (const FormatFacts& facts : known_formats()) {
    if (facts.library.empty())
      out += fmt::format("{}: no library in this build\n", name_of(facts.format));
    else if (facts.library != "Fexel" && said.insert(facts.library).second)
      out += fmt::format("{}: {}\n", name_of(facts.format), facts.library);
  }
  out.pop_back();
  return out;
}

Limits with_alpha(const std::string& alpha, Limits limits) {
  if (!alpha.empty()) limits.alpha_band = alpha == "band";
  return limits;
}

void add_alpha(CLI::App& verb, std::string& alpha) {
  verb.add_option(
          "--alpha", alpha,
          "alpha of the inputs: mask says which pixels are empty, band is one more band (mask, or what the chain says)")
      ->check(CLI::IsMember({"mask", "band"}));
}

void add_formats(CLI::App& app, Common& common, Verbs& verbs) {
  auto markdown = std::make_shared<bool>(false);
  CLI::App* verb = app.add_subcommand("formats", "what this build reads and writes");
  verb->add_flag("--markdown", *markdown, "as tables in Markdown");
  add_common(*verb, common);
  verbs.emplace_back(verb, [markdown, &common] { return run_formats(common, *markdown); });
}

void add_common(CLI::App& verb, Common& common) {
  verb.add_flag("--json", common.json, "one JSON object on standard output");
  verb.add_flag("--quiet", common.quiet, "no progress");
  verb.add_option("--threads", common.threads, "threads to use; 0 is all cores")->check(CLI::Range(0, 1024));
  verb.add_option("--log-level", common.log_level, "how much to log to the state folder")
      ->check(CLI::IsMember(log_levels()));
}

void add_info(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<InfoOptions>();
  CLI::App* verb = app.add_subcommand("info", "what files say about themselves");
  verb->add_option("FILE", options->files, "pictures or folders")->required();
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_info(common, *options); });
}

}  // namespace fexel::cli
