#include <fmt/format.h>

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
  if (info.alpha) text += ", with an alpha band";
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
      for (const std::string& note : info.notes)
        if (!common.json) say("  {}\n", note);
    } catch (const Error& error) {
      failed.push_back({{"file", path.string()}, {"error", logged_error(error)}});
      if (!common.json) complain(std::string("fexel-cli: ") + error.what());
    }
  }
  if (common.json) say_json((Json{{"files", list}, {"failed", failed}}));
  return failed.empty() ? all_done : inputs_failed;
}

}  // namespace

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
